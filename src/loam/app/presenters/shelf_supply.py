"""What a trial needs against the workshop's shelf: clean pads, and a machine's vibration."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from loam.core.design.costs import Costs
from loam.core.kit import PadLife
from loam.core.kit.facts import CLEAN, COMPOUND, DISC, MACHINE, PAD, PAD_KIND, RETIRED
from loam.core.kit.life import SETS_CLEAN, SETS_DISC, clean_pads, discs_worn
from loam.core.trial import Stage
from loam.core.units import fixed
from loam.core.vibration import ACTION, LIMIT, USUAL, USUAL_OTHER, daily_exposure
from loam.core.words.verdict import listed
from loam.store import kit


@dataclass(frozen=True)
class AtHand:
    """What the shelf holds, by name in small letters.

    Attributes
    ----------
    clean, kept : mapping
        Single pads that are clean, and all that are not retired, by kind; a kind of which every
        pad is retired keeps 0.
    gone : frozenset
        Pads, compounds and machines that were put away.
    sets : mapping of str to int
        Sets that a clean pad is worked, by kind, where the kind says.
    discs : mapping of str to int
        Sets that a sanding disc cuts, by name, where the shelf says.
    vibration : mapping
        Declared vibration with its K, m/s², by machine; a usual one where none is declared.
    undeclared : frozenset
        Machines whose vibration is a usual one.
    """

    clean: Mapping[str, int]
    kept: Mapping[str, int]
    vibration: Mapping[str, float]
    gone: frozenset[str] = frozenset()
    undeclared: frozenset[str] = frozenset()
    discs: Mapping[str, int] = field(default_factory=dict)
    sets: Mapping[str, int] = field(default_factory=dict)


def at_hand(db: sqlite3.Connection) -> AtHand:
    """Read what a plan is held against."""
    clean: dict[str, int] = {}
    kept: dict[str, int] = {}
    for pad in kit.things(db, PAD):
        life = PadLife.of(pad.facts)
        kind = str(pad.facts.get("kind", "")).casefold()
        kept[kind] = kept.get(kind, 0) + (life.state != RETIRED)
        clean[kind] = clean.get(kind, 0) + (life.state == CLEAN)
    machines = kit.things(db, MACHINE)
    vibration = {
        m.name.casefold(): m.facts["vibration"] + m.facts.get("vibration_k", 0.0)
        if m.facts.get("vibration")
        else USUAL.get(str(m.facts.get("motion", "")), USUAL_OTHER)
        for m in machines
    }
    undeclared = frozenset(m.name.casefold() for m in machines if not m.facts.get("vibration"))
    gone = set()
    for sort in (PAD_KIND, COMPOUND, MACHINE, DISC):
        here = kit.names(db, sort)
        gone |= {t.name for t in kit.things(db, sort, away=True) if t.name.casefold() not in here}
    sets, discs = (
        {k.name.casefold(): int(k.facts[fact]) for k in kit.things(db, sort) if k.facts.get(fact)}
        for sort, fact in ((PAD_KIND, "sets_clean"), (DISC, "sets_worn"))
    )
    return AtHand(clean, kept, vibration, frozenset(gone), undeclared, discs, sets)


def shaken_by(hand: AtHand, machine: str) -> tuple[float, bool]:
    """Return a machine's vibration with its K, m/s², and whether it is its own or a usual one."""
    low = machine.casefold()
    return hand.vibration.get(
        low, USUAL_OTHER
    ), low in hand.vibration and low not in hand.undeclared


def not_there(stages: Iterable[Stage], hand: AtHand) -> list[str]:
    """Say what a trial names that no longer stands on the shelf."""
    named = {name for s in stages for name in (s.pad, s.compound, s.machine, s.disc)}
    lost = sorted(named & hand.gone)
    if not lost:
        return []
    verb = "is" if len(lost) == 1 else "are"
    return [f"{listed(lost)} {verb} put away: bring back under Kit, or take another."]


def pads_lacking(costs: Costs, hand: AtHand) -> list[str]:
    """Say for which pads the clean ones do not last, and what helps."""
    sets: dict[str, int] = {}
    for (name, _), count in costs.pads.items():
        sets[name] = sets.get(name, 0) + count
    said: list[str] = []
    short: list[str] = []
    for name, count in sorted(sets.items()):
        low = name.casefold()
        if low not in hand.kept:
            continue
        clean = hand.clean.get(low, 0)
        needed = clean_pads(count, hand.sets.get(low, 0))
        if not hand.kept[low]:
            said.append(f"every {name} is retired")
            short.append(low)
        elif needed > clean:
            said.append(f"{name} {count} sets, {clean} of {hand.kept[low]} clean, {needed} wanted")
            short.append(low)
    if not said:
        return []
    each = dict.fromkeys(_a_clean_pad(hand.sets.get(low, 0)) for low in short)
    return [f"Too few clean pads: {'; '.join(said)}. Wash in between ({listed(list(each))})."]


def discs_line(costs: Costs, hand: AtHand | None) -> tuple[str, str, str] | None:
    """Return how many sanding discs a trial wears out; None where nothing is sanded."""
    if not costs.discs:
        return None
    each = {name: hand.discs.get(name.casefold(), 0) if hand else 0 for name in costs.discs}
    wanted = {name: discs_worn(sets, each[name]) for name, sets in costs.discs.items()}
    most = sorted(wanted.items(), key=lambda item: -item[1])[:3]
    named = ", ".join(f"{name} {n}" for name, n in most) + (" …" if len(wanted) > 3 else "")
    if not all(each.values()):
        named += f"; {SETS_DISC} sets each, assumed"
    return "discs", str(sum(wanted.values())), named


def _a_clean_pad(sets: int) -> str:
    return f"{sets} sets a clean pad" if sets else f"{SETS_CLEAN} sets a clean pad, assumed"


def vibration_line(costs: Costs, hand: AtHand) -> tuple[str, str, str] | None:
    """Return what the day's vibration comes to if one person works it all in one day."""
    if not costs.trigger_s:
        return None
    minutes = sum(costs.trigger_s.values()) / 60.0
    found = {n: shaken_by(hand, n) for n in costs.trigger_s}
    value = daily_exposure((found[n][0], s / 3600.0) for n, s in costs.trigger_s.items())
    said = f"one person, one day, {minutes:.0f} min"
    usual = sorted(n or "a machine" for n, (_, own) in found.items() if not own)
    if usual:
        said += f"; {listed(usual)} at a usual value: type the declared one under Kit"
    return "vibration", f"{fixed(value, 1)} m/s²", said


def vibration_care(costs: Costs, hand: AtHand) -> list[str]:
    """Say when a day of it would reach the action value or the limit."""
    found = {n: shaken_by(hand, n) for n in costs.trigger_s}
    value = daily_exposure((found[n][0], s / 3600.0) for n, s in costs.trigger_s.items())
    if value < ACTION:
        return []
    how = "declared plus K" if all(own for _, own in found.values()) else "some at a usual value"
    over, name = (LIMIT, "limit") if value >= LIMIT else (ACTION, "action")
    return [
        f"Vibration: one person in one day would come to {fixed(value, 1)} m/s² ({how}),"
        f" above the {name} value of {over:g}. Share it out, or take more days; local rules decide."
    ]
