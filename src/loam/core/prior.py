"""What is assumed of a variance before the readings speak: a scaled inverse chi-square each."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.readings.kind import ReadingKind
from loam.core.stats.reduce import FloatArray

DEFAULT_DF = 3.0
MOST_DF = 12.0
"""An earlier trial weighs at most this much, so that the trial's own readings take over."""
RESIDUAL = "residual"
TERMS = ("cell", "panel:combination", "panel", "operator", "day")


@dataclass(frozen=True)
class Prior:
    """Variance ~ df * sd^2 / chi-square(df).

    Attributes
    ----------
    sd : float
        On the measurand's scale.
    df : float
    source : str
        ``default``, or where it was learnt.
    """

    sd: float
    df: float = DEFAULT_DF
    source: str = "default"


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
        term: Prior(usual.get(term, shares.get(term, 0.3) * spread)) for term in (*TERMS, RESIDUAL)
    }


def summed(priors: Sequence[Prior]) -> Prior:
    """Return the prior of a sum of variances that the layout cannot tell apart.

    Again a scaled inverse chi-square, with the mean and the variance of the sum's logarithm
    (by quadrature over the quantiles of each part).
    """
    from scipy.special import chdtri, psi

    middles = (np.arange(48) + 0.5) / 48
    total = np.zeros(1)
    for p in priors:
        part = p.df * p.sd**2 / chdtri(p.df, middles)
        total = (total[:, None] + part).ravel()
    log = np.log(total)
    df = float(df_of_log_variance(np.array([log.var()]))[0])
    sd = float(np.exp(0.5 * (log.mean() - np.log(0.5 * df) + psi(0.5 * df))))
    known = {p.source for p in priors}
    return Prior(sd, df, known.pop() if len(known) == 1 else "")


def df_of_log_variance(variance: FloatArray) -> FloatArray:
    """Return the df of a scaled inverse chi-square from the variance of its logarithm (k,).

    Var(log chi-square(df)) is trigamma(df / 2); solved by Newton from 2 / variance.
    """
    from scipy.special import polygamma

    df = 2.0 / np.maximum(variance, 1e-12)
    for _ in range(30):
        gap = polygamma(1, 0.5 * df) - variance
        df = np.clip(df - gap / (0.5 * polygamma(2, 0.5 * df)), 0.5 * df, 2.0 * df)
    return np.asarray(df, float)


def learnt(sd: float, df: float, source: str) -> Prior:
    """Return what a trial has taught about a variance, as a prior for the next."""
    return Prior(sd, min(max(df, DEFAULT_DF), MOST_DF), source)


def with_learnt(base: Priors, later: Iterable[Mapping[str, Prior]]) -> dict[str, Prior]:
    """Return priors in which the newest lesson of each term stands for the default."""
    found = dict(base)
    for lesson in later:
        found.update({term: p for term, p in lesson.items() if term in found})
    return found
