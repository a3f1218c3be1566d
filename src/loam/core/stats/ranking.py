"""Ranking under uncertainty within one hardness class.

Ranks come from draws of the whole covariance, so that what all combinations share cancels;
ties and differences are judged exactly from the t distribution against a region of practical
equivalence. Formulas: `docs/statistics.md`, sections 3 to 5.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from loam.core.stats.reduce import FloatArray

DRAWS = 20_000
LEVEL = 0.90

A_BETTER = "a better"
B_BETTER = "b better"
TIE = "tie"
NOT_SETTLED = "not settled"


@dataclass(frozen=True)
class Ranks:
    """Ranks from draws.

    Attributes
    ----------
    p_best : (K,)
        Share of draws in which a combination is first (ties shared).
    expected : (K,)
        Mean rank.
    low, high : (K,) int
        90 % interval of the rank.
    p_rank : (K, K)
        Share of draws with each rank; rows are combinations.
    as_good : (K,)
        Share of draws within delta of the best.
    """

    p_best: FloatArray
    expected: FloatArray
    low: npt.NDArray[np.intp]
    high: npt.NDArray[np.intp]
    p_rank: FloatArray
    as_good: FloatArray


@dataclass(frozen=True)
class Pair:
    """Two combinations compared. ``difference`` is a minus b in merit (larger is better)."""

    a: int
    b: int
    difference: float
    se: float
    p_a_better: float
    p_tie: float
    p_b_better: float
    verdict: str


def draw_means(
    mean: FloatArray,
    covariance: FloatArray,
    df: float | None,
    rng: np.random.Generator,
    draws: int = DRAWS,
) -> FloatArray:
    """Draw sets of means from a multivariate t (normal when ``df`` is None).

    Parameters
    ----------
    mean : (K,)
        Adjusted means, larger is better.
    covariance : (K, K)
        Their covariance; may be singular up to a common shift.
    df : float or None
        Degrees of freedom, one scale a draw.
    rng : numpy.random.Generator
        Seeded by the caller, so that a view shows the same figures each time.

    Returns
    -------
    (draws, K)
    """
    values, vectors = np.linalg.eigh(covariance)
    root = vectors * np.sqrt(np.clip(values, 0.0, None))
    z = rng.standard_normal((draws, mean.size)) @ root.T
    if df is not None:
        z *= np.sqrt(df / rng.chisquare(df, draws))[:, None]
    out: FloatArray = mean + z
    return out


def rank_draws(draws: FloatArray, delta: float = 0.0, level: float = LEVEL) -> Ranks:
    """Rank every draw; ties share the ranks that they span.

    Parameters
    ----------
    draws : (T, K)
        Means by draw, larger is better.
    delta : float
        Region of practical equivalence, in the unit of the draws.
    level : float
        Coverage of the rank interval.
    """
    t, k = draws.shape
    order = np.argsort(-draws, axis=1, kind="stable")
    place = np.empty((t, k), dtype=np.intp)
    np.put_along_axis(place, order, np.arange(k)[None, :], axis=1)
    p_rank = np.stack([np.bincount(place[:, i], minlength=k) for i in range(k)]) / t
    ordered = np.take_along_axis(draws, order, axis=1)
    tied = (np.diff(ordered, axis=1) == 0).any(axis=1) if k > 1 else np.zeros(t, dtype=bool)
    for row in np.flatnonzero(tied):
        p_rank += shared(draws[row], place[row]) / t
    cumulative = np.cumsum(p_rank, axis=1)
    tail = 0.5 * (1.0 - level)
    low = (cumulative >= tail - 1e-12).argmax(axis=1) + 1
    high = (cumulative >= 1.0 - tail - 1e-12).argmax(axis=1) + 1
    best = ordered[:, :1]
    return Ranks(
        p_best=p_rank[:, 0].copy(),
        expected=p_rank @ np.arange(1, k + 1),
        low=low,
        high=high,
        p_rank=p_rank,
        as_good=(draws >= best - delta).mean(axis=0),
    )


def shared(values: FloatArray, place: npt.NDArray[np.intp]) -> FloatArray:
    """Correct one draw's ranks (K, K) where values are equal: they share the ranks they span."""
    k = values.size
    fix = np.zeros((k, k))
    fix[np.arange(k), place] -= 1.0
    for value in np.unique(values):
        at = np.flatnonzero(values == value)
        first = int((values > value).sum())
        fix[np.ix_(at, np.arange(first, first + at.size))] += 1.0 / at.size
    return fix


def compare(
    mean: FloatArray, covariance: FloatArray, df: float, delta: float, level: float = LEVEL
) -> list[Pair]:
    """Compare every pair exactly against the region of practical equivalence.

    Parameters
    ----------
    mean, covariance : (K,), (K, K)
        Adjusted means in merit (larger is better) and their covariance.
    df : float
        Degrees of freedom of the contrasts.
    delta : float
        Difference that does not matter, in the unit of the means.
    level : float
        Probability a verdict needs.
    """
    from scipy.special import stdtr

    pairs = []
    for a in range(mean.size):
        for b in range(a + 1, mean.size):
            difference = float(mean[a] - mean[b])
            variance = covariance[a, a] + covariance[b, b] - 2.0 * covariance[a, b]
            se = float(np.sqrt(max(float(variance), 0.0)))
            if se > 0:
                p_a = float(stdtr(df, (difference - delta) / se))
                p_b = float(stdtr(df, (-difference - delta) / se))
            else:
                p_a, p_b = float(difference > delta), float(-difference > delta)
            p_tie = 1.0 - p_a - p_b
            pairs.append(
                Pair(a, b, difference, se, p_a, p_tie, p_b, _verdict(p_a, p_tie, p_b, level))
            )
    return pairs


def _verdict(p_a: float, p_tie: float, p_b: float, level: float) -> str:
    for share, verdict in ((p_a, A_BETTER), (p_b, B_BETTER), (p_tie, TIE)):
        if share >= level:
            return verdict
    return NOT_SETTLED


def verdict_between(pairs: list[Pair], first: int, second: int) -> str:
    """Return the verdict seen from ``first``: it is a, ``second`` is b."""
    for pair in pairs:
        if (pair.a, pair.b) == (first, second):
            return pair.verdict
        if (pair.a, pair.b) == (second, first):
            return {A_BETTER: B_BETTER, B_BETTER: A_BETTER}.get(pair.verdict, pair.verdict)
    raise KeyError((first, second))


def best_group(mean: FloatArray, pairs: list[Pair]) -> list[int]:
    """Return the leader and all that it is not shown to beat, in order of merit."""
    order = [int(i) for i in np.argsort(-mean, kind="stable")]
    leader = order[0]
    return [i for i in order if i == leader or verdict_between(pairs, leader, i) != A_BETTER]
