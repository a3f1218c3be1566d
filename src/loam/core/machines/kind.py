"""What a kind of machine is: how its pad moves."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class MachineKind:
    """A kind of polishing machine.

    Attributes
    ----------
    key, label : str
        Stable name and words on screen.
    speed_unit : str
        What the dial sets.
    loops : int
        Loops of the pad's path drawn in a combination's mark; 0 draws a plain ring.
    throw : float
        Size of those loops, as a share of the mark's radius.
    words : tuple of str
        Words in files that mean this kind, lower case.
    """

    key: str
    label: str
    speed_unit: str
    loops: int
    throw: float
    words: tuple[str, ...]
