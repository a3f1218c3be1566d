"""Where the columns, rows and figures of a ranking lie, and what lies at a point."""

from __future__ import annotations

from dataclasses import dataclass, field

from loam.app.drawings.rect import Rect
from loam.app.presenters.judging import Column, RankingPicture

GAP, HEAD, FOOT = 12.0, 40.0, 40.0
MOST_PITCH, EDGE, INSET = 112.0, 14.0, 16.0
Key = tuple[str, str]


@dataclass(frozen=True)
class ColumnPlace:
    """One hardness class: its sheet, its plot, and the scale of its axis.

    Attributes
    ----------
    pitch : float
        Height of a row.
    low, scale : float
        Value at the plot's left edge, and pixels a unit.
    """

    column: Column
    sheet: Rect
    plot: Rect
    pitch: float
    low: float
    scale: float

    def x(self, value: float) -> float:
        """Return where a value lies."""
        return self.plot.x + (value - self.low) * self.scale

    def row(self, at: int) -> Rect:
        """Return where a row lies, counted from 0."""
        top = self.plot.y + at * self.pitch
        return Rect(self.sheet.x + EDGE, top, self.sheet.width - EDGE - 6, self.pitch)

    def figure(self, at: int) -> Rect:
        """Return where the bar and the figure of a row lie."""
        row, place = self.column.rows[at], self.row(at)
        left, right = self.x(row.low) - 24, self.x(row.high) + 24
        return Rect(left, place.y, right - left, place.height)


def columns(area: Rect, picture: RankingPicture) -> list[tuple[Column, Rect, float]]:
    """Return each hardness class with its sheet and the height of its rows."""
    count = max(len(picture.columns), 1)
    width = (area.width - GAP * (count - 1)) / count
    lines = max((len(c.rows) + len(c.untested) for c in picture.columns), default=1)
    pitch = min(MOST_PITCH, (area.height - HEAD - FOOT) / max(lines, 1))
    return [
        (column, Rect(area.x + i * (width + GAP), area.y, width, area.height), pitch)
        for i, column in enumerate(picture.columns)
    ]


def place_column(
    column: Column, sheet: Rect, pitch: float, names: float, picture: RankingPicture
) -> ColumnPlace:
    """Place a column's plot; ``names`` is the room that codes and marks take at its left."""
    left = sheet.x + 20 + names + INSET
    width = max(sheet.right - INSET - left, 10.0)
    plot = Rect(left, sheet.y + HEAD, width, sheet.height - HEAD - FOOT)
    low, high, _ = picture.axis
    return ColumnPlace(column, sheet, plot, pitch, low, width / max(high - low, 1e-9))


@dataclass
class RankingPlaces:
    """Where the rows and their figures came to lie, by hardness and combination."""

    rows: dict[Key, Rect] = field(default_factory=dict)
    figures: dict[Key, Rect] = field(default_factory=dict)

    def add(self, place: ColumnPlace) -> None:
        """Note the rows of a column."""
        for i, row in enumerate(place.column.rows):
            key = (place.column.hardness, row.combination)
            self.rows[key], self.figures[key] = place.row(i), place.figure(i)

    def at(self, x: float, y: float) -> Key | None:
        """Return the row at a point."""
        return next((key for key, box in self.rows.items() if box.holds(x, y)), None)

    def figure_at(self, x: float, y: float) -> Key | None:
        """Return the row whose figure lies at a point."""
        return next((key for key, box in self.figures.items() if box.holds(x, y)), None)
