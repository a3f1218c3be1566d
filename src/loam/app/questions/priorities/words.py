"""Who wins at a point of the map, how much of it each wins, and what a point is, in words."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from loam.app.questions.priorities.find import CORNERS, TIME
from loam.core.priorities import PriorityMap
from loam.core.stats.reduce import FloatArray
from loam.core.units import percent
from loam.core.words.verdict import listed


def point_words(found: PriorityMap, at: int) -> str:
    """Say who wins at a point, and how surely."""
    order = np.argsort(-found.chance[at])
    first = f"{found.names[order[0]]} wins here with {percent(float(found.chance[at, order[0]]))}"
    rest = [
        f"{found.names[k]} {percent(float(found.chance[at, k]))}"
        for k in order[1:3]
        if found.chance[at, k] >= 0.05
    ]
    return f"{first}, then {listed(rest)}." if rest else f"{first}."


def share_words(found: PriorityMap, time: float = 0.0, corners: Sequence[str] = CORNERS) -> str:
    """Say how much of all priorities each wins, and for whom it is right."""
    share = found.share()
    parts: list[str] = []
    for k in np.argsort(-share):
        if share[k] < 0.02:
            continue
        central = found.central(int(k))
        most = int(central.argmax())
        where = central[most] > 0.4
        if parts:
            said = f"{found.names[k]} {percent(float(share[k]))}"
            said += f" ({corners[most]})" if where else ""
        else:
            said = f"{found.names[k]} wins {percent(float(share[k]))} of all priorities"
            said += f" in which time has {percent(time)}" if time else ""
            said += f", above all where {corners[most]} matters" if where else ""
        parts.append(said)
    return "; ".join(parts) + "."


def weight_words(weights: FloatArray, time: float = 0.0, corners: Sequence[str] = CORNERS) -> str:
    """Say a point."""
    said = ", ".join(
        f"{name} {percent(float((1.0 - time) * w))}"
        for name, w in zip(corners, weights, strict=True)
    )
    if time:
        said += f", {TIME} {percent(time)}"
    return said[0].upper() + said[1:]
