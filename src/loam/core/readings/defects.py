"""Defects removed, as the share of marks that are gone.

Estimated by eye, counted by a grid, or measured from photographs (there as brightness-weighted
mark length): three scales, which never mix.
"""

from loam.core.readings.kind import Doubted, ReadingKind

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
        "reader": 0.2,
        "day": 0.15,
        "cell": 0.25,
        "residual": 0.25,
    },
    columns=("defects_removed_pct", "defects_removed", "defects", "removal_pct"),
    doubted=Doubted(-0.9, -0.8, 0.1, drifts=False, masked=False),
    flattered=True,
    aim="removal",
    claims={"cut": 2},
    tells_hardness=True,
    scale_column="defects_scale",
    abroad={
        "de": ("defekte_entfernt", "kratzer_entfernt", "entfernt"),
        "fr": ("défauts_retirés", "défauts_éliminés", "rayures_retirées"),
        "es": ("defectos_eliminados", "arañazos_eliminados"),
    },
    says=("removes {} more marks", "removes {} fewer marks"),
)
