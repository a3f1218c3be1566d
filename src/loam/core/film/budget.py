"""What of a coat may still go: a share of what is assumed to be there, never below a floor.

The coat is the clear or, in a single stage, the colour. An ordinary gauge reads the whole film; the
coat's part of it is the panel's own record, or assumed. Where the film is thin the coat is taken to
be thin.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from loam.core.film.build import FilmBuild
from loam.core.film.survey import Survey

CLEAR_UM, CLEAR_SD_UM = 40.0, 8.0
"""Of a factory film: assumed (facts on film thickness: clear 35 to 55 µm)."""
COLOUR_UM, COLOUR_SD_UM = 60.0, 10.0
"""Of a single stage: assumed (usually 40 to 80 µm)."""
SHARE, FLOOR_UM, HEAVY_SETS = 0.5, 15.0, 3
BY_SHARE, BY_FLOOR = "share", "floor"
GAUGE_SD_UM = 1.0


@dataclass(frozen=True)
class Rule:
    """How much of a coat may go: a choice of the workshop, or of a panel.

    Attributes
    ----------
    share : float
        Of what is there, at most.
    floor_um : float
        Never less than this is left.
    heavy_sets : int
        After so many heavy sets on one place it is said.
    """

    share: float = SHARE
    floor_um: float = FLOOR_UM
    heavy_sets: int = HEAVY_SETS


USUAL_RULE = Rule()


@dataclass(frozen=True)
class Budget:
    """The coat of a panel that is worked, µm.

    Attributes
    ----------
    coat : str
        clear, or colour in a single stage.
    thick, sd : float
        What is there on the whole, and how sure that is.
    low : float
        At the thinnest spot.
    may_go : float
        What may be taken off there.
    assumed : bool
        Whether its thickness is assumed, not the panel's own record.
    guess : bool
        Whether even the kind of coat is: nothing is known of the build.
    floor, share : float
        Of the rule that it is held against.
    bound : str
        Which of the two binds: ``share`` or ``floor``.
    """

    coat: str
    thick: float
    sd: float
    low: float
    may_go: float
    assumed: bool
    guess: bool = False
    floor: float = FLOOR_UM
    share: float = SHARE
    bound: str = BY_SHARE

    def chance_above_floor(self, taken: float, taken_sd: float = 0.0) -> float:
        """Chance that the coat stays above the floor at the thinnest spot after a removal, µm."""
        sd = math.sqrt(self.sd**2 + taken_sd**2 + GAUGE_SD_UM**2)
        return 0.5 * math.erfc(-(self.low - taken - self.floor) / (sd * math.sqrt(2.0)))


def budget(build: FilmBuild, found: Survey | None, rule: Rule = USUAL_RULE) -> Budget:
    """Return what may go of the clear, or of the colour of a single stage.

    A coat whose thickness is assumed is never thicker than what the gauge reads above the layers
    that are known to lie below it.
    """
    if build.single_stage:
        coat, own, spread = "colour", build.colour_um, build.colour_spread_um
        thick, usual, below = COLOUR_UM, COLOUR_SD_UM, build.primer_um or 0.0
    else:
        coat, own, spread = "clear", build.clear_um, build.clear_spread_um
        thick, usual = CLEAR_UM, CLEAR_SD_UM
        below = (build.primer_um or 0.0) + (build.base_um or 0.0)
    if own is not None:
        thick, usual = own, max(0.1 * own, 1.0)
    elif found is not None:
        thick = min(thick, max(found.mean - below, 0.0))
    sd = usual if spread is None else spread
    low = thick - (found.mean - found.low.film_um if found is not None else 0.0)
    low = max(low, 0.0)
    by_share, by_floor = rule.share * thick, max(low - rule.floor_um, 0.0)
    bound = BY_SHARE if by_share <= by_floor else BY_FLOOR
    may_go = min(by_share, by_floor)
    guess = build == FilmBuild()
    return Budget(
        coat, thick, sd, low, may_go, own is None, guess, rule.floor_um, rule.share, bound
    )


def share_words(share: float) -> str:
    """Say a share of a coat: half, or so many percent."""
    return "half" if abs(share - 0.5) < 1e-9 else f"{100 * share:.0f} %"
