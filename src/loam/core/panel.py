"""Geometry of a taped panel: where each cell lies, in millimetres."""

from __future__ import annotations

import re
from dataclasses import dataclass

from loam.core.errors import ValueRefused

ROW_LETTERS = "KLMNPQRSTUVWXYZ"
MIN_CELL_MM = 20.0
MAX_PANEL_MM = 5000.0
MOST_ACROSS = 60
_CODE = re.compile(rf"(([{ROW_LETTERS}])\2{{0,5}})([1-9][0-9]?)")


def cell_code(row: int, column: int) -> str:
    """Name a cell: rows from K on, so that no cell is called like a combination.

    Parameters
    ----------
    row, column : int
        Counted from 0.

    Examples
    --------
    >>> cell_code(0, 0), cell_code(2, 4), cell_code(15, 0)
    ('K1', 'M5', 'KK1')
    """
    turn, letter = divmod(row, len(ROW_LETTERS))
    return ROW_LETTERS[letter] * (turn + 1) + str(column + 1)


def cell_place(code: str) -> tuple[int, int] | None:
    """Return row and column, from 0, of a cell's name; None when it is no such name.

    Examples
    --------
    >>> cell_place("K1"), cell_place("m5"), cell_place("KK1"), cell_place("A1"), cell_place("K0")
    ((0, 0), (2, 4), (15, 0), None, None)
    """
    found = _CODE.fullmatch(code.strip().upper())
    if found is None:
        return None
    letters, number = found.group(1), int(found.group(3))
    row = ROW_LETTERS.index(letters[0]) + len(ROW_LETTERS) * (len(letters) - 1)
    return (row, number - 1) if row < MOST_ACROSS and 1 <= number <= MOST_ACROSS else None


@dataclass(frozen=True)
class CellRect:
    """One cell on the panel: its place in the grid and its rectangle in mm."""

    row: int
    column: int
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float

    @property
    def code(self) -> str:
        """The cell's name on the tape."""
        return cell_code(self.row, self.column)


@dataclass(frozen=True)
class Taping:
    """A panel and how it is taped into a grid of equal cells.

    Parameters
    ----------
    width_mm, height_mm : float
        Size of the panel.
    rows, columns : int
        Cells down and across.
    gap_mm : float
        Width of the tape between cells.
    margin_mm : float
        Left free along every edge, where clear is thin.

    Raises
    ------
    ValueRefused
        When the cells would be smaller than 20 mm or a figure makes no sense.
    """

    width_mm: float
    height_mm: float
    rows: int
    columns: int
    gap_mm: float
    margin_mm: float

    def __post_init__(self) -> None:
        for name, value in (("width", self.width_mm), ("height", self.height_mm)):
            if not 0 < value <= MAX_PANEL_MM:
                raise ValueRefused(
                    f"A panel's {name} of {value:g} mm cannot be.",
                    todo=f"It lies above 0 and up to {MAX_PANEL_MM:g} mm.",
                )
        if not (1 <= self.rows <= MOST_ACROSS and 1 <= self.columns <= MOST_ACROSS):
            raise ValueRefused("A panel has 1 to 60 rows and 1 to 60 columns of cells.")
        if self.gap_mm < 0 or self.margin_mm < 0:
            raise ValueRefused("Tape gap and margin are 0 mm or more.")
        if self.cell_width_mm < MIN_CELL_MM or self.cell_height_mm < MIN_CELL_MM:
            raise ValueRefused(
                f"The cells would be {max(0.0, self.cell_width_mm):.0f} by "
                f"{max(0.0, self.cell_height_mm):.0f} mm.",
                todo=f"Use fewer rows or columns, or less tape: {MIN_CELL_MM:.0f} mm is the least.",
            )

    @property
    def cell_width_mm(self) -> float:
        """Width of a cell."""
        free = self.width_mm - 2 * self.margin_mm - (self.columns - 1) * self.gap_mm
        return free / self.columns

    @property
    def cell_height_mm(self) -> float:
        """Height of a cell."""
        free = self.height_mm - 2 * self.margin_mm - (self.rows - 1) * self.gap_mm
        return free / self.rows

    def cells(self) -> tuple[CellRect, ...]:
        """Return every cell, row by row."""
        w, h = self.cell_width_mm, self.cell_height_mm
        return tuple(
            CellRect(
                row,
                column,
                self.margin_mm + column * (w + self.gap_mm),
                self.margin_mm + row * (h + self.gap_mm),
                w,
                h,
            )
            for row in range(self.rows)
            for column in range(self.columns)
        )
