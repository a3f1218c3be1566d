"""A thickness survey: whole-film readings over a panel, and what is unlike the rest."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

MIN_SPOTS = 5
ODD = 3.5
"""Spots further than this from the middle, in robust standard deviations, are unlike the rest
(Iglewicz and Hoaglin 1993)."""
LEAST_SD_UM = 1.5
"""A gauge's own scatter: nearer spots are never called unlike."""


@dataclass(frozen=True)
class Spot:
    """One reading of the whole film, µm, at a place in mm from the upper left corner."""

    x_mm: float
    y_mm: float
    film_um: float
    id: int = 0


@dataclass(frozen=True)
class Survey:
    """What a survey shows.

    Attributes
    ----------
    mean, sd : float
        Over the spots; sd is NaN of one spot.
    low : Spot
        The thinnest.
    odd : tuple of Spot
        Those unlike the rest: a repaint, filler, or a thin edge.
    """

    spots: tuple[Spot, ...]
    mean: float
    sd: float
    low: Spot
    odd: tuple[Spot, ...]

    @property
    def enough(self) -> bool:
        """Whether there are as many spots as a panel needs."""
        return len(self.spots) >= MIN_SPOTS


def survey(spots: Sequence[Spot]) -> Survey | None:
    """Sum a survey up; None without spots."""
    if not spots:
        return None
    film = np.array([s.film_um for s in spots])
    sd = float(film.std(ddof=1)) if film.size > 1 else math.nan
    middle = float(np.median(film))
    spread = max(1.4826 * float(np.median(np.abs(film - middle))), LEAST_SD_UM)
    odd = tuple(
        s for s, away in zip(spots, np.abs(film - middle) / spread, strict=True) if away > ODD
    )
    low = min(spots, key=lambda s: s.film_um)
    return Survey(tuple(spots), float(film.mean()), sd, low, odd if film.size > 3 else ())


def usual_spots(width_mm: float, height_mm: float, margin_mm: float) -> list[tuple[float, float]]:
    """Return where to read a panel: its middle, then near its corners, then between them."""
    inset = max(margin_mm, 0.08 * min(width_mm, height_mm))
    xs, ys = (inset, width_mm / 2, width_mm - inset), (inset, height_mm / 2, height_mm - inset)
    order = [(1, 1), (0, 0), (2, 0), (2, 2), (0, 2), (1, 0), (2, 1), (1, 2), (0, 1)]
    return [(xs[i], ys[j]) for i, j in order]
