"""What a whole vehicle uses up: pads and compound, by its sections."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from loam.core.kit.product import grams
from loam.core.trial import Stage
from loam.core.vehicle.day import SECTION_M2, tight_m2
from loam.core.vehicle.job import Job

SECTIONS_A_PAD = 4
"""Sections that a pad is worked on before a clean one: assumed, a pad blown out between."""


def supply(
    job: Job, stages: Mapping[str, Sequence[Stage]], pad_mm: float, small_mm: float
) -> tuple[dict[str, int], dict[str, float]]:
    """Return pads by name, and grams by compound, for all that is to be worked.

    A small pad, in tight places, is clean for as much less as it is smaller; it is named with its
    size.

    Parameters
    ----------
    stages : mapping of str to sequence of Stage
        By combination.
    pad_mm, small_mm : float
        The least pad that open panels are worked with, and the largest for tight places.
    """
    pads: dict[str, int] = {}
    weights: dict[str, float] = {}
    for code, own in stages.items():
        parts = [p for p in job.working if job.rung_of(p) == code]
        tight = sum(tight_m2(p) for p in parts)
        whole = sum(p.area_m2 for p in parts)
        for stage in own:
            wide = max(stage.pad_mm or 0.0, pad_mm)
            little = min(stage.pad_mm or small_mm, small_mm)
            used = 0.0
            for size, area, named in ((wide, whole - tight, False), (little, tight, True)):
                if not area > 0.0:
                    continue
                clean = (size / wide) ** 2
                sections = math.ceil(area / (SECTION_M2 * clean) - 1e-9)
                count = math.ceil(sections / SECTIONS_A_PAD)
                name = stage.disc or stage.pad
                if name:
                    name = f"{name} of {size:g} mm" if named else name
                    pads[name] = pads.get(name, 0) + count
                used += count * grams(size, stage.primed, fresh=True)
                used += (sections - count) * grams(size, stage.primed)
            if stage.compound and used:
                weights[stage.compound] = weights.get(stage.compound, 0.0) + used
    return pads, weights
