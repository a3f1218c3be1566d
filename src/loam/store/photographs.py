"""Photographs of the workshop's panels: kept whole in the file; which one is shown is a log."""

from __future__ import annotations

import sqlite3

from loam.core.record import PICTURE, SHOWN
from loam.store.rows import append

MOST_BYTES = 4 * 1024 * 1024


def shown(db: sqlite3.Connection, panel_id: int) -> int | None:
    """Return which photograph of a physical panel is shown, None for none."""
    row = db.execute(
        "SELECT photo_id FROM panel_photo_shown WHERE panel_id=? ORDER BY id DESC LIMIT 1",
        (panel_id,),
    ).fetchone()
    return None if row is None or row[0] is None else int(row[0])


def add(db: sqlite3.Connection, panel_id: int, image: bytes, now: str) -> int:
    """Keep a photograph (JPEG) and return its id; it is not shown by that."""
    return append(db, PICTURE, panel=panel_id, picture=image, at=now)


def show(db: sqlite3.Connection, panel_id: int, photo_id: int | None, now: str) -> None:
    """Show a photograph of a panel from now on, or none."""
    append(db, SHOWN, panel=panel_id, photograph=photo_id, at=now)


def image(db: sqlite3.Connection, photo_id: int) -> bytes:
    """Return a photograph (JPEG)."""
    return bytes(db.execute("SELECT image FROM panel_photo WHERE id=?", (photo_id,)).fetchone()[0])
