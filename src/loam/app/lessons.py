"""What the earlier trials of a workshop have taught about how readings vary, as priors."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping

from loam.core.dataset import source_of, trial_data
from loam.core.errors import LoamError
from loam.core.judging import judge_readings
from loam.core.prior import Prior, default_priors, with_learnt
from loam.core.readings import kind_of
from loam.store import trials as trial_store
from loam.store.readings import state_of_trial
from loam.store.snapshot import load_snapshot

MOST_TRIALS, MOST_READINGS = 3, 20_000
_KEPT = 64
_known: dict[tuple[object, ...], Mapping[str, Prior]] = {}


def priors_for(db: sqlite3.Connection, trial_id: int, measurand: str) -> dict[str, Prior]:
    """Return what is assumed of a trial's variances: lessons of earlier trials, else defaults.

    At most the three trials before it that read the measurand, none too large to be judged in
    passing.
    """
    base = default_priors(kind_of(measurand))
    earlier = [t for t in trial_store.trials(db) if t.id < trial_id]
    source = source_of(measurand)
    reading = [t for t in earlier if source in t.measurands][-MOST_TRIALS:]
    return with_learnt(base, [_lesson(db, t.id, t.name, measurand) for t in reading])


def _lesson(
    db: sqlite3.Connection, trial_id: int, name: str, measurand: str
) -> Mapping[str, Prior]:
    """Judge an earlier trial and keep what it taught until one of its readings changes."""
    file = db.execute("PRAGMA database_list").fetchone()[2]
    state = state_of_trial(db, trial_id)
    key = (file, trial_id, name, measurand, *state)
    if key not in _known:
        if len(_known) >= _KEPT:
            _known.clear()
        _known[key] = _judged(db, trial_id, name, measurand) if state[0] <= MOST_READINGS else {}
    return _known[key]


def _judged(
    db: sqlite3.Connection, trial_id: int, name: str, measurand: str
) -> Mapping[str, Prior]:
    try:
        data = trial_data(load_snapshot(db, trial_id, [source_of(measurand)]), measurand)
        return judge_readings(data).lessons(f"the trial {name}")
    except LoamError:
        return {}  # it has nothing to teach
