"""Say what a workshop holds and whether it is whole; the file itself is never touched."""

from __future__ import annotations

import argparse
import sqlite3
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from loam.app.headless.common import FAILED, answer, as_json
from loam.core.errors import LoamError
from loam.core.readings import BY_KEY
from loam.core.vehicle.adding import job_of
from loam.store import jobs as job_store
from loam.store.counts import counts_of
from loam.store.database import reading_apart, version_of
from loam.store.panels import ON_GRID, unreadable_panels
from loam.store.readings import READABLE
from loam.store.schema import MIGRATIONS
from loam.store.structure import Changed, changed
from loam.store.trials import trials
from loam.store.workshop import Workshop


def run(arguments: Sequence[str]) -> int:
    """Run ``loam check`` and return the exit status: 0 when all is well, else 2."""
    parser = argparse.ArgumentParser(
        prog="loam check", description="Say what a workshop holds and whether it is whole."
    )
    parser.add_argument("workshop", type=Path, metavar="W.loam")
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    options = parser.parse_args(arguments)
    found = check(options.workshop)
    if options.json:
        answer(as_json(found))
    else:
        answer(_as_text(found))
    return 0 if found["ok"] else FAILED


def check(path: Path) -> dict[str, Any]:
    """Look through a workshop: ``ok``, ``schema``, ``trials`` with counts, ``problems``."""
    schema = _schema(path)
    try:
        workshop = Workshop(path, look=True)
    except LoamError as error:
        return {"ok": False, "schema": schema, "trials": [], "problems": [str(error)]}
    try:
        with reading_apart(workshop.reads) as db:
            layout = _changed(db)
            whole = not layout.broken
            problems = layout.words() + (_problems(db) if whole else [])
            listed = [_listed(db, t.id, t.name) for t in trials(db)] if whole else []
            cars = _cars(db) if whole else []
    except LoamError as error:
        return {"ok": False, "schema": schema, "trials": [], "problems": [str(error)]}
    finally:
        workshop.close()
    found = {"ok": not problems, "schema": schema, "trials": listed, "problems": problems}
    return found | ({"jobs": cars} if cars else {})


def _schema(path: Path) -> int | None:
    """Return the version that the file itself has, before anything is brought up to date."""
    try:
        with path.open("rb") as file:
            head = file.read(100)
    except (OSError, ValueError):
        return None
    if not head.startswith(b"SQLite format 3\0") or len(head) < 100:
        return None
    return int.from_bytes(head[60:64], "big", signed=True)


def _changed(db: sqlite3.Connection) -> Changed:
    """Return what something else changed in the layout, said as problems."""
    found = changed(db) if version_of(db) == len(MIGRATIONS) else None
    if found is None:
        return Changed()
    said = "Changed by something other than Loam: {}."
    return Changed(
        mended=[said.format(w) for w in found.mended], broken=[said.format(w) for w in found.broken]
    )


def _listed(db: sqlite3.Connection, trial_id: int, name: str) -> dict[str, Any]:
    """Return what a trial holds: rows of every sort of its record."""
    rows = counts_of(db, trial_id)
    return {
        "name": name,
        "panels": rows["panel"],
        "cells": rows["cell"],
        "readings": rows["reading"],
        "rows": rows,
    }


def _cars(db: sqlite3.Connection) -> list[dict[str, Any]]:
    """Return what every job holds: its panels read, spots, panels done, and notes."""
    found = []
    for row in job_store.jobs(db):
        notes = job_store.notes_of(db, row.id)
        job = job_of(row.name, notes)
        found.append(
            {
                "name": row.name,
                "panels": len(job.working),
                "surveyed": len(job.surveyed),
                "spots": len(job.spots),
                "done": sum(bool(p.done) for p in job.working),
                "notes": len(notes),
            }
        )
    return found


def _problems(db: sqlite3.Connection) -> list[str]:
    said = [r[0] for r in db.execute("PRAGMA integrity_check(10)") if r[0] != "ok"]
    loose = db.execute("PRAGMA foreign_key_check").fetchall()
    if loose:
        said.append(f"{len(loose)} rows refer to something that is not there.")
    for name, count in db.execute(
        "SELECT measurand, count(*) FROM reading GROUP BY measurand"
    ).fetchall():
        if name not in BY_KEY:
            said.append(f"{count} readings are of {name[:40]!r}, which this Loam does not know.")
    for trial in trials(db):
        if trial.unknown:
            names = ", ".join(u[:40] for u in trial.unknown)
            said.append(f"Trial {trial.name} reads {names}, which this Loam does not know.")
    said += _bent(db)
    said += [f"Not counted: {fault}" for fault in job_store.faults(db)]
    said += [f"Panel {name!r} cannot be shown." for name in unreadable_panels(db)]
    return said


_OBJECTS = (
    ("kit_version", "facts"),
    ("noted", "facts"),
    ("gate", "facts"),
    ("work", "facts"),
    ("stage", "settings"),
)


def _bent(db: sqlite3.Connection) -> list[str]:
    """Say what counts as not known, or is left out, since Loam would not have written it."""
    said = []
    for table, column in _OBJECTS:
        sql = f"SELECT count(*) FROM {table} WHERE CASE WHEN json_valid({column})"
        count = db.execute(f"{sql} THEN json_type({column}) <> 'object' ELSE 1 END").fetchone()[0]
        if count:
            said.append(f"Facts in {table} that are none, taken as not known: {count}.")
    count = db.execute(f"SELECT count(*) FROM reading r WHERE NOT (1{READABLE})").fetchone()[0]
    if count:
        said.append(f"Readings that no meter says, not judged: {count}.")
    off = db.execute(
        "SELECT count(*) FROM cell c JOIN taping t ON t.id = c.taping_id"
        f" WHERE t.put_away = 0 AND c.put_away = 0 AND NOT (1{ON_GRID})"
    ).fetchone()[0]
    if off:
        said.append(f"Cells off their panel, not shown: {off}.")
    return said


def _as_text(found: dict[str, Any]) -> str:
    lines = [
        f"{t['name']}: {t['panels']} panels, {t['cells']} cells, {t['readings']} readings"
        for t in found["trials"]
    ]
    lines += [
        f"{j['name']}: {j['surveyed']} of {j['panels']} panels surveyed, {j['spots']} test spots,"
        f" {j['done']} panels done"
        for j in found.get("jobs", ())
    ]
    lines += [f"Problem: {said}" for said in found["problems"]]
    lines.append("All is well." if found["ok"] else "Not all is well.")
    return "\n".join(lines)
