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

import numpy as np
from scipy.special import ndtr

from loam.core.snapshot import Columns
from loam.core.stats.reduce import FloatArray
from loam.core.trial import AFTER, BEFORE, UNWIPED

LEVEL = 0.90
TAU_LIMITS, OMEGA_LIMITS = 5.0, 2.0
"""Scales of the half-normal priors, in standard deviations of a repeat reading: assumptions."""
_POINTS = 24
_HALVINGS = 44
_SURE = 0.95


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
    a, b = (_by_cell(columns, measurand, phase) for phase in (early, later))
    work = _by_cell(columns, measurand, BEFORE)
    both = [c for c in a if c in b and c in groups]
    squares = sum(_squares(x[c]) for x in (a, b) for c in both)
    df = sum(x[c].size - 1 for x in (a, b) for c in both)
    variance = (10.0 * repeatability**2 + squares) / (10.0 + df)
    sign = 1.0 if higher_is_better else -1.0
    found = []
    for c in both:
        first, last = float(a[c].mean()), float(b[c].mean())
        start = (baseline or {}).get(c)
        if start is None and c in work:
            start = float(work[c].mean())
        gain = None if start is None else sign * (first - start)
        error = math.sqrt(variance * (1.0 / a[c].size + 1.0 / b[c].size))
        masked = sign * (first - last)
        found.append(CellMasked(c, groups[c], first, last, masked, error, gain))
    return found


def _by_cell(columns: Columns, measurand: str, phase: str) -> dict[int, FloatArray]:
    rows = columns.rows(measurand, phase)
    order = rows[np.argsort(columns.cell[rows], kind="stable")]
    cells, starts = np.unique(columns.cell[order], return_index=True)
    parts = np.split(columns.value[order], starts[1:])
    return dict(zip(cells.tolist(), parts, strict=True)) if rows.size else {}


def _squares(values: FloatArray) -> float:
    return float(((values - values.mean()) ** 2).sum())


def masking(cells: Sequence[CellMasked], repeatability: float) -> list[Masked]:
    """Return what fell back under each product, partially pooled, the most first.

    Parameters
    ----------
    cells : sequence of CellMasked
    repeatability : float
        Standard deviation of a repeat reading: scales the priors.
    """
    if not cells:
        return []
    names = list(dict.fromkeys(c.group for c in cells))
    at = np.array([names.index(c.group) for c in cells])
    y = np.array([c.masked for c in cells])
    v = np.array([c.error for c in cells]) ** 2
    mean, sd, weight = _posterior(y, v, at, len(names), repeatability)
    ends = [_quantiles(mean, sd, weight, p) for p in (0.05, 0.95)]
    found = []
    for g, name in enumerate(names):
        own = [c for c in cells if c.group == name]
        low, high = float(ends[0][g]), float(ends[1][g])
        estimate = float(weight @ mean[:, g])
        gains = [c.gain for c in own if c.gain is not None]
        gain = sum(gains) / len(gains) if len(gains) == len(own) else 0.0
        found.append(
            Masked(
                name, len(own), estimate, low, high,
                float(weight @ ndtr(mean[:, g] / sd[:, g])),
                estimate / gain if gain > 0.0 else None,
                sum(c.unwiped for c in own) / len(own), sum(c.later for c in own) / len(own),
            )
        )  # fmt: skip
    return sorted(found, key=lambda m: -m.masked)


def _posterior(
    y: FloatArray, v: FloatArray, at: np.ndarray, groups: int, unit: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return mean and s.d. of every product at each point of the grid, and the points' weights.

    At a point (tau, omega) a product's cells give a normal with precision P and mean m; with the
    common mean integrated out (flat), products are shrunk to it.
    """
    steps = (np.arange(_POINTS) + 0.5) / _POINTS * 3.0
    t = (steps * TAU_LIMITS * unit)[:, None]
    means, sds, logs = [], [], []
    for w in steps * OMEGA_LIMITS * unit:
        of_cell = 1.0 / (v + w * w)
        p = np.bincount(at, of_cell, groups)
        m = np.bincount(at, of_cell * y, groups) / p
        of_group = 1.0 / (1.0 / p + t * t)  # (points, groups)
        all_p = of_group.sum(axis=1, keepdims=True)
        mu = of_group @ m[:, None] / all_p
        shrunk = p / (p + 1.0 / (t * t))
        means.append(mu + shrunk * (m - mu))
        sds.append(np.sqrt((1.0 - shrunk) * t * t + (1.0 - shrunk) ** 2 / all_p))
        of_w = np.log(of_cell).sum() - np.log(p).sum() - (of_cell * (y - m[at]) ** 2).sum()
        of_t = np.log(of_group).sum(axis=1) - np.log(all_p[:, 0])
        of_t -= (of_group * (m - mu) ** 2).sum(axis=1)
        prior = (t[:, 0] / (TAU_LIMITS * unit)) ** 2 + (w / (OMEGA_LIMITS * unit)) ** 2
        logs.append(0.5 * (of_w + of_t - prior))
    log = np.concatenate(logs)
    weight = np.exp(log - log.max())
    return np.vstack(means), np.vstack(sds), weight / weight.sum()


def _quantiles(mean: FloatArray, sd: FloatArray, weight: FloatArray, p: float) -> FloatArray:
    """Return a quantile of every product's mixture of normals, (products,), by halving."""
    low, high = (mean - 8.0 * sd).min(axis=0), (mean + 8.0 * sd).max(axis=0)
    for _ in range(_HALVINGS):
        middle = 0.5 * (low + high)
        below = weight @ ndtr((middle - mean) / sd) < p
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    return np.asarray(0.5 * (low + high), float)
