"""Cars that were unlike their class: a doubt about them, and about the trial that promised."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from loam.app.applying.at_hand import Held, jobs_in
from loam.app.applying.rests import rests_on, trial_uid
from loam.app.applying.stairs import limits_of, work_out
from loam.app.applying.told import SpotTold, odd_cars
from loam.core.errors import NotEnough
from loam.core.trial import HARDNESSES
from loam.core.vehicle.job import Job
from loam.store.database import reading_apart

MOST = 40
"""The newest vehicles that are looked at."""


@dataclass(frozen=True)
class CarDoubt:
    """A car that was unlike its class.

    Attributes
    ----------
    job_id : int
    job : Job
    read, outside : int
        Its readings, and those that lay outside where nine of ten should.
    rare : float
        How often luck does that.
    told : SpotTold or None
        Its spot that lay farthest off.
    """

    job_id: int
    job: Job
    read: int
    outside: int
    rare: float
    told: SpotTold | None = None

    @property
    def head(self) -> str:
        """What is doubted."""
        return f"{self.job.name} was unlike its class."

    @property
    def evidence(self) -> str:
        """What shows it, and how likely that is luck."""
        often = f"{1000 * self.rare:.0f}" if self.rare >= 0.0015 else "one"
        return (
            f"{self.outside} of its {self.read} readings lay outside where nine of ten should; luck"
            f" puts {often} of 1000 cars so far off."
        )

    @property
    def effect(self) -> str:
        """What it does, and what to do."""
        does = "What it showed counts in what the next cars are promised."
        if self.job.apart:
            does = "It teaches nothing of how cars differ from panels."
        return f"{does} Look at its paint, its wipe and whose hand it was."


def cars_doubted(path: Path, trial_id: int) -> tuple[CarDoubt, ...]:
    """Return the cars on a trial that were unlike their class; made for a worker."""
    with reading_apart(path) as db:
        uid = trial_uid(db, trial_id)
        held = [h for h in jobs_in(db) if h[1].trial == uid and _read(h[1])][:MOST]
    if not held:
        return ()
    measurands = dict.fromkeys(w.measurand for _, job in held for w in job.aim)
    every = dict.fromkeys(HARDNESSES, 1.0 / 3.0)
    try:
        rests = rests_on(path, uid, list(measurands), every)
    except NotEnough:
        return ()  # nothing was promised of what they are wanted for
    aimed = [h for h in held if limits_of(h[1], rests)]
    if not aimed:
        return ()
    row, job = aimed[0]
    odd = odd_cars(work_out(job, rests, _others(held, row.id)).lain)
    found = []
    for row, job in held:
        if job.name in odd:
            able = limits_of(job, rests)
            spots = work_out(job, rests, _others(held, row.id)).spots if able else ()
            found.append(_doubt(row.id, job, odd[job.name], spots))
    return tuple(found)


def _read(job: Job) -> bool:
    return any(s.after for s in job.spots) or any(p.checks or p.later for p in job.parts)


def _others(held: Sequence[Held], job_id: int) -> list[Job]:
    return [job for row, job in held if row.id != job_id]


def _doubt(
    job_id: int, job: Job, odd: tuple[int, int, float], spots: Sequence[SpotTold]
) -> CarDoubt:
    worst = min(spots, key=lambda s: min((r.rare for r in s.rows), default=1.0), default=None)
    return CarDoubt(job_id, job, *odd, worst)
