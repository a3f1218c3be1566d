"""What finished vehicles teach: how a vehicle's level differs from that of the panels.

The shift of vehicles has a mean and a spread. Both are weighed on a grid by how well they tell the
spots of the vehicles so far. Source: the derivation in ``docs/statistics.md``, Ladder.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.stats.reduce import FloatArray

POINTS = 21
ODD = 0.02
"""A vehicle whose readings lie outside so often by luck less often than this is doubted."""
FEW = 3
"""With fewer vehicles than this, how vehicles differ from panels counts as assumed."""


def luck(read: int, outside: int, rarest: float = 1.0) -> float:
    """Return how often luck puts a vehicle so far off its promise.

    The likelier of two looks, each doubled for that there are two: that so many readings or more
    lie outside where nine of ten should (binomial, each after what the vehicle showed before), and
    that the rarest of them, on either side, is so rare (Bonferroni).

    Parameters
    ----------
    rarest : float
        The least chance of a reading so high or higher, or so low or lower.
    """
    tail = (math.comb(read, k) * 0.1**k * 0.9 ** (read - k) for k in range(outside, read + 1))
    return min(2.0 * min(math.fsum(tail), 2.0 * read * rarest), 1.0)


@dataclass(frozen=True)
class Seen:
    """A vehicle's spots in one measurand.

    Attributes
    ----------
    z : (n,)
        Means of its spots, on the scale.
    rungs : (n,) int
        Which rung each had.
    chances : mapping of str to float
        Of its class, before its spots.
    spot_sd : (n,)
        How the mean of each spot scatters.
    """

    z: FloatArray
    rungs: np.ndarray
    chances: Mapping[str, float]
    spot_sd: FloatArray


@dataclass(frozen=True)
class Learnt:
    """Weights over a vehicle's mean shift and its spread.

    Attributes
    ----------
    mu, spread : (m,)
        Points of the grid.
    weights : (m, m)
        Sum to 1; rows are shifts, columns are spreads.
    vehicles : int
    """

    mu: FloatArray
    spread: FloatArray
    weights: FloatArray
    vehicles: int

    def draw(self, n: int, rng: np.random.Generator) -> tuple[FloatArray, FloatArray]:
        """Draw mean shifts and spreads, (n,) each."""
        at = rng.choice(self.weights.size, size=n, p=self.weights.ravel())
        rows, columns = np.unravel_index(at, self.weights.shape)
        return self.mu[rows], self.spread[columns]

    @property
    def means(self) -> tuple[float, float]:
        """The mean shift, and the root of the mean squared spread."""
        shift = float(self.weights.sum(axis=1) @ self.mu)
        return shift, float(np.sqrt(self.weights.sum(axis=0) @ self.spread**2))


def learn(
    seen: Sequence[Seen],
    draws: Mapping[str, FloatArray],
    usual: float,
    panel: float,
    own: float,
) -> Learnt:
    """Weigh a vehicle's mean shift and spread by the vehicles so far.

    Parameters
    ----------
    draws : mapping of str to (D, k)
        By class, draws of the rungs on the scale (`particles.level_draws`).
    usual : float
        u: the usual spread of panels.
    panel, own : float
        Spread of panels, and root of the squared spreads of a panel's and of a vehicle's own answer
        to a rung.
    """
    mu = np.linspace(-3.0 * usual, 3.0 * usual, POINTS)
    spread = usual * np.logspace(-1.0, 1.0, POINTS)
    # mu is normal with spread u; 3 u²/s² is chi² with 3 degrees of freedom, on a grid even in log s
    log_prior = -0.5 * (mu / usual)[:, None] ** 2 + (
        -3.0 * np.log(spread) - 1.5 * (usual / spread) ** 2
    )
    log_w = log_prior
    middles = {c: d.mean(axis=0) for c, d in draws.items()}
    together = {c: np.atleast_2d(np.cov(d, rowvar=False)) for c, d in draws.items()}
    for vehicle in seen:
        like = np.full((POINTS, POINTS), -np.inf)
        for name, chance in vehicle.chances.items():
            if chance > 0.0 and name in draws:
                at = vehicle.rungs
                spots = np.diag(own**2 + vehicle.spot_sd**2)
                base = together[name][np.ix_(at, at)] + spots
                gap = vehicle.z - middles[name][at]
                like = np.logaddexp(like, np.log(chance) + _fits(gap, base, panel, mu, spread))
        log_w = log_w + like
    w = np.exp(log_w - log_w.max())
    return Learnt(mu, spread, w / w.sum(), len(seen))


def _fits(
    gap: FloatArray, base: FloatArray, panel: float, mu: FloatArray, spread: FloatArray
) -> FloatArray:
    """Return the log density of a vehicle's spots at every point of the grid."""
    n = len(gap)
    ones = np.ones(n)
    found = np.empty((len(mu), len(spread)))
    for j, s in enumerate(spread):
        cov = base + (panel**2 + s**2) * np.outer(ones, ones)
        factor = np.linalg.cholesky(cov)
        half = np.linalg.solve(factor, gap[:, None] - mu[None, :])
        fixed = 2.0 * np.log(np.diag(factor)).sum() + n * np.log(2.0 * np.pi)
        found[:, j] = -0.5 * (fixed + (half**2).sum(axis=0))
    return found
