"""What matters: the difference from which on the trainer cares, per measurand."""

from __future__ import annotations

import math
from dataclasses import dataclass

from loam.core.errors import ValueRefused
from loam.core.readings.kind import ReadingKind
from loam.core.units import parse_number

DIFFERENCE, RATIO = "difference", "ratio"
MOST_RATIO = 1000.0


@dataclass(frozen=True)
class Matters:
    """A difference that matters.

    Attributes
    ----------
    value : float
        In the measurand's unit, or a ratio of at least 1.
    kind : str
        ``difference``, or ``ratio`` (of haze and 1, or of the odds of what is left).
    source : str
        ``default``, ``workshop`` or ``trial``: whose choice it is; ``given`` for a command's.
    """

    value: float
    kind: str
    source: str = "default"

    @property
    def on_scale(self) -> float:
        """The difference on the measurand's scale, at least 0."""
        return math.log(self.value) if self.kind == RATIO else self.value


def matters(kind: ReadingKind | None, value: float | None = None, source: str = "") -> Matters:
    """Return what matters for a measurand: its default, or a chosen value.

    Raises
    ------
    ValueRefused
        When the value is not finite, below 0, or a ratio below 1.
    """
    ratio = kind is not None and kind.scale != "identity"
    if value is None:
        return Matters(kind.matters if kind else 0.0, RATIO if ratio else DIFFERENCE)
    name = kind.label if kind else "a measurand"
    if ratio and not 1.0 <= value <= MOST_RATIO:
        raise ValueRefused(
            f"A ratio of {value:g} cannot be what matters for {name}.",
            todo=f"Give a ratio from 1 to {MOST_RATIO:g}, like {kind.matters if kind else 1.1:g}.",
        )
    if not ratio and not 0.0 <= value < math.inf:
        raise ValueRefused(
            f"A difference of {value:g} cannot be what matters for {name}.",
            todo="Give a number of 0 or more.",
        )
    return Matters(value, RATIO if ratio else DIFFERENCE, source or "given")


def parse_matters(kind: ReadingKind, text: str, source: str) -> Matters:
    """Read what was typed as what matters; a difference in the unit that is shown.

    Raises
    ------
    ValueRefused
    """
    value = parse_number(text)
    if kind.scale == "identity" and kind.shown_as is not None:
        value /= kind.shown_as.factor
    return matters(kind, value, source)
