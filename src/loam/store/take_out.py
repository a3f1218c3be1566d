"""A trial taken out of the workshop, with all that belongs to it, as the record declares it."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from loam.core.errors import LoamError
from loam.core.kit.facts import PAD
from loam.core.record import (
    CHOICES,
    DECISION,
    GROWING,
    LINE,
    NOTE,
    OBJECT,
    READING,
    STRIKE,
    WORK,
    Field,
    Sort,
)
from loam.core.record.trial import USED
from loam.core.trial import Cell, Combination, Panel, Reading
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import readings as reading_store
from loam.store import trials as trial_store
from loam.store.choices import key_here, key_of_choice, named_within, renamed
from loam.store.draft import Row, Strike, TrialDraft
from loam.store.facts_text import facts_of, value_of
from loam.store.identity import (
    AGAIN,
    Made,
    by_made,
    cell_uid,
    digest,
    identities,
    kept_uids,
    made_at,
)
from loam.store.job_travel import jobs_out
from loam.store.origins import origin_of
from loam.store.panels import ON_GRID, panels
from loam.store.rows import own_fields
from loam.store.settings import recall

_T = TypeVar("_T", Panel, Combination)
SHOWN = "t.trial_id = ?1 AND t.put_away = 0"
CELLS = (
    f"SELECT c.id FROM cell c JOIN taping t ON t.id = c.taping_id WHERE {SHOWN}"
    f" AND c.put_away = 0{ON_GRID}"
)
_BOARDS = (
    "SELECT v.panel_id FROM taping t JOIN panel_version v ON v.id = t.panel_version_id"
    f" WHERE {SHOWN}"
)
_NOTES = f"n.trial_id = ?1 AND (n.cell_id IS NULL OR n.cell_id IN ({CELLS}))"
WHOSE: dict[str, str] = {
    "trial": "x.trial_id = ?1",
    "cell": f"x.cell_id IN ({CELLS})",
    "panel": f"x.taping_id IN (SELECT t.id FROM taping t WHERE {SHOWN})",
    "board": f"x.panel_id IN ({_BOARDS})",
    "note": f"x.noted_id IN (SELECT n.id FROM noted n WHERE {_NOTES})",
    "survey": f"x.survey_id IN (SELECT s.id FROM survey s WHERE s.panel_id IN ({_BOARDS}))",
    "reading": f"x.reading_id IN (SELECT r.id FROM reading r WHERE r.cell_id IN ({CELLS}))",
    "line": f"x.id IN (SELECT r.raw_line_id FROM reading r WHERE r.cell_id IN ({CELLS}))",
}
"""Which rows of a table belong to a trial, by what they belong to."""
_HAND = (READING, STRIKE)
"""What grows and is read with values of its own."""


@dataclass
class Known:
    """How rows of the workshop are called outside it: by number and by identity, a sort each."""

    number: dict[str, dict[int, int]] = field(default_factory=dict)
    uid: dict[str, dict[int, str]] = field(default_factory=dict)
    people: dict[int, str] = field(default_factory=dict)
    days: dict[int, str] = field(default_factory=dict)
    images: dict[str, bytes] = field(default_factory=dict)

    def named(self, sort: str, row: Any) -> Any:
        """Return the identity of a row; itself where it has none."""
        return self.uid.get(sort, {}).get(row, row) if isinstance(row, int) else row


def read_draft(db: sqlite3.Connection, trial_id: int) -> TrialDraft:
    """Take a whole trial out of the workshop, renumbered from 1."""
    return taken_out(db, trial_id)[0]


def taken_out(db: sqlite3.Connection, trial_id: int) -> tuple[TrialDraft, Known]:
    """Take a whole trial out of the workshop, with how its rows are called outside."""
    trial = next((t for t in trial_store.trials(db) if t.id == trial_id), None)
    if trial is None:
        raise LoamError("There is no such trial any more.", todo="Choose another one.")
    created = db.execute("SELECT created_at FROM trial WHERE id=?", (trial_id,)).fetchone()[0]
    made = {sort: identities(db, sort) for sort in ("trial", "panel", "board", "combination")}
    taped = in_order(panels(db, trial_id), by_made(made["panel"]))
    combinations = in_order(
        combination_store.combinations(db, trial_id), by_made(made["combination"])
    )
    known, cells = outside(db, trial_id, made, taped, combinations)
    number = known.number
    readings = reading_store.readings_of_cells(db, [c.id for c in cells])
    readings.sort(key=lambda r: r.id)
    number["reading"] = {r.id: i for i, r in enumerate(readings, 1)}
    known.uid["reading"] = reading_uids(db, readings, known)
    strikes = _strikes(db, trial_id, known)
    things = things_used(db, trial_id)
    number["thing"] = {row: i for i, row in enumerate(things, 1)}
    grown = {s.key: rows_out(db, s, trial_id, known) for s in GROWING if s not in _HAND}
    rest: dict[str, list[Row]] = {k: [r for _, r in rows] for k, rows in grown.items()}
    lines = _refers(db, trial_id, "raw_line_id", number.get(LINE.key, {}))
    meters = _refers(db, trial_id, "meter_id", number["thing"])
    rest["thing"] = list(_things(db, things))
    rest["choice"] = list(_choices(db, trial_id, known))
    rest["away"] = list(_away(db, trial_id, made))
    rest["change"] = list(_changes(db, trial_id, known, made))
    rest |= jobs_out(db, made["trial"][trial_id].uid)
    names = {n for r in readings for n in (r.operator, r.reader)} | {
        str(r["person"]) for rows in rest.values() for r in rows if "person" in r
    }
    rest["person"] = list(_people(db, names - {""}))
    known.uid["strike"] = {row: own.uid for own, _, row in strikes}
    draft = TrialDraft(
        replace(trial, id=1),
        tuple(replace(p, id=number["panel"][p.id], trial_id=1, physical=0) for p in taped),
        tuple(replace(c, id=number["combination"][c.id]) for c in combinations),
        tuple(
            replace(
                c,
                id=number["cell"][c.id],
                panel_id=number["panel"][c.panel_id],
                combination_id=number["combination"].get(c.combination_id or 0),
            )
            for c in cells
        ),
        tuple(
            replace(r, id=number["reading"][r.id], cell_id=number["cell"][r.cell_id])
            for r in readings
        ),
        tuple(s for _, s, _ in strikes),
        created,
        workshop=origin_of(db, trial_id),
        side={
            "trial": {"uid": (made["trial"][trial_id].uid,)},
            "panel": {
                "uid": tuple(made["panel"][p.id].uid for p in taped),
                "board": tuple(made["board"][p.physical].uid for p in taped),
                "made": tuple(made["panel"][p.id].made for p in taped),
            },
            "combination": {
                "uid": tuple(made["combination"][c.id].uid for c in combinations),
                "made": tuple(made["combination"][c.id].made for c in combinations),
            },
            "stage": _used(db, combinations, number["thing"]),
            "reading": {
                "meter_as_used": tuple(meters.get(r.id) for r in readings),
                "line": tuple(lines.get(r.id) for r in readings),
                "uid": tuple(known.uid["reading"][r.id] for r in readings),
            },
            "strike": {
                "uid": tuple(own.uid for own, _, _ in strikes),
                "made": tuple(own.made for own, _, _ in strikes),
            },
        },
        rest={k: tuple(rows) for k, rows in rest.items() if rows},
        images=known.images,
    )
    return draft, known


def in_order(rows: Iterable[_T], place: Mapping[int, int]) -> list[_T]:
    """Return panels or combinations in the order in which they were made."""
    return sorted(rows, key=lambda row: place.get(row.id, row.id))


def outside(
    db: sqlite3.Connection,
    trial_id: int,
    made: Mapping[str, Mapping[int, Made]],
    taped: Iterable[Panel],
    combinations: Iterable[Combination],
) -> tuple[Known, list[Cell]]:
    """Return how the rows of a trial are called outside, and its cells in that order."""
    known = Known(
        people=dict(db.execute("SELECT id, name FROM person").fetchall()),
        days=dict(db.execute("SELECT id, day FROM session").fetchall()),
    )
    number, uid = known.number, known.uid
    number["panel"] = {p.id: i for i, p in enumerate(taped, 1)}
    number["board"] = {}
    for p in taped:
        number["board"].setdefault(p.physical, number["panel"][p.id])
    number["combination"] = {c.id: i for i, c in enumerate(combinations, 1)}
    for sort in ("trial", "panel", "board", "combination"):
        uid[sort] = {row: own.uid for row, own in made[sort].items()}
    cells = [c for c in cell_store.cells(db, trial_id) if c.panel_id in number["panel"]]
    cells.sort(key=lambda c: (number["panel"][c.panel_id], c.row, c.column))
    number["cell"] = {c.id: i for i, c in enumerate(cells, 1)}
    uid["cell"] = {c.id: cell_uid(uid["panel"][c.panel_id], c.row, c.column) for c in cells}
    return known, cells


def reading_uids(
    db: sqlite3.Connection, readings: Iterable[Reading], known: Known
) -> dict[int, str]:
    """Return the identity of every reading, by row."""
    rows = list(readings)
    kept, cell = kept_uids(db, "reading", (r.id for r in rows)), known.uid["cell"]
    return {
        r.id: kept[r.id].uid
        if r.id in kept
        else digest(
            "reading",
            cell[r.cell_id],
            r.id,
            r.measurand,
            r.phase,
            r.stage,
            r.ordinal,
            float(r.value).hex(),
            r.taken_at,
        )
        for r in rows
    }


def _strikes(db: sqlite3.Connection, trial_id: int, known: Known) -> list[tuple[Made, Strike, int]]:
    """Return the log of strikes of a trial: identity, entry and row each, oldest first."""
    rows = db.execute(
        "SELECT x.id, x.reading_id, x.struck, x.reason, x.at FROM strike x"
        f" WHERE {WHOSE['reading']} ORDER BY x.id",
        (trial_id,),
    ).fetchall()
    kept, reading = kept_uids(db, "strike", (r[0] for r in rows)), known.uid["reading"]
    number = known.number["reading"]
    found = [
        (
            kept[r[0]]
            if r[0] in kept
            else Made(digest("strike", reading[r[1]], *r[:1], *r[2:]), made_at(r[4], r[0])),
            Strike(number[r[1]], bool(r[2]), r[3], r[4]),
            r[0],
        )
        for r in rows
        if r[1] in number
    ]
    order = as_they_hold([own.uid for own, _, _ in found])
    return [found[i] for i in order]


def as_they_hold(uids: Sequence[str]) -> list[int]:
    """Return the order of rows in which those that were said anew stand where that was done."""
    last = {uid.removeprefix(AGAIN): i for i, uid in enumerate(uids)}
    real = [i for i, uid in enumerate(uids) if not uid.startswith(AGAIN)]
    return sorted(real, key=lambda i: last[uids[i]])


def rows_out(
    db: sqlite3.Connection, sort: Sort, trial_id: int, known: Known
) -> list[tuple[int, Row]]:
    """Return the rows of a sort that belong to a trial as a file has them, and which they are.

    What refers to something that the trial does not show is left out. The rows are numbered in
    ``known``.
    """
    own = own_fields(sort)
    listed = ", ".join(f"x.{f.stored}" for f in own)
    sql = f"SELECT x.id, {listed} FROM {sort.table} x WHERE {whose(sort)} ORDER BY x.id"
    rows = db.execute(sql, (trial_id,)).fetchall()
    kept = kept_uids(db, sort.key, (r[0] for r in rows))
    numbers = known.number.setdefault(sort.key, {})
    uids = known.uid.setdefault(sort.key, {})
    found: list[tuple[int, Row]] = []
    for row_id, *values in rows:
        if any(_lost(f, v, known) for f, v in zip(own, values, strict=True)):
            continue
        uid = kept[row_id].uid if row_id in kept else _content(sort, row_id, own, values, known)
        numbers[row_id], uids[row_id] = len(found) + 1, uid
        row: Row = {f.name: _outside(f, v, known) for f, v in zip(own, values, strict=True)}
        if sort.latest:
            row["made"] = kept[row_id].made if row_id in kept else made_at(row["at"], row_id)
        if sort is DECISION:
            _decision_out(row, known)
        first = {"id": numbers[row_id]} if any(f.name == "id" for f in sort.fields) else {}
        found.append((row_id, {**first, **row, "uid": uid}))
    if sort.latest:
        return [found[i] for i in as_they_hold([str(row["uid"]) for _, row in found])]
    return found


def whose(sort: Sort) -> str:
    """Return the condition on rows ``x`` of a sort by which they belong to trial ``?1``."""
    if sort is NOTE:
        return f"x.trial_id = ?1 AND (x.cell_id IS NULL OR x.cell_id IN ({CELLS}))"
    return WHOSE[sort.belongs]


def _lost(field: Field, value: Any, known: Known) -> bool:
    """Tell whether a value refers to what the trial does not show."""
    return value is not None and field.of in known.number and value not in known.number[field.of]


def _content(
    sort: Sort, row_id: int, fields: Sequence[Field], values: list[Any], known: Known
) -> str:
    """Return the identity of a row by what it says and never changes: nobody's name is in it.

    That somebody worked a cell, and nothing more, is the same wherever it was noted.
    """
    says = []
    bare = sort is WORK and values[2] == "worked" and values[6] in ("{}", "")
    for own, value in zip(fields, values, strict=True):
        if own.of == "person":
            says.append(known.people.get(value, "") if bare else "")
        elif own.of == "day":
            says.append("" if bare else known.days.get(value, ""))
        elif own.of == "thing":
            says.append("")
        elif own.of:
            says.append(known.named(own.of, value))
        elif isinstance(value, bytes):
            says.append(hashlib.sha256(value).hexdigest())
        elif not (bare and own.name == "at"):
            says.append(value)
    return digest(sort.key, 0 if bare else row_id, *says)


def _outside(field: Field, value: Any, known: Known) -> Any:
    """Return a value as a file has it."""
    if field.of == "person":
        return known.people.get(value, "")
    if field.of == "day":
        return known.days.get(value, "")
    if field.of:
        return None if value is None else known.number.get(field.of, {}).get(value)
    if field.stored == "image":
        name = f"{hashlib.sha256(value).hexdigest()}.jpg"
        known.images[name] = bytes(value)
        return name
    if isinstance(value, bytes):
        return as_line(value)
    if field.holds == OBJECT and field.within:
        facts = facts_of(value)
        if any(key in facts for key in field.within):
            return as_object(named_within(facts, field.within, known.named))
    return value


def as_object(value: Any) -> str:
    """Write a JSON value as the workshop does."""
    return json.dumps(value, sort_keys=True, ensure_ascii=False)


def as_line(raw: bytes) -> str:
    """Write what an instrument said as text: letters as they are, whatever else by number."""
    text = raw.decode("latin-1")
    return text if text.isascii() and text.isprintable() else f"hex:{raw.hex()}"


def line_bytes(text: str) -> bytes:
    """Read it back."""
    if text.startswith("hex:"):
        try:
            return bytes.fromhex(text[4:])
        except ValueError:
            return text.encode("ascii", "replace")
    return text.encode("ascii", "replace")


def _decision_out(row: Row, known: Known) -> None:
    key = key_of_choice(str(row["key"]))
    row["value"] = as_object(renamed(key, value_of(row["value"]), known.named, _number))
    row["key"] = key


def _number(text: Any) -> Any:
    return int(text) if isinstance(text, str) and text.isdigit() else text


def _refers(
    db: sqlite3.Connection, trial_id: int, column: str, number: Mapping[int, int]
) -> dict[int, int]:
    """Return, by row of a reading, the number of the line or the meter that it came by."""
    if not number:
        return {}
    rows = db.execute(
        f"SELECT x.id, x.{column} FROM reading x WHERE x.{column} IS NOT NULL AND {WHOSE['cell']}",
        (trial_id,),
    )
    return {row: number[to] for row, to in rows if to in number}


def _used(
    db: sqlite3.Connection, combinations: Sequence[Combination], number: Mapping[int, int]
) -> dict[str, tuple[int | None, ...]]:
    """Return the numbers of the things that each stage used, by field."""
    columns = ", ".join(f"{what}_id" for what in USED)
    rows = []
    for c in combinations:
        sql = f"SELECT {columns} FROM stage WHERE combination_id = ? ORDER BY position"
        rows += db.execute(sql, (c.id,)).fetchall()[: len(c.stages)]
    return {
        f"{what}_as_used": tuple(number.get(row[i]) for row in rows) for i, what in enumerate(USED)
    }


_THINGS = (
    "SELECT s.pad_id FROM stage s JOIN combination k ON k.id = s.combination_id WHERE {k}"
    " UNION SELECT s.compound_id FROM stage s JOIN combination k ON k.id = s.combination_id"
    " WHERE {k} UNION SELECT s.machine_id FROM stage s JOIN combination k"
    " ON k.id = s.combination_id WHERE {k} UNION SELECT s.disc_id FROM stage s"
    " JOIN combination k ON k.id = s.combination_id WHERE {k}"
    " UNION SELECT x.meter_id FROM reading x WHERE {cell}"
    " UNION SELECT x.meter_id FROM raw_line x WHERE {line}"
    " UNION SELECT x.meter_id FROM survey x WHERE {board}"
    " UNION SELECT x.pad_id FROM work x WHERE {cell}"
).format(k="k.trial_id = ?1 AND k.put_away = 0", **WHOSE)
_NAMED = ("meter", "with", "cloth", "light")
"""Facts of a note that name a thing of the shelf."""


def things_used(db: sqlite3.Connection, trial_id: int) -> list[int]:
    """Return the versions of things that a trial used, and how each stands on the shelf now.

    Of a single pad, whose life goes on, every version.
    """
    rows = db.execute(
        f"WITH used(id) AS ({_THINGS}), item(id) AS (SELECT DISTINCT v.item_id FROM kit_version v"
        " WHERE v.id IN (SELECT id FROM used) UNION SELECT v.item_id FROM kit_version v"
        " WHERE v.on_shelf = 1 AND v.name <> '' AND v.name IN"
        f" (SELECT j.value FROM noted x, json_each(x.facts) j WHERE {whose(NOTE)}"
        f" AND json_valid(x.facts) AND j.key IN ({','.join(repr(n) for n in _NAMED)})))"
        " SELECT v.id FROM kit_version v JOIN kit_item i ON i.id = v.item_id"
        " WHERE v.id IN (SELECT id FROM used)"
        " OR v.id IN (SELECT max(w.id) FROM kit_version w WHERE w.on_shelf = 1 AND w.item_id IN"
        " (SELECT id FROM item) GROUP BY w.item_id)"
        f" OR (i.sort = '{PAD}' AND i.id IN (SELECT id FROM item)) ORDER BY v.id",
        (trial_id,),
    )
    return [int(r[0]) for r in rows]


def _things(db: sqlite3.Connection, rows: list[int]) -> Iterable[Row]:
    item = identities(db, "item")
    for i, row in enumerate(rows, 1):
        sort, name, facts, shelf, at, item_id = db.execute(
            "SELECT i.sort, v.name, v.facts, v.on_shelf, v.at, v.item_id FROM kit_version v"
            " JOIN kit_item i ON i.id = v.item_id WHERE v.id = ?",
            (row,),
        ).fetchone()
        yield {
            "id": i,
            "sort": sort,
            "name": name,
            "facts": facts,
            "shelf": shelf,
            "at": at,
            "uid": item[item_id].uid,
        }


def _choices(db: sqlite3.Connection, trial_id: int, known: Known) -> Iterable[Row]:
    for key in CHOICES:
        value = recall(db, key_here(key, trial_id))
        if value not in (None, {}, [], "", 0, False):
            yield {"key": key, "value": as_object(renamed(key, value, known.named, _number))}


def _away(
    db: sqlite3.Connection, trial_id: int, made: Mapping[str, Mapping[int, Made]]
) -> Iterable[Row]:
    for sort, table in (("panel", "taping"), ("combination", "combination")):
        rows = db.execute(
            f"SELECT id FROM {table} WHERE trial_id = ? AND put_away = 1 ORDER BY id", (trial_id,)
        )
        for (row,) in rows:
            yield {"sort": sort, "uid": made[sort][row].uid}


def _changes(
    db: sqlite3.Connection, trial_id: int, known: Known, made: Mapping[str, Mapping[int, Made]]
) -> Iterable[Row]:
    """Return the changes of a trial's choices, oldest first."""
    for of, uid, at in changes_of(db, trial_id, known, made):
        yield {"of": of, "uid": uid, "at": at}


def changes_of(
    db: sqlite3.Connection, trial_id: int, known: Known, made: Mapping[str, Mapping[int, Made]]
) -> list[tuple[str, str, str]]:
    """Return (of what, identity, when) of each change of what a trial has, oldest first."""
    trial = {"trial": {trial_id: made["trial"][trial_id].uid}}
    uid = {
        **trial,
        "panel": known.uid["panel"],
        "combination": known.uid["combination"],
        "cell": known.uid["cell"],
        "baseline": known.uid["cell"],
    }
    there = {
        "panel": "SELECT id FROM taping WHERE trial_id = ?",
        "combination": "SELECT id FROM combination WHERE trial_id = ?",
    }
    own = {s: {r[0] for r in db.execute(sql, (trial_id,))} for s, sql in there.items()}
    suffix = f":{trial_id}"
    found = []
    rows = db.execute(
        "SELECT sort, row, part, uid, at FROM change WHERE sort <> 'person' ORDER BY id"
    )
    for sort, row, part, change, at in rows:
        if sort == "choice":
            if part.endswith(suffix):
                found.append((f"choice:{key_of_choice(part)}", change, at))
        elif row in uid[sort] and row in own.get(sort, {row}):
            found.append((":".join(filter(None, (sort, uid[sort][row], part))), change, at))
    return found


def _people(db: sqlite3.Connection, names: set[str]) -> Iterable[Row]:
    own = identities(db, "person")
    for row, name, role in db.execute("SELECT id, name, role FROM person ORDER BY name"):
        if name in names:
            yield {"name": name, "role": role, "uid": own[row].uid}
