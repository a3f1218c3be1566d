"""What is noted beside the readings: tile checks, rounds, peeks, wipes, inspections, photographs.

Rows are only ever added; taken back by a strike, and counted again by another.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from loam.core.record import NOTE, NOTE_STRIKE, NOTES, SEEN
from loam.store.facts_text import facts_of, facts_written
from loam.store.rows import append

TILE, ROUND, CLOSED, PEEK, WIPE, INSPECTION, PHOTOGRAPH = SORTS = NOTES
_STRUCK = (
    "coalesce((SELECT s.struck FROM noted_strike s WHERE s.noted_id = n.id"
    " ORDER BY s.id DESC LIMIT 1), 0)"
)
_SELECT = (
    "SELECT n.id, n.sort, n.cell_id, coalesce(p.name, ''), coalesce(s.day, ''), n.facts, n.at"
    " FROM noted n LEFT JOIN person p ON p.id = n.person_id"
    " LEFT JOIN session s ON s.id = n.session_id"
)


@dataclass(frozen=True)
class Noted:
    """One note: of which sort, of which cell (or of the whole trial), by whom, and its facts."""

    id: int
    sort: str
    cell_id: int | None
    person: str
    day: str
    facts: Mapping[str, Any] = field(default_factory=dict)
    at: str = ""


def add(
    db: sqlite3.Connection,
    trial_id: int,
    sort: str,
    cell_id: int | None,
    person: int | None,
    session: int | None,
    facts: Mapping[str, Any],
    now: str,
) -> int:
    """Note something and return the note's id."""
    return append(
        db,
        NOTE,
        trial=trial_id,
        sort=sort,
        cell=cell_id,
        person=person,
        day=session,
        facts=facts_written(facts),
        at=now,
    )


def strike(
    db: sqlite3.Connection, noted_id: int, reason: str, now: str, struck: bool = True
) -> None:
    """Take a note back, or (``struck`` False) let it count again."""
    append(db, NOTE_STRIKE, note=noted_id, struck=int(struck), reason=reason, at=now)


def _rows(rows: list[tuple[Any, ...]]) -> list[Noted]:
    return [Noted(r[0], r[1], r[2], r[3], r[4], facts_of(r[5]), r[6]) for r in rows]


def of_trial(db: sqlite3.Connection, trial_id: int, *sorts: str) -> list[Noted]:
    """Return what was noted of a trial and counts, oldest first; of some sorts only, or of all."""
    only = f" AND n.sort IN ({','.join('?' * len(sorts))})" if sorts else ""
    rows = db.execute(
        f"{_SELECT} WHERE n.trial_id=?{only} AND {_STRUCK} = 0 ORDER BY n.at, n.id",
        (trial_id, *sorts),
    ).fetchall()
    return _rows(rows)


def of_cell(db: sqlite3.Connection, cell_id: int) -> list[Noted]:
    """Return what was noted of a cell and counts, oldest first."""
    rows = db.execute(
        f"{_SELECT} WHERE n.cell_id=? AND {_STRUCK} = 0 ORDER BY n.at, n.id", (cell_id,)
    ).fetchall()
    return _rows(rows)


def tiles(db: sqlite3.Connection, meter: str, measurand: str) -> list[Noted]:
    """Return the tile checks of a meter in any trial, oldest first."""
    rows = db.execute(
        f"{_SELECT} WHERE n.sort=? AND json_extract(n.facts, '$.meter')=?"
        f" AND json_extract(n.facts, '$.measurand')=? AND {_STRUCK} = 0 ORDER BY n.at, n.id",
        (TILE, meter, measurand),
    ).fetchall()
    return _rows(rows)


def keep_picture(db: sqlite3.Connection, noted_id: int, image: bytes) -> None:
    """Keep a small picture (JPEG) of what a pair of photographs showed."""
    append(db, SEEN, note=noted_id, picture=image)


def picture(db: sqlite3.Connection, noted_id: int) -> bytes | None:
    """Return the small picture of a pair of photographs, None when there is none."""
    row = db.execute("SELECT image FROM photo_seen WHERE noted_id=?", (noted_id,)).fetchone()
    return None if row is None else bytes(row[0])
