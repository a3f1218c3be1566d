"""Draws of the combinations of one hardness class, as they are and partially pooled; their ranks.

Pooled: the means of a class are normal around their common mean with a standard deviation tau
that is estimated, so that the best of many alike is not taken for better than it is. The prior is
on kappa = s^2 / (s^2 + tau^2), the share by which a mean is drawn to the common mean (s^2 the
usual variance of a combination's own part): Beta(A, b), where b falls with the number of
combinations so that two or three are hardly pooled. Formulas: `docs/statistics.md`, section 5.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from loam.core.stats.posterior import Mixture
from loam.core.stats.ranking import shared
from loam.core.stats.reduce import FloatArray, IntArray

DRAWS = 4096
LEVEL = 0.90
FEW = 32
PRIOR_A = 0.5
_EDGES = np.array(
    [
        0,
        0.003,
        0.01,
        0.02,
        0.035,
        0.06,
        0.1,
        0.15,
        0.22,
        0.3,
        0.4,
        0.5,
        0.6,
        0.7,
        0.8,
        0.87,
        0.93,
        0.97,
        0.99,
        1.0,
    ]
)


def prior_b(combinations: int) -> float:
    """Return b of the prior of kappa: large for few combinations, for many it leans to 1."""
    return 0.3 + 40.0 / max(combinations - 1, 1) ** 2


@dataclass(frozen=True)
class Draws:
    """Draws of a class's means on the scale (D, K), as measured.

    Attributes
    ----------
    plain : (D, K)
        From the data and the priors of the variances alone.
    pooled : (D, K)
        Partially pooled, with what all share left out: only differences mean anything.
    """

    plain: FloatArray
    pooled: FloatArray


def draw_class(
    mixture: Mixture, at: IntArray, rng: np.random.Generator, draws: int | None = None
) -> Draws:
    """Draw the means of the fixed groups ``at`` (K,) of a mixture.

    Draws come in pairs around the middle, so that their mean is exact.
    """
    k = at.size
    count = draws or max(1024, min(DRAWS, (1 << 17) // max(k, 1)))
    half = count // 2
    point = _spread(mixture.weight, half)
    level = float(mixture.beta[0, at].mean())
    beta = mixture.beta[:, at] - level  # what follows squares: far from 0 it would lose digits
    shape = mixture.shape[np.ix_(np.arange(mixture.weight.size), at, at)]
    values, vectors = np.linalg.eigh(shape)
    values = np.maximum(values, 0.0)
    sigma2 = mixture.sigma2[point] * mixture.df / rng.chisquare(mixture.df, half)
    z = rng.standard_normal((half, k)).T.copy()  # a combination a row: long rows are quick
    # drawn by combination and turned: which basis of equal directions is found must not matter
    z = _turned(z[None], vectors.transpose(0, 2, 1), point)[0]
    noise = (_each(np.sqrt(values), point) * np.sqrt(sigma2)) * z
    centre = _each(beta, point)
    if k < 2:
        plain = np.hstack([centre + noise, centre - noise]).T + level
        return Draws(plain, plain - plain.mean(axis=1, keepdims=True))
    own = _own_variance(shape)
    kappa, share = _kappa(beta, values, vectors, mixture.sigma2, own)
    middle, away = _pool(beta, values, vectors, point, sigma2, own, kappa, share, z, rng)
    noise, middle, away = _turned(np.stack([noise, middle, away]), vectors, point)
    even = np.full(k, 1.0 / k)  # quicker than a mean of short columns
    middle -= even @ middle
    away -= even @ away
    plain = np.hstack([centre + noise, centre - noise])
    plain += level
    return Draws(plain.T, np.hstack([middle + away, middle - away]).T)


def _spread(weight: FloatArray, count: int) -> IntArray:
    """Return which point each of ``count`` draws comes from, in proportion and in order."""
    edges = np.cumsum(weight)
    return np.asarray(np.searchsorted(edges, (np.arange(count) + 0.5) / count * edges[-1]), np.intp)


def _each(of_points: FloatArray, point: IntArray) -> FloatArray:
    """Return what holds at the point of each draw (K, D), from (S, K)."""
    return np.asarray(of_points.T.take(point, axis=1), float)


def _turned(sets: FloatArray, vectors: FloatArray, point: IntArray) -> FloatArray:
    """Turn columns (R, K, D) from the eigenbases of their points, which lie in order."""
    out = np.empty_like(sets)
    starts = np.searchsorted(point, np.arange(vectors.shape[0] + 1))
    for s in range(vectors.shape[0]):
        own = slice(starts[s], starts[s + 1])
        np.matmul(vectors[s], sets[:, :, own], out=out[:, :, own])
    return out


def _own_variance(shape: FloatArray) -> FloatArray:
    """Half the mean variance of a contrast (S,), at sigma^2 = 1."""
    k = shape.shape[1]
    diagonal = np.trace(shape, axis1=1, axis2=2)
    return np.asarray((diagonal - (shape.sum(axis=(1, 2)) - diagonal) / (k - 1)) / k, float)


def kappa_bins(a: float, b: float) -> tuple[FloatArray, FloatArray]:
    """Return the middles of kappa's bins and the share of a Beta(a, b) in each."""
    from scipy.special import betainc

    middle = 0.5 * (_EDGES[:-1] + _EDGES[1:])
    return middle, np.asarray(np.diff(betainc(a, b, _EDGES)), float)


def _kappa(
    beta: FloatArray, values: FloatArray, vectors: FloatArray, sigma2: FloatArray, own: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Return the middles of kappa (T,) and their posterior share at every point (S, T)."""
    k = beta.shape[1]
    kappa, prior = kappa_bins(PRIOR_A, prior_b(k))
    tau2 = (own[:, None] * (1.0 - kappa) / kappa)[:, :, None]
    a = vectors.sum(axis=1)
    b = (beta[:, None, :] @ vectors)[:, 0]
    inverse = 1.0 / (values[:, None, :] + tau2)
    ones, mixed, square = np.moveaxis(inverse @ np.stack([a * a, a * b, b * b], axis=2), 2, 0)
    square = square - mixed**2 / ones
    log = 0.5 * (np.log(inverse) @ np.ones(k) - np.log(ones) - square / sigma2[:, None])
    share = prior * np.exp(log - log.max(axis=1, keepdims=True))
    return kappa, share / share.sum(axis=1, keepdims=True)


def _pool(
    beta: FloatArray,
    values: FloatArray,
    vectors: FloatArray,
    point: IntArray,
    sigma2: FloatArray,
    own: FloatArray,
    kappa: FloatArray,
    share: FloatArray,
    z: FloatArray,
    rng: np.random.Generator,
) -> tuple[FloatArray, FloatArray]:
    """Return the middles and what is drawn around them (K, D / 2), in the eigenbases."""
    half = point.size
    below = _each(np.cumsum(share, axis=1), point) < rng.random(half)
    chosen = np.add.reduce(below.view(np.uint8), axis=0, dtype=np.uint8)
    ratio = kappa[np.minimum(chosen, kappa.size - 1)]
    tau2 = sigma2 * own[point] * (1.0 - ratio) / ratio
    v = _each(values, point) * sigma2
    a = _each(vectors.sum(axis=1), point)
    b = _each((beta[:, None, :] @ vectors)[:, 0], point)
    inverse = 1.0 / (v + tau2)
    held = a * inverse
    ones = np.einsum("ij,ij->j", a, held)
    common = np.einsum("ij,ij->j", b, held) / ones
    wander = rng.standard_normal(half) / np.sqrt(ones)
    held *= v
    middle = tau2 * b * inverse + common * held
    away = wander * held + np.sqrt(v * tau2 * inverse) * z
    return middle, away


@dataclass(frozen=True)
class Places:
    """Ranks from draws: (K,) chance to be best, mean rank, and the 90 % interval of the rank."""

    p_best: FloatArray
    expected: FloatArray
    low: npt.NDArray[np.intp]
    high: npt.NDArray[np.intp]


def places(merit: FloatArray, level: float = LEVEL) -> Places:
    """Rank draws of merit (D, K), larger is better; equals share the ranks that they span."""
    d, k = merit.shape
    place, tied = _ordered(merit) if k > FEW else _counted(merit)
    share = np.stack([np.bincount(place[:, i], minlength=k) for i in range(k)]) / d
    for row in tied:
        share += shared(merit[row], place[row]) / d
    so_far = np.cumsum(share, axis=1)
    tail = 0.5 * (1.0 - level)
    low = (so_far >= tail - 1e-12).argmax(axis=1) + 1
    high = (so_far >= 1.0 - tail - 1e-12).argmax(axis=1) + 1
    return Places(share[:, 0].copy(), share @ np.arange(1.0, k + 1.0), low, high)


def _counted(merit: FloatArray) -> tuple[IntArray, IntArray]:
    """Return places by counting who is ahead (D, K), quickest for few, and the draws with ties."""
    rows = np.ascontiguousarray(merit.T)
    ahead = np.empty(rows.shape, dtype=np.uint8)
    for i in range(rows.shape[0]):
        np.add.reduce((rows > rows[i]).view(np.uint8), axis=0, dtype=np.uint8, out=ahead[i])
    k = rows.shape[0]
    uneven = ahead.sum(axis=0, dtype=np.intp) != k * (k - 1) // 2
    return ahead.T.astype(np.intp), np.flatnonzero(uneven)


def _ordered(merit: FloatArray) -> tuple[IntArray, IntArray]:
    """Return places by sorting every draw (D, K), and the draws with ties."""
    order = np.argsort(-merit, axis=1)
    place = np.empty(merit.shape, dtype=np.intp)
    np.put_along_axis(place, order, np.arange(merit.shape[1])[None, :], axis=1)
    ordered = np.take_along_axis(merit, order, axis=1)
    return place, np.flatnonzero((ordered[:, 1:] == ordered[:, :-1]).any(axis=1))
