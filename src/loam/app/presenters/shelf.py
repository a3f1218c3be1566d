"""The workshop's shelf: what stands there, and what is said of each thing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.kit import (
    BY_SORT,
    COMPOUND_BY_KEY,
    PAD_BY_KEY,
    SORTS,
    PadLife,
    said,
)
from loam.core.kit.facts import (
    CLEAN,
    COMPOUND,
    DISC,
    LIGHT,
    MACHINE,
    METER,
    PAD,
    PAD_KIND,
    PERSON,
    RETIRED,
    WIPE,
    Fact,
    Sort,
)
from loam.core.machines import BY_KEY as MOTIONS
from loam.core.text import listed
from loam.core.trial import Stage
from loam.store import kit
from loam.store.kit import KitVersion

BOARDS: tuple[Sort, ...] = tuple(s for s in SORTS if s.key != PAD)
"""What the shelf is looked at by; single pads lie with their kind."""


@dataclass(frozen=True)
class Single:
    """A single pad: its item, name and life."""

    item_id: int
    name: str
    life: PadLife
    facts: dict[str, Any]


@dataclass(frozen=True)
class OnShelf:
    """A thing on the shelf as it is drawn.

    Attributes
    ----------
    below : str
        What is said under its name.
    stage : Stage
        What draws a pad, compound or machine as it is drawn in a stage.
    singles : tuple of Single
        The single pads of a kind.
    """

    item_id: int
    sort: str
    name: str
    below: str
    facts: dict[str, Any]
    stage: Stage
    singles: tuple[Single, ...] = ()


def things(session: Session, sort: str, *, away: bool = False) -> list[KitVersion]:
    """Return the things of a sort that stand on the shelf (or are put away)."""
    db = session.workshop.connection
    found: list[KitVersion] = session.cached(
        f"shelf:{sort}:{away}", lambda: kit.things(db, sort, away=away)
    )
    return found


def standing(session: Session, sort: str, *, away: bool = False) -> list[OnShelf]:
    """Return what stands on a board, by name."""
    singles = singles_by_kind(session) if sort == PAD_KIND else {}
    found = []
    for thing in things(session, sort, away=away):
        own = tuple(singles.get(thing.name.casefold(), ()))
        below = _below(session, sort, thing.facts, own)
        found.append(
            OnShelf(thing.item_id, sort, thing.name, below, thing.facts, _stage(sort, thing), own)
        )
    return found


def singles_by_kind(session: Session) -> dict[str, list[Single]]:
    """Return the single pads of each kind, by the kind's name in small letters."""
    found: dict[str, list[Single]] = {}
    for thing in things(session, PAD):
        kind = str(thing.facts.get("kind", "")).casefold()
        single = Single(thing.item_id, thing.name, PadLife.of(thing.facts), thing.facts)
        found.setdefault(kind, []).append(single)
    return found


def next_single(kind: str, singles: tuple[Single, ...]) -> str:
    """Return a free name for another single pad of a kind: the kind and a number."""
    used = {s.name.casefold() for s in singles}
    return next(
        name for n in range(1, len(used) + 2) if (name := f"{kind} {n}").casefold() not in used
    )


def _stage(sort: str, thing: KitVersion) -> Stage:
    """Return a stage that holds just this thing, to be drawn by."""
    f = thing.facts
    blank = Stage("", "", "")
    try:
        if sort == PAD_KIND:
            return Stage(
                thing.name, "", "", pad_material=f.get("material", ""), pad_mm=f.get("diameter_mm")
            )
        if sort == COMPOUND:
            return Stage("", thing.name, "", compound_class=f.get("class", ""))
        if sort == MACHINE:
            return Stage(
                "", "", thing.name, machine_kind=f.get("motion", ""), orbit_mm=f.get("orbit_mm")
            )
    except ValueRefused:  # what a newer version knows of a thing is drawn as nothing known
        return blank
    return blank


def _below(session: Session, sort: str, f: Mapping[str, Any], singles: tuple[Single, ...]) -> str:
    """Say under a thing's name what a trainer looks for."""
    size = session.unit("size")

    def wide(key: str) -> str:
        value = f.get(key)
        return f"{round(size.shown(value), 1 + size.finer):g} {size.symbol}" if value else ""

    said_by: dict[str, list[str]] = {
        PAD_KIND: [_of(PAD_BY_KEY, f.get("material")), wide("diameter_mm")],
        COMPOUND: [_of(COMPOUND_BY_KEY, f.get("class")), _claim(f)],
        MACHINE: [_motion(f), wide("orbit_mm"), _dial(f)],
        DISC: [f"P{f['grit']:g}" if f.get("grit") else "", wide("diameter_mm")],
        METER: [listed([_reads(key) for key in f.get("reads", [])])],
    }
    for key, fact in ((WIPE, "made"), (LIGHT, "shape"), (PERSON, "role")):
        known = BY_SORT[key].fact(fact)
        said_by[key] = [known.write(f.get(fact)) if known is not None else ""]
    own = ", ".join(part for part in said_by[sort] if part)
    return "\n".join(part for part in (own, _clean(singles)) if part)


def _of(known: Mapping[str, Any], key: object) -> str:
    return str(known[str(key)].label) if key in known else ""


def _reads(key: str) -> str:
    fact = BY_SORT[METER].fact("reads")
    return dict(fact.choices).get(key, key) if fact is not None else key


def _motion(f: Mapping[str, Any]) -> str:
    label = _of(MOTIONS, f.get("motion"))
    return label.removesuffix(" orbital")


def _dial(f: Mapping[str, Any]) -> str:
    steps = f.get("dial") or []
    if not steps:
        return ""
    if len(steps) == 1:
        return f"dial {steps[0][0]} = {steps[0][1]:g}"
    return f"dial {steps[0][0]} to {steps[-1][0]}"


def _claim(f: Mapping[str, Any]) -> str:
    if f.get("cut") is None and f.get("finish") is None:
        return ""
    cut, finish = (f"{f[k]:g}" if f.get(k) is not None else "?" for k in ("cut", "finish"))
    return f"maker says {cut} / {finish}"


def _clean(singles: tuple[Single, ...]) -> str:
    used = [s for s in singles if s.life.state != RETIRED]
    if not used:
        return ""
    clean = sum(s.life.state == CLEAN for s in used)
    return f"{clean} of {len(used)} clean"


def life_words(single: Single) -> str:
    """Say a single pad's life in one line."""
    return said(single.life)


def facts_shown(sort: Sort, facts: Mapping[str, Any]) -> list[Fact]:
    """Return the facts that are asked of a thing: of a meter only for what it reads."""
    if sort.key != METER:
        return list(sort.facts)
    reads = facts.get("reads", [])
    glossy = any(str(key).startswith("gloss") for key in reads)
    return [
        f
        for f in sort.facts
        if f.key in ("reads", "basis")
        or f.key.split(":")[0] in reads
        or (glossy and f.key.startswith("tile"))
    ]
