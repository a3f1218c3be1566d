"""Kp, clear removed per dose, from readings of film: by combination and hardness.

Preston: removal = Kp * pressure * sliding distance. What a cell lost over the dose that it got is
its own Kp; the cells of a combination on a hardness agree as well as cells do.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.errors import ValueRefused
from loam.core.trial import Stage

Recipe = tuple[tuple[str, str, str, str], ...]
"""What of a combination takes clear off: pad, compound, motion of the machine, disc, by stage."""


def recipe_of(stages: Sequence[Stage]) -> Recipe:
    """Return what of some stages takes clear off; passes and settings come in with the dose."""
    return tuple((s.pad, s.compound, s.machine_kind, s.disc) for s in stages)


@dataclass(frozen=True)
class CellLoss:
    """What one cell lost, µm, and the dose that it got as it was worked, kPa m."""

    combination: str | Recipe
    hardness: str
    lost_um: float
    dose_kpam: float


@dataclass(frozen=True)
class Kp:
    """Removal per dose, nm per kPa m, with its 90 % interval.

    Attributes
    ----------
    cells : int
        That it rests on.
    """

    value: float
    low: float
    high: float
    cells: int

    def removed_um(self, dose_kpam: float) -> tuple[float, float]:
        """Return the clear that a dose takes off, µm, from and to; never below nothing."""
        return max(self.low, 0.0) * dose_kpam * 1e-3, max(self.high, 0.0) * dose_kpam * 1e-3


Known = Mapping[tuple[str | Recipe, str], Kp]
"""Kp by combination, or recipe, and hardness."""


def fit_kp(cells: Sequence[CellLoss]) -> Known:
    """Return Kp by (combination, hardness).

    Cells scatter alike in what they lose, whatever they got: one standard deviation of the loss is
    pooled over all, with as many degrees of freedom as cells beyond one a group. Without any there
    is no interval, and nothing is returned.

    Raises
    ------
    ValueRefused
        For a loss that is not finite, or a dose that is not above 0.
    """
    from scipy.special import stdtrit  # takes longer to load than the window may take to open

    groups: dict[tuple[str | Recipe, str], list[CellLoss]] = {}
    for cell in cells:
        if not math.isfinite(cell.lost_um):
            raise ValueRefused(f"A loss of {cell.lost_um:g} µm is no figure.")
        if not (math.isfinite(cell.dose_kpam) and cell.dose_kpam > 0.0):
            raise ValueRefused(f"A dose of {cell.dose_kpam:g} kPa m takes nothing off.")
        groups.setdefault((cell.combination, cell.hardness), []).append(cell)
    slopes: dict[tuple[str | Recipe, str], tuple[float, float, int]] = {}
    squares, freedom = 0.0, 0
    for key, own in groups.items():
        dose = np.array([c.dose_kpam for c in own])
        lost = np.array([c.lost_um for c in own])
        weight = float(dose @ dose)
        slope = float(dose @ lost) / weight
        rest = lost - slope * dose
        squares += float(rest @ rest)
        freedom += len(own) - 1
        slopes[key] = (slope, weight, len(own))
    if freedom < 1:
        return {}
    spread = math.sqrt(squares / freedom)
    reach = float(stdtrit(freedom, 0.95))
    return {
        key: Kp(
            1e3 * slope,
            1e3 * (slope - reach * spread / math.sqrt(weight)),
            1e3 * (slope + reach * spread / math.sqrt(weight)),
            count,
        )
        for key, (slope, weight, count) in slopes.items()
    }
