"""The workshop's kit, in versions: what a trial used stays as it was when kit is edited later."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.kit.facts import (
    BY_SORT,
    COMPOUND,
    DISC,
    LIGHT,
    MACHINE,
    METER,
    PAD,
    PAD_KIND,
    PERSON,
    WIPE,
    check_facts,
)
from loam.core.text import check_text
from loam.store.came import TAKEN_BACK
from loam.store.facts_text import facts_of

__all__ = ["COMPOUND", "DISC", "LIGHT", "MACHINE", "METER", "PAD", "PAD_KIND", "PERSON", "WIPE"]

Facts = dict[str, Any]
_OWN: dict[str, tuple[str, ...]] = {
    PAD_KIND: ("material", "diameter_mm"),
    COMPOUND: ("class",),
    MACHINE: ("motion", "orbit_mm"),
    METER: (),
    DISC: ("grit", "damp"),
}
"""What a trial says of a thing itself; whatever else is known of it is the shelf's."""


@dataclass(frozen=True)
class KitVersion:
    """One state of a piece of kit: its name and the facts that held then."""

    id: int
    item_id: int
    name: str
    facts: Facts


def _text(facts: Mapping[str, Any]) -> str:
    return json.dumps(dict(facts), sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def _said(facts: Mapping[str, Any]) -> Facts:
    return {key: value for key, value in facts.items() if value not in (None, "")}


def version_id(
    db: sqlite3.Connection, sort: str, name: str, facts: Mapping[str, object], now: str
) -> int | None:
    """Return the version of a piece of kit that a trial names, added when new.

    A trial fills what the shelf does not know of a thing; where it says otherwise, its version is
    its own, and the shelf's stays. None when it has neither name nor facts.
    """
    given = _said(facts)
    if not name and not given:
        return None
    rows = db.execute(
        "SELECT v.id, v.item_id, v.facts, v.on_shelf, i.put_away FROM kit_version v"
        " JOIN kit_item i ON i.id = v.item_id WHERE v.name=? AND i.sort=? ORDER BY v.id DESC",
        (name, sort),
    ).fetchall()
    for item_id in {row[1] for row in rows if row[4] == TAKEN_BACK}:
        db.execute("UPDATE kit_item SET put_away = 0 WHERE id = ?", (item_id,))
    own = _OWN[sort]
    shelf: Facts = next((_said(facts_of(r[2])) for r in rows if r[3]), {})
    fills = all(given.get(key) == shelf[key] for key in own if key in shelf)
    lacks = any(key not in shelf for key in given)  # also where it was once filled in
    for row in rows:
        known = _said(facts_of(row[2]))
        if {k: known[k] for k in own if k in known} == given and not (row[3] and fills and lacks):
            return int(row[0])
    if not rows:
        return _insert(db, _new_item(db, sort), name, given, now)
    rest = {key: value for key, value in shelf.items() if key not in own}
    return _insert(db, rows[0][1], name, rest | given, now, on_shelf=fills)


def _new_item(db: sqlite3.Connection, sort: str) -> int:
    return int(db.execute("INSERT INTO kit_item(sort) VALUES (?)", (sort,)).lastrowid or 0)


def _insert(
    db: sqlite3.Connection,
    item_id: int,
    name: str,
    facts: Facts,
    now: str,
    *,
    on_shelf: bool = True,
) -> int:
    cursor = db.execute(
        "INSERT INTO kit_version(item_id, name, facts, at, on_shelf) VALUES (?,?,?,?,?)",
        (item_id, name, _text(facts), now, int(on_shelf)),
    )
    return int(cursor.lastrowid or 0)


def names(db: sqlite3.Connection, sort: str) -> dict[str, int]:
    """Return the item of every name on the shelf, names in small letters."""
    return {t.name.casefold(): t.item_id for t in things(db, sort)}


def _check(
    db: sqlite3.Connection,
    sort: str,
    name: str,
    facts: Facts,
    item_id: int,
    taken: Mapping[str, int] | None = None,
) -> None:
    what = BY_SORT[sort].one
    if not name.strip():
        raise ValueRefused(f"A {what} needs a name.", todo="Type one.")
    check_text(name, f"the name of a {what}")
    check_facts(sort, facts)
    taken = names(db, sort) if taken is None else taken
    if taken.get(name.casefold(), item_id) != item_id:
        raise ValueRefused(f"There is a {what} {name} already.", todo="Choose another name.")


def add(
    db: sqlite3.Connection,
    sort: str,
    name: str,
    facts: Facts,
    now: str,
    taken: dict[str, int] | None = None,
) -> int:
    """Put a thing on the shelf and return its item's id.

    ``taken`` holds the names that stand there, where many are put; the new one is added to it.

    Raises
    ------
    ValueRefused
        When its name is taken, or a fact cannot be.
    """
    taken = names(db, sort) if taken is None else taken
    _check(db, sort, name, facts, 0, taken)
    taken[name.casefold()] = item_id = _add(db, sort, name, facts, now)
    return item_id


def _add(db: sqlite3.Connection, sort: str, name: str, facts: Facts, now: str) -> int:
    if sort == PERSON:
        db.execute(
            "INSERT INTO person(name, role) VALUES (?,?) ON CONFLICT(name) DO UPDATE"
            " SET role=excluded.role, put_away=0",
            (name, facts.get("role", "")),
        )
        return int(db.execute("SELECT id FROM person WHERE name=?", (name,)).fetchone()[0])
    item_id = _new_item(db, sort)
    _insert(db, item_id, name, _said(facts), now)
    return item_id


def edit(
    db: sqlite3.Connection,
    sort: str,
    item_id: int,
    name: str,
    facts: Facts,
    now: str,
    taken: Mapping[str, int] | None = None,
) -> None:
    """Give a thing a new version; trials keep the one that they used."""
    _check(db, sort, name, facts, item_id, taken)
    if sort != PERSON:
        if sort == PAD_KIND:
            _take_along(db, item_id, name, now)
        _insert(db, item_id, name, _said(facts), now)
        return
    try:
        db.execute(
            "UPDATE person SET name=?, role=? WHERE id=?", (name, facts.get("role", ""), item_id)
        )
    except sqlite3.IntegrityError as error:
        raise ValueRefused(
            f"There was a person {name} already, who is put away.", todo="Bring that one back."
        ) from error


def _take_along(db: sqlite3.Connection, item_id: int, name: str, now: str) -> None:
    """Let the single pads of a kind follow it under its new name."""
    kind = next((t for t in things(db, PAD_KIND) if t.item_id == item_id), None)
    if kind is None or kind.name == name:
        return
    for single in things(db, PAD):
        if str(single.facts.get("kind", "")).casefold() == kind.name.casefold():
            _insert(db, single.item_id, single.name, single.facts | {"kind": name}, now)


def _name(db: sqlite3.Connection, sort: str, item_id: int) -> str:
    sql = (
        "SELECT name FROM person WHERE id=?"
        if sort == PERSON
        else "SELECT name FROM kit_version WHERE item_id=? AND on_shelf=1 ORDER BY id DESC LIMIT 1"
    )
    row = db.execute(sql, (item_id,)).fetchone()
    return str(row[0]) if row is not None else ""


def put_away(
    db: sqlite3.Connection,
    sort: str,
    item_id: int,
    away: bool,
    taken: dict[str, int] | None = None,
) -> None:
    """Take a thing off the shelf, or put it back; trials that used it keep it.

    ``taken`` holds the names that stand there, where many are put back.

    Raises
    ------
    ValueRefused
        When another thing of its name stands there now.
    """
    if not away:
        name = _name(db, sort, item_id)
        taken = names(db, sort) if taken is None else taken
        _check(db, sort, name, {}, item_id, taken)
        taken[name.casefold()] = item_id
    table = "person" if sort == PERSON else "kit_item"
    db.execute(f"UPDATE {table} SET put_away=? WHERE id=?", (int(away), item_id))


def things(db: sqlite3.Connection, sort: str, *, away: bool = False) -> list[KitVersion]:
    """Return the newest version of every named thing of a sort on the shelf, by name."""
    if sort == PERSON:
        rows = db.execute(
            "SELECT id, id, name, role FROM person WHERE put_away=? ORDER BY name", (int(away),)
        )
        return [KitVersion(r[0], r[1], r[2], _said({"role": r[3]})) for r in rows]
    rows = db.execute(
        "SELECT v.id, v.item_id, v.name, v.facts FROM kit_version v"
        " JOIN kit_item i ON i.id = v.item_id WHERE i.sort=? AND i.put_away=? AND v.name<>''"
        " AND v.id = (SELECT max(id) FROM kit_version WHERE item_id = i.id AND on_shelf = 1)"
        " ORDER BY v.name",
        (sort, int(away)),
    )
    return [KitVersion(r[0], r[1], r[2], _said(facts_of(r[3]))) for r in rows]


def newest(db: sqlite3.Connection, sort: str, name: str) -> int | None:
    """Return the version of a thing as it stands on the shelf now, None for none of the name."""
    low = name.casefold()
    return next((t.id for t in things(db, sort) if t.name.casefold() == low), None)


def history(db: sqlite3.Connection, item_id: int) -> list[tuple[str, Facts]]:
    """Return the versions that a thing had on the shelf, oldest first: (when, facts)."""
    rows = db.execute(
        "SELECT at, facts FROM kit_version WHERE item_id=? AND on_shelf=1 ORDER BY id", (item_id,)
    )
    return [(r[0], _said(facts_of(r[1]))) for r in rows]
