"""Where in a cell a meter finds even ground, by the dose of its stages."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

from loam.core.dose import section_dose
from loam.core.dose.stage import settings_for
from loam.core.errors import LoamError
from loam.core.panel import Taping
from loam.core.trial import Combination, Stage

MOST = 40
"""Combinations that are looked at in passing."""


@lru_cache(maxsize=256)
def _circle(stage: Stage, width_mm: float, height_mm: float) -> float:
    """Return the diameter of even ground that a stage leaves, mm; 0 where it cannot be worked."""
    try:
        return section_dose(settings_for(stage, width_mm, height_mm).section).circle_mm
    except LoamError:
        return 0.0


def even_ground(combinations: Iterable[Combination], taping: Taping) -> dict[int, float]:
    """Return the diameter of even ground in a cell, mm, by combination; made for a worker.

    The last stage is read, but no stage before it may have left the ground uneven: the least
    circle of all stages counts.
    """
    found = {}
    for combination in list(combinations)[:MOST]:
        if combination.stages:
            found[combination.id] = min(
                _circle(s, taping.cell_width_mm, taping.cell_height_mm) for s in combination.stages
            )
    return found
