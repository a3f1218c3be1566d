"""The jobs of the workshop, and the one at hand."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from loam.app.applying.rests import trial_uid
from loam.app.applying.told import PRICES
from loam.app.commands import NoteJob, StartJob
from loam.app.commands.jobs import Said
from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.ladder import Prices
from loam.core.vehicle.adding import job_of
from loam.core.vehicle.job import Job
from loam.store import jobs as job_store
from loam.store.jobs import JobRow

WORTH = "car_worth"
"""The setting that keeps what an hour and the aim are worth."""
MOST_HOUR_UM, MOST_AIM_UM = 60.0, 200.0
KEY = "job"
"""The setting that keeps which job is at hand."""
Held = tuple[JobRow, Job]


def jobs_in(db: sqlite3.Connection) -> list[Held]:
    """Return all jobs of a workshop as they stand, the newest first."""
    return [(row, job_of(row.name, job_store.notes_of(db, row.id))) for row in job_store.jobs(db)]


def all_jobs(session: Session) -> list[Held]:
    """Return all jobs of the workshop as they stand, the newest first."""
    found: list[Held] = session.cached("jobs", lambda: jobs_in(session.workshop.connection))
    return found


def job_at_hand(session: Session) -> Held | None:
    """Return the job at hand: the one that was chosen, else the newest."""
    found = all_jobs(session)
    wanted = session.recall(KEY)
    return next((h for h in found if h[0].id == wanted), found[0] if found else None)


def choose_job(session: Session, job_id: int) -> None:
    """Turn to a job."""
    session.remember(KEY, job_id)


def others_on(session: Session, held: Held) -> list[Job]:
    """Return the other jobs that rest on the same trial: what their spots showed is learnt."""
    return [j for row, j in all_jobs(session) if row.id != held[0].id and j.trial == held[1].trial]


def free_name(session: Session, name: str = "A car") -> str:
    """Return a name that no job has."""
    taken = {row.name for row, _ in all_jobs(session)}
    tries = (name, *(f"{name} {i}" for i in range(2, len(taken) + 3)))
    return next(n for n in tries if n not in taken)


def start_job(session: Session, name: str, shape: str) -> StartJob:
    """Return the act that starts a job on the trial at hand."""
    trial = session.trial_id
    notes: list[Said] = [("vehicle", {"shape": shape})]
    if trial is not None:
        notes.append(("basis", {"trial": trial_uid(session.workshop.connection, trial)}))
    return StartJob(name, notes)


def noted(job_id: int, sort: str, facts: Mapping[str, Any], said: str) -> NoteJob:
    """Return the act that adds one note."""
    return NoteJob(job_id, [(sort, facts)], said)


def prices_of(session: Session) -> Prices:
    """Return what clear, time and the aim are worth in this workshop; assumed until it is said."""
    kept = session.recall(WORTH, {})
    hour, aim = kept.get("hour_um"), kept.get("aim_um")
    found = PRICES
    if isinstance(hour, int | float) and 0.0 <= hour <= MOST_HOUR_UM:
        found = replace(found, clear_per_minute=hour / 60.0)
    if isinstance(aim, int | float) and 0.0 <= aim <= MOST_AIM_UM:
        found = replace(found, give_up=float(aim))
    return found


def keep_price(session: Session, name: str, value: float) -> None:
    """Keep what an hour (hour_um), or reaching the aim (aim_um), is worth, µm of clear.

    Raises
    ------
    ValueRefused
        For less than nothing, or more than any clear.
    """
    most = MOST_HOUR_UM if name == "hour_um" else MOST_AIM_UM
    if not 0.0 <= value <= most:
        raise ValueRefused(f"{value:g} µm cannot be: 0 to {most:g}.")
    session.remember(WORTH, {**session.recall(WORTH, {}), name: value})
