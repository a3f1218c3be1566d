"""The running mean of one cell: is it enough, and does a reading stand out?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

LEAST, MOST = 3, 12
Z90 = 1.6448536269514722
LIMIT_FACTOR = 2.8
PRIOR_DF = 10.0
"""What the meter's known repeatability weighs against the cell's own spread, in readings."""
_CHI2_95 = (3.841, 5.991, 7.815, 9.488, 11.070, 12.592, 14.067, 15.507, 16.919, 18.307, 19.675)
"""Upper 5 % points of chi-square for 1 to 11 degrees of freedom (any table)."""


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
    scatters : bool
        Whether the readings scatter more than the meter does (chi-square test at 5 %).
    next_half : float
        Half of the 90 % interval that one more reading of the same spread would leave.
    """

    n: int
    mean: float
    sd: float
    half_width: float
    enough: bool
    odd: tuple[int, ...]
    low: float
    high: float
    scatters: bool = False
    next_half: float = 0.0


def summarise(values: Sequence[float], repeatability: float) -> CellSummary | None:
    """Summarise the readings of a cell; None when there are none.

    Parameters
    ----------
    values : sequence of float
        Readings that count, in the order taken.
    repeatability : float
        Standard deviation of repeat readings of the meter, s_r > 0. The target for the
        half-width is a third of the repeatability limit 2.8 s_r. The half-width rests on the
        cell's own spread pooled with s_r, which weighs as much as ten readings: three that agree
        are enough, and a lucky run of three is not believed to be exact.
    """
    if not values:
        return None
    y = np.asarray(values, dtype=float)
    n = y.size
    sd = float(y.std(ddof=1)) if n > 1 else 0.0
    limit = LIMIT_FACTOR * repeatability
    pooled = float(np.sqrt((PRIOR_DF * repeatability**2 + (n - 1) * sd**2) / (PRIOR_DF + n - 1)))
    half = Z90 * pooled / float(np.sqrt(n))
    last = len(_CHI2_95)
    scatters = 1 < n <= last + 1 and (n - 1) * (sd / repeatability) ** 2 > _CHI2_95[n - 2]
    odd = []
    if n >= LEAST:
        for i in range(n):
            if abs(float(y[i] - np.median(np.delete(y, i)))) > limit:
                odd.append(i)
    middle = float(np.median(y))
    enough = (n >= LEAST and half <= limit / 3.0 and not odd) or n >= MOST
    return CellSummary(
        n,
        float(y.mean()),
        sd,
        half,
        enough,
        tuple(odd),
        middle - limit,
        middle + limit,
        scatters,
        Z90 * pooled / float(np.sqrt(n + 1)),
    )
