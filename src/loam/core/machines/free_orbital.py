"""Free-spinning orbital: the pad orbits and turns as friction allows."""

from loam.core.machines.kind import MachineKind

FREE_ORBITAL = MachineKind(
    key="free-orbital",
    label="free-spinning orbital",
    speed_unit="orbits/min",
    loops=9,
    throw=0.42,
    words=("free", "free-orbital", "orbital-free", "free-spinning", "orbital", "random orbital"),
    orbit_mm=15.0,
    speed=4000.0,
    own_turns=0.03,
)
