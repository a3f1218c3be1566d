"""Masking: what a wipe takes back of gloss or haze, by cell, by product, with intervals.

In each cell the mean before the wipe less the mean after it, with the error that its repeat
readings leave. Products (or combinations) are partially pooled: a cell scatters round its product
with omega, products round their common mean with tau; both have half-normal priors and are
integrated over on a grid, so that one lucky cell makes no filler.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from loam.core.snapshot import Columns
from loam.core.stats.reduce import FloatArray
from loam.core.trial import AFTER, BEFORE, UNWIPED

LEVEL = 0.90
TAU_LIMITS, OMEGA_LIMITS = 5.0, 2.0
"""Scales of the half-normal priors, in standard deviations of a repeat reading: assumptions."""
_POINTS = 24
_UNSEEN = 1e-10
"""Weight of a point of the grid that nothing is lost without."""
_MOST_STEPS = 60
_CLOSE = 1e-7
"""Of the spread; a step of Newton this small leaves far less."""
_SURE = 0.95
_REACH = 1.6448536269514722
"""Half of a 90 % interval, in standard deviations of a normal."""


@dataclass(frozen=True)
class CellMasked:
    """What fell back in one cell.

    Attributes
    ----------
    masked : float
        Better by so much before than after, in the unit of the measurand.
    error : float
        Standard error, from repeat readings.
    gain : float or None
        What it seemed to have gained before the wipe, where it was read before work.
    """

    cell_id: int
    group: str
    unwiped: float
    later: float
    masked: float
    error: float
    gain: float | None


@dataclass(frozen=True)
class Masked:
    """What fell back under one product.

    Attributes
    ----------
    masked, low, high : float
        Estimate and its 90 % interval, in the unit.
    sure : float
        Chance that it is more than nothing.
    share : float or None
        Of the apparent gain.
    unwiped, later : float
        Plain means over its cells.
    """

    group: str
    cells: int
    masked: float
    low: float
    high: float
    sure: float
    share: float | None
    unwiped: float
    later: float

    @property
    def seen(self) -> bool:
        """Whether something fell back, surely."""
        return self.sure >= _SURE and self.low > 0.0


def cells_masked(
    columns: Columns,
    measurand: str,
    groups: Mapping[int, str],
    *,
    higher_is_better: bool,
    repeatability: float,
    later: str = AFTER,
    baseline: Mapping[int, float] | None = None,
    early: str = UNWIPED,
) -> list[CellMasked]:
    """Return what fell back in each cell that was read before and after.

    Parameters
    ----------
    columns : Columns
    groups : mapping of int to str
        The product of each cell that counts.
    higher_is_better : bool
    repeatability : float
        Standard deviation of a repeat reading; the cells' own repeats are pooled with it, which
        weighs as ten readings.
    later, early : str
        Between which phases.
    baseline : mapping of int to float, optional
        Mean before work by cell.
    """
    b = _by_cell(columns, measurand, later) if groups else {}
    a = _by_cell(columns, measurand, early) if b else {}
    both = [c for c in a if c in b and c in groups]
    if not both:
        return []
    work = _by_cell(columns, measurand, BEFORE)
    squares = sum(x[c].squares for x in (a, b) for c in both)
    df = sum(x[c].readings - 1 for x in (a, b) for c in both)
    variance = (10.0 * repeatability**2 + squares) / (10.0 + df)
    sign = 1.0 if higher_is_better else -1.0
    found = []
    for c in both:
        first, last = a[c].mean, b[c].mean
        start = (baseline or {}).get(c)
        if start is None and c in work:
            start = work[c].mean
        gain = None if start is None else sign * (first - start)
        error = math.sqrt(variance * (1.0 / a[c].readings + 1.0 / b[c].readings))
        masked = sign * (first - last)
        found.append(CellMasked(c, groups[c], first, last, masked, error, gain))
    return found


class _Read(NamedTuple):
    readings: int
    mean: float
    squares: float


def _by_cell(columns: Columns, measurand: str, phase: str) -> dict[int, _Read]:
    """Return count, mean and sum of squares around it of the readings of each cell."""
    rows = columns.rows(measurand, phase)
    if not rows.size:
        return {}
    cells, at = np.unique(columns.cell[rows], return_inverse=True)
    values, count = columns.value[rows], np.bincount(at)
    mean = np.bincount(at, values) / count
    squares = np.bincount(at, (values - mean[at]) ** 2)
    read = map(_Read, count.tolist(), mean.tolist(), squares.tolist())
    return dict(zip(cells.tolist(), read, strict=True))


def masking(cells: Sequence[CellMasked], repeatability: float) -> list[Masked]:
    """Return what fell back under each product, partially pooled, the most first.

    Parameters
    ----------
    cells : sequence of CellMasked
    repeatability : float
        Standard deviation of a repeat reading: scales the priors.
    """
    from scipy.special import ndtr

    if not cells:
        return []
    names = list(dict.fromkeys(c.group for c in cells))
    at = np.array([names.index(c.group) for c in cells])
    y = np.array([c.masked for c in cells])
    v = np.array([c.error for c in cells]) ** 2
    mean, sd, weight = _posterior(y, v, at, len(names), repeatability)
    ends = _quantiles(mean, sd, weight, (0.5 - 0.5 * LEVEL, 0.5 + 0.5 * LEVEL))
    found = []
    for g, name in enumerate(names):
        own = [c for c in cells if c.group == name]
        low, high = float(ends[0][g]), float(ends[1][g])
        estimate = float(weight @ mean[:, g])
        gains = [c.gain for c in own if c.gain is not None]
        gain = sum(gains) / len(gains) if len(gains) == len(own) else 0.0
        found.append(
            Masked(
                name,
                len(own),
                estimate,
                low,
                high,
                float(weight @ ndtr(mean[:, g] / sd[:, g])),
                estimate / gain if gain > 0.0 else None,
                sum(c.unwiped for c in own) / len(own),
                sum(c.later for c in own) / len(own),
            )
        )
    return sorted(found, key=lambda m: -m.masked)


@dataclass(frozen=True)
class Left:
    """What a wipe leaves of what a product hid, beside the wipe that takes most of it.

    Attributes
    ----------
    took, hid : float
        What this wipe takes, and the one that takes most, in the unit.
    left, low, high : float
        What this one leaves of that, with its 90 % interval.
    sure : float
        Chance that it leaves more than nothing; 0.5 for the one that takes most.
    most : bool
        Whether it is the one that takes most.
    """

    product: str
    wipe: str
    cells: int
    took: float
    hid: float
    left: float
    low: float
    high: float
    sure: float
    most: bool

    @property
    def seen(self) -> bool:
        """Whether it surely leaves something."""
        return not self.most and self.sure >= _SURE and self.low > 0.0


def wipes_left(
    cells: Sequence[CellMasked], named: Mapping[str, tuple[str, str]], repeatability: float
) -> list[Left]:
    """Return what each wipe leaves of what each product hid.

    Parameters
    ----------
    cells : sequence of CellMasked
        Each under a product and a wipe; one cell several times where it was read between wipes.
    named : mapping of str to (product, wipe)
        What a group of ``cells`` stands for.
    repeatability : float
        Standard deviation of a repeat reading.

    Notes
    -----
    Intervals of two wipes are taken as independent. Of a product with one wipe nothing is said,
    nor of one under which no wipe surely takes anything.
    """
    from scipy.special import ndtr

    found = {named[m.group]: m for m in masking(cells, repeatability)}
    told = []
    for product in dict.fromkeys(p for p, _ in found):
        own = {wipe: m for (p, wipe), m in found.items() if p == product}
        best = max(own, key=lambda w: own[w].masked)
        if len(own) < 2 or not own[best].seen:
            continue
        for wipe, m in own.items():
            error = math.hypot(_sd(m), _sd(own[best]))
            left = own[best].masked - m.masked
            half = _REACH * error
            sure = 0.5 if wipe == best else float(ndtr(left / max(error, 1e-12)))
            ends = (0.0, 0.0) if wipe == best else (left - half, left + half)
            told.append(
                Left(
                    product,
                    wipe,
                    m.cells,
                    m.masked,
                    own[best].masked,
                    left,
                    *ends,
                    sure,
                    wipe == best,
                )
            )
    return told


def _sd(m: Masked) -> float:
    return (m.high - m.low) / (2.0 * _REACH)


def _posterior(
    y: FloatArray, v: FloatArray, at: np.ndarray, groups: int, unit: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return mean and s.d. of every product at each point of the grid, and the points' weights.

    At a point (tau, omega) a product's cells give a normal with precision P and mean m; with the
    common mean integrated out (flat), products are shrunk to it.
    """
    steps = (np.arange(_POINTS) + 0.5) / _POINTS * 3.0
    t2 = ((steps * TAU_LIMITS * unit) ** 2)[:, None]  # (tau, 1)
    w2 = ((steps * OMEGA_LIMITS * unit) ** 2)[:, None]  # (omega, 1)
    of_cell = 1.0 / (v + w2)  # (omega, cells)
    member = np.eye(groups)[at]
    p = of_cell @ member
    m = (of_cell * y) @ member / p
    of_w = np.log(of_cell).sum(axis=1) - np.log(p).sum(axis=1)
    of_w -= (of_cell * (y - m[:, at]) ** 2).sum(axis=1)
    p, m = p[:, None], m[:, None]  # (omega, 1, groups)
    of_group = 1.0 / (1.0 / p + t2)
    all_p = of_group.sum(axis=2, keepdims=True)
    mu = (of_group * m).sum(axis=2, keepdims=True) / all_p
    left = 1.0 / (1.0 + p * t2)  # of the distance to the common mean
    of_t = np.log(of_group).sum(axis=2) - np.log(all_p[..., 0])
    of_t -= (of_group * (m - mu) ** 2).sum(axis=2)
    prior = steps**2 + (steps**2)[:, None]
    log = (0.5 * (of_w[:, None] + of_t - prior)).ravel()
    weight = np.exp(log - log.max())
    weight /= weight.sum()
    seen = weight > _UNSEEN
    mean = (m + left * (mu - m)).reshape(-1, groups)
    sd = np.sqrt(left * t2 + left**2 / all_p).reshape(-1, groups)
    return mean[seen], sd[seen], weight[seen] / weight[seen].sum()


def _quantiles(
    mean: FloatArray, sd: FloatArray, weight: FloatArray, levels: Sequence[float]
) -> FloatArray:
    """Return quantiles of every product's mixture of normals, (levels, products).

    By Newton's steps from the normal of the same moments, and by halves where one leaves what the
    quantile is known to lie between.
    """
    from scipy.special import ndtr, ndtri

    p = np.array(levels)[:, None]
    middle = weight @ mean
    spread = np.sqrt(weight @ (sd**2 + (mean - middle) ** 2))
    low = np.tile((mean - 8.0 * sd).min(axis=0), (p.size, 1))
    high = np.tile((mean + 8.0 * sd).max(axis=0), (p.size, 1))
    x = np.clip(middle + ndtri(p) * spread, low, high)
    for _ in range(_MOST_STEPS):
        z = (x[:, None] - mean) / sd  # (levels, points, products)
        over = weight @ ndtr(z) - p
        low, high = np.where(over < 0.0, x, low), np.where(over < 0.0, high, x)
        slope = weight @ (np.exp(-0.5 * z * z) / sd) / math.sqrt(2.0 * math.pi)
        step = x - over / np.maximum(slope, 1e-300)
        step = np.where((step > low) & (step < high), step, 0.5 * (low + high))
        done = np.abs(step - x) <= _CLOSE * spread
        x = step
        if done.all():
            break
    return np.asarray(x, float)
