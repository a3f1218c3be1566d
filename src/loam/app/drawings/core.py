"""Where the layers of a film lie in a drawing of it, from the top of the clear down."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

LEAST = 52.0
"""Pixels that a layer is given at least, so that its figure finds room beside it."""


@dataclass(frozen=True)
class Band:
    """A layer in the drawing: its name, upper edge, height, and pixels a µm."""

    name: str
    top: float
    height: float
    scale: float

    @property
    def bottom(self) -> float:
        """The lower edge."""
        return self.top + self.height


def bands(layers: Sequence[tuple[str, float]], top: float, height: float) -> list[Band]:
    """Share a height out among layers by their thickness; none gets less than its figure needs.

    Parameters
    ----------
    layers : sequence of (name, thickness)
        From the top down.
    """
    if not layers:
        return []
    least = min(LEAST, height / len(layers))
    thin: set[int] = set()
    while True:
        rest = [t for i, (_, t) in enumerate(layers) if i not in thin]
        room = height - least * len(thin)
        whole = sum(rest)
        scale = room / whole if whole > 0 else 0.0
        more = {i for i, (_, t) in enumerate(layers) if i not in thin and t * scale < least}
        if not more or len(thin) == len(layers):
            break
        thin |= more
    found = []
    y = top
    for i, (name, thickness) in enumerate(layers):
        high = least if i in thin else thickness * scale
        found.append(Band(name, y, high, high / thickness if thickness > 0 else 0.0))
        y += high
    return found


def border_at(found: Sequence[Band], y: float, reach: float = 7.0) -> Band | None:
    """Return the layer whose upper border lies at a height: the one that a drag there changes."""
    return next((b for b in found if abs(b.top - y) <= reach), None)


def dragged(band: Band, by: float, thickness: float) -> float:
    """Return the thickness of a layer whose upper border was moved down by some pixels."""
    return max(0.0, thickness - by / band.scale) if band.scale > 0 else thickness
