"""What a job rests on: the workshop's own rankings of one trial's combinations, all trials pooled.

A rung is a combination of the trial that the job rests on, by its letter there; each measurand is
judged in all trials that share recipes with it. Made for a worker: it reads the file.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from loam.app.presenters.dosing import section_of
from loam.app.questions.all_trials.judging import judge_pool, named_trials
from loam.app.questions.price.find import minutes_of
from loam.app.workshop_kp import kp_at
from loam.core.design.costs import taken_off
from loam.core.dose.path import passes
from loam.core.dose.stage import settings_for
from loam.core.errors import LoamError, NotEnough
from loam.core.judging.result import TrialJudgement
from loam.core.kit.sizes import SMALL_MM
from loam.core.ladder import MOST_RUNGS
from loam.core.readings import kind_of
from loam.core.removal import Known
from loam.core.text import listed
from loam.core.trial import HARDNESSES, Combination, Stage, Trial
from loam.core.vehicle.day import SECTION_M2, Pace
from loam.core.vehicle.particles import CLEAR_TAKEN, Promise, Taken
from loam.core.vibration import USUAL, USUAL_OTHER
from loam.store import combinations as combination_store
from loam.store import kit
from loam.store import panels as panel_store
from loam.store import readings as reading_store
from loam.store import trials as trial_store
from loam.store.database import reading_apart
from loam.store.identity import also_called, identities

OPEN_PAD_MM = 150.0
"""On open panels of a vehicle a pad of this size is worked with: assumed."""
SMALL_PAD_MM = 75.0
"""Tight places of a vehicle are worked with a pad no larger than this: assumed."""
SPOT_MIN = 4.0
"""Taping, wiping and reading a test spot, besides working it: assumed."""
_ZED = 3.29
"""Standard deviations between the ends of a 90 % range."""


@dataclass(frozen=True)
class Rests:
    """What the ladder of a job is made of, before its chances, its aim and its budget.

    Attributes
    ----------
    trial : str
        The trial that it rests on.
    rungs : tuple of Combination
    promises : mapping of str to Promise
        By measurand.
    taken : mapping of str to Taken
        Clear by class where film was not read: from the dose.
    classes : tuple of str
        Those on which every rung was judged.
    paces : mapping of str to Pace
        By the letter of a combination, how long it takes; lacking where it does not say.
    spot_minutes : mapping of str to float
    lacking : tuple of str
        Measurands that no trial has read.
    notes : tuple of str
        What is assumed, and what was left out.
    scales : mapping of str to str
        By which method the panels were read, where a measurand has several: "eye", "photograph".
    small : str
        A machine on the shelf that is small enough for tight places, or "".
    """

    trial: str
    rungs: tuple[Combination, ...]
    promises: Mapping[str, Promise]
    taken: Mapping[str, Taken]
    classes: tuple[str, ...]
    paces: Mapping[str, Pace]
    spot_minutes: Mapping[str, float]
    lacking: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    scales: Mapping[str, str] = field(default_factory=dict)
    small: str = ""

    @property
    def codes(self) -> tuple[str, ...]:
        """The letters of the rungs."""
        return tuple(c.code for c in self.rungs)

    def at(self, code: str) -> int | None:
        """Return the place of a rung by its letter."""
        return self.codes.index(code) if code in self.codes else None


def trial_called(db: sqlite3.Connection, uid: str) -> Trial | None:
    """Return a trial by its identity; None where it is not here."""
    row = also_called(db, "trial").get(uid)
    return next((t for t in trial_store.trials(db) if t.id == row), None)


def trial_uid(db: sqlite3.Connection, trial_id: int) -> str:
    """Return the identity of a trial."""
    found = identities(db, "trial").get(trial_id)
    return found.uid if found is not None else ""


def rests_on(
    path: Path, trial_uid: str, measurands: Sequence[str], chances: Mapping[str, float]
) -> Rests:
    """Judge what a job rests on.

    Parameters
    ----------
    measurands : sequence of str
        What is wanted something of.
    chances : mapping of str to float
        Of the hardness classes; a class of no chance need not have been read.

    Raises
    ------
    NotEnough
        When the trial is not here, nothing of the aim was read, or no combination was read on
        every class that has a chance and panels.
    """
    with reading_apart(path) as db:
        trial = trial_called(db, trial_uid)
        if trial is None:
            raise NotEnough("The trial that this job rests on is not in this workshop.")
        combinations = [c for c in combination_store.combinations(db, trial.id) if c.stages]
        panels = panel_store.panels(db, trial.id)
        here = next((n for n, i in named_trials(db).items() if i == trial.id), "")
        shakes, small = _shakes(db), _small(db)
        scales = {
            m: min(ways)
            for m in measurands
            if kind_of(m).scales and (ways := reading_store.scales_of(db, trial.id, m))
        }
    judged: dict[str, tuple[TrialJudgement, dict[str, str]]] = {}
    lacking = []
    for m in dict.fromkeys((*measurands, CLEAR_TAKEN)):
        try:
            pooled = judge_pool(path, trial.id, m, trial.seed)
        except LoamError:
            if m != CLEAR_TAKEN:
                lacking.append(m)
            continue
        codes = {
            letter: code
            for code, places in pooled.pooled.letters.items()
            for name, letter in places
            if name == here
        }
        judged[m] = (pooled.judgement, codes)
    if not set(judged) - {CLEAR_TAKEN}:
        wanted = listed([kind_of(m).short for m in measurands])
        read = listed([kind_of(m).label for m in trial.measurands])
        raise NotEnough(
            f"No trial of this workshop read {wanted}: nothing is promised of what is wanted.",
            todo=f"Say what is wanted of what {trial.name} reads (G): {read}.",
        )
    rungs, classes, notes = _common(combinations, judged, chances)
    size = section_of(panels)
    known = kp_at(path)
    taken: dict[str, Taken] = {}
    if CLEAR_TAKEN not in judged:
        rungs, taken = _by_dose(rungs, classes, size, known)
        notes.append("No film was read: the clear that they take is assumed from their dose.")
    promises = {
        m: Promise(
            found,
            {h: tuple(codes[c.code] for c in rungs) for h in classes},
        )
        for m, (found, codes) in judged.items()
    }
    taping = panels[0].taping if panels else None
    minutes = {
        c.code: SPOT_MIN + ((minutes_of(c.stages, taping) or 0.0) if taping else 0.0) for c in rungs
    }
    paces = {c.code: p for c in combinations if (p := pace_of(c.stages, shakes)) is not None}
    return Rests(
        here,
        tuple(rungs),
        promises,
        taken,
        tuple(classes),
        paces,
        minutes,
        tuple(lacking),
        tuple(notes),
        scales,
        small,
    )


def _common(
    combinations: Sequence[Combination],
    judged: Mapping[str, tuple[TrialJudgement, Mapping[str, str]]],
    chances: Mapping[str, float],
) -> tuple[list[Combination], list[str], list[str]]:
    """Return the rungs that were judged on every class that counts, the classes, and notes."""
    on: dict[str, set[str]] = {}
    for h in HARDNESSES:
        codes: set[str] | None = None
        for found, letters in judged.values():
            own = found.on(h)
            columns = set(own.columns) if own is not None else set()
            there = {c.code for c in combinations if letters.get(c.code) in columns}
            codes = there if codes is None else codes & there
        if codes:
            on[h] = codes
    classes = [h for h in HARDNESSES if h in on and chances.get(h, 0.0) > 0.0]
    bare = [h for h in HARDNESSES if h not in on and chances.get(h, 0.0) > 0.0]
    notes = []
    if bare:
        notes.append(f"No panel of {listed(bare)} clear was read: it is given no chance.")
    if not classes:
        raise NotEnough(
            "No class that this vehicle may be has panels that were read in all that is wanted."
        )
    common = set.intersection(*(on[h] for h in classes))
    if not common:
        raise NotEnough(
            f"No combination was read on {listed(classes)} clear alike.",
            todo="Say which class the vehicle is more likely to be.",
        )
    rungs = [c for c in combinations if c.code in common]
    left = [c.code for c in combinations if c.code not in common]
    if left:
        notes.append(f"{listed(left)}: not read on every class that this may be, so no rung.")
    if len(rungs) > MOST_RUNGS:
        notes.append(f"The first {MOST_RUNGS} combinations are rungs; a ladder has no more.")
        rungs = rungs[:MOST_RUNGS]
    return rungs, classes, notes


def _by_dose(
    rungs: Sequence[Combination],
    classes: Sequence[str],
    size: tuple[float, float],
    known: Known,
) -> tuple[list[Combination], dict[str, Taken]]:
    """Return the rungs whose clear can be worked out from the dose, and the clear by class."""
    ranges: dict[str, list[tuple[float, float]]] = {h: [] for h in classes}
    kept = []
    for c in rungs:
        try:
            own = [taken_off(c.stages, size, h, known) for h in classes]
        except LoamError:
            continue
        kept.append(c)
        for h, (low, high, _) in zip(classes, own, strict=True):
            ranges[h].append((low, high))
    if not kept:
        raise NotEnough(
            "What clear these combinations take is neither read nor can it be worked out.",
            todo="Give their stages force, pad, speed, passes and arm in Kit (F3).",
        )
    taken = {
        h: Taken(
            np.array([(low + high) / 2 for low, high in pairs]),
            np.array([(high - low) / _ZED for low, high in pairs]),
        )
        for h, pairs in ranges.items()
    }
    return kept, taken


def pace_of(stages: Sequence[Stage], shakes: Mapping[str, float]) -> Pace | None:
    """Return how long a combination takes over a square metre; None where it does not say.

    Worked out on a section of 600 by 600 mm, with the pad of an open panel, and with a small one.
    """
    minutes, shaken, small = 0.0, 0.0, 0.0
    try:
        for stage in stages:
            own = _stage_minutes(stage, max(stage.pad_mm or 0.0, OPEN_PAD_MM))
            usual = USUAL.get(stage.machine_kind, USUAL_OTHER)
            shaken += shakes.get(stage.machine.casefold(), usual) ** 2 * own
            minutes += own
            small += _stage_minutes(stage, min(stage.pad_mm or SMALL_PAD_MM, SMALL_PAD_MM))
    except LoamError:
        return None
    shake = (shaken / minutes) ** 0.5 if minutes > 0.0 else 0.0
    return Pace(minutes, len(stages), shake, small)


def _stage_minutes(stage: Stage, pad_mm: float) -> float:
    """Return minutes of machine a square metre with a pad of a size."""
    side = (SECTION_M2**0.5) * 1000.0
    section = settings_for(replace(stage, pad_mm=pad_mm), side, side).section
    seconds = sum(way.length_mm for way in passes(section)) / section.arm_mm_s
    return float(seconds / 60.0 / SECTION_M2)


def _small(db: sqlite3.Connection) -> str:
    """Return a machine on the shelf whose plate goes into tight places, or ""."""
    for thing in kit.things(db, kit.MACHINE):
        plate = thing.facts.get("plate_mm")
        if plate is not None and float(plate) <= SMALL_MM:
            return thing.name
    return ""


def _shakes(db: sqlite3.Connection) -> dict[str, float]:
    """Return the declared vibration of machines with its K, by name."""
    found = {}
    for thing in kit.things(db, kit.MACHINE):
        own = thing.facts.get("vibration")
        if own is not None:
            found[thing.name.casefold()] = float(own) + float(thing.facts.get("vibration_k") or 0.0)
    return found
