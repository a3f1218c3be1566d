"""Small things a workshop remembers, as JSON by key."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from typing import Any


def remember(db: sqlite3.Connection, key: str, value: Any) -> None:
    """Keep a value under a key."""
    db.execute(
        "INSERT INTO setting(key, value) VALUES (?,?)"
        " ON CONFLICT(key) DO UPDATE SET value=excluded.value",
        (key, json.dumps(value)),
    )


def every(db: sqlite3.Connection) -> tuple[tuple[str, str], ...]:
    """Return all that is kept, as it is written; what is empty is as good as not there."""
    rows = db.execute("SELECT key, value FROM setting ORDER BY key")
    return tuple((str(k), str(v)) for k, v in rows if v not in ("{}", "[]"))


def recalled(
    db: sqlite3.Connection, key: str, default: Any, turned: Mapping[str, Any] | None = None
) -> Any:
    """Return what is kept under a key, or what ``turned`` holds instead."""
    return turned[key] if turned is not None and key in turned else recall(db, key, default)


def recall(db: sqlite3.Connection, key: str, default: Any = None) -> Any:
    """Return what was kept under a key."""
    return read(kept(db, key), default)


def kept(db: sqlite3.Connection, key: str) -> str | None:
    """Return what is kept under a key as it is written, None where nothing is."""
    row = db.execute("SELECT value FROM setting WHERE key=?", (key,)).fetchone()
    return None if row is None else str(row[0])


def read(text: str | None, default: Any = None) -> Any:
    """Read what was kept; what cannot be read counts as nothing."""
    try:
        return default if text is None else json.loads(text)
    except (ValueError, RecursionError):
        return default
