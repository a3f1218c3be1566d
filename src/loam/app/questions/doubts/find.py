"""Doubts about the trial at hand: found on the worker, taken into account where that is wanted."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from loam.app.questions.doubts.said import DoubtSaid, doubts_said
from loam.app.record import Learnt, record_of
from loam.store.circumstances import extras_in
from loam.store.database import reading_apart
from loam.store.snapshot import load_snapshot
from loam.store.snapshot_cache import Loader

STEPS = 20_000
"""Steps of the database, some milliseconds, after which a reading of a trial can be stopped."""


def doubts_of(
    path: Path, trial_id: int, seed: int, told: Callable[[float], None] | None = None,
    load: Loader = load_snapshot,
) -> list[DoubtSaid]:  # fmt: skip
    """Look a trial through from its file; made for a worker thread.

    All of it counts, whatever was taken into account before: a doubt stays to be seen.
    """
    with reading_apart(path) as db:
        if told is not None:
            db.set_progress_handler(lambda: _stopped(told), STEPS)
        record = record_of(db, trial_id, load=load).as_it_stands()
        if not record.snapshot.columns.value.size:
            return []
        extras = extras_in(db, trial_id, record.snapshot)
        return doubts_said(record, Learnt(db, trial_id), extras, seed, told=told)


def _stopped(told: Callable[[float], None]) -> bool:
    """Tell whether whoever is told wants no more: the reading of a large trial ends at once."""
    try:
        told(0.0)
    except Exception:
        return True
    return False


def short(count: int) -> str:
    """Say how many doubts there are."""
    if not count:
        return ""
    return "One doubt: D shows it." if count == 1 else f"{count} doubts: D shows them."
