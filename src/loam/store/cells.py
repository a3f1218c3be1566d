"""Cells of a trial: what each got, in which order, and its readings before work."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from typing import NamedTuple

from loam.core.text import plain
from loam.core.trial import MAX_CELL_NAME, Cell
from loam.store.one_row import rows_at_once
from loam.store.panels import ON_GRID, hidden


def cells(
    db: sqlite3.Connection,
    trial_id: int,
    *,
    baselines: bool = True,
    of: Iterable[int] | None = None,
) -> list[Cell]:
    """Return a trial's cells, panel by panel, row by row.

    Parameters
    ----------
    baselines : bool
        Whether to fetch the readings before work too; a view that only draws the cells does not
        need them, and they come row by row, so that every bit is kept.
    of : iterable of int, optional
        Only the cells of these combinations.
    """
    wanted = None if of is None else list(of)
    only = "" if wanted is None else f" AND c.combination_id IN ({','.join('?' * len(wanted))})"
    before: dict[int, dict[str, float]] = {}
    if baselines:
        for cell_id, measurand, value in db.execute(
            "SELECT b.cell_id, b.measurand, b.value FROM baseline b"
            " JOIN cell c ON c.id = b.cell_id JOIN taping t ON t.id = c.taping_id"
            f" WHERE t.trial_id=?{only}",
            (trial_id, *(wanted or ())),
        ):
            before.setdefault(cell_id, {})[measurand] = value
    unseen = hidden(db, trial_id)
    rows = rows_at_once(
        db,
        ("id", "taping_id", "row", "col", "combination_id", "run_order", "name"),
        'SELECT c.id, c.taping_id, c.row, c."column" AS col, c.combination_id, c.run_order, c.name'
        " FROM cell c JOIN taping t ON t.id = c.taping_id"
        f" WHERE t.trial_id=? AND t.put_away=0 AND c.put_away=0{only}{unseen}{ON_GRID}"
        ' ORDER BY c.taping_id, c.row, c."column"',
        (trial_id, *(wanted or ())),
    )
    return [
        Cell(r[0], r[1], r[2], r[3], r[4], r[5], before.get(r[0], {}), _name(r[6])) for r in rows
    ]


class Place(NamedTuple):
    """A cell in short: its id, its panel and what it got."""

    id: int
    panel_id: int
    combination_id: int | None


def places(db: sqlite3.Connection, trial_id: int) -> list[Place]:
    """Return a trial's cells in short, panel by panel, row by row."""
    rows = rows_at_once(
        db,
        ("id", "taping_id", "combination_id"),
        "SELECT c.id, c.taping_id, c.combination_id FROM cell c JOIN taping t ON t.id = c.taping_id"
        f" WHERE t.trial_id=? AND t.put_away=0 AND c.put_away=0{hidden(db, trial_id)}{ON_GRID}"
        ' ORDER BY c.taping_id, c.row, c."column"',
        (trial_id,),
    )
    return list(map(Place._make, rows))


def grid(db: sqlite3.Connection, trial_id: int) -> list[tuple[int, int, int, int]]:
    """Return (id, panel, row, column) of each cell of a trial that has a combination."""
    rows = rows_at_once(
        db,
        ("id", "taping_id", "row", "col"),
        'SELECT c.id, c.taping_id, c.row, c."column" AS col FROM cell c'
        " JOIN taping t ON t.id = c.taping_id WHERE t.trial_id=? AND t.put_away=0"
        f" AND c.put_away=0 AND c.combination_id IS NOT NULL{hidden(db, trial_id)}{ON_GRID}",
        (trial_id,),
    )
    return [(r[0], r[1], r[2], r[3]) for r in rows]


def cells_of(db: sqlite3.Connection, taping_id: int) -> list[Cell]:
    """Return the cells of one panel of a trial, row by row, without their readings before work."""
    rows = rows_at_once(
        db,
        ("id", "taping_id", "row", "col", "combination_id", "run_order", "name"),
        'SELECT c.id, c.taping_id, c.row, c."column" AS col, c.combination_id, c.run_order, c.name'
        f" FROM cell c JOIN taping t ON t.id = c.taping_id WHERE c.taping_id=? AND c.put_away=0"
        f'{ON_GRID} ORDER BY c.row, c."column"',
        (taping_id,),
    )
    return [Cell(r[0], r[1], r[2], r[3], r[4], r[5], {}, _name(r[6])) for r in rows]


def _name(text: object) -> str:
    """Return a cell's own name; one that cannot be counts as none."""
    if not text or not isinstance(text, str):
        return ""
    return text if plain(text, MAX_CELL_NAME) == text else ""


def name_cells(db: sqlite3.Connection, named: Iterable[tuple[int, str]]) -> None:
    """Keep what a file calls its cells: (cell id, name) each."""
    db.executemany("UPDATE cell SET name=? WHERE id=?", [(name, cell) for cell, name in named])


def cell_count(db: sqlite3.Connection, trial_id: int) -> int:
    """Return how many cells a trial has."""
    row = db.execute(
        "SELECT count(*) FROM taping t JOIN cell c ON c.taping_id = t.id"
        f" WHERE t.trial_id=? AND t.put_away=0 AND c.put_away=0{hidden(db, trial_id)}{ON_GRID}",
        (trial_id,),
    ).fetchone()
    return int(row[0])


def assign(db: sqlite3.Connection, wanted: Iterable[tuple[int, int | None, int | None]]) -> None:
    """Give cells their combination and run order: (cell id, combination id, order) each."""
    db.executemany(
        "UPDATE cell SET combination_id=?, run_order=? WHERE id=?",
        [(combination, order, cell) for cell, combination, order in wanted],
    )


def set_baselines(db: sqlite3.Connection, values: Iterable[tuple[int, str, float]]) -> None:
    """Keep the mean reading before work: (cell id, measurand, value) each."""
    db.executemany(
        "INSERT INTO baseline(cell_id, measurand, value) VALUES (?,?,?)"
        " ON CONFLICT(cell_id, measurand) DO UPDATE SET value=excluded.value",
        values,
    )
