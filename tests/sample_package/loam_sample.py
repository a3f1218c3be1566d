"""A package of somebody else's: a measurand, a kind of machine and a kind of meter for Loam."""

from loam.core.machines import MachineKind
from loam.core.machines.free_orbital import FREE_ORBITAL
from loam.core.readings.kind import Doubted, ReadingKind, TileLimits
from loam.devices.meter import MeterKind

SLIP = ReadingKind(
    key="slip",
    label="slip of the surface",
    short="slip",
    unit="SU",
    decimals=1,
    low=0.0,
    high=100.0,
    higher_is_better=True,
    repeatability=0.5,
    columns=("slip", "slip_su"),
    usual={
        "panel": 0.8,
        "panel:combination": 0.3,
        "operator": 0.3,
        "day": 0.3,
        "cell": 0.6,
        "residual": 0.4,
    },
    doubted=Doubted(-4.0, -3.0, -0.5),
    tile=TileLimits(0.5, 1.0, usual=50.0),
    flattered=True,
    aim="finish",
    abroad={"de": ("glätte",)},
)
WANDERER = MachineKind(**{**FREE_ORBITAL.__dict__, "key": "wanderer", "label": "wanderer"})
GLIDER = MeterKind("glide", "the glide meter", (("s", "slip"),))
