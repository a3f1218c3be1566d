"""What a command changed, so that the views that show it can refresh."""

from __future__ import annotations

from dataclasses import dataclass

TRIALS, PANELS, COMBINATIONS, CELLS, READINGS = (
    "trials",
    "panels",
    "combinations",
    "cells",
    "readings",
)
MATTERS, PLAN, SURVEY, KIT, WORK, NOTED = "matters", "plan", "survey", "kit", "work", "noted"
DECIDED, WEIGHED, JOBS = "decided", "weighed", "jobs"
ALL = frozenset(
    {
        TRIALS,
        PANELS,
        COMBINATIONS,
        CELLS,
        READINGS,
        MATTERS,
        PLAN,
        SURVEY,
        KIT,
        WORK,
        NOTED,
        DECIDED,
        WEIGHED,
        JOBS,
    }
)


@dataclass(frozen=True)
class Changes:
    """Kinds of things that changed, in which trial, and which cells or panels when known."""

    kinds: frozenset[str]
    trial_id: int | None = None
    cell_ids: frozenset[int] = frozenset()
    panel_ids: frozenset[int] = frozenset()

    def touches(self, *kinds: str) -> bool:
        """Tell whether any of these kinds changed."""
        return not self.kinds.isdisjoint(kinds)


def changed(
    *kinds: str, trial_id: int | None = None, cells: frozenset[int] = frozenset()
) -> Changes:
    """Make a `Changes` of some kinds."""
    return Changes(frozenset(kinds), trial_id, cells)
