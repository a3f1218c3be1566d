"""What a result costs: who is beaten in all respects, and who stands on the frontier.

One combination beats another in all respects when it both gives more and costs less; that is said
when its chance over the draws is at least 95 %. On the frontier stand those of which, by their
estimates, none beats them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.stats.reduce import FloatArray
from loam.core.verdicts import SURE


@dataclass(frozen=True)
class Priced:
    """What one combination gives, and what that costs.

    Attributes
    ----------
    gain, cost : (float, float, float)
        Middle, low and high of the 90 % interval; of the gain as given, of the cost in its unit.
    frontier : bool
        By the estimates none gives more for less.
    beaten_by : str
        Who surely gives more for less, and how surely (``beaten``); "" for nobody.
    """

    name: str
    gain: tuple[float, float, float]
    cost: tuple[float, float, float]
    frontier: bool
    beaten_by: str
    beaten: float


def on_frontier(gain: FloatArray, cost: FloatArray) -> FloatArray:
    """Mark which of K are beaten by none, (K,) bool; equals do not beat each other.

    Parameters
    ----------
    gain, cost : (K,)
        More gain and less cost is better.
    """
    least = (gain[None, :] >= gain[:, None]) & (cost[None, :] <= cost[:, None])
    more = (gain[None, :] > gain[:, None]) | (cost[None, :] < cost[:, None])
    return np.asarray(~(least & more).any(axis=1))


def chance_beaten(gain: FloatArray, cost: FloatArray) -> FloatArray:
    """Return the chance that the column's combination beats the row's in both, (K, K).

    Parameters
    ----------
    gain, cost : (D, K)
        Draws.
    """
    return np.stack(
        [((gain > gain[:, [k]]) & (cost < cost[:, [k]])).mean(axis=0) for k in range(gain.shape[1])]
    )


def price(names: Sequence[str], gain: FloatArray, cost: FloatArray) -> list[Priced]:
    """Price combinations, the cheapest first.

    Parameters
    ----------
    gain, cost : (D, K)
        Draws, more gain and less cost is better.
    """
    middle = gain.mean(axis=0), cost.mean(axis=0)
    ends = [np.quantile(x, (0.05, 0.95), axis=0) for x in (gain, cost)]
    frontier, beaten = on_frontier(*middle), chance_beaten(gain, cost)
    found = []
    for k in np.lexsort((-middle[0], middle[1])):
        by = int(beaten[k].argmax())
        sure = float(beaten[k, by])
        own, spent = (
            (float(m[k]), float(e[0, k]), float(e[1, k])) for m, e in zip(middle, ends, strict=True)
        )
        beaten_by = names[by] if sure >= SURE else ""
        found.append(Priced(names[k], own, spent, bool(frontier[k]), beaten_by, sure))
    return found
