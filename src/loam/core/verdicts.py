"""The five relations between two combinations."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from loam.core.stats.reduce import FloatArray

SURE = 0.95
EQUAL, CLEARLY_BETTER, CLEARLY_WORSE = "equal", "clearly better", "clearly worse"
BETTER, WORSE, OPEN = "better", "worse", "open"
ASSUMED = "assumed"
"""The look of a lead that rests on what is assumed: its verdict is `BETTER` or `WORSE`."""
LOOKED_BF = 10.0
"""How much more likely a difference than none must have made the readings, after a look."""


@dataclass(frozen=True)
class Comparison:
    """Two combinations of a class: a minus b on the scale, as measured.

    Attributes
    ----------
    rests : tuple of str
        What more than half of its variance rests on that this trial hardly knows: terms, most
        first. Such a pair is never clearly ahead or behind.
    """

    a: str
    b: str
    estimate: float
    low: float
    high: float
    p_better: float
    p_same: float
    p_clear: float
    verdict: str
    rests: tuple[str, ...] = ()


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


def capped(verdict: str, rests: tuple[str, ...], bayes: float | None) -> str:
    """Return the verdict on a pair by what it rests on, and by what was looked at before.

    Parameters
    ----------
    rests : tuple of str
        What is hardly known and carries more than half of it.
    bayes : float or None
        Where cells were added after a look: `bayes_factor` of the difference.
    """
    if verdict in (EQUAL, OPEN):
        return verdict
    if bayes is not None and bayes < LOOKED_BF:
        return OPEN
    if rests:
        return {CLEARLY_BETTER: BETTER, CLEARLY_WORSE: WORSE}.get(verdict, verdict)
    return verdict


def bayes_factor(d: float, s: float, delta: float) -> float:
    """Return how much more likely a difference is than none: N(0, T^2) against 0, T = 2 delta.

    Parameters
    ----------
    d, s : float
        The difference, not pooled, and its standard deviation.
    delta : float
        What matters; where that is nothing, T is the standard deviation itself.
    """
    s2 = max(s * s, 1e-150)
    t2 = (2.0 * delta) ** 2 or s2
    power = min(d * d / (2.0 * s2) * (t2 / (s2 + t2)), 700.0)
    return float(np.sqrt(s2 / (s2 + t2)) * np.exp(power))


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
        a,
        b,
        float(d.mean()),
        float(ranked[cut]),
        float(ranked[-1 - cut]),
        p_better,
        p_same,
        p_clear,
        verdict,
    )


def chances(d: FloatArray, delta: float, sign: float) -> tuple[float, float, float, str]:
    """Return the chances (better, same, clearly better) and the verdict from draws (D,)."""
    n, merit = d.size, sign * d
    above = np.count_nonzero(merit > 0)
    level = n - above - np.count_nonzero(merit < 0)
    clear, worse = np.count_nonzero(merit > delta), np.count_nonzero(merit < -delta)
    same = np.count_nonzero(np.abs(d) < delta)
    p = (above + 0.5 * level) / n, same / n, clear / n
    return *p, verdict_of(*p, worse / n)
