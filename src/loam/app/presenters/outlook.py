"""What the trial at hand will be able to tell apart, and what would make it tell more."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from loam.app.learnt_priors import behind_before, priors_for
from loam.app.planning import Planned, planned
from loam.app.presenters.depth import DEEP, Allowed, budgets, too_deep
from loam.app.presenters.shelf_supply import (
    AtHand,
    at_hand,
    discs_line,
    not_there,
    pads_lacking,
    vibration_care,
    vibration_line,
)
from loam.app.what_matters import matters_in
from loam.app.workshop_kp import measured_kp
from loam.core.design import Outlook, PanelPlan, Plan, efficiency, even_deal, outlook
from loam.core.design.costs import Costs, costs
from loam.core.design.plan import Place
from loam.core.errors import LoamError
from loam.core.film import CLEAR, coat_of
from loam.core.judging.judge import LIMIT_FACTOR
from loam.core.matter import Matters
from loam.core.prior import RESIDUAL, Priors
from loam.core.question import parse
from loam.core.readings import ReadingKind, kind_of
from loam.core.removal import Known
from loam.core.words.dose import time_words
from loam.core.words.outlook import ahead_short, outlook_notes, outlook_sentence
from loam.store import cells as cell_store
from loam.store import panels as panel_store
from loam.store.database import reading_apart
from loam.store.readings import cells_read

FEW_CELLS = 3000
"""Beyond this many cells what more would buy is not worked out in passing."""
READ_MORE = 2


@dataclass(frozen=True)
class Choice:
    """A change of the plan and what it would buy.

    Attributes
    ----------
    key : str
        panel:HARDNESS, readings, drop, control:KIND or reads:MEASURAND.
    words, effect : str
        What it is, and what it does.
    enough : bool
        Whether the trial could then answer on the class that is worst off.
    why : str
        What is behind it, where that is not plain.
    """

    key: str
    words: str
    effect: str
    enough: bool
    why: str = ""


@dataclass(frozen=True)
class Ahead:
    """What a trial will tell, for one measurand.

    Attributes
    ----------
    laid : bool
        Whether every cell has its combination; else an even deal of the rest is looked at.
    efficiency : mapping of str to float
        By hardness: the share of a comparison's certainty that the layout keeps.
    limit : float
        What the meter resolves in the mean of a cell, on the scale.
    care : mapping of str to str
        What the plan would overdraw, by topic.
    before : mapping of str to tuple of float
        By hardness: how far combinations lay behind the leader in the last trial, on the scale.
    """

    kind: ReadingKind
    outlook: tuple[Outlook, ...]
    matters: Matters
    limit: float
    laid: bool
    efficiency: Mapping[str, float]
    choices: tuple[Choice, ...]
    sentence: str
    notes: tuple[str, ...]
    refusal: str = ""
    costs: Costs | None = None
    hand: AtHand | None = None
    care: Mapping[str, str] = field(default_factory=dict)
    before: Mapping[str, tuple[float, ...]] = field(default_factory=dict)
    coat: str = CLEAR


def look_ahead(path: Path, trial_id: int, kind: ReadingKind) -> Ahead:
    """Work out what a trial will tell, from its file; made for a worker thread."""
    with reading_apart(path) as db:
        return look_ahead_in(db, trial_id, kind)


def look_ahead_in(db: sqlite3.Connection, trial_id: int, kind: ReadingKind) -> Ahead:
    """Work out what a trial will tell, from an open file."""
    matters = matters_in(db, trial_id, kind.key)
    priors = priors_for(db, trial_id, kind.key)
    try:
        found = planned(db, trial_id)
    except LoamError as error:
        said = str(error)
        return Ahead(kind, (), matters, 0.0, False, {}, (), "", (), said)
    known = measured_kp(db)
    ahead = _ahead(found, kind, matters, priors, at_hand(db), budgets(db, trial_id), known)
    if _is_read(db, trial_id):
        said = f"It is read: Judge (F8) says what it found for {kind.label}."
        ahead = replace(ahead, sentence=said)
    coat = coat_of(p.build for p in panel_store.panels(db, trial_id))
    return replace(ahead, coat=coat, before=behind_before(db, trial_id, kind.key))


def _is_read(db: sqlite3.Connection, trial_id: int) -> bool:
    """Tell whether every cell that has a combination has been read."""
    laid = {
        c.id
        for c in cell_store.cells(db, trial_id, baselines=False)
        if c.combination_id is not None
    }
    return bool(laid) and laid <= cells_read(db, trial_id)


def _ahead(
    found: Planned,
    kind: ReadingKind,
    matters: Matters,
    priors: Priors,
    hand: AtHand,
    allowed: list[Allowed],
    known: Known,
) -> Ahead:
    plan = found.plan
    cells = sum(len(p.open_cells()) for p in plan.panels)
    laid = len(found.assigned) >= cells
    assigned = found.assigned if laid else _completed(plan, found.assigned)
    expected = outlook(plan, assigned, priors, matters.on_scale)
    kept = _kept(plan, assigned)
    limit = LIMIT_FACTOR * priors[RESIDUAL].sd / float(np.sqrt(plan.readings_per_cell))
    choices = _asked_for(found)
    if cells <= FEW_CELLS:
        choices += _choices(plan, expected, matters, priors, kind)
    asked = parse(found.trial.question)[0]
    cost = costs(assigned, found.stages, found.panels, _readings(found), known)
    notes = [*([asked.hint] if asked.hint else []), *outlook_notes(expected)]
    stages = [s for own in found.stages.values() for s in own]
    care = {
        "what is put away": not_there(stages, hand),
        DEEP: too_deep(cost, allowed),
        "clean pads": pads_lacking(cost, hand),
        "vibration": vibration_care(cost, hand),
    }
    return Ahead(
        kind,
        tuple(expected),
        matters,
        limit,
        laid,
        kept,
        tuple(choices),
        outlook_sentence(expected, matters, kind),
        tuple(notes),
        "",
        cost,
        hand,
        {topic: said for topic, found in care.items() for said in found},
    )


_CONTROL_WORDS = {
    "damaged": ("a damaged-only cell on every panel", "shows what the work changed"),
    "untouched": ("an untouched cell on every panel", "shows what stays as it was"),
}


def _asked_for(found: Planned) -> list[Choice]:
    """Return what the way the question is asked needs and the trial does not have."""
    asked = parse(found.trial.question)[0]
    wanted = [
        Choice(f"control:{c}", *_CONTROL_WORDS[c], enough=False)
        for c in asked.controls
        if c not in found.id_of
    ]
    if not wanted and not set(_CONTROL_WORDS) & set(found.id_of) and not found.assigned:
        wanted = [Choice("control:damaged", *_CONTROL_WORDS["damaged"], enough=False)]
    return wanted + [
        Choice(f"reads:{m}", f"read {kind_of(m).label} too", "it is what the question asks", False)
        for m in asked.reads
        if m not in found.trial.measurands
    ]


def _readings(found: Planned) -> int:
    """Return how many readings a cell gets, all measurands together."""
    return found.trial.readings_per_cell * len(found.trial.measurands)


def cost_lines(
    costs: Costs, hand: AtHand | None = None, coat: str = CLEAR
) -> list[tuple[str, str, str]]:
    """Return what a trial costs as it is shown: what, how much, and what it is made of."""
    lines = [
        (
            "time",
            time_words(costs.work_s + costs.read_s),
            f"{time_words(costs.read_s)} of it reading",
        )
    ]
    if costs.clear_um is not None:
        low, high = costs.clear_um
        how = "worst cell, " + ("measured" if costs.measured else "assumed")
        digits = 1 if high < 10.0 else 0
        lines.append((coat, f"{low:.{digits}f} to {high:.{digits}f} µm", how))
    if costs.pads:
        sets = sum(costs.pads.values())
        most = sorted(costs.pads.items(), key=lambda item: -item[1])[:2]
        named = [f"{name} {n}" for (name, _), n in most]
        rest = " …" if len(costs.pads) > 2 else ""
        lines.append(("pads", f"{sets} sets", ", ".join(named) + rest))
        grams = sum(costs.grams.values())
        heavy = max(costs.grams, key=lambda c: costs.grams[c])
        lines.append(("compound", f"{grams:.0f} g", f"{heavy}: {costs.grams[heavy]:.0f} g"))
    sanded = discs_line(costs, hand)
    if sanded is not None:
        lines.append(sanded)
    shaken = vibration_line(costs, hand) if hand is not None else None
    return [*lines, shaken] if shaken is not None else lines


def _kept(plan: Plan, assigned: Mapping[Place, str]) -> dict[str, float]:
    """Return the efficiency by hardness, of the combinations that have a cell there."""
    found = {}
    for hardness in plan.hardnesses():
        own = {p: a for p, a in assigned.items() if plan.panels[p[0]].hardness == hardness}
        used = tuple(c for c in plan.combinations if c in set(own.values()))
        if len(used) < 2:
            continue
        part = replace(
            plan,
            combinations=used,
            fixed={},
            groups={},
            panels=tuple(replace(p, closed=frozenset()) for p in plan.panels),
        )
        value = next(e.value for e in efficiency(part, own) if e.hardness == hardness)
        if value is not None:
            found[hardness] = value
    return found


def _completed(plan: Plan, assigned: Mapping[Place, str]) -> Mapping[Place, str]:
    """Deal the cells that have nothing yet evenly."""
    return even_deal(replace(plan, fixed={**plan.fixed, **assigned}))


def _choices(
    plan: Plan, now: Sequence[Outlook], matters: Matters, priors: Priors, kind: ReadingKind
) -> list[Choice]:
    """Say what one panel, more readings, or one combination less would buy."""
    known = [o for o in now if o.ahead is not None]
    if not known:
        return []
    worst = max(known, key=lambda o: o.ahead or 0.0)
    found = []
    more = _one_more_panel(plan, worst.hardness)
    found.append(
        _choice(
            f"panel:{worst.hardness}",
            f"one more panel of {worst.hardness}",
            more,
            worst,
            matters,
            priors,
            kind,
        )
    )
    reads = plan.readings_per_cell + READ_MORE
    often = _choice(
        "readings",
        f"{reads} readings a cell",
        replace(plan, readings_per_cell=reads),
        worst,
        matters,
        priors,
        kind,
    )
    if often is not None and often.effect == ahead_short(kind, worst):
        why = "Cells differ from each other by more than the meter scatters: more cells would help."
        often = replace(often, effect="tells no more", why=why)
    found.append(often)
    if len(plan.combinations) > 2:
        fewer = replace(
            plan,
            combinations=plan.combinations[:-1],
            groups={c: g for c, g in plan.groups.items() if c != plan.combinations[-1]},
            fixed={},
        )
        found.append(_choice("drop", "one combination less", fewer, worst, matters, priors, kind))
    return [c for c in found if c is not None]


def _choice(
    key: str,
    words: str,
    plan: Plan | None,
    worst: Outlook,
    matters: Matters,
    priors: Priors,
    kind: ReadingKind,
) -> Choice | None:
    if plan is None:
        return None
    try:
        then = outlook(plan, even_deal(plan), priors, matters.on_scale)
    except LoamError:
        return None
    there = next((o for o in then if o.hardness == worst.hardness), None)
    if there is None or there.ahead is None:
        return None
    return Choice(key, words, ahead_short(kind, there), there.answers)


def _one_more_panel(plan: Plan, hardness: str) -> Plan | None:
    """Return the plan with another panel like the last of a class."""
    like = [p for p in plan.panels if p.hardness == hardness][-1]
    taken = {p.name for p in plan.panels}
    name = next(n for i in range(len(taken) + 1) if (n := f"+{i}") not in taken)
    panel = PanelPlan(name, hardness, like.rows, like.columns, like.closed)
    return replace(plan, panels=(*plan.panels, panel))
