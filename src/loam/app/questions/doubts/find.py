"""Doubts about the trial at hand: found on the worker, taken into account where that is wanted."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from pathlib import Path

from loam.app.doubting import DoubtSaid, doubts_said
from loam.app.questions.doubts.noticed import noticed
from loam.app.questions.question import Asked, Tell
from loam.app.record import Learnt, applied, record_of
from loam.store.circumstances import extras_in
from loam.store.database import reading_apart
from loam.store.snapshot import load_snapshot
from loam.store.snapshot_cache import Loader

STEPS = 20_000
"""Steps of the database, some milliseconds, after which a reading of a trial can be stopped."""


def doubts_of(
    path: Path,
    trial_id: int,
    seed: int,
    told: Callable[[float], None] | None = None,
    load: Loader = load_snapshot,
) -> list[DoubtSaid]:
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


@dataclass(frozen=True)
class Doubted:
    """What is doubted, what was noticed, and what of it is taken into account."""

    doubts: Sequence[DoubtSaid]
    seen: Sequence[str]
    on: Collection[str]
    left_out: bool

    def said(self) -> tuple[str, ...]:
        """Return it in words."""
        said = [f"Noticed while it was worked and read: {s}" for s in self.seen]
        for d in self.doubts:
            state = " It is taken into account." if d.key in self.on else ""
            said.append(f"{d.sentence} {d.effect}{state}")
        if self.left_out:
            said.append("What was not worked as planned is left out.")
        nothing = "Nothing in the readings is doubted, as far as so many can tell."
        return tuple(said) or (nothing,)

    def table(self) -> list[list[str]]:
        """Return the doubts as a table, its heading first."""
        rows = [["kind", "subject", "p", "sentence", "effect"]]
        return rows + [
            [d.doubt.kind, d.subject, f"{d.doubt.p:.2g}", d.sentence, d.effect] for d in self.doubts
        ]


def head(asked: Asked) -> str:
    """Return what its part of the report is called."""
    return "Doubts"


def answer(asked: Asked, tell: Tell) -> Doubted:
    """Look the trial through, unless that was done."""
    path, trial = asked.path, asked.trial
    doubts, seen = asked.doubts or (
        doubts_of(path, trial.id, trial.seed, tell),
        noticed(path, trial.id),
    )
    with reading_apart(path) as db:
        return Doubted(doubts, seen, set(applied(db, trial.id)), asked.left_out)
