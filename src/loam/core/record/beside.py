"""People and things as the trial used them, and what was decided of it."""

from __future__ import annotations

from loam.core.kit.facts import SORTS as THINGS
from loam.core.record.fields import INTEGER, OBJECT, VALUE, Field, Sort
from loam.core.record.trial import UID

PERSON = Sort(
    "person",
    "person",
    "people",
    "people",
    "person",
    (Field("name"), Field("role"), UID),
    belongs="",
    key_fields=("name",),
    since=9,
    most=10_000,
)

THING = Sort(
    "thing",
    "thing",
    "things",
    "things",
    "kit_version",
    (
        Field("id", INTEGER),
        Field("sort", choices=(*(s.key for s in THINGS), "towel")),
        Field("name"),
        Field("facts", OBJECT),
        Field("shelf", INTEGER, low=0, high=1),
        Field("at"),
        UID,
    ),
    belongs="",
    since=9,
    most=20_000,
)

DECISION = Sort(
    "decision",
    "decision",
    "decisions",
    "decisions",
    "decision",
    (
        Field("key", high=40),
        Field("value", VALUE, high=4_000_000),
        Field("words", high=1000, lines=True),
        Field("back", INTEGER, low=0, high=1),
        Field("person"),
        Field("at"),
        UID,
    ),
    grows=True,
    key_fields=(),
    since=9,
)

CHOICES: dict[str, str] = {
    "matters": "what matters",
    "doubts": "which doubts are taken into account",
    "left_out": "whether cells that were not worked as planned count",
    "looks": "how often cells were added after a look",
    "worth": "limits of what is worth it",
    "pooled": "which trials are taken as one",
    "plan": "how it is laid out",
    "assumed": "what is assumed of it",
    "aim": "what is wanted of it",
}
"""What is chosen of a trial and travels with it, by its key, in words."""

CHOICE = Sort(
    "choice",
    "choice",
    "choices",
    "choices",
    "setting",
    (Field("key", choices=tuple(CHOICES)), Field("value", VALUE, high=4_000_000)),
    key_fields=("key",),
    since=9,
    most=100,
)

AWAY = Sort(
    "away",
    "thing put away",
    "things put away",
    "away",
    "",
    (Field("sort", choices=("panel", "combination")), UID),
    key_fields=("uid",),
    since=9,
    most=10_000,
)

CHANGE = Sort(
    "change",
    "change",
    "changes",
    "changes",
    "change",
    (Field("of", high=200), Field("uid", high=64), Field("at", high=40)),
    key_fields=("uid",),
    since=9,
)
"""Which changes of what can be changed a workshop has seen, oldest first: what both changed."""
