"""The record of a trial, declared once: tables, files, checks and counts follow from it."""

from __future__ import annotations

from loam.core.record.beside import AWAY, CHANGE, CHOICE, CHOICES, DECISION, PERSON, THING
from loam.core.record.car import JOB, JOB_NOTE, JOB_STRIKE, JOBS
from loam.core.record.done import (
    GATE,
    NOTE,
    NOTE_STRIKE,
    NOTES,
    PICTURE,
    SEEN,
    SHOWN,
    SURVEY,
    SURVEY_STRIKE,
    WORK,
)
from loam.core.record.fields import INTEGER, NUMBER, OBJECT, TEXT, VALUE, Field, Sort
from loam.core.record.reading import LINE, READING, STRIKE
from loam.core.record.trial import BASELINE, CELL, COMBINATION, PANEL, STAGE, TRIAL

SORTS: tuple[Sort, ...] = (
    TRIAL,
    PERSON,
    THING,
    PANEL,
    COMBINATION,
    STAGE,
    CELL,
    BASELINE,
    LINE,
    WORK,
    READING,
    STRIKE,
    GATE,
    NOTE,
    NOTE_STRIKE,
    SEEN,
    SURVEY,
    SURVEY_STRIKE,
    PICTURE,
    SHOWN,
    DECISION,
    CHOICE,
    AWAY,
    CHANGE,
    JOB,
    JOB_NOTE,
    JOB_STRIKE,
)
"""In the order in which a file has them: whatever is referred to comes first."""
BY_KEY: dict[str, Sort] = {s.key: s for s in SORTS}
GROWING: tuple[Sort, ...] = tuple(s for s in SORTS if s.grows)
"""What is only ever added."""
COUNTED: tuple[Sort, ...] = tuple(
    s for s in SORTS if s not in (TRIAL, PERSON, THING, AWAY, CHANGE, *JOBS)
)
"""What a trial is counted by."""

_PARTS = {
    "mark": ("mark of the work", "marks of the work"),
    "temperature": ("temperature", "temperatures"),
    "taken_back": ("piece of work taken back", "pieces of work taken back"),
    "tile": ("tile check", "tile checks"),
    "round": ("round", "rounds"),
    "closed": ("round closed", "rounds closed"),
    "peek": ("peek", "peeks"),
    "wipe": ("wipe", "wipes"),
    "inspection": ("inspection", "inspections"),
    "photograph": ("pair of photographs", "pairs of photographs"),
    "pad": ("note of a pad", "notes of pads"),
}


def counted_words(counted: str, count: int) -> str:
    """Say how many of something there are: 1 reading, 12 tile checks."""
    sort = BY_KEY.get(counted)
    plain = (counted, counted) if sort is None else (sort.one, sort.many)
    one, many = _PARTS.get(counted, plain)
    return f"{count} {one if count == 1 else many}"


__all__ = [
    "AWAY",
    "BASELINE",
    "BY_KEY",
    "CELL",
    "CHANGE",
    "CHOICE",
    "CHOICES",
    "COMBINATION",
    "COUNTED",
    "DECISION",
    "GATE",
    "GROWING",
    "INTEGER",
    "JOB",
    "JOBS",
    "JOB_NOTE",
    "JOB_STRIKE",
    "LINE",
    "NOTE",
    "NOTES",
    "NOTE_STRIKE",
    "NUMBER",
    "OBJECT",
    "PANEL",
    "PERSON",
    "PICTURE",
    "READING",
    "SEEN",
    "SHOWN",
    "SORTS",
    "STAGE",
    "STRIKE",
    "SURVEY",
    "SURVEY_STRIKE",
    "TEXT",
    "THING",
    "TRIAL",
    "VALUE",
    "WORK",
    "Field",
    "Sort",
    "counted_words",
]
