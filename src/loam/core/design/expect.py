"""From which true difference on a trial will say "ahead" and "clearly": verdicts, not tests.

The verdicts are those of the judgement (`core.verdicts`), its priors and its pooling included. A
difference is read with the variance V = sum of what each term brings to it. What the judgement will
take each variance for is a chi-square draw of what the trial shows, joined with its prior; the
difference then has Satterthwaite's degrees of freedom, and is drawn to the class's mean by the
share kappa of `stats.pooling`, for one combination apart from the others. A verdict falls when the
pooled difference passes its quantile; the true difference with which it does so four times in five
is found by bisection over seeded draws.

The judgement's mixture has heavier tails than one t; by `_TAILS`, and by `_UNKNOWN` times the share
that no reading of the trial shows, the differences are lengthened. Both were set against
simulated judgements (`tests/core/test_outlook.py`: within ten points on four layouts).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from loam.core.judging.rests import AMISS, HALF, OWN_DF
from loam.core.stats.pooling import PRIOR_A, kappa_bins, prior_b
from loam.core.stats.reduce import FloatArray
from loam.core.verdicts import SURE

OFTEN = 0.8
_DRAWS = 600
_TAILS, _UNKNOWN = 1.05, 0.35


@dataclass(frozen=True)
class Part:
    """What one term brings to the variance of a difference.

    Attributes
    ----------
    true, assumed : float
        With the variance that it has, and with the scale of its prior.
    prior_df, own_df : float
        Degrees of freedom of its prior, and those that the trial will show.
    place : bool
        Whether the term can make a difference rest on what is assumed: not repeat readings.
    """

    true: float
    assumed: float
    prior_df: float
    own_df: float
    place: bool = True


@dataclass(frozen=True)
class Expected:
    """What verdicts to expect of one difference, on the measurand's scale.

    Attributes
    ----------
    ahead : float
        True difference from which on "ahead" is said four times in five.
    clearly : float or None
        From which on "clearly"; None where the layout cannot earn it.
    says_clearly : float
        Chance of "clearly" with a true difference of twice what matters.
    says_equal : float
        Chance of "as good" with none.
    """

    ahead: float
    clearly: float | None
    says_clearly: float
    says_equal: float

    @property
    def answers(self) -> bool:
        """Whether the trial can answer: both are said four times in five."""
        return self.says_clearly >= OFTEN and self.says_equal >= OFTEN


def expected(parts: Sequence[Part], combinations: int, delta: float) -> Expected:
    """Return what verdicts to expect of a difference.

    Parameters
    ----------
    parts : sequence of Part
        At least one with a variance above nothing.
    combinations : int
        Of the class: they are pooled.
    delta : float
        What matters, on the scale.
    """
    true = float(np.sqrt(sum(p.true for p in parts)))
    unknown = sum(p.true for p in parts if p.own_df < 0.5) / max(true**2, 1e-300)
    longer = _TAILS + _UNKNOWN * unknown
    seen = _Seen.of(parts, true, combinations)
    capped = _rests(parts)
    ahead = seen.least(0.0, true) * longer
    clearly = None if capped else delta + (seen.least(delta, true) - delta) * longer
    says = 0.0 if capped or delta <= 0.0 else seen.chance(delta + delta / longer, delta)
    equal = seen.equal(delta / longer) if delta > 0.0 else 0.0
    return Expected(ahead, clearly, says, equal)


def _rests(parts: Sequence[Part]) -> bool:
    """Tell whether more than half rests on what the trial will hardly know (`judging.rests`)."""
    total = weak = 0.0
    for p in parts:
        df = p.prior_df + p.own_df
        value = (p.prior_df * p.assumed + p.own_df * p.true) / df
        if p.own_df < OWN_DF - 0.1 and p.place:
            value *= df / (df - 2.0) if df > 2.5 else 3.0
            value *= AMISS**2 if p.own_df < 0.5 else 1.0
            weak += value
        total += value
    return weak > HALF * total


@dataclass(frozen=True)
class _Seen:
    """Draws of what a trial may show: the error of the difference, its SD, t and pooling."""

    error: FloatArray
    sd: FloatArray
    t: FloatArray
    df: FloatArray
    combinations: int

    @classmethod
    def of(cls, parts: Sequence[Part], true: float, combinations: int) -> _Seen:
        from scipy.special import stdtrit

        rng = np.random.default_rng(len(parts))
        total, square = np.zeros(_DRAWS), np.zeros(_DRAWS)
        for p in parts:
            df = p.prior_df + p.own_df
            chi = rng.chisquare(p.own_df, _DRAWS) if p.own_df > 0.0 else np.zeros(_DRAWS)
            brought = (p.prior_df * p.assumed + p.true * chi) / df
            total += brought
            square += brought**2 / df
        whole = total**2 / np.maximum(square, 1e-300)
        error = true * rng.permutation(_normal(_DRAWS))
        return cls(error, np.sqrt(total), stdtrit(whole, SURE), whole, combinations)

    def kappa(self, difference: float) -> FloatArray:
        """Return by which share a difference is drawn to nothing, others level with each other."""
        k = self.combinations
        middle, prior = _bins(k)
        s2 = 0.5 * self.sd**2
        v = s2[:, None] / middle
        between = (difference**2 * (1.0 - 1.0 / k) + (k - 2) * s2)[:, None]
        log = -0.5 * (k - 1) * np.log(v) - 0.5 * between / v
        weight = prior * np.exp(log - log.max(axis=1, keepdims=True))
        return np.asarray((weight @ middle) / weight.sum(axis=1), float)

    def chance(self, difference: float, delta: float) -> float:
        """Return how often a true difference is said to be more than delta."""
        kept = 1.0 - self.kappa(difference)
        needed = delta / kept + self.t * self.sd / np.sqrt(kept)
        return float((difference + self.error >= needed).mean())

    def equal(self, delta: float) -> float:
        """Return how often two that are alike are said to be as good."""
        from scipy.special import stdtr

        kept = 1.0 - self.kappa(0.0)
        middle, sd = kept * self.error, np.sqrt(kept) * self.sd
        same = stdtr(self.df, (delta - middle) / sd) - stdtr(self.df, (-delta - middle) / sd)
        return float((same >= SURE).mean())

    def least(self, delta: float, true: float) -> float:
        """Return the true difference that is said to be more than delta four times in five."""
        low, high = delta, delta + 4.0 * true
        while self.chance(high, delta) < OFTEN and high < delta + 1e4 * true:
            low, high = high, delta + 2.0 * (high - delta)
        for _ in range(24):
            at = 0.5 * (low + high)
            low, high = (at, high) if self.chance(at, delta) < OFTEN else (low, at)
        return high


@lru_cache(8)
def _normal(count: int) -> FloatArray:
    from scipy.special import ndtri

    return np.asarray(ndtri((np.arange(count) + 0.5) / count), float)


@lru_cache(64)
def _bins(combinations: int) -> tuple[FloatArray, FloatArray]:
    return kappa_bins(PRIOR_A, prior_b(combinations))
