"""What is assumed of a variance before the readings speak: a scaled inverse chi-square each."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from loam.core.readings.kind import ReadingKind
from loam.core.stats.prior import DEFAULT_DF, Prior

MOST_DF = 12.0
"""An earlier trial weighs at most this much, so that the trial's own readings take over."""
RESIDUAL = "residual"
TERMS = ("cell", "panel:combination", "panel", "operator", "day")
READER = "reader"
"""Who held the meter: a term where it was noted."""
MORE_TERMS = {"trial:combination": "panel:combination", "trial": "panel", "workshop": "panel"}
"""Terms of many trials as one; each is assumed to vary as much as the one that it is named with."""


Priors = Mapping[str, Prior]


def default_priors(kind: ReadingKind | None, spread: float = 1.0) -> dict[str, Prior]:
    """Return the stated assumptions of a measurand, by term.

    Parameters
    ----------
    spread : float
        For a measurand that Loam does not know: its scatter, of which fractions like those of
        gloss are taken.
    """
    usual = dict(kind.usual) if kind is not None else {}
    shares = {"panel": 0.8, "cell": 0.6, RESIDUAL: 0.4}
    return {
        term: Prior(usual.get(term, shares.get(term, 0.3) * spread))
        for term in (*TERMS, READER, RESIDUAL)
    }


def pooled_priors(base: Priors) -> dict[str, Prior]:
    """Return the priors of many trials as one."""
    more = {term: Prior(base[like].sd) for term, like in MORE_TERMS.items()}
    return {**base, **more}


def learnt(sd: float, df: float, source: str) -> Prior:
    """Return what a trial has taught about a variance, as a prior for the next."""
    return Prior(sd, min(max(df, DEFAULT_DF), MOST_DF), source)


def with_learnt(base: Priors, later: Iterable[Mapping[str, Prior]]) -> dict[str, Prior]:
    """Return priors in which the newest lesson of each term stands for the default."""
    found = dict(base)
    for lesson in later:
        found.update({term: p for term, p in lesson.items() if term in found})
    return found
