"""Specular gloss at the three usual angles (ISO 2813, ASTM D523)."""

from loam.core.readings.kind import ReadingKind

USUAL_GLOSS = {
    "panel": 0.8,
    "panel:combination": 0.3,
    "operator": 0.3,
    "day": 0.3,
    "cell": 0.6,
    "residual": 0.4,
}

GLOSS20 = ReadingKind(
    key="gloss20",
    label="gloss 20°",
    short="gloss",
    unit="GU",
    decimals=1,
    low=0.0,
    high=2000.0,
    higher_is_better=True,
    repeatability=0.4,
    usual=USUAL_GLOSS,
    columns=("gloss20", "gloss_20", "gloss 20", "gloss20_after", "gu20"),
    before_columns=("baseline_gloss20", "gloss20_before", "gloss20_baseline"),
)
GLOSS60 = ReadingKind(
    key="gloss60",
    label="gloss 60°",
    short="gloss at 60°",
    unit="GU",
    decimals=1,
    low=0.0,
    high=1000.0,
    higher_is_better=True,
    repeatability=0.4,
    usual=USUAL_GLOSS,
    columns=("gloss60", "gloss_60", "gloss 60", "gloss60_after", "gu60"),
    before_columns=("baseline_gloss60", "gloss60_before", "gloss60_baseline"),
)
GLOSS85 = ReadingKind(
    key="gloss85",
    label="gloss 85°",
    short="gloss at 85°",
    unit="GU",
    decimals=1,
    low=0.0,
    high=160.0,
    higher_is_better=True,
    repeatability=0.4,
    usual=USUAL_GLOSS,
    columns=("gloss85", "gloss_85", "gloss 85", "gloss85_after", "gu85"),
    before_columns=("baseline_gloss85", "gloss85_before", "gloss85_baseline"),
)
