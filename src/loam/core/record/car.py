"""Jobs: vehicles that rest on a trial, and what was noted of them."""

from __future__ import annotations

from loam.core.record.fields import INTEGER, OBJECT, Field, Sort
from loam.core.record.trial import UID

_SINCE = 11

JOB = Sort(
    "job",
    "job",
    "jobs",
    "jobs",
    "job",
    (UID, Field("name"), Field("at", column="created_at")),
    key_fields=("uid",),
    since=_SINCE,
    most=2_000,
)

JOB_NOTE = Sort(
    "job_note",
    "note of a job",
    "notes of jobs",
    "job-notes",
    "job_note",
    (
        UID,
        Field("job", high=64),
        Field("sort", high=20),
        Field("facts", OBJECT, high=400_000),
        Field("at"),
    ),
    key_fields=("uid",),
    since=_SINCE,
    most=200_000,
)

JOB_STRIKE = Sort(
    "job_strike",
    "note of a job struck",
    "notes of jobs struck",
    "job-strikes",
    "job_strike",
    (UID, Field("note", high=64), Field("struck", INTEGER, low=0, high=1), Field("at")),
    key_fields=("uid",),
    since=_SINCE,
    most=200_000,
)

JOBS = (JOB, JOB_NOTE, JOB_STRIKE)
"""What a trial takes along of the vehicles that rest on it."""
