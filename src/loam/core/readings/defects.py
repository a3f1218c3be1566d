"""Defects removed, as the share of marks that are gone.

Estimated by eye, counted by a grid, or measured from photographs (there as brightness-weighted
mark length): three scales, which never mix.
"""

from loam.core.readings.kind import ReadingKind

DEFECTS = ReadingKind(
    key="defects",
    label="defects removed",
    short="defect removal",
    unit="%",
    decimals=0,
    low=0.0,
    high=100.0,
    higher_is_better=True,
    repeatability=3.0,
    scales=("eye", "grid", "photograph"),
    scale="logit",
    matters=1.5,
    usual={
        "panel": 0.35,
        "panel:combination": 0.15,
        "operator": 0.15,
        "day": 0.15,
        "cell": 0.25,
        "residual": 0.25,
    },
    columns=("defects_removed_pct", "defects_removed", "defects", "removal_pct"),
)
