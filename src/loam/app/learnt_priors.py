"""What the earlier trials of a workshop have taught about how readings vary, as priors."""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from loam.app.assumed import assumed_of
from loam.app.meter_repeatability import studied, with_study
from loam.core.dataset import source_of, trial_data, worked_only
from loam.core.errors import LoamError
from loam.core.prior import default_priors, with_learnt
from loam.core.readings import kind_of
from loam.core.stats.prior import Prior
from loam.core.trial_rows import TrialData
from loam.core.verdict import NoLessons, Record, Taught, judge
from loam.store import trials as trial_store
from loam.store.readings import state_of_trial
from loam.store.snapshot import load_snapshot

MOST_TRIALS, MOST_READINGS = 3, 20_000
_KEPT = 64
_known: dict[tuple[object, ...], Lesson] = {}


@dataclass(frozen=True)
class Lesson:
    """What a trial taught, and a print of its readings.

    ``behind`` holds, by hardness, how far its combinations lay behind the leader, on the scale.
    """

    priors: Mapping[str, Prior]
    readings: bytes = b""
    behind: Mapping[str, tuple[float, ...]] = field(default_factory=dict)


def taught(
    db: sqlite3.Connection, trial_id: int, measurand: str, data: TrialData | None = None
) -> Taught:
    """Return what was known of a measurand before a trial was judged.

    A trial from another workshop is judged with what was known there.
    """
    brought = assumed_of(db, trial_id).taught(measurand)
    if brought is not None:
        return brought
    found = studied(db, measurand)
    priors = priors_for(db, trial_id, measurand, data)
    return Taught(priors, found.sd if found is not None else None)


def priors_for(
    db: sqlite3.Connection, trial_id: int, measurand: str, data: TrialData | None = None
) -> Mapping[str, Prior]:
    """Return what is assumed of a trial's variances: lessons of earlier trials, else defaults.

    At most the three trials before it that read the measurand, none too large to be judged in
    passing, and none with the very readings of ``data``: a trial that was taken in twice does
    not teach itself.
    """
    brought = assumed_of(db, trial_id).taught(measurand)
    if brought is not None and brought.priors is not None:
        return brought.priors
    base = default_priors(kind_of(measurand))
    own = _print(data) if data is not None else None
    earlier = _earlier(db, trial_id, measurand)
    learnt = with_learnt(base, [t.priors for t in earlier if t.readings != own])
    return with_study(db, measurand, learnt)


def behind_before(
    db: sqlite3.Connection, trial_id: int, measurand: str
) -> dict[str, tuple[float, ...]]:
    """Return how far combinations lay behind the leader in the last earlier trial, by hardness."""
    brought = assumed_of(db, trial_id).behind(measurand)
    if brought is not None:
        return brought
    found: dict[str, tuple[float, ...]] = {}
    for lesson in _earlier(db, trial_id, measurand):
        found.update(lesson.behind)
    return found


def _earlier(db: sqlite3.Connection, trial_id: int, measurand: str) -> list[Lesson]:
    """Return the lessons of the last few earlier trials that read a measurand, oldest first."""
    earlier = [t for t in trial_store.trials(db) if t.id < trial_id]
    source = source_of(measurand)
    reading = [t for t in earlier if source in t.measurands][-MOST_TRIALS:]
    return [_lesson(db, t.id, t.name, measurand) for t in reading]


def _print(data: TrialData) -> bytes:
    return hashlib.blake2b(np.sort(data.y).tobytes()).digest()


def _lesson(db: sqlite3.Connection, trial_id: int, name: str, measurand: str) -> Lesson:
    """Judge an earlier trial and keep what it taught until one of its readings changes."""
    file = db.execute("PRAGMA database_list").fetchone()[2]
    state = state_of_trial(db, trial_id)
    key = (file, trial_id, name, measurand, *state)
    if key not in _known:
        if len(_known) >= _KEPT:
            _known.clear()
        small = state[0] <= MOST_READINGS
        _known[key] = _judged(db, trial_id, name, measurand) if small else Lesson({})
    return _known[key]


def _judged(db: sqlite3.Connection, trial_id: int, name: str, measurand: str) -> Lesson:
    try:
        snapshot = worked_only(load_snapshot(db, trial_id, [source_of(measurand)]))
        judged = judge(Record(snapshot), NoLessons(), measurand).judgement
        data = trial_data(snapshot, measurand)
        behind = {c.hardness: c.behind() for c in judged.classes if len(c.standings) > 1}
        return Lesson(judged.lessons(f"the trial {name}"), _print(data), behind)
    except LoamError:
        return Lesson({})  # it has nothing to teach
