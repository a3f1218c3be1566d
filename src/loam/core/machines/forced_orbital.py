"""Forced-rotation orbital: the pad orbits and is geared to turn."""

from loam.core.machines.kind import MachineKind

FORCED_ORBITAL = MachineKind(
    key="forced-orbital",
    label="forced-rotation orbital",
    speed_unit="orbits/min",
    loops=4,
    throw=0.5,
    words=("forced", "forced-orbital", "orbital-forced", "forced-rotation", "gear-driven"),
    orbit_mm=8.0,
    speed=4200.0,
    own_turns=1.0 / 9.0,
)
