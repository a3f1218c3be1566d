"""Workshops that somebody bent by hand: values that are no object, nested deep, or of elsewhere."""

import json
import sqlite3
from contextlib import closing

DEEP = "[" * 3000 + "]" * 3000
NASTY = (
    "null",
    "[]",
    "7",
    '"text"',
    "true",
    "{}",
    '{"a": {"b": [1, {"c": null}]}}',
    DEEP,
    '{"layers": 5}',
    '{"kind": ["a"], "sort": {"x": 1}, "speed": "fast"}',
    "[[1, 2], {}]",
    '{"newer": {"unknown": true}}',
    "[null, null]",
    '{"shape": "spiral", "points": [[1]]}',
    "1e999",
    "[1e308, -1e308]",
    "{",
    "\x00",
    "NaN",
    '{"": ""}',
)
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


def columns(path):
    """Return (table, column, type) of all columns of a workshop but the identities."""
    with closing(sqlite3.connect(path)) as db:
        tables = [r[0] for r in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return [
            (t, r[1], r[2])
            for t in tables
            if not t.startswith("sqlite_")
            for r in db.execute("SELECT * FROM pragma_table_info(?)", (t,))
            if not r[5]
        ]


def bend(path, rng, count=1, *, only=None):
    """Bend so many values by hand; return what was done, as text.

    ``only`` names tables; most of what is bent is JSON, since that is read most freely.
    """
    said = []
    every = [c for c in columns(path) if only is None or c[0] in only]
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        guards = db.execute("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'").fetchall()
        for name, _ in guards:
            db.execute(f"DROP TRIGGER {name}")
        db.execute("PRAGMA ignore_check_constraints = ON")
        db.execute("PRAGMA foreign_keys = OFF")
        texts = [c for c in every if _is_json(db, *c[:2])]
        for _ in range(50 * count):
            if len(said) == count:
                break
            table, column, kind = rng.choice(texts if texts and rng.random() < 0.6 else every)
            key = "rowid" if not _flat(db, table) else _key(db, table)
            rows = [r[0] for r in db.execute(f'SELECT "{key}" FROM "{table}"')]
            if not rows:
                continue
            row = rng.choice(rows)
            old = db.execute(
                f'SELECT "{column}" FROM "{table}" WHERE "{key}" = ?', (row,)
            ).fetchone()
            value = _value(kind, rng, old[0])
            one = rng.random() < 0.7
            change = f'UPDATE "{table}" SET "{column}" = ?1'
            try:
                if one:
                    db.execute(f'{change} WHERE "{key}" = ?2', (value, row))
                else:
                    db.execute(change, (value,))
            except sqlite3.DatabaseError:
                continue
            said.append(f"{table}.{column} = {str(value)[:60]!r} in {row if one else 'all'}")
        for _, sql in guards:
            db.execute(sql)
    return "; ".join(said)


def _flat(db, table):
    """Tell whether a table has no row numbers."""
    return bool(db.execute("SELECT wr FROM pragma_table_list(?)", (table,)).fetchone()[0])


def _key(db, table):
    return db.execute("SELECT name FROM pragma_table_info(?) WHERE pk = 1", (table,)).fetchone()[0]


def _value(kind, rng, old):
    if isinstance(old, str) and old[:1] in ("[", "{"):
        return _other_inside(rng, old) if rng.random() < 0.6 else rng.choice(NASTY)
    if kind == "INTEGER":
        return rng.choice((0, -1, 1, 7, 10**6, 2**62, -(2**62)))
    if kind == "REAL":
        return rng.choice((0.0, -1.0, 1e-300, 1e9, 1e308, float("inf"), float("-inf")))
    if kind == "BLOB":
        return rng.choice((b"", b"\xff\xd8junk", bytes(9000)))
    return rng.choice((*WORDS, *NASTY))


def _other_inside(rng, text):
    """Put something else in the place of one value inside a JSON text."""
    try:
        found = json.loads(text)
    except ValueError:
        return rng.choice(NASTY)
    places = list(_places(found))
    if not places:
        return rng.choice(NASTY)
    holder, key = rng.choice(places)
    holder[key] = rng.choice(
        (None, [], {}, "x", "", -1, 0, 1e308, True, [[1]], {"a": 1}, "9" * 400)
    )
    return json.dumps(found)


def _places(value):
    pairs = value.items() if isinstance(value, dict) else enumerate(value)
    for key, inner in list(pairs):
        yield value, key
        if isinstance(inner, dict | list):
            yield from _places(inner)


def _is_json(db, table, column):
    row = db.execute(
        f'SELECT "{column}" FROM "{table}" WHERE "{column}" <> \'\' LIMIT 1'
    ).fetchone()
    return bool(row and isinstance(row[0], str) and row[0][:1] in "[{")
