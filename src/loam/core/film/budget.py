"""What clear may still go: a share of what is assumed to be there, never below a floor.

An ordinary gauge reads the whole film; the clear's part of it is the panel's own record, or
assumed. Where the film is thin the clear is taken to be thin.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from loam.core.film.build import FilmBuild
from loam.core.film.survey import Survey

CLEAR_UM, CLEAR_SD_UM = 40.0, 8.0
"""Of a factory film: assumed (facts on film thickness: clear 35 to 55 µm)."""
SHARE, FLOOR_UM = 0.5, 15.0
GAUGE_SD_UM = 1.0


@dataclass(frozen=True)
class Budget:
    """Clear of a panel, µm.

    Attributes
    ----------
    clear, clear_sd : float
        What is there on the whole, and how sure that is.
    low : float
        At the thinnest spot.
    may_go : float
        What may be taken off there.
    assumed : bool
        Whether the clear is assumed, not the panel's own record.
    """

    clear: float
    clear_sd: float
    low: float
    may_go: float
    assumed: bool
    floor: float = FLOOR_UM

    def chance_above_floor(self, taken: float, taken_sd: float = 0.0) -> float:
        """Chance that the clear stays above the floor at the thinnest spot after a removal, µm."""
        sd = math.sqrt(self.clear_sd**2 + taken_sd**2 + GAUGE_SD_UM**2)
        return 0.5 * math.erfc(-(self.low - taken - self.floor) / (sd * math.sqrt(2.0)))


def budget(build: FilmBuild, found: Survey | None) -> Budget | None:
    """Return what clear may go; None for a single stage, which has no clear."""
    if build.single_stage:
        return None
    assumed = build.clear_um is None
    clear = CLEAR_UM if build.clear_um is None else build.clear_um
    usual = CLEAR_SD_UM if assumed else max(0.1 * clear, 1.0)
    sd = usual if build.clear_spread_um is None else build.clear_spread_um
    low = clear - (found.mean - found.low.film_um if found is not None else 0.0)
    low = max(low, 0.0)
    may_go = max(0.0, min(SHARE * clear, low - FLOOR_UM))
    return Budget(clear, sd, low, may_go, assumed)
