"""What was done beside the readings: work, gates, notes, surveys of film, photographs."""

from __future__ import annotations

from loam.core.record.fields import INTEGER, NUMBER, OBJECT, Field, Sort
from loam.core.record.trial import MADE, UID
from loam.core.stage_settings import MAX_STAGES

_ID = Field("id", INTEGER)
_PERSON = Field("person", of="person", column="person_id")
_DAY = Field("day", of="day", column="session_id")
_AT = Field("at", high=40)
_CELL = Field("cell", INTEGER, of="cell", column="cell_id")
_SHA = Field("picture", label="the name of a picture in the file", high=80, column="image")

WORK = Sort(
    "work",
    "piece of work",
    "pieces of work",
    "work",
    "work",
    (
        _ID,
        _CELL,
        Field("stage", INTEGER, low=1, high=MAX_STAGES),
        Field("what", choices=("pass", "worked", "mark", "temperature", "taken back")),
        _PERSON,
        _DAY,
        Field("pad", INTEGER, of="thing", column="pad_id", empty=True),
        Field("facts", OBJECT, within={"of": "work"}),
        _AT,
        UID,
    ),
    belongs="cell",
    grows=True,
    part_by="what",
    parts={"mark": "mark", "temperature": "temperature", "taken back": "taken_back"},
    since=9,
)

GATE = Sort(
    "gate",
    "gate",
    "gates",
    "gates",
    "gate",
    (
        _ID,
        Field("panel", INTEGER, of="panel", column="taping_id"),
        Field("gate", high=40),
        Field("what", choices=("done", "skipped", "taken back")),
        _PERSON,
        _DAY,
        Field("facts", OBJECT, within={"of": "gate"}),
        _AT,
        UID,
    ),
    belongs="panel",
    grows=True,
    since=9,
)

NOTES = ("tile", "round", "closed", "peek", "wipe", "inspection", "photograph")
NOTE = Sort(
    "note",
    "note",
    "notes",
    "notes",
    "noted",
    (
        _ID,
        Field("sort", choices=NOTES),
        Field("cell", INTEGER, of="cell", column="cell_id", empty=True),
        _PERSON,
        _DAY,
        Field("facts", OBJECT, within={"of": "note", "panels": "panel"}),
        _AT,
        UID,
    ),
    grows=True,
    part_by="sort",
    parts={sort: sort for sort in NOTES},
    since=9,
)

NOTE_STRIKE = Sort(
    "note_strike",
    "note taken back",
    "notes taken back",
    "note_strikes",
    "noted_strike",
    (
        Field("note", INTEGER, of="note", column="noted_id"),
        Field("struck", INTEGER, low=0, high=1),
        Field("reason", high=1000, lines=True),
        _AT,
        UID,
        MADE,
    ),
    belongs="note",
    grows=True,
    key_fields=(),
    since=9,
    latest="note",
)

SEEN = Sort(
    "seen",
    "small picture of a pair of photographs",
    "small pictures",
    "seen",
    "photo_seen",
    (Field("note", INTEGER, of="note", column="noted_id"), _SHA, UID),
    belongs="note",
    grows=True,
    key_fields=(),
    since=9,
)

SURVEY = Sort(
    "survey",
    "reading of a panel's film",
    "readings of film",
    "surveys",
    "survey",
    (
        _ID,
        Field("panel", INTEGER, of="board", column="panel_id"),
        Field("x_mm", NUMBER, unit="mm"),
        Field("y_mm", NUMBER, unit="mm"),
        Field("film_um", NUMBER, unit="µm", low=0.0, high=5000.0),
        _PERSON,
        Field("meter", INTEGER, of="thing", column="meter_id", empty=True),
        _DAY,
        _AT,
        UID,
    ),
    belongs="board",
    grows=True,
    since=9,
)

SURVEY_STRIKE = Sort(
    "survey_strike",
    "reading of film struck",
    "readings of film struck",
    "survey_strikes",
    "survey_strike",
    (
        Field("survey", INTEGER, of="survey", column="survey_id"),
        Field("struck", INTEGER, low=0, high=1),
        _AT,
        UID,
        MADE,
    ),
    belongs="survey",
    grows=True,
    key_fields=(),
    since=9,
    latest="survey",
)

PICTURE = Sort(
    "picture",
    "photograph of a panel",
    "photographs of panels",
    "pictures",
    "panel_photo",
    (_ID, Field("panel", INTEGER, of="board", column="panel_id"), _SHA, _AT, UID),
    belongs="board",
    grows=True,
    since=9,
)

SHOWN = Sort(
    "shown",
    "photograph laid under a panel",
    "photographs laid",
    "pictures_shown",
    "panel_photo_shown",
    (
        Field("panel", INTEGER, of="board", column="panel_id"),
        Field("photograph", INTEGER, of="picture", column="photo_id", empty=True),
        _AT,
        UID,
        MADE,
    ),
    belongs="board",
    grows=True,
    key_fields=(),
    since=9,
    latest="panel",
)
