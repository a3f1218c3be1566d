"""Whether a workshop is laid out as Loam laid it out: tables, guards, indexes."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Sequence
from contextlib import closing
from dataclasses import dataclass, field

from loam.store.schema import MIGRATIONS

Parts = dict[tuple[str, str], str]

PLAIN = "72820656"
"""Digest of the layout that the migrations make: what bears it needs no closer look."""
LATE = ("decision", "mark")
"""Tables that workshops of a version under way may lack; they are made."""
EMPTY = ("mark",)
"""Tables that hold nothing of the trainer's: one laid out otherwise is made anew."""
_KINDS = {"trigger": "guard", "index": "index", "table": "table", "view": "view"}


@dataclass
class Changed:
    """What something other than Loam changed in how a workshop is laid out.

    Attributes
    ----------
    back : list of str
        SQL that puts back what is missing and holds no rows.
    mended : list of str
        What that is, in words.
    broken : list of str
        What cannot be put back, in words.
    lost : bool
        Whether rows cannot even be looked at.
    """

    back: list[str] = field(default_factory=list)
    mended: list[str] = field(default_factory=list)
    broken: list[str] = field(default_factory=list)
    lost: bool = False

    def words(self) -> list[str]:
        """Return all of it in words."""
        return [*self.broken, *self.mended]


def digest_of(db: sqlite3.Connection) -> str:
    """Return what tells one layout from another."""
    return hashlib.sha256(repr(sorted(_texts(db).items())).encode()).hexdigest()[:8]


def changed(
    db: sqlite3.Connection, migrations: Sequence[Sequence[str]] = MIGRATIONS
) -> Changed | None:
    """Compare a workshop of the newest version with what its migrations make; None when alike."""
    if migrations is MIGRATIONS and digest_of(db) == PLAIN:
        return None
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as plain:
        for step in migrations:
            for statement in step:
                plain.execute(statement)
        texts, wanted = _texts(plain), _parts(plain)
        columns = {name: _columns(plain, name) for kind, name in wanted if kind == "table"}
    here = _parts(db)
    found = Changed()
    for part, like in wanted.items():
        _compare(found, part, like, texts[part], here)
    for kind, name in here:
        if kind in ("trigger", "view") and (kind, name) not in wanted:
            found.broken.append(f"{_KINDS[kind]} {name[:60]!r} is none of Loam's")
    found.lost = found.lost or any(
        not own <= _columns(db, name) for name, own in columns.items() if name not in LATE
    )
    return found if found.words() or found.back else None


def _compare(found: Changed, part: tuple[str, str], like: str, sql: str, here: Parts) -> None:
    kind, name = part
    own = here.get(part)
    if own == like:
        return
    what = f"{_KINDS[kind]} {name!r}"
    if own is not None and kind == "table" and name not in EMPTY:
        found.broken.append(f"{what} is laid out otherwise")
    elif own is not None:
        found.back += [f'DROP {kind.upper()} "{name}"', sql]
        if name not in EMPTY:
            found.mended.append(f"{what} is another")
    elif kind != "table" or (name in LATE and ("view", name) not in here):
        found.back.append(sql)
        found.mended.append(f"{what} is missing")
    else:
        found.broken.append(f"{what} is missing")
        found.lost = True


def put_back(db: sqlite3.Connection, found: Changed) -> str:
    """Put back what is missing and holds no rows; return what was done, in words."""
    first = [sql for sql in found.back if sql.startswith("CREATE TABLE")]
    drops = [sql for sql in found.back if sql.startswith("DROP")]
    for sql in (*drops, *first, *(s for s in found.back if s not in drops and s not in first)):
        db.execute(sql)
    db.execute(
        "INSERT OR IGNORE INTO mark(id, token, before, since, commits) VALUES (1, '', '', 0, 0)"
    )
    return (
        ""
        if not found.mended
        else (
            "Something other than Loam has changed this file: "
            + ", ".join(found.mended[:4])
            + (f" and {len(found.mended) - 4} more" if len(found.mended) > 4 else "")
            + ". That was put back; whether rows were changed meanwhile cannot be told."
        )
    )


def _columns(db: sqlite3.Connection, table: str) -> set[str]:
    return {str(r[0]) for r in db.execute("SELECT name FROM pragma_table_info(?)", (table,))}


def _texts(db: sqlite3.Connection) -> Parts:
    """Return each part as its SQL says."""
    rows = db.execute(
        "SELECT type, name, sql FROM sqlite_master WHERE name NOT LIKE 'sqlite\\_%' ESCAPE '\\'"
    )
    return {(str(kind), str(name)): str(sql) for kind, name, sql in rows}


def _parts(db: sqlite3.Connection) -> Parts:
    """Return each part as far as it matters, however a version of the database words it."""
    found = _texts(db)
    for kind, name in found:
        if kind == "table":
            rows = db.execute("SELECT * FROM pragma_table_xinfo(?)", (name,)).fetchall()
            kept = db.execute(
                "SELECT wr, strict FROM pragma_table_list(?) WHERE schema = 'main'", (name,)
            ).fetchall()
            found[kind, name] = repr((rows, kept))
        else:
            found[kind, name] = "".join(found[kind, name].replace('"', "").split()).lower()
    return found
