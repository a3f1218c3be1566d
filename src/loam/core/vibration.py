"""Hand-arm vibration of a day, from the time that machines run (2002/44/EC; ISO 5349-1).

A declared value is measured on a test bench and can be low for real work: it is used with its K.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

ACTION, LIMIT = 2.5, 5.0
"""Daily exposure action value and limit value, m/s²."""
DAY_H = 8.0
USUAL: dict[str, float] = {"free-orbital": 8.0, "forced-orbital": 7.0, "rotary": 4.0}
"""What machines that move so usually declare, with their K, m/s²: assumed until theirs is known."""
USUAL_OTHER = 8.0


def daily_exposure(parts: Iterable[tuple[float, float]]) -> float:
    """Return A(8), m/s²: the day's vibration over a day of eight hours.

    Parameters
    ----------
    parts : iterable of (float, float)
        Vibration total value in m/s², and trigger time in hours, of each machine.

    Examples
    --------
    >>> round(daily_exposure([(4.0, 2.5), (2.5, 1.0)]), 2)
    2.4
    """
    return math.sqrt(math.fsum(a * a * hours for a, hours in parts) / DAY_H)


def points(parts: Iterable[tuple[float, float]]) -> float:
    """Return exposure points, which add up: 100 is the action value, 400 the limit."""
    return 2.0 * math.fsum(a * a * hours for a, hours in parts)
