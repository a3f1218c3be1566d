"""The kit view: where a combination is used."""

from __future__ import annotations

from collections import Counter
from typing import Any

from loam.app.presenters.shelf import things
from loam.app.session import Session
from loam.core.kit.facts import speed_at
from loam.core.text import listed
from loam.core.trial import HARDNESSES, Combination
from loam.store import kit

_FACTS: dict[str, tuple[str, tuple[tuple[str, str], ...]]] = {
    "pad": (kit.PAD_KIND, (("pad_material", "material"), ("pad_mm", "diameter_mm"))),
    "compound": (kit.COMPOUND, (("compound_class", "class"),)),
    "disc": (kit.DISC, ()),
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
    return {f: found[fact] for f, fact in _FACTS[what][1] if fact in found}


def speed_of(session: Session, machine: str, dial: str) -> float | None:
    """Return the speed that a machine's table gives for a mark of its dial."""
    return speed_at(facts_of(session, "machine", machine).get("dial"), dial)


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
