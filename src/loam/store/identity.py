"""What tells a row from all others, in whichever workshop it lies.

Trials, panels, combinations, people and things are given an identity when they are made (a trigger
does it). What is only ever added has one by what it says: its sort, its number here, and all that
never changes. What came from another workshop keeps the one that it had there.
"""

from __future__ import annotations

import hashlib
import re
import sqlite3
from collections.abc import Iterable, Mapping
from typing import NamedTuple

_UID = re.compile(r"[0-9a-f]{32}")
_CHUNK = 2000

_BEFORE: dict[str, str] = {
    "trial": "SELECT id, created_at || '' FROM trial",
    "panel": "SELECT t.id, x.id || ' ' || x.created_at FROM taping t"
    " JOIN trial x ON x.id = t.trial_id",
    "board": "SELECT p.id, (SELECT v.at || ' ' || v.name || ' ' || v.hardness FROM panel_version v"
    " WHERE v.panel_id = p.id ORDER BY v.id LIMIT 1) FROM panel p",
    "combination": "SELECT c.id, x.id || ' ' || x.created_at FROM combination c"
    " JOIN trial x ON x.id = c.trial_id",
    "person": "SELECT id, name FROM person",
    "item": "SELECT i.id, i.sort || ' ' || (SELECT v.name FROM kit_version v WHERE v.item_id = i.id"
    " ORDER BY v.id LIMIT 1) FROM kit_item i",
}
"""What tells those apart that were made before they were given an identity."""
_BY_NAME = ("person", "item")


class Made(NamedTuple):
    """An identity, and when and in which order it was made; both as text."""

    uid: str
    made: str


def is_uid(text: object) -> bool:
    """Tell whether a text can be an identity."""
    return isinstance(text, str) and _UID.fullmatch(text) is not None


def digest(*parts: object) -> str:
    """Return an identity by what it is made of."""
    return hashlib.blake2b(repr(parts).encode(), digest_size=16).hexdigest()


def cell_uid(panel: str, row: int, column: int) -> str:
    """Return the identity of a cell: that of its panel, and where it lies on it (from 0)."""
    return f"{panel}.{row + 1}.{column + 1}"


def identities(db: sqlite3.Connection, sort: str) -> dict[int, Made]:
    """Return the identity of every trial, panel, board, combination, person or item, by row."""
    found: dict[int, Made] = {}
    rows = db.execute(
        "SELECT row, uid, made FROM identity WHERE sort = ? ORDER BY row, uid", (sort,)
    )
    for row, uid, made in rows:
        found.setdefault(row, Made(uid, made))
    for row, says in db.execute(_BEFORE[sort]):
        if row not in found:
            uid = digest(sort, says) if sort in _BY_NAME else digest(sort, row, says)
            found[row] = Made(uid, f"#{row:09d}")
    return found


def also_called(db: sqlite3.Connection, sort: str) -> dict[str, int]:
    """Return the row of every identity of a sort; one row may have several."""
    found = {own.uid: row for row, own in identities(db, sort).items()}
    found.update(db.execute("SELECT uid, row FROM identity WHERE sort = ?", (sort,)).fetchall())
    return found


AGAIN = "again:"
"""Begins what stands in for the identity of a row that only says anew what another row says."""


def kept_uids(db: sqlite3.Connection, sort: str, rows: Iterable[int]) -> dict[int, Made]:
    """Return the identities that some rows brought with them."""
    wanted = sorted(set(rows))
    found: dict[int, Made] = {}
    if (
        not wanted
        or db.execute("SELECT 1 FROM identity WHERE sort = ? LIMIT 1", (sort,)).fetchone() is None
    ):
        return {}
    for start in range(0, len(wanted), _CHUNK):
        part = wanted[start : start + _CHUNK]
        kept = db.execute(
            "SELECT row, uid, made FROM identity WHERE sort = ? AND row BETWEEN ? AND ?",
            (sort, part[0], part[-1]),
        )
        found.update((row, Made(uid, made)) for row, uid, made in kept)
    return found


def name_rows(db: sqlite3.Connection, sort: str, named: Iterable[tuple[int, str, str]]) -> None:
    """Keep the identities that rows brought: (row, uid, made) each; what was given goes."""
    rows = list(named)
    if sort in _BEFORE:
        db.executemany(
            "DELETE FROM identity WHERE sort = ? AND row = ?", [(sort, r[0]) for r in rows]
        )
    db.executemany(
        "INSERT OR REPLACE INTO identity(sort, uid, row, made) VALUES (?,?,?,?)",
        [(sort, uid, row, made) for row, uid, made in rows],
    )


def call_also(db: sqlite3.Connection, sort: str, row: int, uid: str) -> None:
    """Keep a further identity of a row: what another workshop calls the same."""
    db.execute(
        "INSERT OR IGNORE INTO identity(sort, uid, row, made) VALUES (?,?,?,'')", (sort, uid, row)
    )


def made_at(at: str, row: int) -> str:
    """Return when and in which order a row was made here."""
    return f"{at}#{row:09d}"


def by_made(found: Mapping[int, Made]) -> dict[int, int]:
    """Return the place of each row in the order in which they were made, alike in all workshops."""
    order = sorted(found, key=lambda row: (found[row].made, found[row].uid))
    return {row: i for i, row in enumerate(order)}
