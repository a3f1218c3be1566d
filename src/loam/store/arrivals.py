"""People and things of a file find those of the workshop, or come onto its shelf."""

from __future__ import annotations

import sqlite3
from dataclasses import replace

from loam.core.kit.facts import PAD
from loam.store.draft import Row, TrialDraft
from loam.store.identity import also_called, call_also, is_uid, name_rows
from loam.store.people import person_id


def people_in(db: sqlite3.Connection, draft: TrialDraft) -> None:
    """Let the people of a file be those of the workshop, by identity, else by name.

    Who is known here under another name keeps it; a role that is not known here is filled in.
    """
    known = also_called(db, "person")
    for row in draft.rest.get("person", ()):
        name, uid = str(row["name"]), str(row["uid"])
        there = db.execute("SELECT 1 FROM person WHERE name = ?", (name,)).fetchone()
        person = person_id(db, name)
        if person is None:
            continue
        if uid not in known:
            _call(db, "person", person, uid, new=there is None)
        db.execute("UPDATE person SET role = ? WHERE id = ? AND role = ''", (row["role"], person))


def in_local_names(db: sqlite3.Connection, draft: TrialDraft) -> TrialDraft:
    """Return a draft in which who is known here by identity bears the name that is used here."""
    known = also_called(db, "person")
    names = dict(db.execute("SELECT id, name FROM person").fetchall())
    other = {
        str(r["name"]): names[known[str(r["uid"])]]
        for r in draft.rest.get("person", ())
        if known.get(str(r["uid"])) in names and names[known[str(r["uid"])]] != r["name"]
    }
    if not other:
        return draft

    def renamed(row: Row) -> Row:
        key = "name" if "role" in row else "person"
        return {**row, key: other.get(str(row[key]), row[key])} if key in row else row

    return replace(
        draft,
        readings=tuple(
            replace(
                r, operator=other.get(r.operator, r.operator), reader=other.get(r.reader, r.reader)
            )
            for r in draft.readings
        ),
        rest={sort: tuple(renamed(r) for r in rows) for sort, rows in draft.rest.items()},
    )


def things_in(db: sqlite3.Connection, draft: TrialDraft) -> dict[int, int]:
    """Let the things of a file find those of the workshop, or add them; return rows by number.

    A thing that is new here comes onto the shelf as it stood there. One that stands here already
    keeps how it stands; what the trial used is kept beside it. The life of a single pad goes on
    where its file is the newer one.
    """
    rows: dict[int, int] = {}
    items = also_called(db, "item")
    fresh: set[int] = set()
    for row in draft.rest.get("thing", ()):
        item = _item(db, row, items, fresh)
        rows[int(row["id"])] = _version(db, row, item, item in fresh)
    return rows


def _item(db: sqlite3.Connection, row: Row, items: dict[str, int], fresh: set[int]) -> int:
    uid, sort, name = str(row["uid"]), str(row["sort"]), str(row["name"])
    if uid in items:
        return items[uid]
    found = db.execute(
        "SELECT v.item_id FROM kit_version v JOIN kit_item i ON i.id = v.item_id"
        " WHERE i.sort = ? AND v.name = ? ORDER BY v.on_shelf DESC, v.id DESC LIMIT 1",
        (sort, name),
    ).fetchone()
    if found is not None:
        item = int(found[0])
    else:
        item = int(db.execute("INSERT INTO kit_item(sort) VALUES (?)", (sort,)).lastrowid or 0)
        fresh.add(item)
    _call(db, "item", item, uid, new=item in fresh)
    items[uid] = item
    return item


def _call(db: sqlite3.Connection, sort: str, row: int, uid: str, *, new: bool) -> None:
    """Let what is new here have the identity that it came with; what was here has it beside."""
    if not is_uid(uid):
        return
    if new:
        name_rows(db, sort, [(row, uid, "")])
    else:
        call_also(db, sort, row, uid)


def _version(db: sqlite3.Connection, row: Row, item: int, fresh: bool) -> int:
    name, facts, at = str(row["name"]), str(row["facts"]) or "{}", str(row["at"])
    same = "" if row["sort"] != PAD else " AND at = ?4"  # each step of a pad's life counts
    found = db.execute(
        f"SELECT max(id) FROM kit_version WHERE item_id = ?1 AND name = ?2 AND facts = ?3{same}",
        (item, name, facts, at)[: 4 if same else 3],
    ).fetchone()
    if found[0] is not None:
        return int(found[0])
    newest = db.execute(
        "SELECT coalesce(max(at), '') FROM kit_version WHERE item_id = ? AND on_shelf = 1", (item,)
    ).fetchone()[0]
    goes_on = row["sort"] == PAD and at >= newest
    shelf = int(row["shelf"]) if fresh or goes_on else 0
    return int(
        db.execute(
            "INSERT INTO kit_version(item_id, name, facts, at, on_shelf) VALUES (?,?,?,?,?)",
            (item, name, facts, at, shelf),
        ).lastrowid
        or 0
    )
