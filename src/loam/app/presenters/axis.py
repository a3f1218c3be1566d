"""Round axes, on a plain scale and on one that is bent."""

from __future__ import annotations

import math

import numpy as np

from loam.core.scale import Scale

_BENT = {
    "logit": (0, 1, 2, 5, 10, 20, 30, 40, 50, 60, 70, 80, 85, 90, 95, 98, 99, 100),
    "log1p": (
        0,
        1,
        2,
        3,
        5,
        7,
        10,
        12,
        15,
        20,
        25,
        30,
        40,
        50,
        60,
        80,
        100,
        120,
        150,
        200,
        300,
        400,
        500,
        700,
        1000,
        1500,
        2000,
    ),
}


def ticks(low: float, high: float, most: int = 5) -> tuple[float, float, float]:
    """Return a round axis (low, high, step) that covers a range with at most ``most`` steps."""
    span = max(high - low, 1e-9)
    raw = span / most
    base = 10.0 ** math.floor(math.log10(raw))
    step = next(m * base for m in (1.0, 2.0, 2.5, 5.0, 10.0) if m * base >= raw - 1e-12)
    return math.floor(low / step + 1e-9) * step, math.ceil(high / step - 1e-9) * step, step


def marks_of(scale: Scale, low: float, high: float, most: int = 8) -> list[float]:
    """Return round measured values between two places of a scale, not closer than it takes.

    Parameters
    ----------
    low, high : float
        Places on the scale.
    most : int
        About how many there is room for.
    """
    ends = [float(v) for v in scale.back(np.array([low, high]))]
    if scale.name == "identity":
        for steps in range(most, 2 * most + 2):
            start, stop, step = ticks(ends[0], ends[1], steps)
            count = round((stop - start) / step)
            found = [start + i * step for i in range(count + 1)]
            found = [v for v in found if ends[0] - 1e-9 * step <= v <= ends[1] + 1e-9 * step]
            if len(found) > 1:  # one mark shows no scale
                break
        return found
    inside = [float(v) for v in _BENT[scale.name] if ends[0] <= v <= ends[1]]
    if len(inside) < 3:
        start, stop, step = ticks(ends[0], ends[1], 4)
        count = round((stop - start) / step)
        inside = [start + i * step for i in range(count + 1)]
        inside = [v for v in inside if ends[0] <= v <= ends[1]]
    room = (high - low) / most
    kept: list[float] = []
    at = -math.inf
    for value in reversed(inside):
        place = float(scale.to(np.array([value]))[0])
        if abs(place - at) >= room or not kept:
            kept.append(value)
            at = place
    return kept[::-1]
