"""Readings and strikes: only ever added."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from loam.core.trial import Reading
from loam.store.at_once import rows_at_once

_CHUNK = 2000


def operator_id(db: sqlite3.Connection, name: str) -> int | None:
    """Return the id of an operator, added when new; None for no name."""
    if not name:
        return None
    db.execute("INSERT INTO operator(name) VALUES (?) ON CONFLICT(name) DO NOTHING", (name,))
    return int(db.execute("SELECT id FROM operator WHERE name=?", (name,)).fetchone()[0])


def operators(db: sqlite3.Connection) -> list[str]:
    """Return the names of all operators."""
    return [r[0] for r in db.execute("SELECT name FROM operator ORDER BY name")]


def add_reading(db: sqlite3.Connection, reading: Reading) -> int:
    """Append one reading and return its id."""
    cursor = db.execute(_INSERT, _values(reading, operator_id(db, reading.operator)))
    return int(cursor.lastrowid or 0)


_INSERT = (
    "INSERT INTO reading(cell_id, measurand, phase, stage, ordinal, value, scale, operator_id,"
    " day, taken_at) VALUES (?,?,?,?,?,?,?,?,?,?)"
)


def _values(reading: Reading, operator: int | None) -> tuple[object, ...]:
    return (
        reading.cell_id,
        reading.measurand,
        reading.phase,
        reading.stage,
        reading.ordinal,
        reading.value,
        reading.scale,
        operator,
        reading.day,
        reading.taken_at,
    )


def add_readings(db: sqlite3.Connection, readings: Iterable[Reading]) -> None:
    """Append many readings under the ids that they carry."""
    known: dict[str, int | None] = {}

    def rows() -> Iterator[tuple[object, ...]]:
        for reading in readings:
            if reading.operator not in known:
                known[reading.operator] = operator_id(db, reading.operator)
            yield (*_values(reading, known[reading.operator]), reading.id)

    db.executemany(_INSERT.replace(") VALUES (", ", id) VALUES (?,"), rows())


def strike(
    db: sqlite3.Connection, reading_ids: Iterable[int], reason: str, at: str, struck: bool = True
) -> None:
    """Strike readings out with a reason, or (``struck`` False) let them count again."""
    db.executemany(
        "INSERT INTO strike(reading_id, struck, reason, at) VALUES (?,?,?,?)",
        [(i, int(struck), reason, at) for i in reading_ids],
    )


_STRUCK = (
    "(SELECT s.reason FROM strike s WHERE s.reading_id = r.id AND s.struck = 1"
    " AND s.id = (SELECT max(id) FROM strike WHERE reading_id = r.id))"
)


_STRUCK_NOW = (
    "SELECT s.reading_id FROM strike s WHERE s.struck = 1"
    " AND s.id = (SELECT max(x.id) FROM strike x WHERE x.reading_id = s.reading_id)"
)


def readings_of_cells(
    db: sqlite3.Connection, cell_ids: Sequence[int], measurand: str | None = None
) -> list[Reading]:
    """Return the readings of some cells in the order they were taken, struck ones too."""
    found: list[Reading] = []
    for start in range(0, len(cell_ids), 500):
        part = cell_ids[start : start + 500]
        sql = (
            "SELECT r.id, r.cell_id, r.measurand, r.value, r.phase, r.ordinal, r.stage, r.scale,"
            f" coalesce(o.name, ''), r.day, r.taken_at, {_STRUCK}"
            " FROM reading r LEFT JOIN operator o ON o.id = r.operator_id"
            f" WHERE r.cell_id IN ({','.join('?' * len(part))})"
        )
        values: list[object] = list(part)
        if measurand is not None:
            sql += " AND r.measurand = ?"
            values.append(measurand)
        found += [Reading(*row) for row in db.execute(sql + " ORDER BY r.id", values)]
    return found


@dataclass(frozen=True)
class ReadingColumns:
    """Readings of a trial as columns, struck ones left out.

    Attributes
    ----------
    cell, operator, day, ordinal, stage : (n,) int
        Ids and codes; operator 0 is "not said", ``days`` names the days.
    value : (n,) float
    scales : tuple of str
        Scales that occur.
    """

    cell: npt.NDArray[np.intp]
    value: npt.NDArray[np.float64]
    operator: npt.NDArray[np.intp]
    day: npt.NDArray[np.intp]
    ordinal: npt.NDArray[np.intp]
    stage: npt.NDArray[np.intp]
    days: tuple[str, ...]
    scales: tuple[str, ...]


def reading_columns(
    db: sqlite3.Connection, trial_id: int, measurand: str, phase: str = "after"
) -> ReadingColumns:
    """Load a trial's readings of one measurand as columns, in small portions.

    The portions keep other threads running while a large trial is loaded.
    """
    cursor = db.execute(
        "SELECT r.cell_id, r.value, coalesce(r.operator_id, 0), r.day, r.ordinal, r.stage, r.scale"
        " FROM panel p JOIN cell c ON c.panel_id = p.id"
        " JOIN reading r ON r.cell_id = c.id AND r.measurand = ?"
        " WHERE p.trial_id = ? AND p.put_away = 0 AND c.put_away = 0 AND r.phase = ?"
        f" AND r.id NOT IN ({_STRUCK_NOW})"
        " ORDER BY r.cell_id, r.id",
        (measurand, trial_id, phase),
    )
    days: dict[str, int] = {}
    scales: set[str] = set()
    parts: list[npt.NDArray[np.float64]] = []
    while rows := cursor.fetchmany(_CHUNK):
        scales.update(r[6] for r in rows)
        parts.append(
            np.array(
                [(r[0], r[1], r[2], days.setdefault(r[3], len(days)), r[4], r[5]) for r in rows]
            )
        )
    table = np.concatenate(parts) if parts else np.zeros((0, 6))
    whole = table.astype(np.intp)
    return ReadingColumns(
        whole[:, 0],
        table[:, 1],
        whole[:, 2],
        whole[:, 3],
        whole[:, 4],
        whole[:, 5],
        tuple(days),
        tuple(sorted(scales)),
    )


def counts_by_cell(
    db: sqlite3.Connection, trial_id: int
) -> dict[tuple[int, str], tuple[int, float]]:
    """Return count and mean of the readings after work by (cell, measurand), struck left out."""
    rows = rows_at_once(
        db,
        ("cell_id", "measurand", "n", "mean"),
        "SELECT r.cell_id, r.measurand, count(*) AS n, avg(r.value) AS mean FROM reading r"
        " WHERE r.cell_id IN (SELECT c.id FROM cell c JOIN panel p ON p.id = c.panel_id"
        "   WHERE p.trial_id = ? AND p.put_away = 0 AND c.put_away = 0)"
        f" AND r.phase = 'after' AND r.id NOT IN ({_STRUCK_NOW})"
        " GROUP BY r.cell_id, r.measurand",
        (trial_id,),
    )
    return {(r[0], r[1]): (r[2], r[3]) for r in rows}
