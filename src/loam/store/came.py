"""What an act brought onto the shelf by the way: things, people, what a trial filled in.

Taken back it is neither on the shelf nor among what was put away; whoever names it again brings it
back.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Iterable
from dataclasses import dataclass

TAKEN_BACK = 2
"""In ``put_away``: neither there nor put away by hand."""


@dataclass(frozen=True)
class Came:
    """Rows by their ids: things and people that are new, versions that fill what was not known."""

    things: frozenset[int] = frozenset()
    filled: frozenset[int] = frozenset()
    people: frozenset[int] = frozenset()

    def __bool__(self) -> bool:
        return bool(self.things or self.filled or self.people)

    def __or__(self, other: Came) -> Came:
        return Came(
            self.things | other.things, self.filled | other.filled, self.people | other.people
        )


@dataclass(frozen=True)
class Stood:
    """What stood on the shelf before an act: the last ids, and what was taken back."""

    last: tuple[int, int, int]
    back: Came


def stood(db: sqlite3.Connection) -> Stood:
    """Return what stands on the shelf now."""
    found: dict[str, list[int]] = {"item": [], "version": [], "person": [], "away": [], "gone": []}
    rows = db.execute(
        "SELECT 'item', coalesce(max(id), 0) FROM kit_item"
        " UNION ALL SELECT 'version', coalesce(max(id), 0) FROM kit_version"
        " UNION ALL SELECT 'person', coalesce(max(id), 0) FROM person"
        " UNION ALL SELECT 'away', id FROM kit_item WHERE put_away = ?1"
        " UNION ALL SELECT 'gone', id FROM person WHERE put_away = ?1",
        (TAKEN_BACK,),
    )
    for what, row in rows:
        found[what].append(row)
    last = found["item"][0], found["version"][0], found["person"][0]
    return Stood(last, Came(frozenset(found["away"]), frozenset(), frozenset(found["gone"])))


def came_since(
    db: sqlite3.Connection, before: Stood, *, named: Collection[str] | None = None
) -> Came:
    """Return what came onto the shelf since; only what bears one of these names, if any are given.

    What was taken back before and is there again counts too.
    """
    now = stood(db)
    if now == before:
        return Came()
    item, version, person = before.last
    still = now.back
    if named is not None:
        return Came(
            _named(
                db,
                "SELECT v.item_id, v.name FROM kit_version v JOIN kit_item i"
                " ON i.id = v.item_id WHERE v.item_id > ?",
                named,
                item,
            ),
            _named(
                db,
                "SELECT id, name FROM kit_version WHERE on_shelf = 1 AND id > ? AND item_id <= ?",
                named,
                version,
                item,
            ),
            _named(db, "SELECT id, name FROM person WHERE id > ?", named, person),
        )
    return Came(
        _ids(db, "SELECT id FROM kit_item WHERE id > ?", item) | before.back.things - still.things,
        _ids(
            db,
            "SELECT id FROM kit_version WHERE on_shelf = 1 AND id > ? AND item_id <= ?",
            version,
            item,
        ),
        _ids(db, "SELECT id FROM person WHERE id > ?", person) | before.back.people - still.people,
    )


def take_back(db: sqlite3.Connection, came: Came, now: str) -> None:
    """Take off the shelf what an act brought there by the way; what it filled in is as before."""
    _set(db, came, TAKEN_BACK)
    for row in sorted(came.filled):
        _again(
            db,
            now,
            "v.item_id = (SELECT item_id FROM kit_version WHERE id = ?1) AND v.id < ?1"
            " AND v.on_shelf = 1",
            row,
        )


def bring_back(db: sqlite3.Connection, came: Came, now: str) -> None:
    """Put it there again."""
    _set(db, came, 0)
    for row in sorted(came.filled):
        _again(db, now, "v.id = ?1", row)


def _set(db: sqlite3.Connection, came: Came, put_away: int) -> None:
    for table, ids in (("kit_item", came.things), ("person", came.people)):
        db.executemany(
            f"UPDATE {table} SET put_away = ? WHERE id = ?", [(put_away, i) for i in sorted(ids)]
        )


def _again(db: sqlite3.Connection, now: str, which: str, row: int) -> None:
    """Let a thing stand as one of its versions did: a new version, since none is ever changed."""
    db.execute(
        "INSERT INTO kit_version(item_id, name, facts, at, on_shelf) SELECT v.item_id, v.name,"
        f" v.facts, ?2, 1 FROM kit_version v WHERE {which} ORDER BY v.id DESC LIMIT 1",
        (row, now),
    )


def _ids(db: sqlite3.Connection, sql: str, *values: int) -> frozenset[int]:
    return frozenset(row[0] for row in db.execute(sql, values))


def _named(db: sqlite3.Connection, sql: str, named: Iterable[str], *values: int) -> frozenset[int]:
    wanted = set(named)
    return frozenset(row[0] for row in db.execute(sql, values) if row[1] in wanted)
