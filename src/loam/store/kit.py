"""The workshop's kit, in versions: what a trial used stays as it was when kit is edited later."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass

PAD_KIND, PAD, COMPOUND, MACHINE, DISC, WIPE, LIGHT, METER = (
    "pad-kind", "pad", "compound", "machine", "disc", "wipe", "light", "meter",
)  # fmt: skip


@dataclass(frozen=True)
class KitVersion:
    """One state of a piece of kit: its name and the facts that held then."""

    id: int
    item_id: int
    name: str
    facts: dict[str, object]


def version_id(
    db: sqlite3.Connection, sort: str, name: str, facts: Mapping[str, object], now: str
) -> int | None:
    """Return the version of a piece of kit with this name and these facts, added when new.

    None when it has neither name nor facts.
    """
    if not name and not any(facts.values()):
        return None
    text = json.dumps(dict(facts), sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    rows = db.execute(
        "SELECT v.id, v.item_id, v.facts FROM kit_version v JOIN kit_item i ON i.id = v.item_id"
        " WHERE v.name=? AND i.sort=? ORDER BY v.id DESC",
        (name, sort),
    ).fetchall()
    for row in rows:
        if row[2] == text:
            return int(row[0])
    item = (
        rows[0][1]
        if rows
        else db.execute("INSERT INTO kit_item(sort) VALUES (?)", (sort,)).lastrowid
    )
    cursor = db.execute(
        "INSERT INTO kit_version(item_id, name, facts, at) VALUES (?,?,?,?)",
        (item, name, text, now),
    )
    return int(cursor.lastrowid or 0)


def edit(
    db: sqlite3.Connection, item_id: int, name: str, facts: Mapping[str, object], now: str
) -> int:
    """Give a piece of kit a new version; trials keep the one that they used."""
    text = json.dumps(dict(facts), sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    cursor = db.execute(
        "INSERT INTO kit_version(item_id, name, facts, at) VALUES (?,?,?,?)",
        (item_id, name, text, now),
    )
    return int(cursor.lastrowid or 0)


def shelf(db: sqlite3.Connection, sort: str) -> list[KitVersion]:
    """Return the newest version of every named piece of kit of a sort, by name."""
    rows = db.execute(
        "SELECT v.id, v.item_id, v.name, v.facts FROM kit_version v"
        " JOIN kit_item i ON i.id = v.item_id WHERE i.sort=? AND i.put_away=0 AND v.name<>''"
        " AND v.id = (SELECT max(id) FROM kit_version WHERE item_id = i.id) ORDER BY v.name",
        (sort,),
    )
    return [KitVersion(r[0], r[1], r[2], json.loads(r[3])) for r in rows]
