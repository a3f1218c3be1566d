"""Rotary: the pad turns about a fixed spindle."""

from loam.core.machines.kind import MachineKind

ROTARY = MachineKind(
    key="rotary",
    label="rotary",
    speed_unit="rpm",
    loops=0,
    throw=0.0,
    words=("rotary",),
    orbit_mm=0.0,
    speed=1200.0,
    own_turns=1.0,
)
