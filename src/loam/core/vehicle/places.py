"""Where the film of a panel is read: places as shares of its box as it is drawn, front to the left.

Five in the field (its middle, then towards its corners), then four at edges.
"""

from __future__ import annotations

from dataclasses import dataclass

from loam.core.vehicle.job import CarPart
from loam.core.vehicle.shapes import Outline, inside

TAKEN = 0.1
"""A place so near a spot that was read is read."""
EDGE_SHARE = 0.09
"""A place so near a side of the panel counts as an edge, until somebody says otherwise."""
_FIELD = ((0.5, 0.5), (0.2, 0.22), (0.8, 0.22), (0.8, 0.78), (0.2, 0.78))
_EDGES = ((0.5, 0.03), (0.97, 0.5), (0.5, 0.97), (0.03, 0.5))


@dataclass(frozen=True)
class Place:
    """A place on a panel: shares of its box, and whether it is an edge."""

    x: float
    y: float
    edge: bool = False


def turned(outline: Outline) -> tuple[tuple[float, float], ...]:
    """Return an outline (n, 2) as it is drawn, front to the left, in shares of its box."""
    xs, ys = [y for _, y in outline], [-x for x, _ in outline]
    wide, high = max(max(xs) - min(xs), 1e-9), max(max(ys) - min(ys), 1e-9)
    return tuple(((x - min(xs)) / wide, (y - min(ys)) / high) for x, y in zip(xs, ys, strict=True))


def near_edge(outline: Outline, x: float, y: float) -> bool:
    """Return whether a place lies at an edge: a step outwards along or across leaves the panel."""
    corners = turned(outline)
    steps = ((EDGE_SHARE, 0.0), (-EDGE_SHARE, 0.0), (0.0, EDGE_SHARE), (0.0, -EDGE_SHARE))
    return any(not inside(corners, x + dx, y + dy) for dx, dy in steps)


def usual_places(outline: Outline) -> tuple[Place, ...]:
    """Return where a panel is usually read; a corner that is cut off is read farther inside."""
    corners = turned(outline)
    middle = (0.5, 0.5)
    found = []
    for edge, places in ((False, _FIELD), (True, _EDGES)):
        for x, y in places:
            for _ in range(24):
                away = not edge and near_edge(outline, x, y)
                if inside(corners, x, y) and not away:
                    break
                x, y = x + 0.08 * (middle[0] - x), y + 0.08 * (middle[1] - y)
            found.append(Place(round(x, 3), round(y, 3), edge))
    return tuple(found)


def next_place(part: CarPart) -> Place:
    """Return where a panel is to be read next: the first usual place that was not; then the last.

    Spots without a place count for as many of the usual ones.
    """
    usual = usual_places(part.outline)
    open_ = [p for p in usual if not any(_near(p, s.x, s.y) for s in part.survey)]
    for edge in (False, True):
        unplaced = sum((s.x is None or s.y is None) and s.edge == edge for s in part.survey)
        own = [p for p in open_ if p.edge == edge][:unplaced]
        open_ = [p for p in open_ if p not in own]
    return open_[0] if open_ else usual[-1]


def _near(place: Place, x: float | None, y: float | None) -> bool:
    if x is None or y is None:
        return False
    return abs(x - place.x) < TAKEN and abs(y - place.y) < TAKEN
