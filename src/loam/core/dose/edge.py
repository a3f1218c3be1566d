"""The edge of a section: what the tape sees, and the seam with the section beside it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from loam.core.dose.section import SectionDose
from loam.core.stats.reduce import FloatArray

SEAM_SHARES = (0.55, 0.6)
"""Neighbouring sections overlap best by this many pad diameters."""
FULL = 0.95
_STEPS = 121


@dataclass(frozen=True)
class Edge:
    """Dose across the edge between two sections, over the plateau.

    Attributes
    ----------
    at_mm : (n,)
        Place, from the edge of this section; inside it lies below 0.
    own, beside, both : (n,)
        Dose of this section, of the one beside it, and of both.
    overlap_mm : float
        By how much the sections overlap.
    at_tape : float
        Dose at the edge itself.
    full_mm : float
        How far inside 95 % is reached; the end of what was looked at where it is not.
    low, high : float
        Least and most of both between the middles of the two sections.
    """

    at_mm: FloatArray
    own: FloatArray
    beside: FloatArray
    both: FloatArray
    overlap_mm: float
    at_tape: float
    full_mm: float
    low: float
    high: float


def edge_of(dose: SectionDose) -> Edge:
    """Look at the edge of a section beside another of the same kind."""
    s = dose.settings
    overlap = 0.5 * sum(SEAM_SHARES) * s.pad_mm
    reach = min(0.5 * s.width_mm, 2.0 * s.pad_mm)
    at = np.linspace(-reach, reach, _STEPS)
    own = dose.edge_profile(-at)
    # beyond its own middle a section's profile would turn down again
    beside = dose.edge_profile(np.minimum(at + overlap, 0.5 * s.width_mm))
    both = own + beside
    inside = np.linspace(0.0, reach, _STEPS)
    rising = dose.edge_profile(inside)
    full = np.flatnonzero(rising >= FULL)
    between = (at >= -0.5 * s.pad_mm - overlap) & (at <= 0.5 * s.pad_mm)
    return Edge(
        at,
        own,
        beside,
        both,
        overlap,
        float(dose.edge_profile(np.zeros(1))[0]),
        float(inside[full[0]]) if full.size else reach,
        float(both[between].min()),
        float(both[between].max()),
    )
