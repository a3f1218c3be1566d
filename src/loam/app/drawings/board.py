"""Where things stand on the boards of a shelf."""

from __future__ import annotations

from dataclasses import dataclass

from loam.app.drawings.rect import Rect


@dataclass(frozen=True)
class Boards:
    """Places on boards, row by row.

    Attributes
    ----------
    across : int
        How many stand on one board.
    places : tuple of Rect
    height : float
        Of all boards together.
    """

    across: int
    places: tuple[Rect, ...]
    height: float

    def at(self, x: float, y: float) -> int | None:
        """Return the number of the thing at a point, from 0; None between them."""
        return next((i for i, place in enumerate(self.places) if place.holds(x, y)), None)

    def beside(self, number: int, across: int, down: int) -> int:
        """Return the thing beside one; at an end it stays."""
        count = len(self.places)
        if not count:
            return 0
        goal = number + across + down * self.across
        if down > 0 and goal >= count > (number // self.across + 1) * self.across:
            goal = count - 1
        return goal if 0 <= goal < count else number


def stand(count: int, width: float, least: float, height: float) -> Boards:
    """Share a width out among things at least so wide, on as many boards as they need.

    Parameters
    ----------
    count : int
        How many things.
    width : float
        Of a board.
    least, height : float
        Of one thing.
    """
    across = max(1, int(width // least))
    share = min(width / across, 1.5 * least) if count < across else width / across
    places = tuple(
        Rect((i % across) * share, (i // across) * height, share, height) for i in range(count)
    )
    return Boards(across, places, height * -(-count // across))
