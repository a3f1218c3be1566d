"""How many sets the thinnest spot of a panel bears, before its clear is at its floor.

Clear at the thinnest spot is normal: its mean is the panel's clear less what the film is thinner
there than on the whole, its variance that of the clear and of the gauge there and in the mean. What
one set takes is one draw, the same for all of them; edges and seams take so many times more.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from loam.core.errors import ValueRefused

MOST_SETS = 12


@dataclass(frozen=True)
class Guess:
    """A normal: its mean and standard deviation, µm."""

    mean: float
    sd: float


@dataclass(frozen=True)
class Sets:
    """What a panel's thinnest spot bears.

    Attributes
    ----------
    thinnest : float
        Film there, µm.
    clear : Guess
        Clear there.
    may_go : float
        µm.
    chances : tuple of float
        That the clear stays at or above the floor after 1, 2, ... sets.
    """

    thinnest: float
    clear: Guess
    may_go: float
    chances: tuple[float, ...]


def sets_left(
    film: Sequence[float],
    gauge_sd: float,
    clear: Guess,
    removed: Guess,
    *,
    floor: float,
    share: float,
    edge: float = 1.0,
    seam: float = 1.0,
    most: int = MOST_SETS,
) -> Sets:
    """Work out what the thinnest spot of a survey bears.

    Parameters
    ----------
    film : sequence of float
        Readings of the whole film on one panel, µm.
    removed : Guess
        What one set takes.
    floor, share : float
        Clear is never taken below the floor, nor more than this share of it.
    edge, seam : float
        How many times more an edge and a seam lose.

    Raises
    ------
    ValueRefused
        Without a reading, or for what cannot be.
    """
    from scipy.special import ndtr

    if not film:
        raise ValueRefused("No spot of the film is read.", todo="Read five at least.")
    numbers = [*film, gauge_sd, clear.mean, clear.sd, removed.mean, removed.sd, floor, edge, seam]
    if not all(math.isfinite(v) and v >= 0.0 for v in numbers):
        raise ValueRefused("Thicknesses, spreads and factors are 0 or more.")
    if not 0.0 <= share <= 1.0:
        raise ValueRefused(f"A share of {share:g} cannot be: 0 to 1.")
    count, thinnest = len(film), min(film)
    mean = clear.mean - (math.fsum(film) / count - thinnest)
    sd = math.sqrt(clear.sd**2 + gauge_sd**2 * (1.0 + 1.0 / count))
    chances = []
    for n in range(1, most + 1):
        times = n * edge * seam
        above = mean - times * removed.mean - floor
        spread = math.hypot(sd, times * removed.sd)
        chances.append(float(ndtr(above / spread)) if spread > 0.0 else float(above >= 0.0))
    may_go = max(0.0, min(share * clear.mean, mean - floor))
    return Sets(thinnest, Guess(mean, sd), may_go, tuple(chances))
