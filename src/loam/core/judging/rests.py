"""What a comparison rests on that a trial hardly knows: "clearly" is earned in the trial.

The variance of a difference is the sum of what each random term brings to it. A term of whose
variance the layout leaves fewer than `OWN_DF` degrees of freedom is known by its prior only: one
panel says nothing of how a combination takes to another, one person a combination nothing of how
people differ. A pair more than half of whose variance comes from such terms, or from a start's
slope that the readings hardly tell, is at most ahead, perhaps by less than matters. A term of
which the trial shows nothing is weighed at `AMISS` times its standard deviation, since what is
assumed is all that is known of it (set on simulated trials, docs/statistics.md).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from loam.core.stats.dense import information
from loam.core.stats.likelihood import Likelihood
from loam.core.stats.posterior import Mixture
from loam.core.stats.reduce import FloatArray, IntArray, cross

OWN_DF = 3.0
HALF = 0.5
AMISS = 2.5
START = "start"
_FREE, _FIXED, _ROUND = 1e3, 1e7, 0.1
_POINTS = 16
_WORTH = 0.2
"""A term with less than this share at the likeliest variances does not come to a half."""


def own_df(likelihood: Likelihood, usual: FloatArray, blocks: Sequence[bool]) -> FloatArray:
    """Return of how many degrees of freedom the layout lets each term's variance be known (k,).

    They are the directions of a term that neither the fixed effects nor the blocks around it hold,
    finer terms left out: gamma tr(Z'PZ) for a large ratio of the term.

    Parameters
    ----------
    usual : (k,)
        Variance ratios as the readings know them.
    blocks : sequence of bool
        Which terms are places (panels, trials) that hold others, not people and days that cross
        them.
    """
    found = np.empty(likelihood.k)
    for j, own in enumerate(likelihood.codings):
        gamma = usual.copy()
        for i, other in enumerate(likelihood.codings):
            both = cross(other, own)[1]
            if i != j and both == likelihood.levels[i]:
                gamma[i] = 0.0
            elif blocks[i] and both == likelihood.levels[j]:
                gamma[i] = _FIXED
        gamma[j] = _FREE
        found[j] = _FREE * likelihood.at(gamma).trace[j]
    return found


@dataclass(frozen=True)
class Rests:
    """Shares of the variance of differences that a trial hardly knows.

    Attributes
    ----------
    terms : tuple of str
        ``panel``, ``panel:combination``, ``cell``, ``operator``, ``day`` … or ``start``.
    share : (T, K, K) float
        Of each pair's variance, by term.
    """

    terms: tuple[str, ...] = ()
    share: FloatArray = field(default_factory=lambda: np.zeros((0, 0, 0)))

    def on(self, a: int, b: int) -> tuple[str, ...]:
        """Return what a pair mostly rests on, most first; () where the trial itself carries it."""
        if not self.terms:
            return ()
        own = self.share[:, a, b]
        if float(own.sum()) <= HALF:
            return ()
        order = np.argsort(-own, kind="stable")
        least = 0.25 * float(own.sum())
        return tuple(self.terms[i] for i in order if own[i] >= least)


def rests_on(
    likelihood: Likelihood,
    mixture: Mixture,
    names: Sequence[tuple[str, ...]],
    df: FloatArray,
    groups: int,
    slope_at: int | None,
) -> Rests:
    """Return what differences of all groups rest on.

    Parameters
    ----------
    names : sequence of tuple of str
        What each term is, several where the layout cannot tell them apart.
    df : (k,)
        From `own_df`.
    groups : int
        How many of the fixed effects are groups.
    slope_at : int or None
        Which fixed effect is a slope that is hardly known.
    """
    weak = [j for j in range(likelihood.k) if df[j] < OWN_DF - _ROUND]
    if groups < 2 or not (weak or slope_at is not None):
        return Rests()
    best = int(mixture.weight.argmax())
    first = _parts(likelihood, mixture, best, weak, slope_at, groups)
    amiss = np.array([AMISS**2 if df[j] < 0.5 else 1.0 for j in weak])
    amiss = np.append(amiss, [1.0] * (slope_at is not None))
    total = _weighed(first, amiss)
    worth = [i for i, part in enumerate(first[1:]) if _largest(part, total) >= _WORTH]
    if not worth:
        return Rests()
    kept = [weak[i] for i in worth if i < len(weak)]
    slope = slope_at if len(weak) in worth else None
    points, weights = _chosen(mixture, kept)
    sums = np.zeros((1 + len(kept) + (slope is not None), groups, groups))
    for s, weight in zip(points, weights, strict=True):
        sums += weight * _parts(likelihood, mixture, int(s), kept, slope, groups)
    total = _weighed(sums, amiss[worth])
    share = np.stack([_differences(part) / total for part in sums[1:]])
    said = ["+".join(names[j]) for j in kept] + ([START] if slope is not None else [])
    return Rests(tuple(said), share)


def _parts(
    likelihood: Likelihood,
    mixture: Mixture,
    s: int,
    terms: Sequence[int],
    slope: int | None,
    groups: int,
) -> FloatArray:
    """Return the covariance of the groups at a point, and what each term brings to it."""
    gamma, inverse, sigma2 = mixture.gamma[s], mixture.shape[s], mixture.sigma2[s]
    found = [inverse[:groups, :groups]]
    for j, known in zip(terms, information(likelihood, gamma, terms), strict=True):
        found.append((gamma[j] * inverse @ known @ inverse)[:groups, :groups])
    if slope is not None:
        column = inverse[:groups, slope]
        found.append(np.outer(column, column) / inverse[slope, slope])
    return np.asarray(np.stack(found) * sigma2, float)


def _weighed(parts: FloatArray, amiss: FloatArray) -> FloatArray:
    """Weigh what is not known at all by more, in place, and return the variances of differences."""
    more = np.tensordot(amiss - 1.0, parts[1:], 1)
    parts[1:] *= amiss[:, None, None]
    return _differences(parts[0] + more)


def _differences(part: FloatArray) -> FloatArray:
    """Return the variances of all differences (K, K) from a covariance."""
    own = np.diag(part)
    found = own[:, None] + own[None, :] - part - part.T
    return np.maximum(found, 1e-300)


def _largest(part: FloatArray, total: FloatArray) -> float:
    share = _differences(part) / total
    np.fill_diagonal(share, 0.0)
    return float(share.max())


def _chosen(mixture: Mixture, terms: Sequence[int]) -> tuple[IntArray, FloatArray]:
    """Return points that stand for all, in proportion, along the variances of some terms."""
    count = mixture.weight.size
    if count <= _POINTS:
        return np.arange(count), mixture.weight
    along = np.argsort(mixture.log_variances[:, list(terms)].sum(axis=1)) if terms else None
    order = np.arange(count) if along is None else along
    edges = np.cumsum(mixture.weight[order])
    at = np.searchsorted(edges, (np.arange(_POINTS) + 0.5) / _POINTS * edges[-1])
    return order[np.minimum(at, count - 1)], np.full(_POINTS, 1.0 / _POINTS)


__all__ = ["OWN_DF", "START", "Rests", "own_df", "rests_on"]
