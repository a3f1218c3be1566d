"""People and sessions of the workshop: who worked a cell, who read it, on which day."""

from __future__ import annotations

import sqlite3

from loam.store.came import TAKEN_BACK


def person_id(db: sqlite3.Connection, name: str) -> int | None:
    """Return the id of a person, added when new; None for no name."""
    if not name:
        return None
    known = db.execute("SELECT id, put_away FROM person WHERE name=?", (name,)).fetchone()
    if known is None:
        return int(db.execute("INSERT INTO person(name) VALUES (?)", (name,)).lastrowid or 0)
    if known[1] == TAKEN_BACK:
        db.execute("UPDATE person SET put_away = 0 WHERE id = ?", (known[0],))
    return int(known[0])


def people(db: sqlite3.Connection) -> list[str]:
    """Return the names of all people of the workshop."""
    return [r[0] for r in db.execute("SELECT name FROM person WHERE put_away=0 ORDER BY name")]


def session_id(db: sqlite3.Connection, day: str, now: str) -> int | None:
    """Return the id of the session of a day, opened when new; None for no day."""
    if not day:
        return None
    row = db.execute("SELECT max(id) FROM session WHERE day=?", (day,)).fetchone()
    if row[0] is not None:
        return int(row[0])
    return int(db.execute("INSERT INTO session(day, at) VALUES (?,?)", (day, now)).lastrowid or 0)


def work_id(
    db: sqlite3.Connection,
    cell_id: int,
    stage: int,
    person: int | None,
    session: int | None,
    at: str,
) -> int | None:
    """Return the work of a person on a stage of a cell, noted when new; None for nobody."""
    if person is None:
        return None
    row = db.execute(
        "SELECT max(id) FROM work WHERE cell_id=? AND stage=? AND person_id=? AND what='worked'",
        (cell_id, stage, person),
    ).fetchone()
    if row[0] is not None:
        return int(row[0])
    cursor = db.execute(
        "INSERT INTO work(cell_id, stage, what, person_id, session_id, at)"
        " VALUES (?,?,'worked',?,?,?)",
        (cell_id, stage, person, session, at),
    )
    return int(cursor.lastrowid or 0)
