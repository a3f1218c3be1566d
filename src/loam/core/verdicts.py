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
    p_better, p_same, p_clear, verdict = chances(d, delta, sign)
    cut = int(np.floor(0.05 * d.size))
    ranked = np.partition(d, (cut, d.size - 1 - cut))
    return Comparison(
        a, b, float(d.mean()), float(ranked[cut]), float(ranked[-1 - cut]), p_better, p_same,
        p_clear, verdict,
    )  # fmt: skip


def chances(d: FloatArray, delta: float, sign: float) -> tuple[float, float, float, str]:
    """Return the chances (better, same, clearly better) and the verdict from draws (D,)."""
    n, merit = d.size, sign * d
    above = np.count_nonzero(merit > 0)
    level = n - above - np.count_nonzero(merit < 0)
    clear, worse = np.count_nonzero(merit > delta), np.count_nonzero(merit < -delta)
    same = np.count_nonzero(np.abs(d) < delta)
    p = (above + 0.5 * level) / n, same / n, clear / n
    return *p, verdict_of(*p, worse / n)
