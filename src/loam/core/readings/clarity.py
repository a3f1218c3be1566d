"""Distinctness of image, the sharpness of a reflection (ASTM D5767, E430)."""

from loam.core.readings.kind import ReadingKind

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
    usual={
        "panel": 0.8,
        "panel:combination": 0.3,
        "operator": 0.3,
        "day": 0.3,
        "cell": 0.6,
        "residual": 0.4,
    },
    columns=("clarity", "doi", "clarity_after", "doi_after"),
    before_columns=("baseline_clarity", "clarity_before", "doi_before"),
)
