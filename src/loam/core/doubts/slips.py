"""Readings that look like a slip of the decimal point, or of two digits."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from loam.core.readings import BY_KEY
from loam.core.readings.slip import swapped_digits
from loam.core.snapshot import Columns, FloatArray, IntArray
from loam.core.trial import PHASES

LEAST = 3
"""Readings of a cell from which one can be told to be odd."""
DECIMAL_SD, SWAP_SD, NEAR_SD = 6.0, 8.0, 4.0
"""Robust standard deviations: so far off, and so near once it is mended."""
_FACTORS = (0.1, 10.0, 0.01, 100.0)


@dataclass(frozen=True)
class Slipped:
    """A reading by its row, what it likely was, and the chance of being so far off by itself."""

    row: int
    meant: float
    p: float


def slips(columns: Columns, alpha: float) -> list[Slipped]:
    """Return the readings that another figure of the same digits fits, and they do not."""
    found: list[Slipped] = []
    for m, measurand in enumerate(columns.measurands):
        kind = BY_KEY.get(measurand)
        if kind is None:
            continue
        for phase in range(len(PHASES)):
            rows = np.flatnonzero((columns.measurand == m) & (columns.phase == phase))
            if rows.size >= LEAST:
                step = max(10.0**-kind.decimals, 1e-6)
                found += _of(columns, rows, kind.decimals, max(kind.repeatability, step), alpha)
    return found


def _of(
    columns: Columns, rows: IntArray, decimals: int, repeat: float, alpha: float
) -> Iterable[Slipped]:
    """Look through the readings of one measurand in one phase."""
    from scipy.special import erfc

    stage = columns.stage[rows]
    key = columns.cell[rows] * (int(stage.max()) + 1) + stage
    rows = rows[np.lexsort((columns.value[rows], key))]
    key = np.sort(key)
    starts = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
    sizes = np.diff(np.r_[starts, key.size])
    off, odd = [], []
    for size in np.unique(sizes[sizes >= LEAST]):
        own = rows[starts[sizes == size][:, None] + np.arange(size)]
        values = columns.value[own]
        off.append((values - np.median(values, axis=1, keepdims=True)).ravel())
        odd.append((own.ravel(), values.ravel(), _without_each(values).ravel()))
    if not odd:
        return
    all_off = np.concatenate(off)
    moved = all_off[all_off != 0.0]
    spread = max(1.4826 * float(np.median(np.abs(moved))) if moved.size else 0.0, 0.5 * repeat)
    row, value, middle = (np.concatenate(each) for each in zip(*odd, strict=True))
    wide = np.maximum(spread, 0.02 * np.abs(middle))
    z = np.abs(value - middle) / wide
    p = row.size * erfc(z / np.sqrt(2.0))
    for i in np.flatnonzero((z >= DECIMAL_SD) & (p < alpha)):
        meant = _meant(float(value[i]), float(middle[i]), float(wide[i]), float(z[i]), decimals)
        if meant is not None:
            yield Slipped(int(row[i]), round(meant, decimals), max(float(p[i]), 1e-15))


def _without_each(values: FloatArray) -> FloatArray:
    """Return the median of the others of each value (G, n), sorted by row."""
    n = values.shape[1]
    at = np.arange(n)
    low, high = (n - 2) // 2, (n - 1) // 2  # the middle of n - 1, once or twice
    return 0.5 * (values[:, low + (at <= low)] + values[:, high + (at <= high)])


def _meant(value: float, middle: float, wide: float, z: float, decimals: int) -> float | None:
    """Return what a reading likely was; None where no slip explains it."""
    likely = [value * f for f in _FACTORS]
    if z >= SWAP_SD:
        likely += swapped_digits(value, decimals)
    fits = [v for v in likely if abs(v - middle) <= NEAR_SD * wide]
    return min(fits, key=lambda v: abs(v - middle), default=None)
