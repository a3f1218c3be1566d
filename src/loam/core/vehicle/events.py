"""What can be noted of a job, declared once: each note is added, never changed, and may be struck.

A job is the sum of its notes: `loam.core.vehicle.job.job_of` adds them up.
"""

from __future__ import annotations

import base64
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.film.build import SUBSTRATES
from loam.core.readings import kind_of
from loam.core.record.fields import INTEGER, NUMBER, TEXT, Field
from loam.core.trial import HARDNESSES
from loam.core.vehicle.shapes import SHAPES

FACTORY, AGAIN, SINGLE, FRESH, UNKNOWN = "factory", "again", "single", "fresh", "unknown"
STATES: tuple[tuple[str, str], ...] = (
    (FACTORY, "factory paint"),
    (AGAIN, "painted again"),
    (SINGLE, "single-stage, no clear"),
    (FRESH, "fresh"),
    (UNKNOWN, "old or not known"),
)
LEVELS: tuple[tuple[str, str], ...] = (
    ("light", "light"),
    ("middle", "middle"),
    ("heavy", "heavy"),
)
DAMAGES: tuple[tuple[str, str], ...] = (
    ("swirls", "swirls"),
    ("scratches", "scratches"),
    ("holograms", "holograms"),
    ("etching", "water marks, etching"),
    ("texture", "sanding marks, texture"),
)
LIGHTS: tuple[tuple[str, str], ...] = (("", ""), ("point", "point light"), ("strip", "strip light"))
BEFORE, AFTER = "before", "after"
TAKE, TRY, STOP, MEASURE = "take", "try", "stop", "measure"
MOST_FILM_UM = 2000.0
MOST_IMAGE = 300_000
"""Letters of a photograph (JPEG, base64) that is kept with a panel."""


def _keys(pairs: tuple[tuple[str, str], ...]) -> tuple[str, ...]:
    return tuple(key for key, _ in pairs)


_PART = Field("part", TEXT, "the panel", high=60)


def _share(name: str, label: str, *, empty: bool = False) -> Field:
    return Field(name, NUMBER, label, low=0.0, high=1.0, empty=empty)


_WHO = Field("who", TEXT, "who", high=60, empty=True)
_RUNG = Field("rung", TEXT, "the combination", high=40)

NOTES: dict[str, tuple[Field, ...]] = {
    "vehicle": (
        Field("shape", TEXT, "the sort of vehicle", choices=tuple(s.key for s in SHAPES)),
        Field("colour", TEXT, "colour", high=60, empty=True),
        Field("paint", TEXT, "paint line", high=60, empty=True),
        Field("owner", TEXT, "whose it is", high=80, empty=True),
    ),
    "part": (
        _PART,
        Field("label", TEXT, "its name", high=40, empty=True),
        Field("area_m2", NUMBER, "area", "m²", low=0.001, high=40.0, empty=True),
        Field("substrate", TEXT, "substrate", choices=_keys(SUBSTRATES), empty=True),
        Field("state", TEXT, "state of the paint", choices=_keys(STATES), empty=True),
        Field("worked_um", NUMBER, "clear taken off earlier", "µm", low=0, high=200, empty=True),
        Field("turn", INTEGER, "turn in the order of work", low=1, high=99, empty=True),
        Field("out", INTEGER, "left out", low=0, high=1, empty=True),
        Field("own", INTEGER, "added to the vehicle", low=0, high=1, empty=True),
    ),
    "film": (
        _PART,
        Field("film_um", NUMBER, "film", "µm", low=0.0, high=MOST_FILM_UM),
        Field("place", TEXT, "where", choices=("", "edge"), empty=True),
        _share("x", "across", empty=True),
        _share("y", "down", empty=True),
    ),
    "damage": (
        _PART,
        Field("kind", TEXT, "sort of damage", choices=_keys(DAMAGES)),
        Field("level", TEXT, "how heavy", choices=("", *_keys(LEVELS))),
        Field("light", TEXT, "seen under", choices=_keys(LIGHTS), empty=True),
    ),
    "nail": (
        _PART,
        _share("x", "across"),
        _share("y", "down"),
        Field("words", TEXT, "what it is", high=120, empty=True),
    ),
    "photo": (
        _PART,
        Field("image", TEXT, "the photograph", high=MOST_IMAGE),
        Field("words", TEXT, "what it shows", high=120, empty=True),
    ),
    "aim": (
        Field("measurand", TEXT, "the measurement", high=40),
        Field("at_least", NUMBER, "at least", empty=True),
        Field("at_most", NUMBER, "at most", empty=True),
    ),
    "wish": (
        Field("preset", TEXT, "for what", high=30, empty=True),
        Field("keep_um", NUMBER, "clear to keep", "µm", low=0, high=200, empty=True),
        Field("minutes", NUMBER, "minutes", "min", low=1, high=10_000, empty=True),
        Field("say", TEXT, "what the customer says", high=500, empty=True, lines=True),
    ),
    "hardness": (
        _share("soft", "chance of soft"),
        _share("medium", "chance of medium"),
        _share("hard", "chance of hard"),
        Field("why", TEXT, "what it rests on", high=200, empty=True),
    ),
    "basis": (
        Field("trial", TEXT, "the trial that it rests on", high=64),
        Field("house", TEXT, "the house process", high=40, empty=True),
    ),
    "spot": (
        _PART,
        _RUNG,
        _share("x", "across"),
        _share("y", "down"),
        Field("by_hand", INTEGER, "done elsewhere", low=0, high=1, empty=True),
        _WHO,
    ),
    "read": (
        Field("spot", TEXT, "the spot", high=64),
        Field("measurand", TEXT, "the measurement", high=40),
        Field("value", NUMBER, "the reading"),
        Field("phase", TEXT, "when", choices=(BEFORE, AFTER)),
        _WHO,
    ),
    "wiped": (Field("spot", TEXT, "the spot", high=64), _WHO),
    "worked": (
        Field("spot", TEXT, "the spot", high=64),
        Field("stage", INTEGER, "the stage", low=1, high=8),
        Field("passes", INTEGER, "passes", low=0, high=400),
        Field("seconds", NUMBER, "seconds", "s", low=0.0, high=36_000.0, empty=True),
        _WHO,
    ),
    "measured": (
        Field("spot", TEXT, "the spot", high=64),
        Field("removed_pct", NUMBER, "marks gone", "%", low=-1000.0, high=100.0),
        Field("error_points", NUMBER, "its error", "points", low=0.0, high=100.0, empty=True),
        Field("before", TEXT, "the picture before", high=120, empty=True),
        Field("after", TEXT, "the picture after", high=120, empty=True),
        Field("image", TEXT, "both, small", high=MOST_IMAGE, empty=True),
        _WHO,
    ),
    "decided": (
        Field("what", TEXT, "what", choices=(TAKE, TRY, STOP, MEASURE)),
        Field("rung", TEXT, "the combination", high=40, empty=True),
        Field("words", TEXT, "why", high=500, empty=True, lines=True),
    ),
    "instead": (_PART, Field("rung", TEXT, "the combination", high=40, empty=True)),
    "day": (
        Field("people", INTEGER, "how many work", low=1, high=12),
        Field("start", TEXT, "start", high=5),
        Field("hours", NUMBER, "hours of a day", "h", low=2.0, high=16.0, empty=True),
    ),
    "done": (
        _PART,
        _RUNG,
        Field("minutes", NUMBER, "minutes", "min", low=0.0, high=2000.0, empty=True),
        _WHO,
    ),
    "check": (
        _PART,
        Field("measurand", TEXT, "the measurement", high=40),
        Field("value", NUMBER, "the reading"),
        Field("later", INTEGER, "at the follow-up", low=0, high=1, empty=True),
    ),
    "apart": (Field("on", INTEGER, "teaches nothing of other vehicles", low=0, high=1),),
    "finished": (Field("words", TEXT, "remark", high=500, empty=True, lines=True),),
}
"""By the sort of a note, its fields."""
_TIME = re.compile(r"([01]?\d|2[0-3]):[0-5]\d")
MERGED = frozenset({"vehicle", "wish", "basis"})
"""Later notes of these say anew only what they name."""


@dataclass(frozen=True)
class Note:
    """One note of a job: its identity, its sort, what it says, and when it was made."""

    uid: str
    sort: str
    facts: Mapping[str, Any]
    at: str = ""


def _is_jpeg(text: str) -> bool:
    try:
        return base64.b64decode(text, validate=True).startswith(b"\xff\xd8\xff")
    except ValueError:
        return False


def checked(sort: str, facts: Mapping[str, Any]) -> dict[str, Any]:
    """Return the facts of a note as they are kept, those that say nothing left out.

    Raises
    ------
    ValueRefused
        For a sort or a field that there is not, or a value that cannot be.
    """
    fields = NOTES.get(sort)
    if fields is None:
        raise ValueRefused(f"{sort[:40]!r} is nothing that is noted of a job.")
    unknown = set(facts) - {f.name for f in fields}
    if unknown:
        raise ValueRefused(f"A note of {sort} has no {sorted(unknown)[0][:40]!r}.")
    for f in fields:
        f.check(facts.get(f.name))
    if sort == "hardness" and not sum(facts[h] for h in HARDNESSES) > 0.0:
        raise ValueRefused("No class has a chance above 0.", todo="Give one of them more.")
    if sort in ("photo", "measured") and facts.get("image") and not _is_jpeg(facts["image"]):
        raise ValueRefused("This is no photograph that can be kept.", todo="Give a JPEG.")
    if sort == "day" and not _TIME.fullmatch(facts["start"]):
        raise ValueRefused(f"{facts['start']!r} is no time of day.", todo="Write it as 08:30.")
    if sort in ("aim", "read", "check"):
        kind = kind_of(facts["measurand"])
        for name in ("at_least", "at_most", "value"):
            if facts.get(name) is not None:
                kind.check(facts[name])
    return {f.name: facts[f.name] for f in fields if facts.get(f.name) is not None}
