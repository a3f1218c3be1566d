"""A figure that the meter can show, and that is a slip of the fingers all the same.

846 for 84.6, or 8.5 among 85s: possible for a gloss meter, unlike all that was read around it.
Such a figure is asked back once; it is never refused and never dropped.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from loam.core.readings.kind import ReadingKind

CELL_LIMITS = 4.0
"""A cell's own readings may lie this many repeatability limits (2.8 s_r) from their median."""
CELL_SHARE, TRIAL_SHARE = 0.1, 0.15
"""And this share of their level, in a cell and over a trial, whichever is more."""
TRIAL_SIGMAS = 12.0
_LIMIT = 2.8
SAME, COPIED = 4, 3
"""So many equal figures in a row, or so many as in the cell before, are pointed out."""
_TIMES = {4: "four"}
_DECIMAL_SLIPS = (0.1, 10.0, 0.01, 100.0)
MARK = "unlike the rest, kept"


@dataclass(frozen=True)
class Slip:
    """A figure unlike the others.

    Attributes
    ----------
    low, high : float
        Where a figure was to be expected, in the stored unit.
    meant : float or None
        The same digits with the decimal mark elsewhere, or two neighbours swapped, where that
        would fit.
    """

    low: float
    high: float
    meant: float | None


def unlike(
    value: float, cell: Sequence[float], others: Sequence[float], kind: ReadingKind
) -> Slip | None:
    """Tell whether a figure is unlike what was read around it; None when it is not.

    Parameters
    ----------
    value : float
        The new figure, in the stored unit.
    cell : sequence of float
        Readings of this cell that count; they decide when there are any.
    others : sequence of float
        Means of the trial's other cells for this measurand; they decide for a first reading.
    """
    near = list(cell) or list(others)
    if not near:
        return None
    ordered = sorted(near)
    n = len(ordered)
    middle = 0.5 * (ordered[(n - 1) // 2] + ordered[n // 2])
    if cell:
        reach = max(CELL_LIMITS * _LIMIT * kind.repeatability, CELL_SHARE * abs(middle))
    else:
        reach = max(
            ordered[-1] - ordered[0],
            TRIAL_SIGMAS * kind.repeatability,
            TRIAL_SHARE * abs(middle),
        )
    low, high = ordered[0] - reach, ordered[-1] + reach
    if low <= value <= high:
        return None
    likely = [value * f for f in _DECIMAL_SLIPS] + swapped_digits(value, kind.decimals)
    meant = next((v for v in likely if low <= v <= high), None)
    return Slip(max(low, kind.low), min(high, kind.high), meant)


def swapped_digits(value: float, decimals: int) -> list[float]:
    """Return the figures that two swapped neighbouring digits would have been."""
    text = f"{value:.{decimals}f}"
    at = [i for i, c in enumerate(text) if c.isdigit()]
    found = []
    for i, j in pairwise(at):
        digits = list(text)
        digits[i], digits[j] = digits[j], digits[i]
        if digits != list(text):
            found.append(float("".join(digits)))
    return found


def alike(values: Sequence[float], before: Sequence[float]) -> str:
    """Say kindly that figures look copied; "" while they do not.

    Parameters
    ----------
    values : sequence of float
        Readings of this cell that count, in the order taken.
    before : sequence of float
        Those of the cell before it.
    """
    last = values[-SAME:]
    if len(last) == SAME and len(set(last)) == 1:
        return f"The same figure {_TIMES[SAME]} times: was the meter lifted and set down anew?"
    if (
        len(values) >= COPIED
        and len(set(values)) > 1
        and list(values) == list(before[: len(values)])
    ):
        return "The same figures as in the cell before: is the meter on this cell?"
    return ""
