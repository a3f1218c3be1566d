"""The kit view: where a combination is used."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from loam.app.commands import CorrectThing, EditCombination, EditThing
from loam.app.presenters.shelf import things
from loam.app.session import Session
from loam.core.dose.first import first_taping
from loam.core.dose.stage import PAD_MM
from loam.core.kit.facts import speed_at
from loam.core.panel import Taping
from loam.core.stage_settings import SETTINGS
from loam.core.text import listed
from loam.core.trial import HARDNESSES, Combination, Stage
from loam.core.words.dose import ROOM_MM
from loam.store import kit

_FACTS: dict[str, tuple[str, tuple[tuple[str, str], ...]]] = {
    "pad": (kit.PAD_KIND, (("pad_material", "material"), ("pad_mm", "diameter_mm"))),
    "compound": (kit.COMPOUND, (("compound_class", "class"),)),
    "disc": (kit.DISC, (("grit", "grit"), ("damp", "damp"))),
    "wipe": (kit.WIPE, ()),
    "machine": (kit.MACHINE, (("machine_kind", "motion"), ("orbit_mm", "orbit_mm"))),
}
"""What the shelf knows of a thing: fields of a stage, and the facts that they are kept as."""


def names(session: Session, what: str) -> list[str]:
    """Return the names on the workshop's shelf that a pad, compound or machine may have."""
    return [t.name for t in things(session, _FACTS[what][0])]


def facts_of(session: Session, what: str, name: str) -> dict[str, Any]:
    """Return all that the shelf knows of a pad, compound or machine of this name."""
    wanted = name.strip().casefold()
    shelf = things(session, _FACTS[what][0])
    return next((t.facts for t in shelf if t.name.casefold() == wanted), {})


def known(session: Session, what: str, name: str) -> dict[str, object]:
    """Return what the shelf knows of a thing, as the fields of a stage."""
    found = facts_of(session, what, name)
    told = {f: found[fact] for f, fact in _FACTS[what][1] if fact in found}
    return {f: float(v) if isinstance(v, bool) else v for f, v in told.items()}


def speed_of(session: Session, machine: str, dial: str) -> float | None:
    """Return the speed that a machine's table gives for a mark of its dial."""
    return speed_at(facts_of(session, "machine", machine).get("dial"), dial)


_KINDS = {
    "pad_material": "pad",
    "compound_class": "compound",
    "machine_kind": "machine",
    "orbit_mm": "machine",
    "grit": "disc",
    "damp": "disc",
}
"""What of a stage is so of the thing itself, wherever it is used."""


def correction(
    session: Session, combination: Combination, at: int, values: Mapping[str, object]
) -> CorrectThing | None:
    """Return the act that says otherwise what a thing on the shelf is; None where none is needed.

    Parameters
    ----------
    at : int
        The stage, from 0, that names it.
    values : mapping
        What is changed of that stage.
    """
    changed = {n: v for n, v in values.items() if n in _KINDS and v not in (None, "")}
    if len(values) != 1 or not changed:
        return None
    (field, value), stage = next(iter(changed.items())), combination.stages[at]
    what = _KINDS[field]
    name = getattr(stage, what).casefold()
    sort, facts = _FACTS[what]
    fact = dict(facts)[field]
    thing = next((t for t in things(session, sort) if name and t.name.casefold() == name), None)
    if thing is None or thing.facts.get(fact) in (None, value) or session.trial_id is None:
        return None
    former, edits = getattr(stage, field), []
    for c in session.combinations():
        stages = tuple(
            replace(s, **{field: value})  # type: ignore[arg-type]
            if getattr(s, what).casefold() == name and getattr(s, field) == former
            else s
            for s in c.stages
        )
        if stages != c.stages:
            edits.append(EditCombination(session.trial_id, c, replace(c, stages=stages)))
    before = (thing.name, thing.facts)
    kept = bool(value) if any(s.key == field and s.yes for s in SETTINGS) else value
    return CorrectThing(
        edits, EditThing(sort, thing.item_id, before, (thing.name, thing.facts | {fact: kept}))
    )


def usual_panel(session: Session) -> Taping:
    """Return how a first panel is taped: its cells leave even ground for what is at hand."""
    stages = [s for c in session.combinations() for s in c.stages if s.pad or s.pad_mm or s.disc]
    if not stages:
        found = [t.facts for t in things(session, kit.PAD_KIND)]
        known = [f["diameter_mm"] for f in found if isinstance(f.get("diameter_mm"), int | float)]
        stages = [Stage("", "", "", pad_mm=float(max(known, default=PAD_MM)))]
    alike = {
        (s.pad_mm, s.machine_kind, s.orbit_mm, s.passes, s.line_shift, s.overlap): s for s in stages
    }
    sized = [s if s.pad_mm else replace(s, pad_mm=PAD_MM) for s in alike.values()]
    return first_taping(sized[:4], ROOM_MM)


CONTROL_CODES = "XYZWVU"


def new_control(session: Session, control: str) -> Combination:
    """Return a control with a free letter from the end of the alphabet."""
    used = {c.code for c in session.combinations()}
    code = next((c for c in CONTROL_CODES if c not in used), f"X{len(used)}")
    name = {"damaged": "damaged only", "untouched": "untouched"}[control]
    return Combination(0, code, name, (), control)


def usage(session: Session, combination: Combination) -> str:
    """Say on how many cells of which hardness a combination is laid out."""
    hardness = {p.id: p.hardness for p in session.panels()}
    total = session.tally.cells_by[combination.id]
    if not total:
        return "Not laid out on any cell yet."
    own = Counter(hardness[p.panel_id] for p in session.places() if p[2] == combination.id)
    parts = [f"{own[h]} on {h}" for h in HARDNESSES if own[h]]
    return f"Laid out on {total} cell{'' if total == 1 else 's'}: {listed(parts)}."
