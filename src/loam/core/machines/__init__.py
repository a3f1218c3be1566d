"""Every kind of machine. A new one is one file here and one line in KINDS."""

from __future__ import annotations

from loam.core.machines.forced_orbital import FORCED_ORBITAL
from loam.core.machines.free_orbital import FREE_ORBITAL
from loam.core.machines.kind import MachineKind
from loam.core.machines.rotary import ROTARY

KINDS: tuple[MachineKind, ...] = (FREE_ORBITAL, FORCED_ORBITAL, ROTARY)
BY_KEY: dict[str, MachineKind] = {kind.key: kind for kind in KINDS}

__all__ = ["BY_KEY", "KINDS", "MachineKind"]
