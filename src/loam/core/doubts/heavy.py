"""A heavy hand, or an odd panel: does it differ from the others in a pattern, or as they all do?

People differ, and how much in each measurand is not known well. A heavy hand moves all measurands
together, in known directions and proportions. So the contrast of one person with the others is
asked which of two it looks like: the pattern of a heavy hand, of whatever weight, or what people
usually differ by, in each measurand by itself (t, with few degrees of freedom). The ratio of the
two likelihoods is the statistic; how large it gets by chance is counted in draws from the second.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from loam.core.snapshot import FloatArray

WEIGHTS = (0.7, 1.0, 1.5, 2.2, 3.2)
"""How heavy a hand may be, in usual sizes."""
PERSON, PANEL = 0.3, 0.6
"""Beside the pattern a heavy hand, or an odd panel, differs by this much of what people, or panels,
usually do: assumed."""
USUAL_DF, SHARED = 3.0, 1.0
"""How well the usual is known, and how far what is seen in all measurands holds for one."""
DRAWS = 40_000
RARE = 0.001
LEAST_NOISE = 1e-6
NOISE_DF = 30.0
"""How well the scatter of cells is taken to be known."""


@dataclass(frozen=True)
class Contrast:
    """A person against the mean of the others, on the scale of a measurand.

    Attributes
    ----------
    noise : float
        Its standard deviation if people did not differ.
    people : float
        Standard deviation of such a contrast that people usually have.
    df : float
        How well that is known.
    others, free : float
        Sum of squares of how the others differ from each other, in usual variances, and its df.
    """

    estimate: float
    noise: float
    people: float
    df: float
    others: float = 0.0
    free: float = 0.0


def as_here(found: Mapping[str, Contrast]) -> dict[str, Contrast]:
    """Return contrasts with people as unlike each other as the others here are.

    Two or three people say little of it in one measurand; in all measurands together, by how much
    they differ more or less than people usually do.
    """
    free = sum(c.free for c in found.values())
    more = (USUAL_DF + sum(c.others for c in found.values())) / (USUAL_DF + free)
    return {
        m: replace(c, people=c.people * math.sqrt(more), df=c.df + SHARED * free)
        for m, c in found.items()
    }


def heavy_chance(
    found: Mapping[str, Contrast],
    pattern: Mapping[str, float],
    rng: np.random.Generator,
    beside: float = PERSON,
) -> float:
    """Return how often people who differ as usual look as much like a heavy hand.

    Parameters
    ----------
    found : mapping of str to Contrast
        By measurand.
    pattern : mapping of str to float
        What a heavy hand of weight 1 does, on the scales.
    beside : float
        How much it differs beside the pattern, in what is usual.
    """
    keys = [m for m in found if m in pattern]
    if not keys:
        return 1.0
    own = np.array([[found[m].estimate for m in keys]])
    noise = np.array([max(found[m].noise, LEAST_NOISE) for m in keys])
    people = np.array([found[m].people for m in keys])
    df = np.array([found[m].df for m in keys])
    shape = np.array([pattern[m] for m in keys])
    spread = people * np.sqrt(df / rng.chisquare(df, (DRAWS, len(keys))))
    chance = rng.standard_normal((DRAWS, len(keys))) * np.sqrt(spread**2 + noise**2)
    narrow = np.sqrt(noise**2 + (beside * people) ** 2)
    seen = _ratio(own, shape, narrow, noise, people, df)[0]
    drawn = np.sort(_ratio(chance, shape, narrow, noise, people, df))
    rare = int(RARE * DRAWS)
    if seen <= drawn[-rare]:
        return float((1 + np.count_nonzero(drawn >= seen)) / (DRAWS + 1))
    # beyond what draws show the tail of a logarithm of power laws is exponential
    excess = float((drawn[-rare:] - drawn[-rare]).mean())
    return float(RARE * math.exp(-(seen - float(drawn[-rare])) / max(excess, 1e-9)))


def tails(found: Mapping[str, Contrast], pattern: Mapping[str, float]) -> float:
    """Return the chance of moving so far in the directions of a pattern, whatever the proportions.

    Fisher's sum of one-sided t tails, of the noise and of what is usual together.
    """
    from scipy.special import chdtrc, stdtr

    total, count = 0.0, 0
    for key, one in found.items():
        if key not in pattern:
            continue
        spread = math.sqrt(one.noise**2 + one.people**2)
        t = math.copysign(1.0, pattern[key]) * one.estimate / max(spread, 1e-12)
        total -= 2.0 * math.log(max(float(stdtr(one.df, -t)), 1e-15))
        count += 1
    return float(chdtrc(2 * count, total)) if count else 1.0


def chances_apart(found: Mapping[str, Contrast], noise_df: float) -> list[float]:
    """Return by measurand the chance of being so far from the others, on either side.

    The spread is that of the noise and of how people differ, each known with its own degrees of
    freedom: together as Satterthwaite's. Without any for the noise both are known as people are.
    """
    from scipy.special import stdtr

    chances = []
    for one in found.values():
        noise, people = one.noise**2, one.people**2
        spread = max(noise + people, 1e-24)
        own = max(one.df, 1.0)
        df = own
        if noise_df:
            df = spread**2 / max(noise**2 / noise_df + people**2 / own, 1e-48)
        t = abs(one.estimate) / math.sqrt(spread)
        chances.append(min(max(2.0 * float(stdtr(df, -t)), 1e-15), 1.0))
    return chances


def unlike(found: Mapping[str, Contrast]) -> float:
    """Return the chance of being so far from the others, whatever the direction.

    Fisher's sum over the measurands, or the least of them for all: the smaller, twice.
    """
    from scipy.special import chdtrc

    chances = chances_apart(found, 0.0)
    if not chances:
        return 1.0
    total = -2.0 * sum(math.log(p) for p in chances)
    joined = float(chdtrc(2 * len(chances), total))
    return min(2.0 * joined, 2.0 * len(chances) * min(chances), 1.0)


def _ratio(
    y: FloatArray,
    shape: FloatArray,
    narrow: FloatArray,
    noise: FloatArray,
    people: FloatArray,
    df: FloatArray,
) -> FloatArray:
    """Return the logarithm of the ratio of the likelihoods, (n,) of (n, measurands)."""
    from scipy.special import gammaln

    wide = np.sqrt(noise**2 + people**2)
    heavy = np.stack(
        [(-0.5 * ((y - w * shape) / narrow) ** 2 - np.log(narrow)).sum(axis=1) for w in WEIGHTS]
    )
    top = heavy.max(axis=0)
    hand = top + np.log(np.exp(heavy - top).mean(axis=0)) - 0.5 * y.shape[1] * math.log(2 * math.pi)
    usual = (
        gammaln(0.5 * (df + 1))
        - gammaln(0.5 * df)
        - 0.5 * np.log(df * np.pi)
        - np.log(wide)
        - 0.5 * (df + 1) * np.log1p((y / wide) ** 2 / df)
    ).sum(axis=1)
    return np.asarray(hand - usual, float)
