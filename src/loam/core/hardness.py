"""How a panel answers to combinations whose answers are known: the chance of each hardness class.

Each panel's cells under a combination are set against the other panels of a class under the same
combination. The mean difference over the combinations that both got has, if the panel is of that
class, mean zero and the variance of a panel (its own and the others' share) plus that of the cells.
Both variances are those of the data, held by the stated priors; the classes are taken as equally
likely before; measurands are taken as independent. Nothing is relabelled by it.
"""

from __future__ import annotations

import math
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import gammaln

from loam.core.readings import KINDS
from loam.core.stats.prior import DEFAULT_DF
from loam.core.trial import HARDNESSES

MEASURANDS = tuple(k.key for k in KINDS if k.tells_hardness)
WARN_UNDER = 0.2
LEAST_PANELS = 2
"""Panels that must stand for a class other than the panel's own, in all, before any is named."""


@dataclass(frozen=True)
class Response:
    """What the cells of a panel came to under one combination, on the measurand's scale."""

    panel: int
    hardness: str
    recipe: Hashable
    measurand: str
    values: tuple[float, ...]


@dataclass(frozen=True)
class Answer:
    """How a panel answers.

    Attributes
    ----------
    chances : dict
        Chance of each class for which other panels stand; they add up to 1.
    panels : dict
        How many other panels stand for each.
    measurands : tuple of str
    """

    chances: Mapping[str, float]
    panels: Mapping[str, int]
    measurands: tuple[str, ...]

    def doubts(self, declared: str) -> bool:
        """Tell whether the panel answers unlike its class."""
        return declared in self.chances and self.chances[declared] < WARN_UNDER


def answer(
    responses: Iterable[Response], panel: int, priors: Mapping[str, tuple[float, float]]
) -> Answer | None:
    """Work out how a panel answers; None while too little is known to say.

    Parameters
    ----------
    priors : mapping
        Assumed standard deviation between panels of a class and between cells, by measurand.
    """
    given = list(responses)
    total: dict[str, float] = {}
    panels: dict[str, int] = {}
    used = []
    for measurand in MEASURANDS:
        own = [r for r in given if r.measurand == measurand]
        found = _against(own, panel, priors[measurand])
        if len(found) < 2:
            continue
        used.append(measurand)
        for hardness, (likelihood, count) in found.items():
            total[hardness] = total.get(hardness, 0.0) + likelihood
            panels[hardness] = max(panels.get(hardness, 0), count)
        total = {h: v for h, v in total.items() if h in found}
    if not used or len(total) < 2 or sum(panels[h] for h in total) < LEAST_PANELS:
        return None
    top = max(total.values())
    weights = {h: math.exp(total[h] - top) for h in HARDNESSES if h in total}
    whole = sum(weights.values())
    return Answer(
        {h: w / whole for h, w in weights.items()}, {h: panels[h] for h in weights}, tuple(used)
    )


def _against(
    responses: Sequence[Response], panel: int, prior: tuple[float, float]
) -> dict[str, tuple[float, int]]:
    """Return the log likelihood of each class and how many panels stand for it."""
    mine = {r.recipe: r.values for r in responses if r.panel == panel}
    others = [r for r in responses if r.panel != panel and r.recipe in mine]
    if not others:
        return {}
    cell, cell_df = _held(*_within(responses), prior[1])
    between, df = _held(*_between(others, cell), prior[0])
    found = {}
    for hardness in HARDNESSES:
        peers = [r for r in others if r.hardness == hardness]
        if not peers:
            continue
        recipes = {r.recipe for r in peers}
        gaps = [
            _mean(mine[x]) - _mean([v for r in peers if r.recipe == x for v in r.values])
            for x in recipes
        ]
        count = len({r.panel for r in peers})
        own = sum(len(mine[x]) for x in recipes)
        theirs = sum(len(r.values) for r in peers)
        variance = between * (1.0 + 1.0 / count) + cell * (1.0 / own + 1.0 / theirs)
        found[hardness] = (_log_t(_mean(gaps), variance, min(df, cell_df)), count)
    return found


def _mean(values: Sequence[float]) -> float:
    return math.fsum(values) / len(values)


def _within(responses: Sequence[Response]) -> tuple[float, int]:
    """Return sum of squares and degrees of freedom of cells alike on one panel."""
    squares = sum(float(np.var(r.values)) * len(r.values) for r in responses)
    return squares, sum(len(r.values) - 1 for r in responses)


def _between(responses: Sequence[Response], cell: float) -> tuple[float, int]:
    """Return sum of squares and df of panels of a class, the cells' share taken off."""
    squares, df = 0.0, 0
    for hardness in HARDNESSES:
        peers = [r for r in responses if r.hardness == hardness]
        offsets: dict[int, list[float]] = {}
        cells: dict[int, int] = {}
        for recipe in {r.recipe for r in peers}:
            alike = [r for r in peers if r.recipe == recipe]
            middle = _mean([_mean(r.values) for r in alike])
            for r in alike:
                offsets.setdefault(r.panel, []).append(_mean(r.values) - middle)
                cells[r.panel] = cells.get(r.panel, 0) + len(r.values)
        if len(offsets) < 2:
            continue
        share = sum(cell / cells[p] for p in offsets) * (len(offsets) - 1) / len(offsets)
        squares += max(sum(_mean(o) ** 2 for o in offsets.values()) - share, 0.0)
        df += len(offsets) - 1
    return squares, df


def _held(squares: float, df: int, prior: float) -> tuple[float, float]:
    """Return a variance held by its prior, and its degrees of freedom."""
    whole = DEFAULT_DF + df
    return (DEFAULT_DF * prior * prior + squares) / whole, whole


def _log_t(x: float, variance: float, df: float) -> float:
    """Return the log density of Student's t with a scale."""
    return float(
        gammaln((df + 1) / 2)
        - gammaln(df / 2)
        - 0.5 * math.log(df * math.pi * variance)
        - (df + 1) / 2 * math.log1p(x * x / (df * variance))
    )


def answer_said(found: Answer | None, declared: str) -> str:
    """Say how a panel answers, beside the class that it is declared to be."""
    if found is None:
        return ""
    parts = [f"{h} {_share(found.chances[h])}" for h in HARDNESSES if h in found.chances]
    said = "Answers like: " + ", ".join(parts) + "."
    lacking = declared not in found.chances
    if lacking:
        return said + f" No other {declared} panel stands beside it."
    if found.doubts(declared):
        return (
            f"This panel answers unlike its class, {declared}. {said} The class stays yours to say."
        )
    return said


def _share(chance: float) -> str:
    if chance > 0.99:
        return "over 99 %"
    return "under 1 %" if chance < 0.01 else f"{100 * chance:.0f} %"
