"""How a first panel is taped, so that its cells leave even ground for what is worked on them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache

from loam.core.dose.section import section_dose
from loam.core.dose.stage import settings_for
from loam.core.errors import ValueRefused
from loam.core.panel import Taping
from loam.core.trial import Stage

USUAL_MM: tuple[tuple[float, float], ...] = (
    (720.0, 560.0),
    (1040.0, 720.0),
    (1400.0, 1000.0),
    (2000.0, 1200.0),
)
"""Panels that trainers use, up to a bonnet and a roof: assumed."""
GAP_MM, MARGINS_MM = 14.0, (30.0, 40.0, 20.0)
GRIDS: tuple[tuple[int, int], ...] = ((3, 4), (3, 3), (2, 4), (2, 3))
LEAST_PADS = 2.3
"""A cell of fewer pad diameters is not looked at: the pad hardly leaves its middle."""
MOST_LOOKED_AT = 24


def first_taping(stages: Sequence[Stage], room_mm: float) -> Taping:
    """Return the taping of the smallest usual panel whose cells leave even ground for all stages.

    Where none does, the one that leaves most.

    Parameters
    ----------
    stages : sequence of Stage
        What is to be worked; one without a size takes a usual pad.
    room_mm : float
        Diameter of the even ground that a meter needs.
    """
    best, most = Taping(*USUAL_MM[0], *GRIDS[0], GAP_MM, MARGINS_MM[0]), -1.0
    for looked, taping in enumerate(_tapings(max((s.pad_mm or 0.0 for s in stages), default=0.0))):
        if looked >= MOST_LOOKED_AT:
            break
        found = _least(stages, taping, most)
        if found > most:
            best, most = taping, found
        if found >= room_mm:
            break
    return best


@lru_cache(maxsize=256)
def even_mm(stage: Stage, width_mm: float, height_mm: float) -> float:
    """Return the diameter of the even ground that a stage leaves, mm; 0 if it cannot be worked."""
    try:
        return section_dose(settings_for(stage, width_mm, height_mm).section).circle_mm
    except ValueRefused:
        return 0.0


def _least(stages: Sequence[Stage], taping: Taping, most: float) -> float:
    """Return the even ground of the least even stage; looks no further once it is below most."""
    found = float("inf")
    for stage in stages:
        found = min(found, even_mm(stage, taping.cell_width_mm, taping.cell_height_mm))
        if found <= most:
            break
    return found if stages else 0.0


def _tapings(pad_mm: float) -> Iterator[Taping]:
    """Go through usual panels, the smaller ones and those with more cells first."""
    for width, height in USUAL_MM:
        for rows, columns in GRIDS:
            for margin in MARGINS_MM:
                taping = Taping(width, height, rows, columns, GAP_MM, margin)
                if min(taping.cell_width_mm, taping.cell_height_mm) >= LEAST_PADS * pad_mm:
                    yield taping
