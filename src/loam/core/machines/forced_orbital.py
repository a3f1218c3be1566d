"""Forced-rotation orbital: the pad orbits and is geared to turn."""

from loam.core.machines.kind import MachineKind

FORCED_ORBITAL = MachineKind(
    key="forced-orbital",
    label="forced-rotation orbital",
    speed_unit="orbits/min",
    loops=4,
    throw=0.5,
    words=("forced", "forced-orbital", "orbital-forced", "forced-rotation", "gear-driven"),
)
