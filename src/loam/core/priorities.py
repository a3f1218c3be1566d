"""Which combination is best depends on what one wants: desirability, and the map of priorities.

Each criterion has a value that is worth nothing and one that is fully good; in between it is worth
`((y - nothing) / (full - nothing))^power`. Together they are worth the weighted geometric mean, so
that a criterion that is worth nothing spoils the whole. Where the weights are not known, all of the
simplex of weights is asked (stochastic acceptability, Lahdelma and Salminen 2001): the share of it
that a combination wins, the middle of that share, and how surely it wins there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.errors import ValueRefused
from loam.core.stats.reduce import FloatArray

LEAST = 1e-12
"""What is worth nothing, for its logarithm."""
MOST_AT_ONCE = 100_000


Wish = tuple[float, float, float, float]
"""Weights of finish, removal, clear kept and time."""


@dataclass(frozen=True)
class Criterion:
    """What is wanted of one measurand.

    Attributes
    ----------
    name : str
    nothing, full : float
        Values that are worth nothing and all; which is larger says which way is better.
    power : float
        Above 0: how fast worth grows.
    """

    name: str
    nothing: float
    full: float
    power: float = 1.0

    def __post_init__(self) -> None:
        if not (np.isfinite(self.nothing) and np.isfinite(self.full)) or self.nothing == self.full:
            raise ValueRefused(f"{self.name}: two different limits are needed.")
        if not self.power > 0.0:
            raise ValueRefused(f"{self.name}: a power of {self.power:g} cannot be.")

    def worth(self, y: FloatArray) -> FloatArray:
        """Return the worth of values, 0 to 1."""
        share = (np.asarray(y, float) - self.nothing) / (self.full - self.nothing)
        return np.asarray(np.clip(share, 0.0, 1.0) ** self.power, float)


def overall(worth: FloatArray, weights: FloatArray) -> FloatArray:
    """Return the weighted geometric mean over the last axis.

    A criterion without weight is left out; one that has weight and is worth nothing gives 0.

    Parameters
    ----------
    worth : (..., M)
    weights : (M,) or (..., M)
    """
    w = np.asarray(weights, float)
    if w.ndim == 1:  # the same for all: one after the other is quicker than along so short an axis
        value = np.ones(worth.shape[:-1])
        for j in np.flatnonzero(w > 0.0):
            own = worth[..., j]
            share = np.log(np.maximum(own, LEAST)) * (w[j] / w.sum())
            value *= np.where(own <= 0.0, 0.0, np.exp(share))
        return np.asarray(value, float)
    log = np.where(w > 0.0, w * np.log(np.maximum(worth, LEAST)), 0.0).sum(axis=-1)
    found = np.exp(log / w.sum(axis=-1))
    nothing = ((worth <= 0.0) & (w > 0.0)).any(axis=-1)
    return np.asarray(np.where(nothing, 0.0, found), float)


def firsts(value: FloatArray) -> FloatArray:
    """Return each combination's share of being first, ties shared: (D, K) of (D, K)."""
    best = value == value.max(axis=-1, keepdims=True)
    return np.asarray(best / best.sum(axis=-1, keepdims=True), float)


@dataclass(frozen=True)
class Decision:
    """What is said at one set of weights: (K,) each."""

    mean: FloatArray
    low: FloatArray
    high: FloatArray
    p_best: FloatArray
    expected_rank: FloatArray


def decide(worth: FloatArray, weights: FloatArray) -> Decision:
    """Decide at given weights.

    Parameters
    ----------
    worth : (D, K, M)
        Draws of the worth of each combination by criterion.
    """
    value = overall(worth, np.asarray(weights, float))
    rows, draws = np.ascontiguousarray(value.T), value.shape[0]
    above = np.array([np.count_nonzero(rows > own) for own in rows]) / draws
    same = np.array([np.count_nonzero(rows == own) for own in rows]) / draws
    low, high = np.quantile(rows, (0.05, 0.95), axis=1)
    best = firsts(value).mean(axis=0)
    return Decision(rows.mean(axis=1), low, high, best, 1.0 + above + 0.5 * (same - 1.0))


@dataclass(frozen=True)
class Acceptability:
    """What is said over all weights.

    Attributes
    ----------
    share : (K,)
        Part of the priorities that each wins.
    central : (K, M)
        Middle of that part.
    confidence : (K,)
        How surely it wins with just those weights.
    """

    share: FloatArray
    central: FloatArray
    confidence: FloatArray


def acceptability(worth: FloatArray, weights: FloatArray) -> Acceptability:
    """Say for whom each combination is right.

    Parameters
    ----------
    worth : (D, K, M)
    weights : (D, M)
        One set of weights a draw, even over the simplex.
    """
    first = firsts(overall(worth, weights[:, None, :]))
    total = first.sum(axis=0)
    middle = np.full(weights.shape[1], 1.0 / weights.shape[1])
    central = np.where(
        total[:, None] > 0.0, (first.T @ weights) / np.maximum(total, LEAST)[:, None], middle
    )
    sure = np.array([firsts(overall(worth, c))[:, k].mean() for k, c in enumerate(central)])
    return Acceptability(total / worth.shape[0], central, sure)


def even_weights(rng: np.random.Generator, count: int, criteria: int) -> FloatArray:
    """Draw weights evenly over the simplex."""
    e = rng.exponential(size=(count, criteria))
    return np.asarray(e / e.sum(axis=1, keepdims=True), float)


def lattice(steps: int) -> FloatArray:
    """Return the points of a triangle of three weights, (steps + 1)(steps + 2) / 2 of them."""
    points = [(i, j, steps - i - j) for i in range(steps + 1) for j in range(steps + 1 - i)]
    return np.array(points, float) / steps


@dataclass(frozen=True)
class PriorityMap:
    """Who wins where, over a triangle of three weights.

    Attributes
    ----------
    points : (P, 3)
        Weights.
    chance : (P, K)
        Of being first.
    names : tuple of str
        Of the K combinations.
    """

    points: FloatArray
    chance: FloatArray
    names: tuple[str, ...]

    @property
    def winner(self) -> FloatArray:
        """The place in ``names`` of who wins at each point, (P,)."""
        return np.asarray(self.chance.argmax(axis=1))

    def share(self) -> FloatArray:
        """Return the part of all priorities that each wins, (K,)."""
        return np.asarray(self.chance.mean(axis=0))

    def central(self, k: int) -> FloatArray:
        """Return the middle of what a combination wins, (3,)."""
        own = self.chance[:, k]
        return np.asarray(own @ self.points / max(float(own.sum()), LEAST))

    def nearest(self, weights: Sequence[float]) -> int:
        """Return the point nearest to some weights."""
        return int(((self.points - np.asarray(weights)) ** 2).sum(axis=1).argmin())


def priority_map(
    worth: FloatArray, names: Sequence[str], steps: int = 24, fixed: float = 0.0
) -> PriorityMap:
    """Map who wins over three criteria, a fourth having a weight of its own.

    Parameters
    ----------
    worth : (D, K, 3) or (D, K, 4)
    fixed : float
        Weight of the fourth; the three share what is left of 1.
    """
    points = lattice(steps)
    weights = (1.0 - fixed) * points
    if worth.shape[2] > 3:
        weights = np.column_stack([weights, np.full(len(points), fixed)])
    # who is first can be seen in the logarithms; a few draws at a time keep in the cache
    draws, size, _ = worth.shape
    log, nothing = np.log(np.maximum(worth, LEAST)), worth <= 0.0
    spoilt = (weights > 0.0).astype(float).T if nothing.any() else None
    first = np.zeros((size, len(points)))
    step = max(1, MOST_AT_ONCE // (size * len(points)))
    for start in range(0, draws, step):
        value = log[start : start + step] @ weights.T  # (draws, combinations, points)
        if spoilt is not None:
            value[nothing[start : start + step].astype(float) @ spoilt > 0.0] = -np.inf
        best = value == value.max(axis=1, keepdims=True)
        count = best.sum(axis=1, keepdims=True)
        first += (best / count if count.max() > 1 else best).sum(axis=0)
    chance = (first / draws).T
    return PriorityMap(points, chance, tuple(names))
