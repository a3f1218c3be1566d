"""Every kind of machine. A new one is one file here and one line in KINDS."""

from __future__ import annotations

from collections.abc import Sequence

from loam.core.errors import ValueRefused
from loam.core.machines.forced_orbital import FORCED_ORBITAL
from loam.core.machines.free_orbital import FREE_ORBITAL
from loam.core.machines.kind import MachineKind
from loam.core.machines.rotary import ROTARY

_KINDS: list[MachineKind] = [FREE_ORBITAL, FORCED_ORBITAL, ROTARY]
KINDS: Sequence[MachineKind] = _KINDS
BY_KEY: dict[str, MachineKind] = {kind.key: kind for kind in KINDS}


def add(kind: MachineKind) -> None:
    """Let a kind of machine of another package stand with those that ship.

    Raises
    ------
    ValueRefused
        When it is none, or there is one of its key.
    """
    if not isinstance(kind, MachineKind) or kind.key in BY_KEY:
        raise ValueRefused(f"{str(getattr(kind, 'key', kind))[:40]!r} is no new kind of machine.")
    _KINDS.append(kind)
    BY_KEY[kind.key] = kind


__all__ = ["BY_KEY", "KINDS", "MachineKind", "add"]
