"""The spread of repeat readings, which one slip or a copied cell hardly moves."""

from __future__ import annotations

import numpy as np

from loam.core.stats.reduce import FloatArray, IntArray

BEND = 2.0
"""Deviations beyond this many standard deviations count no more than this many."""
SLIP = 5.0
"""Deviations beyond this many are slips of the pen or the meter, and count not at all."""
_LIMIT = 0.92099
_BENT = {
    2: 0.4959,
    3: 0.6754,
    4: 0.7171,
    5: 0.7857,
    6: 0.7933,
    7: 0.8285,
    8: 0.8294,
    9: 0.8502,
    10: 0.8501,
    11: 0.8640,
    12: 0.8635,
}
"""Mean of min(d^2, BEND^2) for standard normal readings, d from the median of a cell of n."""


def expected_square(n: int) -> float:
    """Return the mean of min(d^2, BEND^2), d the deviation from the median of n readings.

    Simulated, 4 million cells each (`tests/core/test_robust.py` checks); beyond 12 by its limit.
    """
    last = 12 - n % 2
    return _BENT[n] if n <= 12 else _LIMIT - (_LIMIT - _BENT[last]) * last / n


def repeat_sd(values: FloatArray, cell: IntArray, resolution: float) -> float | None:
    """Return the standard deviation of repeat readings within cells, robustly.

    A Huber M-estimate of scale of the deviations from each cell's median. A cell whose readings
    are all the same is left out unless most cells are like that: it was copied, or typed once.

    Parameters
    ----------
    values : (n,) float
    cell : (n,) int
        Cell of each reading, coded from 0.
    resolution : float
        Step of the meter; no spread below step / sqrt(12) can be seen.

    Returns
    -------
    float or None
        None when no cell has two readings, or nothing is known of their spread.
    """
    order = np.argsort(cell, kind="stable")
    y, own = values[order], cell[order]
    scale, away = _scale(y, own, resolution)
    if scale is None:
        return None
    near = away <= SLIP * scale
    return scale if near.all() else _scale(y[near], own[near], resolution)[0]


def _scale(y: FloatArray, own: IntArray, resolution: float) -> tuple[float | None, FloatArray]:
    """Return the scale of readings that lie cell by cell, and how far each is from its median."""
    count = np.bincount(own)
    several = count[own] > 1
    away = np.abs(y - _medians(y, count)[own])
    if not several.any():
        return None, away
    flat = np.ones(count.size, dtype=bool)
    flat[own[away > 0]] = False
    alike = flat & (count > 2)
    used = several & ~alike[own] if 2 * alike.sum() < (count > 2).sum() else several
    seen, least = away[used], resolution / np.sqrt(12.0)
    sizes, at = np.unique(count[own[used]], return_inverse=True)
    wanted = np.array([expected_square(int(n)) for n in sizes])[at]
    scale = float(np.sqrt((seen**2).mean() / 0.9))
    start = float(np.median(seen)) / 0.6
    scale = max(min(scale, start) if start > 0 else scale, least)
    return (_settled(seen, wanted, scale, least) if scale > 0.0 else None), away


def _settled(away: FloatArray, wanted: FloatArray, scale: float, least: float) -> float:
    """Return the scale at which the bent squares are as large as is to be expected."""
    for _ in range(60):
        seen = np.minimum((away / scale) ** 2, BEND**2).sum()
        step = float(np.sqrt(seen / wanted.sum()))
        scale = max(scale * step, least)
        if abs(step - 1.0) < 1e-7 or scale <= least:
            break
    return float(scale)


def _medians(y: FloatArray, count: IntArray) -> FloatArray:
    """Return the median of each cell; readings lie cell by cell."""
    start = np.concatenate([[0], np.cumsum(count)[:-1]])
    out = np.zeros(count.size)
    for n in np.unique(count[count > 0]).tolist():
        cells = np.flatnonzero(count == n)
        ranked = np.sort(y[start[cells][:, None] + np.arange(n)], axis=1)
        out[cells] = 0.5 * (ranked[:, (n - 1) // 2] + ranked[:, n // 2])
    return out
