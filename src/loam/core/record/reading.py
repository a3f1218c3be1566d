"""Readings, the lines of instruments that they came on, and what was struck."""

from __future__ import annotations

from loam.core.record.fields import INTEGER, NUMBER, OBJECT, Field, Sort
from loam.core.record.trial import MADE, UID

LINE = Sort(
    "raw",
    "line of an instrument",
    "lines of instruments",
    "lines",
    "raw_line",
    (
        Field("id", INTEGER),
        Field("meter", INTEGER, of="thing", column="meter_id", empty=True),
        Field("day", of="day", column="session_id"),
        Field("device_time", high=40),
        Field("at"),
        Field("line", high=2000),
        UID,
    ),
    belongs="line",
    grows=True,
    since=9,
)

READING = Sort(
    "reading",
    "reading",
    "readings",
    "readings",
    "reading",
    (
        Field("id", INTEGER),
        Field("cell", INTEGER, of="cell", column="cell_id"),
        Field("measurand"),
        Field("value", NUMBER),
        Field("phase"),
        Field("ordinal", INTEGER),
        Field("stage", INTEGER),
        Field("scale"),
        Field("operator", of="person", column="-"),
        Field("day", of="day", column="session_id"),
        Field("taken_at"),
        Field("reader", of="person", since=2, column="reader_id"),
        Field("meter", of="thing", since=2, column="-"),
        Field("mark", since=2),
        Field("about", OBJECT, since=6),
        Field("meter_as_used", INTEGER, of="thing", since=9, column="meter_id", empty=True),
        Field("line", INTEGER, of="raw", since=9, column="raw_line_id", empty=True),
        UID,
    ),
    belongs="cell",
    grows=True,
)

STRIKE = Sort(
    "strike",
    "strike",
    "strikes",
    "strikes",
    "strike",
    (
        Field("reading", INTEGER, of="reading", column="reading_id"),
        Field("struck", INTEGER),
        Field("reason", high=4000, lines=True),
        Field("at"),
        UID,
        MADE,
    ),
    belongs="reading",
    grows=True,
    key_fields=(),
    latest="reading",
)
