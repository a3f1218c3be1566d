"""What a doubt is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

CLASS, HAND, PAD, DRIFT, MASKING, SLIP, ORDER, POSITION, START, READS = (
    "class",
    "hand",
    "pad",
    "drift",
    "masking",
    "slip",
    "order",
    "position",
    "start",
    "reader",
)
Slope = tuple[str, Mapping[int, float], float]


@dataclass(frozen=True)
class Moved:
    """The slope of a covariate: estimate and error on the scale, chance that it is above 0."""

    estimate: float
    error: float
    above: float

    @property
    def strength(self) -> float:
        """How many errors it moves; readings that do not scatter at all have next to none."""
        return abs(self.estimate) / max(self.error, 1e-12)


@dataclass(frozen=True)
class Evidence:
    """How a measurand moves under a suspect: on its scale, and the chance of that direction."""

    measurand: str
    moved: Moved


@dataclass(frozen=True)
class Doubt:
    """One doubt.

    Attributes
    ----------
    kind, subject : str
    p : float
        Of the test, for all suspects of its kind together.
    evidence : tuple of Evidence
    panels, cells : frozenset of int
        Whose results are doubted; their ids.
    readings : tuple of int
        Rows of the columns that are doubted one by one: slips, or what drifted.
    likely : tuple of float
        Of a slip, what the reading likely was.
    slope : tuple of (measurand, x by cell, slope on the scale)
        What can be corrected for.
    harder : bool or None
        Of a class: whether the panel answers as a harder clear.
    unlike : bool
        Of a hand: unlike the others, but not as a heavy one is.
    by_day : bool
        Of a pad: told from a day, since no pads are on record.
    """

    kind: str
    subject: str
    p: float
    evidence: tuple[Evidence, ...] = ()
    panels: frozenset[int] = frozenset()
    cells: frozenset[int] = frozenset()
    readings: tuple[int, ...] = ()
    likely: tuple[float, ...] = ()
    slope: tuple[Slope, ...] = ()
    harder: bool | None = None
    unlike: bool = False
    by_day: bool = False
