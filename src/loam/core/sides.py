"""Two sides of readings held against each other: two trials, or two days of one.

For each recipe that both read on a hardness, the difference of the means of its cells, with what
panels, a recipe on a panel, cells and readings vary by. What all recipes share (another panel,
another day) is told apart from what one does beside the others.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from loam.core.judging import TrialJudgement
from loam.core.stats.reduce import FloatArray, IntArray
from loam.core.stats.summary import Z90
from loam.core.trial_rows import TrialData
from loam.core.verdicts import verdict_of


@dataclass(frozen=True)
class Held:
    """A recipe on both sides of one hardness, as places on the scale.

    Attributes
    ----------
    difference, low, high : float
        The second side less the first, with the 90 % interval.
    verdict : str
        On the second side against the first, as measured: ``equal``, ``better`` and so on.
    """

    combination: str
    hardness: str
    first: float
    second: float
    difference: float
    low: float
    high: float
    verdict: str


def hold(data: TrialData, judged: TrialJudgement, side: IntArray) -> list[Held]:
    """Hold two sides against each other.

    Parameters
    ----------
    side : (n,) int
        0 or 1 by reading; anything else is left out.
    """
    from scipy.special import ndtr

    y = judged.scale.to(data.y)
    k = len(data.combination.names)
    found: list[Held] = []
    sign = 1.0 if data.higher_is_better else -1.0
    delta = judged.matters.on_scale
    for h, hardness in enumerate(data.hardness.names):
        for c in range(k):
            own = (data.hardness.codes == h) & (data.combination.codes == c)
            rows = [np.flatnonzero(own & (side == s)) for s in (0, 1)]
            if any(r.size == 0 for r in rows):
                continue
            means = [_mean(y, r, data) for r in rows]
            error = float(np.sqrt(sum(_variance(r, data, judged) for r in rows)))
            d = means[1] - means[0]
            better = float(ndtr(sign * d / error))
            clear = float(ndtr((sign * d - delta) / error))
            worse = float(ndtr((-sign * d - delta) / error))
            found.append(
                Held(
                    data.combination.names[c],
                    hardness,
                    means[0],
                    means[1],
                    d,
                    d - Z90 * error,
                    d + Z90 * error,
                    verdict_of(better, 1.0 - clear - worse, clear, worse),
                )
            )
    return found


def _mean(y: FloatArray, rows: IntArray, data: TrialData) -> float:
    """Return the mean of the means of cells."""
    _, at = np.unique(data.factors["cell"].codes[rows], return_inverse=True)
    return float((np.bincount(at, weights=y[rows]) / np.bincount(at)).mean())


def _variance(rows: IntArray, data: TrialData, judged: TrialJudgement) -> float:
    sd = judged.sd
    panels = np.unique(data.factors["panel"].codes[rows]).size
    cells = np.unique(data.factors["cell"].codes[rows]).size
    of_panels = (sd["panel"] ** 2 + sd["panel:combination"] ** 2) / panels
    return float(of_panels + sd["cell"] ** 2 / cells + sd["residual"] ** 2 / rows.size)


def shared_shift(held: list[Held]) -> float:
    """Return what all recipes share of the difference: its median, on the scale."""
    return float(np.median([h.difference for h in held])) if held else 0.0
