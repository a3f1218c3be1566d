"""What a whole vehicle uses up: pads and compound, by its sections."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from loam.core.kit.product import grams
from loam.core.trial import Stage
from loam.core.vehicle.day import SECTION_M2
from loam.core.vehicle.job import Job

SECTIONS_A_PAD = 4
"""Sections that a pad is worked on before a clean one: assumed, a pad blown out between."""


def supply(
    job: Job, stages: Mapping[str, Sequence[Stage]], pad_mm: float
) -> tuple[dict[str, int], dict[str, float]]:
    """Return pads by name, and grams by compound, for all that is to be worked.

    Parameters
    ----------
    stages : mapping of str to sequence of Stage
        By combination.
    pad_mm : float
        The least pad that open panels are worked with.
    """
    pads: dict[str, int] = {}
    weights: dict[str, float] = {}
    for code, own in stages.items():
        sections = sum(
            math.ceil(p.area_m2 / SECTION_M2) for p in job.working if job.rung_of(p) == code
        )
        if not sections:
            continue
        for stage in own:
            size = max(stage.pad_mm or 0.0, pad_mm)
            count = math.ceil(sections / SECTIONS_A_PAD)
            name = stage.disc or stage.pad
            if name:
                pads[name] = pads.get(name, 0) + count
            if stage.compound:
                used = count * grams(size, stage.primed, fresh=True)
                used += (sections - count) * grams(size, stage.primed)
                weights[stage.compound] = weights.get(stage.compound, 0.0) + used
    return pads, weights
