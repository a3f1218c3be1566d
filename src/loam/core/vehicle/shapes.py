"""Vehicles unfolded flat, front up: outlines of their panels, mm; made by us, of no model.

Side panels lie beside the roof, sill outwards. A part of glass is drawn and never worked.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from loam.core.film.build import PLASTIC, STEEL

GAP_MM = 70.0
Outline = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Part:
    """A panel of a vehicle as it usually is.

    Attributes
    ----------
    key : str
        What names it in files: "bonnet", "left wing".
    label : str
        What it is called where it stands: "wing".
    outline : tuple of (x, y)
        mm from the upper left corner of the drawing.
    substrate : str
    turn : int
        Its usual turn in the order of work, from 1; 0 for glass.
    """

    key: str
    label: str
    outline: Outline
    substrate: str = STEEL
    turn: int = 0

    @property
    def glass(self) -> bool:
        """Whether it is glass: drawn, never worked."""
        return self.turn == 0

    @property
    def area_m2(self) -> float:
        """Area of its outline, m²."""
        return abs(area_mm2(self.outline)) / 1e6


@dataclass(frozen=True)
class Shape:
    """A sort of vehicle: its key, its name, and its parts."""

    key: str
    label: str
    parts: tuple[Part, ...]

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height of the drawing."""
        return (
            max(x for p in self.parts for x, _ in p.outline),
            max(y for p in self.parts for _, y in p.outline),
        )

    def part(self, key: str) -> Part | None:
        """Return a part by its key."""
        return next((p for p in self.parts if p.key == key), None)


def area_mm2(outline: Sequence[tuple[float, float]]) -> float:
    """Return the signed area of a polygon (n, 2), mm²."""
    return 0.5 * sum(
        x * v - u * y for (x, y), (u, v) in zip(outline, (*outline[1:], outline[0]), strict=True)
    )


@dataclass(frozen=True)
class _Middle:
    """A part of the middle row: its width at its front and back, and its length, mm."""

    key: str
    front: float
    back: float
    long: float
    substrate: str = STEEL
    glass: bool = False


@dataclass(frozen=True)
class _Side:
    """A part of a side: its height, its length, and how much its corner is cut, mm."""

    key: str
    high: float
    long: float
    cut_front: float = 0.0
    cut_back: float = 0.0


def _unfold(key: str, label: str, middle: Sequence[_Middle], side: Sequence[_Side]) -> Shape:
    """Lay a vehicle out flat: its middle row front up, its sides to the left and right of it."""
    high = max(s.high for s in side)
    wide = max(max(m.front, m.back) for m in middle)
    left = high + GAP_MM
    centre = left + wide / 2
    parts: list[Part] = []
    turns = _turns([m.key for m in middle if not m.glass], [s.key for s in side])
    y = 0.0
    first = 0.0
    for m in middle:
        outline = (
            (centre - m.front / 2, y),
            (centre + m.front / 2, y),
            (centre + m.back / 2, y + m.long),
            (centre - m.back / 2, y + m.long),
        )
        turn = 0 if m.glass else turns[m.key]
        parts.append(Part(m.key, m.key, outline, m.substrate, turn))
        y += m.long + GAP_MM / 2
        if m.key == "front bumper":
            first = y
    whole = sum(s.long for s in side) + (len(side) - 1) * GAP_MM / 2
    y = first + max(0.0, (y - first - whole) / 2 - GAP_MM)
    right = left + wide + GAP_MM
    for s in side:
        inner, outer = left - GAP_MM, left - GAP_MM - s.high
        corners: Outline = (
            (outer, y + s.cut_front * 0.3),
            (inner - s.cut_front, y),
            (inner, y + s.cut_front),
            (inner, y + s.long - s.cut_back),
            (inner - s.cut_back, y + s.long),
            (outer, y + s.long - s.cut_back * 0.3),
        )
        mirrored = tuple((right + (inner - x), v) for x, v in reversed(corners))
        for hand, points in (("left", corners), ("right", mirrored)):
            name = f"{hand} {s.key}"
            parts.append(Part(name, s.key, points, STEEL, turns[name]))
        y += s.long + GAP_MM / 2
    return Shape(key, label, tuple(parts))


def _turns(middle: Sequence[str], side: Sequence[str]) -> dict[str, int]:
    """Return the order of work: the roof first, then from the top down, bumpers last."""
    tops = [k for k in middle if k == "roof"] + [
        k for k in middle if k != "roof" and "bumper" not in k
    ]
    sides = [f"{hand} {k}" for hand in ("left", "right") for k in side]
    bumpers = [k for k in middle if "bumper" in k]
    return {k: i for i, k in enumerate([*tops, *sides, *bumpers], 1)}


def _bumper(which: str, wide: float) -> _Middle:
    ends = (wide - 160.0, wide) if which == "front" else (wide, wide - 160.0)
    return _Middle(f"{which} bumper", *ends, 260.0, PLASTIC)


def _motorcycle() -> Shape:
    """A tank, two halves of a fairing, a mudguard and a tail, side by side."""
    laid = (
        ("fairing left", ((0, 300), (380, 180), (430, 620), (120, 780)), PLASTIC),
        ("tank left", ((520, 320), (740, 260), (740, 660), (560, 620)), STEEL),
        ("tank right", ((790, 260), (1010, 320), (970, 620), (790, 660)), STEEL),
        ("fairing right", ((1150, 180), (1530, 300), (1410, 780), (1100, 620)), PLASTIC),
        ("front mudguard", ((640, 0), (890, 0), (860, 190), (670, 190)), PLASTIC),
        ("tail", ((660, 740), (870, 740), (820, 1010), (710, 1010)), PLASTIC),
    )
    order = ("tank left", "tank right", "fairing left", "fairing right", "front mudguard", "tail")
    return Shape(
        "motorcycle",
        "motorcycle",
        tuple(
            Part(
                key, key, tuple((float(x), float(y)) for x, y in points), made, order.index(key) + 1
            )
            for key, points, made in laid
        ),
    )


SHAPES: tuple[Shape, ...] = (
    _unfold(
        "small car",
        "small car",
        (
            _bumper("front", 1450),
            _Middle("bonnet", 1320, 1440, 860),
            _Middle("windscreen", 1280, 1180, 330, glass=True),
            _Middle("roof", 1180, 1160, 1350),
            _Middle("rear window", 1160, 1220, 250, glass=True),
            _Middle("tailgate", 1300, 1340, 520),
            _bumper("rear", 1450),
        ),
        (
            _Side("wing", 640, 760, 210),
            _Side("door", 720, 1250),
            _Side("quarter", 700, 1000, 0, 190),
        ),
    ),
    _unfold(
        "saloon",
        "saloon",
        (
            _bumper("front", 1500),
            _Middle("bonnet", 1380, 1500, 1150),
            _Middle("windscreen", 1330, 1200, 360, glass=True),
            _Middle("roof", 1200, 1180, 1250),
            _Middle("rear window", 1180, 1300, 340, glass=True),
            _Middle("boot lid", 1340, 1320, 650),
            _bumper("rear", 1500),
        ),
        (
            _Side("wing", 650, 900, 220),
            _Side("front door", 720, 1080),
            _Side("rear door", 720, 980),
            _Side("quarter", 680, 950, 0, 220),
        ),
    ),
    _unfold(
        "estate",
        "estate",
        (
            _bumper("front", 1500),
            _Middle("bonnet", 1380, 1500, 1080),
            _Middle("windscreen", 1330, 1200, 360, glass=True),
            _Middle("roof", 1200, 1160, 2050),
            _Middle("rear window", 1140, 1200, 300, glass=True),
            _Middle("tailgate", 1260, 1320, 560),
            _bumper("rear", 1500),
        ),
        (
            _Side("wing", 650, 880, 220),
            _Side("front door", 720, 1080),
            _Side("rear door", 720, 980),
            _Side("quarter", 720, 1250, 0, 160),
        ),
    ),
    _unfold(
        "van",
        "van",
        (
            _bumper("front", 1750),
            _Middle("bonnet", 1560, 1720, 620),
            _Middle("windscreen", 1560, 1480, 420, glass=True),
            _Middle("roof", 1500, 1500, 2900),
            _Middle("rear doors", 1560, 1640, 1250),
            _bumper("rear", 1750),
        ),
        (
            _Side("wing", 760, 640, 230),
            _Side("front door", 820, 1080),
            _Side("side panel", 1180, 1350),
            _Side("quarter", 1180, 1400, 0, 120),
        ),
    ),
    _unfold(
        "minibus",
        "minibus",
        (
            _bumper("front", 1750),
            _Middle("bonnet", 1560, 1720, 820),
            _Middle("windscreen", 1560, 1480, 340, glass=True),
            _Middle("roof", 1500, 1500, 2300),
            _Middle("rear window", 1460, 1520, 340, glass=True),
            _Middle("tailgate", 1560, 1640, 620),
            _bumper("rear", 1750),
        ),
        (
            _Side("wing", 720, 820, 260),
            _Side("front door", 800, 1080),
            _Side("sliding door", 800, 1180),
            _Side("quarter", 780, 1250, 0, 200),
        ),
    ),
    _unfold(
        "pick-up",
        "pick-up",
        (
            _bumper("front", 1650),
            _Middle("bonnet", 1500, 1640, 1050),
            _Middle("windscreen", 1460, 1340, 340, glass=True),
            _Middle("roof", 1340, 1320, 950),
            _Middle("rear window", 1320, 1360, 250, glass=True),
            _Middle("tailgate", 1480, 1480, 520),
            _bumper("rear", 1650),
        ),
        (
            _Side("wing", 720, 860, 230),
            _Side("front door", 780, 1000),
            _Side("rear door", 780, 850),
            _Side("bed side", 640, 1500, 0, 120),
        ),
    ),
    _motorcycle(),
)
BY_KEY: dict[str, Shape] = {s.key: s for s in SHAPES}


def length_mm(outline: Sequence[tuple[float, float]]) -> float:
    """Return how long a polygon (n, 2) is around, mm."""
    return sum(
        math.dist(here, there)
        for here, there in zip(outline, (*outline[1:], outline[0]), strict=True)
    )


def inside(outline: Sequence[tuple[float, float]], x: float, y: float) -> bool:
    """Tell whether a point, mm, lies inside a polygon."""
    found = False
    for (a, b), (c, d) in zip(outline, (*outline[1:], outline[0]), strict=True):
        if (b > y) != (d > y) and x < (c - a) * (y - b) / (d - b) + a:
            found = not found
    return found


def box_of(outline: Sequence[tuple[float, float]]) -> tuple[float, float, float, float]:
    """Return the least rectangle around a polygon: left, top, width, height, mm."""
    xs, ys = [x for x, _ in outline], [y for _, y in outline]
    return min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)


__all__ = ["BY_KEY", "SHAPES", "Part", "Shape", "area_mm2", "box_of", "inside", "length_mm"]
