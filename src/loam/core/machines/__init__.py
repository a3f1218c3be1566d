"""Every kind of machine. A new one is one file here and one line in KINDS."""

from __future__ import annotations

from collections.abc import Sequence

from loam.core.brought import let_stand
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
    let_stand(BY_KEY, kind, MachineKind, "kind of machine")
    _KINDS.append(kind)


__all__ = ["BY_KEY", "KINDS", "MachineKind", "add"]
