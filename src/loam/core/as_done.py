"""What was done to a cell beside what was planned, and what that makes of its dose."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

NEAR = 0.1
"""A dose within a tenth of the planned one counts as planned: a hand is no steadier."""
SPOILS = {
    *("stalled", "dry", "pad", "passes", "lifted", "missed", "lost"),
    *("grit", "burnt", "off", "splattered", "interface", "unknown"),
}
"""Marks after which a cell did not get what was planned."""


@dataclass(frozen=True)
class StageDone:
    """One stage of a cell as it was worked.

    Attributes
    ----------
    passes : int
        Planned section passes; ``done`` those that were counted, or what a mark says of them.
    planned_s, seconds : float
        Time on the paint: planned, and as it was.
    marks : tuple of str
        Keys of what was marked.
    timed : bool
        Whether the time was taken by hand; a pacer that is followed gives the planned time.
    """

    passes: int
    done: int
    planned_s: float
    seconds: float
    marks: tuple[str, ...] = ()
    timed: bool = False

    @property
    def share(self) -> float:
        """Dose as a share of the planned one: what a pass gives grows with its time.

        1 where nothing was planned.
        """
        if self.timed and self.planned_s > 0.0 and self.done:
            per_pass = (self.seconds / self.done) / (self.planned_s / max(self.passes, 1))
            return per_pass * self.done / max(self.passes, 1)
        return self.done / self.passes if self.passes else 1.0

    @property
    def as_planned(self) -> bool:
        """Whether the stage got what was planned."""
        return not SPOILS.intersection(self.marks) and abs(self.share - 1.0) <= NEAR + 1e-9


def cell_share(stages: Sequence[StageDone]) -> float:
    """Return the dose of a cell as a share of the planned, weighed by the planned time."""
    whole = sum(s.planned_s for s in stages)
    if whole <= 0.0:
        return 1.0
    return sum(s.share * s.planned_s for s in stages) / whole


def unlike_words(cells: Iterable[tuple[str, Sequence[StageDone]]]) -> str:
    """Say which cells were not worked as planned; "" when all were.

    Parameters
    ----------
    cells : iterable of (name, stages)
    """
    told = []
    for name, stages in cells:
        if all(s.as_planned for s in stages):
            continue
        share = cell_share(stages)
        off = f" ({100 * share:.0f} % of its dose)" if abs(share - 1.0) > NEAR else ""
        told.append(f"{name}{off}")
    if not told:
        return ""
    shown = ", ".join(told[:5]) + (f" and {len(told) - 5} more" if len(told) > 5 else "")
    were = "was" if len(told) == 1 else "were"
    return f"{shown} {were} not worked as planned."
