"""Small drawings side by side: how many across, how large, which page of them."""

from __future__ import annotations

from dataclasses import dataclass

from loam.app.drawings.rect import Rect

GAP, LEAST = 14.0, 72.0


@dataclass(frozen=True)
class Tiles:
    """Places for the things of one page.

    Attributes
    ----------
    boxes : tuple of Rect
    first : int
        Number of the first thing shown, from 0.
    count : int
        How many there are in all.
    """

    boxes: tuple[Rect, ...]
    first: int
    count: int

    def at(self, x: float, y: float) -> int | None:
        """Return the number of the thing at a point."""
        for i, box in enumerate(self.boxes):
            if box.holds(x, y):
                return self.first + i
        return None


def tile(
    width: float, height: float, count: int, aspect: float, first: int = 0, most: int = 1000
) -> Tiles:
    """Lay things of an aspect (width over height) out as large as they can be.

    When not all can be at least `LEAST` wide, or they are more than ``most``, a page of them is
    laid out that holds ``first``.
    """
    if count < 1 or width < LEAST or height < LEAST / aspect:
        return Tiles((), 0, count)
    wide, across, down = max(
        (_wide(width, height, n, -(-min(count, most) // n), aspect), n, -(-min(count, most) // n))
        for n in range(1, min(count, most) + 1)
    )
    if wide < LEAST:
        across = max(1, int((width + GAP) // (LEAST + GAP)))
        down = max(1, int((height + GAP) // (LEAST / aspect + GAP)))
        wide = _wide(width, height, across, down, aspect)
    page = min(across * down, most)
    start = min(max(first, 0), count - 1) // page * page
    shown = min(page, count - start)
    return Tiles(
        tuple(
            Rect(
                (i % across) * (wide + GAP),
                (i // across) * (wide / aspect + GAP),
                wide,
                wide / aspect,
            )
            for i in range(shown)
        ),
        start,
        count,
    )


def _wide(width: float, height: float, across: int, down: int, aspect: float) -> float:
    return min(
        (width - GAP * (across - 1)) / across, (height - GAP * (down - 1)) / down * aspect, 260.0
    )
