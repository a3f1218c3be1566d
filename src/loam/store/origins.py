"""Which workshop a trial comes from: its own, or the one that wrote the file it was taken in from.

A workshop is told from others by its first own trial, as a short print that says nothing else.
"""

from __future__ import annotations

import hashlib
import re
import sqlite3

from loam.store.settings import recall, remember

_PRINT = re.compile(r"[0-9a-f]{8}")


def _key(trial_id: int) -> str:
    return f"from_workshop:{trial_id}"


def is_print(value: object) -> bool:
    """Tell whether a value can be the print of a workshop."""
    return isinstance(value, str) and _PRINT.fullmatch(value) is not None


def keep_origin(db: sqlite3.Connection, trial_id: int, workshop: str) -> None:
    """Keep where a trial was taken in from; its own workshop is not kept."""
    if is_print(workshop) and workshop != own_print(db, besides=trial_id):
        remember(db, _key(trial_id), workshop)


def taken_in(db: sqlite3.Connection, trial_id: int) -> str:
    """Return the print of the workshop that a trial was taken in from; "" for its own."""
    found = recall(db, _key(trial_id), "")
    return found if is_print(found) else ""


def own_print(db: sqlite3.Connection, besides: int = 0) -> str:
    """Return the print of this workshop; "" before it has a trial of its own (``besides`` one)."""
    for trial_id, created in db.execute("SELECT id, created_at FROM trial ORDER BY id"):
        if trial_id != besides and not taken_in(db, trial_id):
            return hashlib.blake2b(f"{trial_id} {created}".encode(), digest_size=4).hexdigest()
    return ""


def origin_of(db: sqlite3.Connection, trial_id: int) -> str:
    """Return the print of the workshop that a trial comes from."""
    return taken_in(db, trial_id) or own_print(db)
