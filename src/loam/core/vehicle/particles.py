"""From what panels showed to the possible vehicles that a ladder is worked out on.

Contrasts of a class carry over to a vehicle; its level only up to a shift of its own, which is
assumed until follow-ups tell it (`follow`). Source: ``docs/statistics.md``, Ladder.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from loam.core.errors import ValueRefused
from loam.core.judging.result import ClassJudgement, TrialJudgement
from loam.core.ladder import Cloud, Measured, scaled
from loam.core.stats.prior import DEFAULT_DF
from loam.core.stats.reduce import FloatArray
from loam.core.vehicle.follow import Learnt

DRAWS = 4096
"""Particles of all classes together."""
CLEAR_TAKEN = "removed"
READINGS_A_SPOT = 3
"""So many readings of a spot are planned for: assumed, until it is read."""
_LEAST_DF = 1.0


@dataclass(frozen=True)
class Promise:
    """What a measurand promises: its judgement, and the column of each rung by class.

    Attributes
    ----------
    columns : mapping of str to sequence of str
        By hardness class, the code of each rung in the judgement.
    """

    judged: TrialJudgement
    columns: Mapping[str, Sequence[str]]

    def usual(self, term: str) -> float:
        """Return the usual standard deviation of a term, on the scale."""
        return float(self.judged.priors[term].sd) if term in self.judged.priors else 0.0


@dataclass(frozen=True)
class Taken:
    """Clear that rungs take where film was not read: from the dose, mean and SD, (k,) µm."""

    mean: FloatArray
    sd: FloatArray


@dataclass(frozen=True)
class Grounds:
    """All that particles are made of.

    Attributes
    ----------
    promises : mapping of str to Promise
        By measurand; ``removed`` among them where the film was read.
    taken : mapping of str to Taken
        By class, where it was not.
    chances : mapping of str to float
    budget : (float, float) or None
        Mean and SD of the clear that may go, µm; None where there is no limit.
    learnt : mapping of str to Learnt
        What follow-ups taught, by measurand.
    """

    promises: Mapping[str, Promise]
    taken: Mapping[str, Taken]
    chances: Mapping[str, float]
    rungs: int
    budget: tuple[float, float] | None = None
    learnt: Mapping[str, Learnt] = field(default_factory=dict)


def level_draws(own: ClassJudgement, codes: Sequence[str]) -> FloatArray:
    """Return draws of the rungs of a class on the scale, (D, k): plain level, pooled contrasts.

    The same draw of all rungs belongs together: what a panel shares is shared.
    """
    at = [own.columns[code] for code in codes]
    pooled = own.draws[:, at]
    level = own.plain[:, at].mean(axis=1, keepdims=True)
    return np.asarray(level + pooled - pooled.mean(axis=1, keepdims=True), float)


def drawn_sd(judged: TrialJudgement, term: str, n: int, rng: np.random.Generator) -> FloatArray:
    """Draw a standard deviation (n,) of a judgement: nu sd² / chi²(nu)."""
    sd = float(judged.sd.get(term, 0.0))
    df = max(float(judged.df.get(term, DEFAULT_DF)), _LEAST_DF)
    return np.asarray(sd * np.sqrt(df / rng.chisquare(df, n)), float)


def spot_sd(judged: TrialJudgement, readings: int = READINGS_A_SPOT) -> float:
    """Return how the mean of a spot's readings scatters on the scale: its cell and its readings."""
    cell, residual = judged.sd.get("cell", 0.0), judged.sd.get("residual", 0.0)
    return float(np.sqrt(cell**2 + residual**2 / max(readings, 1)))


def measured_of(grounds: Grounds, readings: Mapping[str, int] | None = None) -> list[Measured]:
    """Return the measurands of the ladder, in their order."""
    given = readings or {}
    return [
        Measured(m, p.judged.scale, spot_sd(p.judged, given.get(m, READINGS_A_SPOT)))
        for m, p in grounds.promises.items()
        if m != CLEAR_TAKEN
    ]


def particles(grounds: Grounds, rng: np.random.Generator, draws: int = DRAWS) -> Cloud:
    """Make the possible vehicles.

    Parameters
    ----------
    draws : int
        Of all classes together.

    Raises
    ------
    ValueRefused
        When no class has both a chance and panels.
    """
    classes = tuple(c for c, p in grounds.chances.items() if p > 0.0)
    if not classes or not grounds.promises:
        raise ValueRefused(
            "No class that this vehicle may be has panels that were read.",
            todo="Read a trial on its class, or give the other classes a chance.",
        )
    each = max(draws // len(classes), 1)
    n = each * len(classes)
    hardness = np.repeat(np.arange(len(classes)), each)
    weights = np.repeat([grounds.chances[c] / each for c in classes], each)
    measurands = [m for m in grounds.promises if m != CLEAR_TAKEN]
    results = np.empty((len(measurands), n, grounds.rungs))
    for q, m in enumerate(measurands):
        results[q] = _results(grounds, m, classes, each, rng)
    clear = _clear(grounds, classes, each, rng)
    budget = np.full(n, np.inf)
    if grounds.budget is not None:
        mean, sd = grounds.budget
        budget = np.maximum(mean + sd * rng.standard_normal(n), 0.0)
    return scaled(Cloud(classes, hardness, weights, results, clear, budget))


def _results(
    grounds: Grounds, m: str, classes: Sequence[str], each: int, rng: np.random.Generator
) -> FloatArray:
    """Return what the rungs do to each possible vehicle, (n, k) on the scale."""
    promise = grounds.promises[m]
    rows = []
    for name in classes:
        own = promise.judged.on(name)
        if own is None:
            raise ValueRefused(f"{m} was not read on {name} panels.")
        drawn = level_draws(own, promise.columns[name])
        rows.append(drawn[rng.permutation(len(drawn))[np.arange(each) % len(drawn)]])
    x = np.vstack(rows)
    n = len(x)
    mu, spread = learnt_draws(promise, grounds.learnt.get(m), n, rng)
    panel = drawn_sd(promise.judged, "panel", n, rng)
    own_sd = drawn_sd(promise.judged, "panel:combination", n, rng)
    usual_own = promise.usual("panel:combination")
    shift = mu + np.sqrt(panel**2 + spread**2) * rng.standard_normal(n)
    beside = np.sqrt(own_sd**2 + usual_own**2)[:, None] * rng.standard_normal(x.shape)
    return np.asarray(x + shift[:, None] + beside, float)


def learnt_draws(
    promise: Promise, learnt: Learnt | None, n: int, rng: np.random.Generator
) -> tuple[FloatArray, FloatArray]:
    """Return a vehicle's mean shift and how vehicles spread, (n,) each: assumed, or learnt."""
    if learnt is not None:
        return learnt.draw(n, rng)
    usual = promise.usual("panel")
    mu = usual * rng.standard_normal(n)
    return mu, usual * np.sqrt(3.0 / rng.chisquare(3.0, n))


def _clear(
    grounds: Grounds, classes: Sequence[str], each: int, rng: np.random.Generator
) -> FloatArray:
    """Return the clear that each rung takes, (n, k) µm."""
    if CLEAR_TAKEN in grounds.promises:
        scale = grounds.promises[CLEAR_TAKEN].judged.scale
        x = _results(grounds, CLEAR_TAKEN, classes, each, rng)
        return np.maximum(scale.back(x), 0.0)
    rows = [
        np.maximum(own.mean + own.sd * rng.standard_normal((each, grounds.rungs)), 0.0)
        for own in (grounds.taken[c] for c in classes)
    ]
    return np.vstack(rows)
