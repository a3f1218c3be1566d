"""Trials in the workshop file: added, changed, put away and brought back; never deleted."""

from __future__ import annotations

import json
import sqlite3
from contextlib import suppress
from dataclasses import replace

from loam.core.errors import ValueRefused
from loam.core.readings import BY_KEY
from loam.core.trial import MAX_READINGS, MAX_SEED, Trial
from loam.store.facts_text import value_of

SHOWN, AWAY, COMING_IN = 0, 1, 2
_PUT_AWAY = {"trial": "trial", "panel": "taping", "combination": "combination"}
_FIELDS = "name, question, measurands, readings_per_cell, seed, note"


def _values(trial: Trial) -> tuple[object, ...]:
    measurands = json.dumps([*trial.measurands, *trial.unknown])
    return (
        trial.name,
        trial.question,
        measurands,
        trial.readings_per_cell,
        trial.seed,
        trial.note,
    )


def add_trial(db: sqlite3.Connection, trial: Trial, created_at: str, state: int = SHOWN) -> int:
    """Insert a trial and return its id (the one it carries when that is above 0)."""
    cursor = db.execute(
        f"INSERT INTO trial(id, {_FIELDS}, created_at, put_away) VALUES (?,?,?,?,?,?,?,?,?)",
        (trial.id or None, *_values(trial), created_at, state),
    )
    return int(cursor.lastrowid or 0)


def change_trial(db: sqlite3.Connection, trial: Trial) -> None:
    """Write a trial's changed fields."""
    assigned = ", ".join(f"{f}=?" for f in _FIELDS.split(", "))
    db.execute(f"UPDATE trial SET {assigned} WHERE id=?", (*_values(trial), trial.id))


def trials(db: sqlite3.Connection, *, away: bool = False) -> list[Trial]:
    """Return all trials that are shown (or, with ``away``, put away), oldest first."""
    rows = db.execute(
        f"SELECT id, {_FIELDS} FROM trial WHERE put_away = ? ORDER BY id",
        (AWAY if away else SHOWN,),
    )
    return [_trial(*row) for row in rows]


def _trial(
    row_id: int, name: str, question: str, measurands: str, times: int, seed: int, note: str
) -> Trial:
    """Build a trial from its row; what this version does not know is kept aside, not refused."""
    kept = value_of(measurands)
    listed = [str(m) for m in kept] if isinstance(kept, list) else []
    known = tuple(m for m in dict.fromkeys(listed) if m in BY_KEY and not BY_KEY[m].derived)
    unknown = tuple(m for m in dict.fromkeys(listed) if m not in known)
    plain = Trial(row_id, "?", "", known or ("gloss20",), unknown=unknown)
    fields = {
        "name": name.strip() or "unnamed",
        "question": question,
        "readings_per_cell": min(max(times, 1), MAX_READINGS),
        "seed": abs(seed) % (MAX_SEED + 1),
        "note": note,
    }
    with suppress(ValueRefused):
        return replace(plain, **fields)  # type: ignore[arg-type]
    for field, value in fields.items():
        try:
            plain = replace(plain, **{field: value})  # type: ignore[arg-type]
        except ValueRefused:
            plain = replace(plain, **{field: str(value)[:60].strip() or "?"})  # type: ignore[arg-type]
    return plain


def put_away(db: sqlite3.Connection, kind: str, row_id: int, away: bool) -> None:
    """Hide or show a trial, panel or combination; nothing is ever deleted."""
    table = _PUT_AWAY[kind]
    if not away and kind == "panel":
        _free_panel_name(db, row_id)
    try:
        db.execute(f"UPDATE {table} SET put_away=? WHERE id=?", (int(away), row_id))
    except sqlite3.IntegrityError as error:
        raise _name_gone(kind) from error


def _free_panel_name(db: sqlite3.Connection, taping_id: int) -> None:
    taken = db.execute(
        "SELECT 1 FROM taping t JOIN panel_version v ON v.id = t.panel_version_id"
        " WHERE t.put_away=0 AND (t.trial_id, v.name) = (SELECT o.trial_id, w.name FROM taping o"
        " JOIN panel_version w ON w.id = o.panel_version_id WHERE o.id=?)",
        (taping_id,),
    ).fetchone()
    if taken:
        raise _name_gone("panel")


def _name_gone(kind: str) -> ValueRefused:
    return ValueRefused(f"Another {kind} has taken that name meanwhile.", todo="Rename it first.")
