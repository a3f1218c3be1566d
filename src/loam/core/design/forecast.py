"""What a layout will be able to tell apart, before any work is done.

Cell means of m readings, panels random, the standard deviations taken as known:
V = sd_panel^2 ZZ' + s^2 I with s^2 = sd_cell^2 + sd_reading^2 / m. With k cells on a panel,
V^-1 follows in closed form, so that X'V^-1X = (R - sum_p theta_p n_p n_p') / s^2 with
theta_p = sd_panel^2 / (s^2 + k_p sd_panel^2). Degrees of freedom are those left within panels;
power is that of a two-sided test at level 0.10 (non-central t).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from loam.core.design.blocks import Ground
from loam.core.design.lay import standing
from loam.core.design.plan import Place, Plan, Spreads
from loam.core.stats.reduce import FloatArray, IntArray

LEVEL, POWER = 0.10, 0.80
_LOST = 1e-12
"""Information below this share of the most is none."""


@dataclass(frozen=True)
class Forecast:
    """What is to be expected of one pair of combinations on one hardness.

    Attributes
    ----------
    se : float or None
        Standard error of the difference; None when the pair cannot be compared.
    df : int
        Degrees of freedom within panels.
    half_width_90 : float or None
        Half of the 90 % interval; None with less than one degree of freedom.
    detectable_80 : float or None
        The difference found with 80 % power.
    ahead_80, clearly_80 : float or None
        True differences from which on the judgement says "ahead" and "clearly" four times in five;
        None where it never will.
    """

    hardness: str
    a: str
    b: str
    se: float | None
    df: int
    half_width_90: float | None
    detectable_80: float | None
    ahead_80: float | None = None
    clearly_80: float | None = None


def forecast(plan: Plan, assigned: Mapping[Place, str], sd: Spreads) -> list[Forecast]:
    """Forecast every pair of combinations of every hardness of a layout."""
    found: list[Forecast] = []
    for hardness in plan.hardnesses():
        label, ground = standing(plan, hardness, assigned)
        v = len(plan.combinations)
        if ground is None:
            continue
        variances, df = contrasts(label, ground, v, sd, plan.readings_per_cell)
        for i, j in itertools.combinations(range(v), 2):
            variance = float(variances[i, j])
            se = math.sqrt(variance) if math.isfinite(variance) else None
            half = found_80 = None
            if se is not None and df >= 1:
                half, found_80 = quantile(df) * se, detectable(df) * se
            found.append(
                Forecast(
                    hardness, plan.combinations[i], plan.combinations[j], se, df, half, found_80
                )
            )
    return found


def contrasts(
    label: IntArray, ground: Ground, v: int, sd: Spreads, readings: int
) -> tuple[FloatArray, int]:
    """Return the variance of every difference (v, v) and the df; infinite where none is known."""
    count = ground.counts(label, v)
    s2 = sd.of_cell_mean(readings)
    theta = sd.panel**2 / (s2 + ground.size * sd.panel**2)
    per = count.sum(axis=1)
    present = np.flatnonzero(per > 0)
    matrix = (np.diag(per) - (count * theta) @ count.T)[np.ix_(present, present)]
    values, vectors = np.linalg.eigh(matrix)
    lost = values <= _LOST * max(float(values[-1]), 1e-300)
    # what all share is lost when panels vary without bound, and is in no difference
    apart = _pairwise(vectors[:, lost] @ vectors[:, lost].T)
    inverse = (vectors[:, ~lost] / values[~lost]) @ vectors[:, ~lost].T * s2
    known = np.where(apart > 1e-9, np.inf, _pairwise(inverse))
    out = np.full((v, v), np.inf)
    out[np.ix_(present, present)] = known
    rank = present.size + ground.size.size - linked_pieces(count)
    return out, int(label.size - rank)


def _pairwise(square: FloatArray) -> FloatArray:
    """(e_i - e_j)' M (e_i - e_j) for all pairs."""
    diagonal = np.diag(square)
    return np.asarray(diagonal[:, None] + diagonal[None, :] - square - square.T, float)


def linked_pieces(count: FloatArray) -> int:
    """Return into how many pieces combinations and panels fall that nothing links."""
    used = np.flatnonzero(count.sum(axis=1) > 0)
    linked = count[used] @ count[used].T > 0
    piece = np.arange(used.size)
    while True:
        joined = np.where(linked, piece, used.size).min(axis=1)
        if np.array_equal(joined, piece):
            return int(np.unique(piece).size)
        piece = joined


def quantile(df: float) -> float:
    """Quantile of t that bounds a two-sided 90 % interval."""
    from scipy.special import stdtrit

    return float(stdtrit(df, 1.0 - 0.5 * LEVEL))


@lru_cache(maxsize=512)
def detectable(df: float) -> float:
    """Return the difference, in standard errors, found with 80 % power at level 0.10."""
    low, high = 0.0, 8.0
    while power(high, df) < POWER:
        low, high = high, 2.0 * high
    for _ in range(80):
        middle = 0.5 * (low + high)
        if power(middle, df) < POWER:
            low = middle
        else:
            high = middle
    return 0.5 * (low + high)


def power(shift: float, df: float) -> float:
    """Chance that a two-sided test at level 0.10 finds a difference of ``shift`` standard errors.

    Where SciPy's non-central t gives no number, far in a tail, its limit is taken.
    """
    from scipy.special import nctdtr

    bound = quantile(df)
    above, below = float(nctdtr(df, shift, bound)), float(nctdtr(df, shift, -bound))
    above = above if math.isfinite(above) else (0.0 if shift > bound else 1.0)
    below = below if math.isfinite(below) else 0.0
    return 1.0 - above + below
