"""Specular gloss at the three usual angles (ISO 2813, ASTM D523)."""

from loam.core.readings.kind import Doubted, ReadingKind, TileLimits

USUAL_GLOSS = {
    "panel": 0.8,
    "panel:combination": 0.3,
    "operator": 0.3,
    "reader": 0.2,
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
    doubted=Doubted(-4.5, -3.0, -0.5),
    tile=TileLimits(0.5, 1.0),
    flattered=True,
    aim="finish",
    claims={"finish": 2},
    says=("shines {} more", "shines {} less"),
    abroad={
        "de": ("glanz", "glanz20", "glanz_20", "glanzgrad", "glanzgrad_20"),
        "fr": ("brillant", "brillance", "brillant20", "brillant_20", "brillance_20"),
        "es": ("brillo", "brillo20", "brillo_20"),
    },
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
    doubted=Doubted(-3.0, -2.0, -0.4),
    tile=TileLimits(0.5, 1.0),
    flattered=True,
    abroad={
        "de": ("glanz60", "glanz_60", "glanzgrad_60"),
        "fr": ("brillant60", "brillant_60", "brillance_60"),
        "es": ("brillo60", "brillo_60"),
    },
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
    doubted=Doubted(-2.0, -1.5, -0.3),
    tile=TileLimits(0.5, 1.0),
    flattered=True,
    abroad={
        "de": ("glanz85", "glanz_85", "glanzgrad_85"),
        "fr": ("brillant85", "brillant_85", "brillance_85"),
        "es": ("brillo85", "brillo_85"),
    },
)
