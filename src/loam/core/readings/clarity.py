"""Distinctness of image, the sharpness of a reflection (ASTM D5767, E430)."""

from loam.core.readings.gloss import USUAL_GLOSS
from loam.core.readings.kind import Doubted, ReadingKind

CLARITY = ReadingKind(
    key="clarity",
    label="clarity",
    short="clarity",
    unit="DOI",
    decimals=1,
    low=0.0,
    high=100.0,
    higher_is_better=True,
    repeatability=0.4,
    usual=USUAL_GLOSS,
    columns=("clarity", "doi", "clarity_after", "doi_after"),
    before_columns=("baseline_clarity", "clarity_before", "doi_before"),
    doubted=Doubted(-4.0, -3.0, -0.5, masked=False),
    flattered=True,
    aim="finish",
    abroad={
        "de": ("bildschärfe", "bildschaerfe"),
        "fr": ("netteté", "nettete"),
        "es": ("nitidez",),
    },
)
