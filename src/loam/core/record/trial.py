"""A trial, its panels, combinations, stages and cells, and the readings before work."""

from __future__ import annotations

from loam.core.record.fields import INTEGER, NUMBER, OBJECT, Field, Sort
from loam.core.stage_settings import SETTINGS

UID = Field("uid", label="its identity", high=64, since=9, column="-")
MADE = Field("made", label="when and in which order it was made", high=64, since=9, column="-")
USED = ("pad", "compound", "machine", "disc")

TRIAL = Sort(
    "trial",
    "trial",
    "trials",
    "trial",
    "trial",
    (
        Field("name"),
        Field("question", lines=True),
        Field("measurands", column="measurands"),
        Field("readings_per_cell", INTEGER),
        Field("seed", INTEGER),
        Field("note", high=4000, lines=True),
        Field("created_at"),
        UID,
    ),
    key_fields=("name",),
    most=1,
)

PANEL = Sort(
    "panel",
    "panel",
    "panels",
    "panels",
    "taping",
    (
        Field("id", INTEGER),
        Field("name"),
        Field("hardness"),
        Field("paint"),
        Field("width_mm", NUMBER, unit="mm"),
        Field("height_mm", NUMBER, unit="mm"),
        Field("rows", INTEGER),
        Field("columns", INTEGER),
        Field("gap_mm", NUMBER, unit="mm"),
        Field("margin_mm", NUMBER, unit="mm"),
        Field("build", OBJECT, since=3),
        Field("outline", OBJECT, since=4),
        Field("facts", OBJECT, since=9),
        UID,
        Field("board", label="the identity of the panel as a thing", high=64, since=9, column="-"),
        MADE,
    ),
    most=2000,
)

COMBINATION = Sort(
    "combination",
    "combination",
    "combinations",
    "combinations",
    "combination",
    (
        Field("id", INTEGER),
        Field("code"),
        Field("name"),
        Field("control", since=2),
        UID,
        MADE,
    ),
    most=2000,
)

STAGE = Sort(
    "stage",
    "stage",
    "stages",
    "stages",
    "stage",
    (
        Field("combination", INTEGER, of="combination"),
        Field("position", INTEGER),
        Field("pad"),
        Field("compound"),
        Field("machine"),
        Field("pad_material"),
        Field("compound_class"),
        Field("machine_kind"),
        Field("passes", INTEGER),
        Field("dial"),
        Field("force_n", NUMBER, unit="N", empty=True),
        *(Field(s.key, NUMBER, unit=s.unit, empty=True, since=s.since) for s in SETTINGS),
        Field("disc", since=5),
        Field("wipes", since=10, label="the wipes after a stage"),
        *(
            Field(f"{what}_as_used", INTEGER, of="thing", empty=True, since=9, column=f"{what}_id")
            for what in USED
        ),
    ),
    belongs="combination",
    key_fields=("combination", "position"),
)

CELL = Sort(
    "cell",
    "cell",
    "cells",
    "cells",
    "cell",
    (
        Field("id", INTEGER),
        Field("panel", INTEGER, of="panel"),
        Field("row", INTEGER),
        Field("column", INTEGER),
        Field("combination", INTEGER, of="combination", empty=True),
        Field("run_order", INTEGER, empty=True),
        Field("name", since=8),
    ),
    belongs="panel",
    most=200_000,
)

BASELINE = Sort(
    "baseline",
    "reading before work",
    "readings before work",
    "baselines",
    "baseline",
    (Field("cell", INTEGER, of="cell"), Field("measurand"), Field("value", NUMBER)),
    belongs="cell",
    key_fields=("cell", "measurand"),
)
