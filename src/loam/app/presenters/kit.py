"""The kit view: where a combination is used."""

from __future__ import annotations

from collections import Counter

from loam.app.session import Session
from loam.core.trial import HARDNESSES, Combination
from loam.core.words.result import listed
from loam.store import kit

_FACTS: dict[str, tuple[str, tuple[tuple[str, str], ...]]] = {
    "pad": (kit.PAD_KIND, (("pad_material", "material"), ("pad_mm", "diameter_mm"))),
    "compound": (kit.COMPOUND, (("compound_class", "class"),)),
    "machine": (kit.MACHINE, (("machine_kind", "motion"), ("orbit_mm", "orbit_mm"))),
}
"""What the shelf knows of a thing: fields of a stage, and the facts that they are kept as."""


def known(session: Session, what: str, name: str) -> dict[str, object]:
    """Return what the workshop's shelf knows of a pad, compound or machine of this name."""
    sort, facts = _FACTS[what]
    shelf = session.cached(f"shelf:{sort}", lambda: kit.shelf(session.workshop.connection, sort))
    wanted = name.strip().casefold()
    found = next((v for v in shelf if v.name.casefold() == wanted), None)
    if found is None:
        return {}
    return {f: found.facts[fact] for f, fact in facts if found.facts.get(fact) not in (None, "")}


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
