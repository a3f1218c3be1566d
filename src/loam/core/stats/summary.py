"""The running mean of one cell: is it enough, and does a reading stand out?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

LEAST, MOST = 3, 12
Z90 = 1.6448536269514722
LIMIT_FACTOR = 2.8


@dataclass(frozen=True)
class CellSummary:
    """Readings of one cell so far.

    Attributes
    ----------
    n : int
        Readings that count.
    mean, sd : float
        Mean and standard deviation in the unit of the measurand (sd is 0 for one reading).
    half_width : float
        Half of the 90 % interval of the mean.
    enough : bool
        Whether the half-width meets the target with at least 3 readings, or 12 are taken.
    odd : tuple of int
        Positions of readings further than the repeatability limit from the median of the others.
    low, high : float
        Where the next reading should fall: the median give or take the repeatability limit.
    """

    n: int
    mean: float
    sd: float
    half_width: float
    enough: bool
    odd: tuple[int, ...]
    low: float
    high: float


def summarise(values: Sequence[float], repeatability: float) -> CellSummary | None:
    """Summarise the readings of a cell; None when there are none.

    Parameters
    ----------
    values : sequence of float
        Readings that count, in the order taken.
    repeatability : float
        Standard deviation of repeat readings of the meter, > 0. The target for the half-width
        is a third of the repeatability limit 2.8 s_r. The larger of this and the cell's own
        standard deviation sets the half-width, so that a lucky run of three is not believed.
    """
    if not values:
        return None
    y = np.asarray(values, dtype=float)
    n = y.size
    sd = float(y.std(ddof=1)) if n > 1 else 0.0
    limit = LIMIT_FACTOR * repeatability
    half = Z90 * max(sd, repeatability) / float(np.sqrt(n))
    odd = []
    if n >= LEAST:
        for i in range(n):
            if abs(float(y[i] - np.median(np.delete(y, i)))) > limit:
                odd.append(i)
    middle = float(np.median(y))
    enough = (n >= LEAST and half <= limit / 3.0 and not odd) or n >= MOST
    return CellSummary(
        n, float(y.mean()), sd, half, enough, tuple(odd), middle - limit, middle + limit
    )
