"""The outline of a panel: its edge, creases, recesses and what is kept free of cells."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.panel import MAX_PANEL_MM, CellRect, Taping

Point = tuple[float, float]
CREASE_MM = 15.0
"""Left free on either side of a crease or around a recess, where clear is thin: assumed."""
MOST_ZONES = 24


@dataclass(frozen=True)
class Shape:
    """A drawn outline in shares of a panel's width and height, from its upper left corner."""

    key: str
    label: str
    corners: tuple[Point, ...]
    creases: tuple[tuple[Point, ...], ...] = ()
    recesses: tuple[tuple[float, float, float, float], ...] = ()


def _arc(
    x: float, y: float, across: float, down: float, first: float, last: float, steps: int
) -> tuple[Point, ...]:
    """Return points of an ellipse about (x, y), from one angle to another in degrees."""
    angles = [math.radians(first + (last - first) * i / steps) for i in range(steps + 1)]
    return tuple((x + across * math.cos(a), y + down * math.sin(a)) for a in angles)


PLAIN = Shape("", "rectangle", ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)))
SHAPES: tuple[Shape, ...] = (
    PLAIN,
    Shape(
        "door",
        "door",
        (
            (0.02, 0.10),
            (0.28, 0.0),
            (1.0, 0.03),
            (0.985, 0.5),
            *_arc(0.91, 0.92, 0.06, 0.08, 0, 90, 5),
            *_arc(0.08, 0.92, 0.06, 0.08, 90, 180, 5),
            (0.0, 0.5),
        ),
        (((0.005, 0.36), (0.99, 0.30)),),
        ((0.82, 0.11, 0.12, 0.09),),
    ),
    Shape(
        "bonnet",
        "bonnet",
        ((0.0, 0.14), (0.45, 0.03), (1.0, 0.0), (1.0, 1.0), (0.08, 1.0), (0.0, 0.90)),
        (((0.22, 0.085), (0.36, 1.0)),),
    ),
    Shape(
        "wing",
        "wing",
        (
            (0.0, 0.24),
            (0.25, 0.06),
            (1.0, 0.0),
            (1.0, 0.94),
            (0.92, 1.0),
            *_arc(0.48, 1.0, 0.29, 0.44, 0, -180, 16),
            (0.04, 1.0),
            (0.0, 0.94),
        ),
        (((0.0, 0.42), (1.0, 0.24)),),
    ),
)
BY_SHAPE = {shape.key: shape for shape in SHAPES}


@dataclass(frozen=True)
class Zone:
    """A rectangle of the panel, mm."""

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float

    def __post_init__(self) -> None:
        for value in (self.x_mm, self.y_mm):
            if not -MAX_PANEL_MM <= value <= MAX_PANEL_MM:
                raise ValueRefused(f"A zone at {value:g} mm lies off any panel.")
        if not (0 < self.width_mm <= MAX_PANEL_MM and 0 < self.height_mm <= MAX_PANEL_MM):
            raise ValueRefused(
                f"A zone of {self.width_mm:g} by {self.height_mm:g} mm cannot be.",
                todo="Type left, top, width and height, like 120, 80, 60, 40.",
            )

    def holds(self, x: float, y: float) -> bool:
        """Tell whether a point lies in it."""
        return (
            self.x_mm <= x <= self.x_mm + self.width_mm
            and self.y_mm <= y <= self.y_mm + self.height_mm
        )


@dataclass(frozen=True)
class Outline:
    """Which shape a panel has, and what of it is kept free besides.

    Attributes
    ----------
    shape : str
        Key of a `Shape`; "" is the whole rectangle.
    keep_out : tuple of Zone
    """

    shape: str = ""
    keep_out: tuple[Zone, ...] = ()

    def __post_init__(self) -> None:
        if self.shape not in BY_SHAPE:
            raise ValueRefused(f"{self.shape[:40]!r} is no outline that Loam knows.")
        if len(self.keep_out) > MOST_ZONES:
            raise ValueRefused(f"{MOST_ZONES} zones to keep free are the most.")

    def corners(self, width_mm: float, height_mm: float) -> list[Point]:
        """Return the edge as a polygon, mm."""
        return _scaled(BY_SHAPE[self.shape].corners, width_mm, height_mm)

    def creases(self, width_mm: float, height_mm: float) -> list[list[Point]]:
        """Return the creases as lines, mm."""
        return [_scaled(c, width_mm, height_mm) for c in BY_SHAPE[self.shape].creases]

    def recesses(self, width_mm: float, height_mm: float) -> list[Zone]:
        """Return the recesses of the shape, mm."""
        return [
            Zone(x * width_mm, y * height_mm, w * width_mm, h * height_mm)
            for x, y, w, h in BY_SHAPE[self.shape].recesses
        ]

    def as_plain(self) -> dict[str, Any]:
        """Return what differs from a plain rectangle, by name."""
        found: dict[str, Any] = {"shape": self.shape} if self.shape else {}
        if self.keep_out:
            found["keep_out"] = [[z.x_mm, z.y_mm, z.width_mm, z.height_mm] for z in self.keep_out]
        return found

    @classmethod
    def from_plain(cls, value: object) -> Outline:
        """Build an outline from what `as_plain` gave.

        Raises
        ------
        ValueRefused
            When it is none.
        """
        if value in ([], {}):
            return cls()
        if not isinstance(value, Mapping) or not set(value) <= {"shape", "keep_out"}:
            raise ValueRefused("The outline of a panel holds something unknown.")
        shape, zones = value.get("shape", ""), value.get("keep_out", [])
        if not isinstance(shape, str) or not isinstance(zones, list):
            raise ValueRefused("The outline of a panel cannot be read.")
        return cls(shape, tuple(_zone(z) for z in zones[: MOST_ZONES + 1]))


def _zone(value: object) -> Zone:
    fits = isinstance(value, list) and len(value) == 4
    if not fits or not all(
        isinstance(v, int | float) and not isinstance(v, bool)
        for v in value  # type: ignore[attr-defined]
    ):
        raise ValueRefused("A zone of a panel is four numbers: left, top, width, height.")
    return Zone(*(float(v) for v in value))  # type: ignore[attr-defined]


def _scaled(points: Sequence[Point], width: float, height: float) -> list[Point]:
    return [(x * width, y * height) for x, y in points]


def open_cells(outline: Outline, taping: Taping) -> frozenset[tuple[int, int]]:
    """Return which cells of the grid can be worked: (row, column) each.

    A cell lies whole inside the edge, as far from it as the margin, off every crease and recess,
    and touches nothing that is kept free.
    """
    cells = taping.cells()
    if outline == Outline():
        return frozenset((c.row, c.column) for c in cells)
    width, height = taping.width_mm, taping.height_mm
    edge = outline.corners(width, height)
    creases = [part for line in outline.creases(width, height) for part in _parts(line)]
    recesses = outline.recesses(width, height)
    margin = taping.margin_mm
    found = set()
    for cell in cells:
        if not _inside(cell, edge, margin):
            continue
        if any(_distance(cell, a, b) < CREASE_MM for a, b in creases):
            continue
        if any(_overlap(cell, zone, CREASE_MM) for zone in recesses):
            continue
        if any(_overlap(cell, zone, 0.0) for zone in outline.keep_out):
            continue
        found.add((cell.row, cell.column))
    return frozenset(found)


def _inside(cell: CellRect, edge: list[Point], margin: float) -> bool:
    if not all(_holds(edge, x, y) for x, y in _corners(cell)):
        return False
    closed = [*edge, edge[0]]
    return all(_distance(cell, a, b) >= margin - 1e-9 for a, b in _parts(closed))


def _parts(line: Sequence[Point]) -> Iterator[tuple[Point, Point]]:
    return itertools.pairwise(line)


def _corners(cell: CellRect) -> list[Point]:
    right, bottom = cell.x_mm + cell.width_mm, cell.y_mm + cell.height_mm
    return [(cell.x_mm, cell.y_mm), (right, cell.y_mm), (right, bottom), (cell.x_mm, bottom)]


def _holds(edge: list[Point], x: float, y: float) -> bool:
    """Tell whether a polygon holds a point (even-odd rule)."""
    inside = False
    for (ax, ay), (bx, by) in _parts([*edge, edge[0]]):
        if (ay > y) != (by > y) and x < (bx - ax) * (y - ay) / (by - ay) + ax:
            inside = not inside
    return inside


def _overlap(cell: CellRect, zone: Zone, room: float) -> bool:
    return (
        cell.x_mm < zone.x_mm + zone.width_mm + room
        and zone.x_mm - room < cell.x_mm + cell.width_mm
        and cell.y_mm < zone.y_mm + zone.height_mm + room
        and zone.y_mm - room < cell.y_mm + cell.height_mm
    )


def _distance(cell: CellRect, a: Point, b: Point) -> float:
    """Return how far a stretch lies from a cell, mm; 0 where it touches or crosses it."""
    if _crosses(cell, a, b):
        return 0.0
    corners = _corners(cell)
    near = min(_to_stretch(p, a, b) for p in corners)
    return min(near, _to_cell(cell, a), _to_cell(cell, b))


def _to_cell(cell: CellRect, p: Point) -> float:
    x = max(cell.x_mm - p[0], 0.0, p[0] - cell.x_mm - cell.width_mm)
    y = max(cell.y_mm - p[1], 0.0, p[1] - cell.y_mm - cell.height_mm)
    return math.hypot(x, y)


def _to_stretch(p: Point, a: Point, b: Point) -> float:
    dx, dy = b[0] - a[0], b[1] - a[1]
    long = dx * dx + dy * dy
    t = ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / long if long else 0.0
    t = min(max(t, 0.0), 1.0)
    return math.hypot(p[0] - a[0] - t * dx, p[1] - a[1] - t * dy)


def _crosses(cell: CellRect, a: Point, b: Point) -> bool:
    """Tell whether a stretch enters a cell (clipping it by the cell's four sides)."""
    low, high = 0.0, 1.0
    for start, step, least, most in (
        (a[0], b[0] - a[0], cell.x_mm, cell.x_mm + cell.width_mm),
        (a[1], b[1] - a[1], cell.y_mm, cell.y_mm + cell.height_mm),
    ):
        if step == 0.0:
            if not least <= start <= most:
                return False
            continue
        near, far = sorted(((least - start) / step, (most - start) / step))
        low, high = max(low, near), min(high, far)
    return low <= high
