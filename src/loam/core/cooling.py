"""How long a warm panel needs until it may be worked or read: Newton's law of cooling."""

from __future__ import annotations

import math
from collections.abc import Sequence

from loam.core.errors import ValueRefused

ROOM_C = 21.0
"""Assumed where nothing is said."""
SLOWNESS_S = 240.0
"""Time in which a painted sheet of steel loses all but a third of its warmth: assumed (0.8 mm of
steel, 2.9 kJ/m²K, losing 12 W/m²K from one side)."""
LIMIT_C = 40.0
"""Above it a panel is left to cool before the next cell: assumed, a setting."""
_LEAST_S, _MOST_S = 30.0, 3600.0
COLDEST_C, HOTTEST_C = -20.0, 150.0


def check_temperature(value: float, what: str = "panel") -> None:
    """Refuse what no thermometer shows on a panel that is worked.

    Raises
    ------
    ValueRefused
    """
    if not COLDEST_C <= value <= HOTTEST_C:  # a NaN is refused too
        raise ValueRefused(
            f"A {what} of {value:g} °C cannot be.", todo=f"{COLDEST_C:g} to {HOTTEST_C:g} °C."
        )


def slowness(readings: Sequence[tuple[float, float]], room_c: float = ROOM_C) -> float:
    """Return the time constant of cooling, s, from readings without work between them.

    Parameters
    ----------
    readings : sequence of (s, °C)
        In the order of time. With fewer than two that fall, what is assumed.
    """
    if len(readings) < 2:
        return SLOWNESS_S
    (start, warm), (end, cool) = readings[0], readings[-1]
    if end <= start or not room_c < cool < warm:
        return SLOWNESS_S
    tau = (end - start) / math.log((warm - room_c) / (cool - room_c))
    return min(max(tau, _LEAST_S), _MOST_S)


def wait_s(
    now_c: float, limit_c: float, room_c: float = ROOM_C, tau_s: float = SLOWNESS_S
) -> float:
    """Return how long to wait, s, until a panel has cooled to a limit; 0 when it has.

    With a limit at or below the room's warmth it never does: infinite.

    Examples
    --------
    >>> round(wait_s(50.0, 40.0, 20.0, 240.0))
    97
    """
    if now_c <= limit_c:
        return 0.0
    if limit_c <= room_c:
        return math.inf
    return tau_s * math.log((now_c - room_c) / (limit_c - room_c))
