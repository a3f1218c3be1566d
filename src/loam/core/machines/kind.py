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
    orbit_mm, speed, own_turns : float
        Usual figures where a stage does not say: the orbit, orbits or turns a minute, and the pad's
        own turns as a share of them.
    """

    key: str
    label: str
    speed_unit: str
    loops: int
    throw: float
    words: tuple[str, ...]
    orbit_mm: float = 15.0
    speed: float = 4000.0
    own_turns: float = 0.03
