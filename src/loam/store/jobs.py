"""Jobs of the workshop: a name, and notes that are added or struck, never changed."""

from __future__ import annotations

import json
import sqlite3
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.text import check_text
from loam.core.vehicle.events import Note, checked

MOST_NOTES = 50_000


@dataclass(frozen=True)
class JobRow:
    """A job as the workshop lists it."""

    id: int
    uid: str
    name: str
    created_at: str


def jobs(db: sqlite3.Connection, *, away: bool = False) -> list[JobRow]:
    """Return the jobs of the workshop, the newest first; those put away where asked."""
    rows = db.execute(
        "SELECT id, uid, name, created_at FROM job WHERE put_away=? ORDER BY id DESC", (int(away),)
    )
    return [JobRow(*row) for row in rows]


def add_job(db: sqlite3.Connection, name: str, now: str, uid: str = "") -> int:
    """Write a job and return its id.

    Raises
    ------
    ValueRefused
        For a name that is empty, or that another job has.
    """
    name = name.strip()
    check_text(name, "the name of a job")
    if not name:
        raise ValueRefused("A job needs a name.", todo="Say whose vehicle it is.")
    taken = db.execute("SELECT 1 FROM job WHERE name=? AND put_away=0", (name,)).fetchone()
    if taken:
        raise ValueRefused(f"There is a job “{name}” already.", todo="Give it another name.")
    cursor = db.execute(
        "INSERT INTO job(uid, name, created_at) VALUES (?,?,?)",
        (uid or uuid.uuid4().hex, name, now),
    )
    return int(cursor.lastrowid or 0)


def put_away(db: sqlite3.Connection, job_id: int, away: bool) -> None:
    """Put a job away, or bring it back."""
    db.execute("UPDATE job SET put_away=? WHERE id=?", (int(away), job_id))


def add_note(
    db: sqlite3.Connection,
    job_id: int,
    sort: str,
    facts: Mapping[str, Any],
    now: str,
    uid: str = "",
) -> int:
    """Add a note to a job and return its id.

    Raises
    ------
    ValueRefused
        For facts that cannot be, or when the job has as many notes as it may have.
    """
    kept = checked(sort, facts)
    count = db.execute("SELECT count(*) FROM job_note WHERE job_id=?", (job_id,)).fetchone()[0]
    if count >= MOST_NOTES:
        raise ValueRefused(f"A job has at most {MOST_NOTES} notes.", todo="Start another.")
    cursor = db.execute(
        "INSERT INTO job_note(uid, job_id, sort, facts, at) VALUES (?,?,?,?,?)",
        (uid or uuid.uuid4().hex, job_id, sort, json.dumps(kept, ensure_ascii=False), now),
    )
    return int(cursor.lastrowid or 0)


def strike_note(
    db: sqlite3.Connection, note_id: int, struck: bool, now: str, uid: str = ""
) -> None:
    """Let a note count no longer, or again."""
    db.execute(
        "INSERT INTO job_strike(uid, note_id, struck, at) VALUES (?,?,?,?)",
        (uid or uuid.uuid4().hex, note_id, int(struck), now),
    )


def uid_of(db: sqlite3.Connection, note_id: int) -> str:
    """Return the identity of a note."""
    row = db.execute("SELECT uid FROM job_note WHERE id=?", (note_id,)).fetchone()
    return str(row[0]) if row is not None else ""


def notes_of(db: sqlite3.Connection, job_id: int, *, struck: bool = False) -> list[Note]:
    """Return the notes of a job that count, in the order they were made; all of them if asked.

    A note whose facts cannot be (a damaged file) is passed over here; ``loam check`` names it.
    """
    rows = db.execute(
        "SELECT n.uid, n.sort, n.facts, n.at, coalesce((SELECT k.struck FROM job_strike k"
        " WHERE k.note_id = n.id ORDER BY k.id DESC LIMIT 1), 0) FROM job_note n"
        " WHERE n.job_id=? ORDER BY n.at, n.id",
        (job_id,),
    )
    found = []
    for uid, sort, facts, at, gone in rows:
        if gone and not struck:
            continue
        try:
            kept = checked(sort, json.loads(facts))
        except (ValueRefused, ValueError, TypeError):
            continue
        found.append(Note(uid, sort, kept, at))
    return found


def faults(db: sqlite3.Connection) -> list[str]:
    """Return the notes that cannot be, for a check of the file: job, sort, and why."""
    found = []
    rows = db.execute(
        "SELECT j.name, n.sort, n.facts FROM job_note n JOIN job j ON j.id = n.job_id ORDER BY n.id"
    )
    for name, sort, facts in rows:
        try:
            checked(sort, json.loads(facts))
        except ValueRefused as error:
            found.append(f"job “{name}”, {sort}: {error.what}")
        except (ValueError, TypeError) as error:
            found.append(f"job “{name}”, {sort}: {error}")
    return found
