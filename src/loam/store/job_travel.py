"""Jobs in a file for exchange: out with the trial that they rest on, in by identity."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.vehicle.events import checked

Row = dict[str, Any]


def resting_on(db: sqlite3.Connection, trial_uid: str) -> list[int]:
    """Return the jobs that rest on a trial, by what was said of it last; oldest first."""
    rows = db.execute(
        "SELECT j.id, (SELECT json_extract(n.facts, '$.trial') FROM job_note n"
        " WHERE n.job_id = j.id AND n.sort = 'basis'"
        " AND json_extract(n.facts, '$.trial') IS NOT NULL"
        " ORDER BY n.id DESC LIMIT 1) FROM job j WHERE j.put_away = 0 ORDER BY j.id"
    )
    return [job for job, trial in rows if trial == trial_uid]


def jobs_out(db: sqlite3.Connection, trial_uid: str) -> dict[str, list[Row]]:
    """Return the rows of the jobs that rest on a trial, by sort of the record."""
    found: dict[str, list[Row]] = {"job": [], "job_note": [], "job_strike": []}
    for job in resting_on(db, trial_uid):
        uid, name, at = db.execute(
            "SELECT uid, name, created_at FROM job WHERE id=?", (job,)
        ).fetchone()
        found["job"].append({"uid": uid, "name": name, "at": at})
        notes = db.execute(
            "SELECT uid, sort, facts, at FROM job_note WHERE job_id=? ORDER BY id", (job,)
        )
        found["job_note"] += [
            {"uid": u, "job": uid, "sort": s, "facts": f, "at": t} for u, s, f, t in notes
        ]
        strikes = db.execute(
            "SELECT k.uid, n.uid, k.struck, k.at FROM job_strike k JOIN job_note n"
            " ON n.id = k.note_id WHERE n.job_id=? ORDER BY k.id",
            (job,),
        )
        found["job_strike"] += [
            {"uid": u, "note": n, "struck": s, "at": t} for u, n, s, t in strikes
        ]
    return found


def check_note(row: Mapping[str, Any]) -> ValueRefused | None:
    """Return why a note of a file cannot be, or None."""
    try:
        checked(str(row["sort"]), json.loads(row["facts"] or "{}"))
    except ValueRefused as error:
        return error
    except (ValueError, TypeError):
        return ValueRefused("facts is a JSON object")
    return None


def jobs_in(db: sqlite3.Connection, rest: Mapping[str, Iterable[Row]]) -> dict[str, int]:
    """Write what is new of the jobs of a file; return how many rows of each sort were added.

    A job that is here is the same vehicle: its new notes join it. A name that another vehicle has
    here gets a number. What comes first in time counts first, so any order of joining is one.
    """
    added = {"job": 0, "job_note": 0, "job_strike": 0}
    jobs = dict(db.execute("SELECT uid, id FROM job").fetchall())
    names = {n for (n,) in db.execute("SELECT name FROM job WHERE put_away = 0")}
    for row in rest.get("job", ()):
        if row["uid"] in jobs:
            continue
        name, number = str(row["name"]), 2
        while name in names:
            name, number = f"{row['name']} ({number})", number + 1
        names.add(name)
        cursor = db.execute(
            "INSERT INTO job(uid, name, created_at) VALUES (?,?,?)", (row["uid"], name, row["at"])
        )
        jobs[row["uid"]] = int(cursor.lastrowid or 0)
        added["job"] += 1
    notes = dict(db.execute("SELECT uid, id FROM job_note").fetchall())
    for row in rest.get("job_note", ()):
        if row["uid"] in notes or row["job"] not in jobs:
            continue
        cursor = db.execute(
            "INSERT INTO job_note(uid, job_id, sort, facts, at) VALUES (?,?,?,?,?)",
            (row["uid"], jobs[row["job"]], row["sort"], row["facts"], row["at"]),
        )
        notes[row["uid"]] = int(cursor.lastrowid or 0)
        added["job_note"] += 1
    strikes = {u for (u,) in db.execute("SELECT uid FROM job_strike")}
    for row in rest.get("job_strike", ()):
        if row["uid"] in strikes or row["note"] not in notes:
            continue
        db.execute(
            "INSERT INTO job_strike(uid, note_id, struck, at) VALUES (?,?,?,?)",
            (row["uid"], notes[row["note"]], row["struck"], row["at"]),
        )
        added["job_strike"] += 1
    return added
