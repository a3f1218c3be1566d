"""Workshops that somebody bent by hand: values that are no object, nested deep, or of elsewhere."""

import sqlite3
from contextlib import closing

DEEP = "[" * 3000 + "]" * 3000
NASTY = (
    "null", "[]", "7", '"text"', "true", "{}", '{"a": {"b": [1, {"c": null}]}}', DEEP,
    '{"layers": 5}', '{"kind": ["a"], "sort": {"x": 1}, "speed": "fast"}', "[[1, 2], {}]",
    '{"newer": {"unknown": true}}', "[null, null]", '{"shape": "spiral", "points": [[1]]}',
    "1e999", "[1e308, -1e308]", "{" , "\x00", "NaN", '{"": ""}',
)  # fmt: skip
"""What stands where JSON is kept."""
WORDS = (
    "",
    " ",
    "\x00",
    "\n\n\n",
    "x" * 20_000,
    "<b>&amp;",
    "\u202etuo",
    "2026-99-99",
    "null",
    "😀" * 50,
)
"""What stands where a name or a word is kept."""
JSON = (
    ("setting", "value"), ("kit_version", "facts"), ("noted", "facts"), ("gate", "facts"),
    ("panel_version", "build"), ("taping", "outline"), ("panel_version", "outline"),
    ("trial", "measurands"), ("reading", "about"), ("decision", "value"), ("work", "facts"),
    ("stage", "settings"), ("combination", "facts"), ("survey", "facts"), ("session", "facts"),
    ("trial", "rules"),
)  # fmt: skip


def columns(path):
    """Return (table, column, type) of all columns of a workshop but the identities."""
    with closing(sqlite3.connect(path)) as db:
        tables = [r[0] for r in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return [
            (t, r[1], r[2]) for t in tables if not t.startswith("sqlite_")
            for r in db.execute("SELECT * FROM pragma_table_info(?)", (t,)) if not r[5]
        ]  # fmt: skip


def bend(path, rng, count=1):
    """Bend so many values by hand; return what was done, as text."""
    said = []
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        guards = db.execute("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'").fetchall()
        for name, _ in guards:
            db.execute(f"DROP TRIGGER {name}")
        db.execute("PRAGMA ignore_check_constraints = ON")
        db.execute("PRAGMA foreign_keys = OFF")
        every = columns(path)
        while len(said) < count:
            table, column, kind = rng.choice(every)
            rows = [r[0] for r in db.execute(f'SELECT rowid FROM "{table}"')] if not _flat(
                db, table
            ) else []  # fmt: skip
            if not rows and not _flat(db, table):
                continue
            value = _value(db, table, column, kind, rng)
            where = f"rowid = {rng.choice(rows)}" if rows and rng.random() < 0.6 else "1"
            try:
                db.execute(f'UPDATE "{table}" SET "{column}" = ? WHERE {where}', (value,))
            except sqlite3.DatabaseError:
                continue
            said.append(f"{table}.{column} = {str(value)[:60]!r} where {where}")
        for _, sql in guards:
            db.execute(sql)
    return "; ".join(said)


def _flat(db, table):
    """Tell whether a table has no row numbers."""
    return bool(db.execute("SELECT wr FROM pragma_table_list(?)", (table,)).fetchone()[0])


def _value(db, table, column, kind, rng):
    if (table, column) in JSON or _is_json(db, table, column):
        return rng.choice(NASTY)
    if kind == "INTEGER":
        return rng.choice((0, -1, 1, 7, 10**6, 2**62, -(2**62)))
    if kind == "REAL":
        return rng.choice((0.0, -1.0, 1e-300, 1e9, 1e308, float("inf"), float("-inf")))
    if kind == "BLOB":
        return rng.choice((b"", b"\xff\xd8junk", bytes(9000)))
    return rng.choice(WORDS)


def _is_json(db, table, column):
    row = db.execute(f'SELECT "{column}" FROM "{table}" LIMIT 1').fetchone()
    return bool(row and isinstance(row[0], str) and row[0][:1] in "[{")
