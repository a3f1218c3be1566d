"""What was done to cells: passes, stages, marks; only ever added, taken back by another row."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from loam.core.record import WORK
from loam.store.facts_text import facts_of, facts_written
from loam.store.rows import append

PASS, WORKED, MARK, BACK, HEAT = "pass", "worked", "mark", "taken back", "temperature"


LOST = "lost"
"""The mark of a cell that was begun and given up."""
_TOUCHED = (PASS, WORKED, MARK)


@dataclass(frozen=True)
class Work:
    """One thing that was done.

    Attributes
    ----------
    what : str
        pass, worked (a stage is done), mark or temperature.
    facts : dict
        Of a pass and a stage ``seconds`` of trigger time; of a mark what it is; of a temperature
        ``panel_c`` and perhaps ``pad_c``.
    """

    id: int
    cell_id: int
    stage: int
    what: str
    person: str
    day: str
    pad: str
    facts: dict[str, Any]
    at: str


def add(
    db: sqlite3.Connection,
    cell_id: int,
    stage: int,
    what: str,
    person: int | None,
    session: int | None,
    pad: int | None,
    facts: Mapping[str, Any],
    now: str,
) -> int:
    """Note what was done and return its id."""
    return append(
        db,
        WORK,
        cell=cell_id,
        stage=stage,
        what=what,
        person=person,
        day=session,
        pad=pad,
        facts=facts_written(facts),
        at=now,
    )


def take_back(db: sqlite3.Connection, work_id: int, now: str) -> int:
    """Note that something was not so; what was noted stays, and counts no more."""
    row = db.execute("SELECT cell_id, stage FROM work WHERE id=?", (work_id,)).fetchone()
    return add(db, row[0], row[1], BACK, None, None, None, {"of": work_id}, now)


_SELECT = (
    "SELECT w.id, w.cell_id, w.stage, w.what, coalesce(p.name, ''), coalesce(s.day, ''),"
    " coalesce(v.name, ''), w.facts, w.at FROM work w LEFT JOIN person p ON p.id = w.person_id"
    " LEFT JOIN session s ON s.id = w.session_id LEFT JOIN kit_version v ON v.id = w.pad_id"
)


def paced(db: sqlite3.Connection, trial_id: int) -> list[Work]:
    """Return what the pacer noted of a trial and was not taken back, oldest first."""
    rows = db.execute(
        _SELECT + " JOIN cell c ON c.id = w.cell_id JOIN taping t ON t.id = c.taping_id"
        " WHERE t.trial_id=? AND w.facts <> '{}' ORDER BY w.at, w.id",
        (trial_id,),
    ).fetchall()
    return _counting(rows)


def cells_begun(db: sqlite3.Connection, trial_id: int) -> frozenset[int]:
    """Return the cells of a trial that were worked on: a pass, a stage, or a mark was noted."""
    return frozenset(w.cell_id for w in paced(db, trial_id) if w.what in _TOUCHED)


def begun_among(db: sqlite3.Connection, cells: Sequence[int]) -> int:
    """Return how many of some cells were worked on."""
    found: set[int] = set()
    for start in range(0, len(cells), 500):
        part = cells[start : start + 500]
        rows = db.execute(
            f"{_SELECT} WHERE w.cell_id IN ({','.join('?' * len(part))}) AND w.facts <> '{{}}'"
            " ORDER BY w.at, w.id",
            part,
        ).fetchall()
        found |= {w.cell_id for w in _counting(rows) if w.what in _TOUCHED}
    return len(found)


def cells_lost(db: sqlite3.Connection, trial_id: int) -> frozenset[int]:
    """Return the cells of a trial that were begun and given up: nothing more is done to them."""
    return frozenset(w.cell_id for w in paced(db, trial_id) if w.facts.get("mark") == LOST)


def cells_worked(db: sqlite3.Connection, trial_id: int) -> int:
    """Return on how many cells of a trial the pacer has seen a last stage done."""
    return len(cells_through(db, trial_id))


def cells_through(db: sqlite3.Connection, trial_id: int) -> frozenset[int]:
    """Return the cells of a trial on which the pacer has seen a last stage done."""
    rows = db.execute(
        "SELECT DISTINCT w.cell_id FROM taping t JOIN cell c ON c.taping_id = t.id"
        " JOIN work w ON w.cell_id = c.id WHERE t.trial_id=? AND t.put_away=0 AND w.what=?"
        " AND w.facts <> '{}' AND w.stage = (SELECT max(s.position) + 1 FROM stage s"
        " WHERE s.combination_id = c.combination_id)"
        " AND NOT EXISTS (SELECT 1 FROM work b WHERE b.cell_id = c.id AND b.what=?"
        " AND json_extract(b.facts, '$.of') = w.id)",
        (trial_id, WORKED, BACK),
    )
    return frozenset(int(row[0]) for row in rows)


def of_day(db: sqlite3.Connection, day: str) -> list[Work]:
    """Return what the pacer noted on a day in any trial and was not taken back."""
    rows = db.execute(
        _SELECT + " WHERE (s.day=? OR w.what=?) AND w.facts <> '{}' ORDER BY w.at, w.id",
        (day, BACK),
    ).fetchall()
    return _counting(rows)


def _counting(rows: list[tuple[Any, ...]]) -> list[Work]:
    found = [Work(r[0], r[1], r[2], r[3], r[4], r[5], r[6], facts_of(r[7]), r[8]) for r in rows]
    gone = {w.facts.get("of") for w in found if w.what == BACK}
    return [w for w in found if w.what != BACK and w.id not in gone]
