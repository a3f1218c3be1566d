"""Where in a cell a meter finds even ground, by the dose of its stages."""

from __future__ import annotations

from collections.abc import Iterable

from loam.core.dose.first import even_mm
from loam.core.panel import Taping
from loam.core.trial import Combination

MOST = 40
"""Combinations that are looked at in passing."""


def even_ground(combinations: Iterable[Combination], taping: Taping) -> dict[int, float]:
    """Return the diameter of even ground in a cell, mm, by combination; made for a worker.

    The last stage is read, but no stage before it may have left the ground uneven: the least
    circle of all stages counts.
    """
    found = {}
    for combination in list(combinations)[:MOST]:
        if combination.stages:
            found[combination.id] = min(
                even_mm(s, taping.cell_width_mm, taping.cell_height_mm) for s in combination.stages
            )
    return found
