"""A rectangle in the pixels of a drawing."""

from __future__ import annotations

from typing import NamedTuple


class Rect(NamedTuple):
    """Left, top, width and height."""

    x: float
    y: float
    width: float
    height: float

    @property
    def right(self) -> float:
        """The right edge."""
        return self.x + self.width

    @property
    def bottom(self) -> float:
        """The lower edge."""
        return self.y + self.height

    @property
    def middle(self) -> tuple[float, float]:
        """The point in the middle."""
        return self.x + self.width / 2, self.y + self.height / 2

    def holds(self, x: float, y: float) -> bool:
        """Tell whether a point lies inside, its left and upper edge counted in."""
        return self.x <= x < self.right and self.y <= y < self.bottom
