"""Readings that look like a slip of the decimal point, or of two digits."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from scipy.special import erfc

from loam.core.readings import BY_KEY
from loam.core.readings.slip import swapped_digits
from loam.core.snapshot import Columns, FloatArray
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
    columns: Columns, rows: np.ndarray, decimals: int, repeat: float, alpha: float
) -> Iterable[Slipped]:
    """Look through the readings of one measurand in one phase."""
    stage = columns.stage[rows]
    key = columns.cell[rows] * (int(stage.max()) + 1) + stage
    order = np.argsort(key, kind="stable")
    rows, key = rows[order], key[order]
    starts = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
    groups = np.split(rows, starts[1:])
    middle = np.array([np.median(columns.value[g]) for g in groups])
    off = np.concatenate(
        [columns.value[g] - m for g, m in zip(groups, middle, strict=True) if g.size >= LEAST]
        or [np.zeros(0)]
    )
    if not off.size:
        return
    spread = max(1.4826 * float(np.median(np.abs(off[np.abs(off) > 0])) if off.any() else 0.0),
                 0.5 * repeat)  # fmt: skip
    for group in groups:
        if group.size >= LEAST:
            yield from _in_cell(columns.value, group, spread, decimals, off.size, alpha)


def _in_cell(
    values: FloatArray, group: np.ndarray, spread: float, decimals: int, count: int, alpha: float
) -> Iterable[Slipped]:
    for row in group:
        rest = values[group[group != row]]
        middle, value = float(np.median(rest)), float(values[row])
        wide = max(spread, 0.02 * abs(middle))
        z = abs(value - middle) / wide
        if z < DECIMAL_SD:
            continue
        p = count * float(erfc(z / np.sqrt(2.0)))
        if p >= alpha:
            continue
        likely = [value * f for f in _FACTORS]
        if z >= SWAP_SD:
            likely += swapped_digits(value, decimals)
        fits = [v for v in likely if abs(v - middle) <= NEAR_SD * wide]
        if fits:
            meant = min(fits, key=lambda v: abs(v - middle))
            yield Slipped(int(row), round(meant, decimals), max(p, 1e-15))
