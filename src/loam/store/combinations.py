"""Combinations of a trial and their stages, which name kit of the workshop by version."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import fields, replace

from loam.core.errors import ValueRefused
from loam.core.kit import COMPOUND_BY_KEY, PAD_BY_KEY
from loam.core.machines import BY_KEY as MACHINE_BY_KEY
from loam.core.stage_settings import MAX_STAGES, OWN, SETTINGS, facts_of_thing
from loam.core.trial import Combination, Stage
from loam.core.wipes import read_wipes, written
from loam.store import kit
from loam.store.facts_text import facts_of

STAGE_FIELDS = tuple(f.name for f in fields(Stage))


def _taken(code: str) -> ValueRefused:
    return ValueRefused(
        f"There is a combination {code} in this trial already.", todo="Choose another name."
    )


def add_combination(
    db: sqlite3.Connection, trial_id: int, combination: Combination, now: str
) -> int:
    """Insert a combination with its stages and return its id."""
    try:
        cursor = db.execute(
            "INSERT INTO combination(id, trial_id, code, name, control) VALUES (?,?,?,?,?)",
            (
                combination.id or None,
                trial_id,
                combination.code,
                combination.name,
                combination.control,
            ),
        )
    except sqlite3.IntegrityError as error:
        raise _taken(combination.code) from error
    row_id = int(cursor.lastrowid or 0)
    _write_stages(db, row_id, combination.stages, now)
    return row_id


def change_combination(db: sqlite3.Connection, combination: Combination, now: str) -> None:
    """Write a combination's code, name and stages."""
    try:
        db.execute(
            "UPDATE combination SET code=?, name=?, control=? WHERE id=?",
            (combination.code, combination.name, combination.control, combination.id),
        )
    except sqlite3.IntegrityError as error:
        raise _taken(combination.code) from error
    db.execute("DELETE FROM stage WHERE combination_id=?", (combination.id,))
    _write_stages(db, combination.id, combination.stages, now)


def _write_stages(
    db: sqlite3.Connection, combination_id: int, stages: Sequence[Stage], now: str
) -> None:
    for position, s in enumerate(stages):
        versions = (
            kit.version_id(
                db,
                kit.PAD_KIND,
                s.pad,
                {"material": s.pad_material, **facts_of_thing(s, "pad")},
                now,
            ),
            kit.version_id(db, kit.COMPOUND, s.compound, {"class": s.compound_class}, now),
            kit.version_id(
                db,
                kit.MACHINE,
                s.machine,
                {"motion": s.machine_kind, **facts_of_thing(s, "machine")},
                now,
            ),
            kit.version_id(db, kit.DISC, s.disc, facts_of_thing(s, "disc"), now),
        )
        settings = _known(**{name: getattr(s, name) for name in OWN})
        if s.wipes:
            settings["wipes"] = written(s.wipes)
        db.execute(
            "INSERT INTO stage(combination_id, position, pad_id, compound_id, machine_id, disc_id,"
            " passes, dial, force_n, settings) VALUES (?,?,?,?,?,?,?,?,?,?)",
            (
                combination_id,
                position,
                *versions,
                s.passes,
                s.dial,
                s.force_n,
                json.dumps(settings, sort_keys=True),
            ),
        )


def _known(**values: float | None) -> dict[str, object]:
    """Leave out what is not said, so that equal kit stays one version."""
    return {name: value for name, value in values.items() if value is not None}


def combinations(db: sqlite3.Connection, trial_id: int, *, away: bool = False) -> list[Combination]:
    """Return a trial's combinations in the order they came."""
    stages: dict[int, list[Stage]] = {}
    for row in db.execute(
        "SELECT s.combination_id, s.passes, s.dial, s.force_n, s.settings, p.name, p.facts, c.name,"
        " c.facts, m.name, m.facts, d.name, d.facts FROM stage s"
        " JOIN combination x ON x.id = s.combination_id"
        " LEFT JOIN kit_version p ON p.id = s.pad_id"
        " LEFT JOIN kit_version c ON c.id = s.compound_id"
        " LEFT JOIN kit_version m ON m.id = s.machine_id"
        " LEFT JOIN kit_version d ON d.id = s.disc_id"
        " WHERE x.trial_id=? ORDER BY s.combination_id, s.position",
        (trial_id,),
    ):
        stages.setdefault(row[0], []).append(_stage(*row[1:]))
    rows = db.execute(
        "SELECT id, code, name, control FROM combination WHERE trial_id=? AND put_away=?"
        " ORDER BY id",
        (trial_id, int(away)),
    )
    return [_combination(r[0], r[1], r[2], tuple(stages.get(r[0], ())), r[3]) for r in rows]


def _combination(
    row_id: int, code: str, name: str, stages: tuple[Stage, ...], control: str
) -> Combination:
    try:
        return Combination(row_id, code, name, stages, control)
    except ValueRefused:
        return Combination(row_id, code.strip()[:12] or "?", name.strip()[:60], stages[:MAX_STAGES])


def _stage(
    passes: int,
    dial: str,
    force: float | None,
    settings: str,
    pad: str | None,
    pad_facts: str | None,
    compound: str | None,
    compound_facts: str | None,
    machine: str | None,
    machine_facts: str | None,
    disc: str | None,
    disc_facts: str | None,
) -> Stage:
    """Build a stage from its row; a class that this version does not know counts as not given."""
    values = (
        pad or "",
        compound or "",
        machine or "",
        _fact(pad_facts, "material", PAD_BY_KEY),
        _fact(compound_facts, "class", COMPOUND_BY_KEY),
        _fact(machine_facts, "motion", MACHINE_BY_KEY),
    )
    further = {name: _number(settings, name) for name in OWN}
    of = {"pad": pad_facts, "machine": machine_facts, "disc": disc_facts}
    further |= {s.key: _number(of[s.thing], s.kit, yes=s.yes) for s in SETTINGS if s.kit}
    try:
        plain = Stage(*values, passes, dial, force)
        wipes = read_wipes(str(facts_of(settings).get("wipes", "")))
        return replace(plain, disc=disc or "", wipes=wipes, **further)  # type: ignore[arg-type]
    except ValueRefused:
        pad, compound, machine = (v[:60] for v in values[:3])
        return Stage(pad, compound, machine, *values[3:], min(max(passes, 0), 99), dial[:20])


def _fact(facts: str | None, key: str, known: object) -> str:
    value = facts_of(facts).get(key, "")
    return value if isinstance(value, str) and value in known else ""  # type: ignore[operator]


def _number(facts: str | None, key: str, *, yes: bool = False) -> float | None:
    value: object = facts_of(facts).get(key)
    if isinstance(value, bool) is not yes or not isinstance(value, int | float):
        return None
    return float(value)
