"""Exact reduction of readings to units: rows that share every fixed and random level.

Readings of one unit enter the likelihood only through their count, mean and the pooled
within-unit sum of squares, so that nothing after this step depends on the number of rows.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]
IntArray = npt.NDArray[np.intp]
BoolArray = npt.NDArray[np.bool_]


@dataclass(frozen=True)
class Units:
    """Units of a data set.

    Attributes
    ----------
    first : (N,) int
        A row that stands for each unit.
    of_row : (n,) int
        Unit of each row.
    count : (N,) float
        Readings a unit.
    mean : (N,) float
        Mean reading of a unit, less ``shift``.
    within_ss : float
        Sum of squares of the readings about their unit means.
    shift : float
        What was taken off every reading before any sum, for precision.
    """

    first: IntArray
    of_row: IntArray
    count: FloatArray
    mean: FloatArray
    within_ss: float
    shift: float


def compact(codes: npt.NDArray[np.integer]) -> tuple[IntArray, int]:
    """Renumber non-negative codes to 0..k-1 in order of value.

    Returns
    -------
    (n,) int array and k.
    """
    if codes.size == 0:
        return codes.astype(np.intp), 0
    top = int(codes.max())
    if top > 8 * codes.size + 4096:
        _, inverse = np.unique(codes, return_inverse=True)
        return inverse.astype(np.intp), int(inverse.max()) + 1
    seen = np.zeros(top + 1, dtype=bool)
    seen[codes] = True
    number = np.cumsum(seen) - 1
    return number[codes], int(number[-1]) + 1


def cross(a: IntArray, b: npt.NDArray[np.integer]) -> tuple[IntArray, int]:
    """Number the pairs of two codings that occur, 0..k-1, ordered by ``a`` then ``b``."""
    width = int(b.max()) + 1 if b.size else 1
    return compact(a.astype(np.int64) * width + b)


def first_rows(unit: IntArray, count: int) -> IntArray:
    """Return the first row of each of ``count`` units."""
    first = np.empty(count, dtype=np.intp)
    first[unit[::-1]] = np.arange(unit.size - 1, -1, -1)
    return first


def reduce_to_units(
    y: FloatArray, codings: Sequence[IntArray], covariates: Sequence[FloatArray] = ()
) -> Units:
    """Reduce readings to units, exactly.

    Parameters
    ----------
    y : (n,) float
        Readings.
    codings : sequence of (n,) int
        Fixed groups and random factors, coded from 0; the finest first is fastest.
    covariates : sequence of (n,) float
        Numbers that must not vary inside a unit.
    """
    n = y.size
    unit, count = compact(codings[0]) if codings else (np.zeros(n, dtype=np.intp), min(n, 1))
    first = first_rows(unit, count)
    for coding in codings[1:]:
        if not np.array_equal(coding[first][unit], coding):
            unit, count = cross(unit, coding)
            first = first_rows(unit, count)
    for column in covariates:
        if not np.array_equal(column[first][unit], column):
            _, levels = np.unique(column, return_inverse=True)
            unit, count = cross(unit, levels)
            first = first_rows(unit, count)
    shift = float(y.mean()) if n else 0.0
    centred = y - shift
    size = np.bincount(unit, minlength=count).astype(float)
    mean = np.bincount(unit, weights=centred, minlength=count) / size
    rest = centred - mean[unit]
    return Units(first, unit, size, mean, float(rest @ rest), shift)
