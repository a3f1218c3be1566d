"""The five relations between two combinations."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from loam.core.stats.reduce import FloatArray

SURE = 0.95
EQUAL, CLEARLY_BETTER, CLEARLY_WORSE = "equal", "clearly better", "clearly worse"
BETTER, WORSE, NOT_COMPARABLE, OPEN = "better", "worse", "not comparable", "open"
TURNED = {CLEARLY_BETTER: CLEARLY_WORSE, BETTER: WORSE} | {
    CLEARLY_WORSE: CLEARLY_BETTER,
    WORSE: BETTER,
}


@dataclass(frozen=True)
class Comparison:
    """Two combinations of a class: a minus b on the scale, as measured.

    ``estimate``, ``low`` and ``high`` (90 %) are None when nothing carries the comparison.
    """

    a: str
    b: str
    estimate: float | None
    low: float | None
    high: float | None
    p_better: float | None
    p_same: float | None
    p_clear: float | None
    verdict: str


def not_comparable(a: str, b: str) -> Comparison:
    """Return the comparison that no data carry."""
    return Comparison(a, b, None, None, None, None, None, None, NOT_COMPARABLE)


def verdict_of(p_better: float, p_same: float, p_clear: float, p_clear_worse: float) -> str:
    """Return the verdict on a against b from its chances.

    Parameters
    ----------
    p_better : float
        Chance that a is better at all.
    p_same : float
        Chance that they differ by less than matters.
    p_clear, p_clear_worse : float
        Chance that a is better, or worse, by more than matters.
    """
    if p_same >= SURE:
        return EQUAL
    if p_clear >= SURE:
        return CLEARLY_BETTER
    if p_clear_worse >= SURE:
        return CLEARLY_WORSE
    if p_better >= SURE:
        return BETTER
    if 1.0 - p_better >= SURE:
        return WORSE
    return OPEN


def compare_draws(a: str, b: str, d: FloatArray, delta: float, sign: float) -> Comparison:
    """Compare two combinations from draws of their difference.

    Parameters
    ----------
    d : (D,)
        a minus b on the scale, as measured.
    delta : float
        What matters, on the scale.
    sign : float
        1 where more is better, else -1.
    """
    merit = sign * d
    p_better = float((merit > 0).mean() + 0.5 * (merit == 0).mean())
    p_same = float((np.abs(d) < delta).mean())
    clear = float((merit > delta).mean()), float((-merit > delta).mean())
    ranked = np.sort(d)
    cut = int(np.floor(0.05 * d.size))
    return Comparison(
        a, b, float(d.mean()), float(ranked[cut]), float(ranked[-1 - cut]), p_better, p_same,
        clear[0], verdict_of(p_better, p_same, *clear),
    )  # fmt: skip
