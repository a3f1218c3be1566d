"""Film thickness (ISO 2808) and the clear removed, the paired fall in thickness."""

from dataclasses import replace

from loam.core.readings.kind import OFFSET, Doubted, ReadingKind, TileLimits

FILM = ReadingKind(
    key="film",
    label="film thickness",
    short="film",
    unit="µm",
    quantity="film",
    decimals=1,
    low=0.0,
    high=5000.0,
    higher_is_better=True,
    repeatability=1.0,
    rankable=False,
    columns=("thickness_after_um", "film_after_um", "film_um", "thickness_um", "film"),
    before_columns=("thickness_before_um", "film_before_um"),
    tile=TileLimits(2.0, 4.0, 0.02, OFFSET, usual=125.0, called="foil"),
    one_by_one=True,
    abroad={
        "de": ("schichtdicke", "schichtdicke_um", "lackdicke", "dicke"),
        "fr": ("épaisseur", "epaisseur", "épaisseur_um"),
        "es": ("espesor", "espesor_um"),
    },
)
REMOVED = ReadingKind(
    key="removed",
    label="clear removed",
    short="clear removed",
    unit="µm",
    quantity="film",
    decimals=1,
    low=-100.0,
    high=1000.0,
    higher_is_better=False,
    repeatability=1.4,
    derived=True,
    least=0.0,
    matters=0.5,
    usual={
        "panel": 0.4,
        "panel:combination": 0.2,
        "operator": 0.2,
        "reader": 0.2,
        "day": 0.2,
        "cell": 0.4,
        "residual": 1.4,
    },
    columns=("removed_um", "clear_removed_um", "removed"),
    doubted=Doubted(-0.3, -0.8, 0.8, drifts=False, masked=False),
    aim="clear kept",
    claims={"cut": 1},
    tells_hardness=True,
    says=("takes {} more clear", "takes {} less clear"),
)


def called(kind: ReadingKind, coat: str) -> ReadingKind:
    """Return a measurand named as it is on a coat: clear removed, or paint removed."""
    if kind.key != REMOVED.key or kind.label.startswith(coat):
        return kind
    says = tuple(s.replace("clear", coat) for s in kind.says)
    return replace(kind, label=f"{coat} removed", short=f"{coat} removed", says=says)
