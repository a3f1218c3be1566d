"""Many trials fitted in two steps, for pools that the whole model would take too long for.

Within trials: how cells, panels, people and days vary is learnt from a few of the trials by the
whole model, and taken as known for all (a pool that large knows it well). Each trial is then
reduced exactly, at those variances, to what it says of its recipes: information A and A m.
Between trials: a recipe in a trial, the trial and its workshop vary by three further variances,
which are integrated over with their priors. With D the covariance of what a trial adds to its
recipes, and M = (I + A D)^-1, a trial tells of its recipes with information M A and M A m; what
remains is one small system of all recipes and workshops (an evaluation takes milliseconds).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.judging.model import Model, fit_model
from loam.core.judging.rests import Rests
from loam.core.judging.starts import Starts
from loam.core.pool import TOGETHER, TRIAL, WORKSHOP
from loam.core.prior import READER, RESIDUAL, Priors
from loam.core.scale import Scale
from loam.core.stats.posterior import Mixture, low_discrepancy
from loam.core.stats.prior import Prior
from loam.core.stats.reduce import FloatArray, IntArray, compact, cross, first_rows
from loam.core.trial_rows import Coded, TrialData

BIG = 16_000
"""Readings from which on a pool is fitted in two steps."""
SAMPLE = 8_000
POINTS = 32
_BETWEEN = (TOGETHER, TRIAL, WORKSHOP)
MANY_DF = 1e6


@dataclass(frozen=True)
class PooledModel(Model):
    """A pool as fitted in two steps; what it says of the variances was found on the way."""

    sds: dict[str, float]
    dfs: dict[str, float]
    unsure: tuple[str, ...]

    @property
    def rests(self) -> Rests:
        """Nothing: thousands of readings of many trials know their terms."""
        return Rests()

    def spreads(self) -> tuple[dict[str, float], dict[str, float]]:
        """Return standard deviation and df by term."""
        return dict(self.sds), dict(self.dfs)

    def assumed(self) -> tuple[str, ...]:
        """Return the terms that rest mostly on what was assumed."""
        return self.unsure


def fit_pool(data: TrialData, scale: Scale, priors: Priors | None) -> Model:
    """Fit many trials as one; a pool that is not large is fitted whole, one trial as itself."""
    if priors is not None and not data.factors[TRIAL].codes.any():
        own = {name: p for name, p in priors.items() if name not in _BETWEEN}
        return fit_model(data, scale, own)
    if data.y.size < BIG or priors is None:
        return fit_model(data, scale, priors)
    within = fit_model(_sample(data), scale, priors)
    sd, df = within.spreads()
    y = scale.to(data.y)
    groups, count = cross(data.hardness.codes, data.combination.codes)
    first = first_rows(groups, count)
    where = [(int(data.hardness.codes[i]), int(data.combination.codes[i])) for i in first]
    trials = _reduce(data, y, groups, sd)
    between = _Between(trials, count, priors)
    mixture, spread, known = between.integrate()
    levels = {n: len(np.unique(f.codes)) for n, f in data.factors.items()}
    sds = {**sd, **dict(zip(_BETWEEN, spread, strict=True))}
    dfs = {**df, **dict(zip(_BETWEEN, known, strict=True))}
    unsure = tuple(
        name
        for name, own in zip(_BETWEEN, known, strict=True)
        if name != WORKSHOP and priors[name].df >= 0.5 * own
    )
    return PooledModel(
        groups, where, [], levels, priors, Starts(), within.likelihood, mixture, sds, dfs, unsure
    )


def _sample(data: TrialData) -> TrialData:
    """Return the trials, from the last back, that hold a few thousand readings together."""
    trial = data.factors[TRIAL].codes
    size = np.bincount(trial)
    taken = np.cumsum(size[::-1]) <= SAMPLE
    taken[0] = True
    keep = np.flatnonzero(taken[::-1][trial])

    def part(c: Coded) -> Coded:
        present, at = np.unique(c.codes[keep], return_inverse=True)
        names = tuple(c.names[int(i)] for i in present) if c.names else ()
        return Coded(at.astype(np.intp), names)

    factors = {n: part(f) for n, f in data.factors.items() if n not in _BETWEEN}
    return TrialData(
        data.measurand,
        data.y[keep],
        part(data.hardness),
        part(data.combination),
        factors,
        None,
        data.higher_is_better,
        data.scale,
    )


@dataclass(frozen=True)
class _Trials:
    """What each trial says: (T, K, K) information, (T, K) A m, and which recipe each row is.

    Rows beyond a trial's own recipes are empty; ``there`` marks those that are not.
    """

    information: FloatArray
    told: FloatArray
    recipe: IntArray
    there: FloatArray
    workshop: IntArray
    shift: float


def _reduce(data: TrialData, y: FloatArray, groups: IntArray, sd: dict[str, float]) -> _Trials:
    """Reduce every trial to what it says of its recipes, at known variances."""
    factors = data.factors
    cell, cells = compact(factors["cell"].codes)
    number = np.bincount(cell)
    mean = np.bincount(cell, weights=y) / number
    shift = float(mean.mean())
    at = first_rows(cell, cells)
    noise = sd["cell"] ** 2 + sd[RESIDUAL] ** 2 / number
    trial = factors[TRIAL].codes[at]
    keys = {n: factors[n].codes[at] for n in ("panel", "operator", READER, "day") if n in factors}
    keys["panel:combination"] = cross(keys["panel"], groups[at])[0]
    order = np.argsort(trial, kind="stable")
    edges = np.searchsorted(trial[order], np.arange(int(trial.max()) + 2))
    each: list[tuple[FloatArray, FloatArray, IntArray]] = []
    for t in range(edges.size - 1):
        own = order[edges[t] : edges[t + 1]]
        each.append(
            _one(
                mean[own] - shift,
                1.0 / noise[own],
                groups[at][own],
                {n: k[own] for n, k in keys.items()},
                sd,
            )
        )
    most = max(k.size for _, _, k in each)
    count = len(each)
    information, told = np.zeros((count, most, most)), np.zeros((count, most))
    recipe = np.zeros((count, most), dtype=np.intp)
    there = np.zeros((count, most))
    for t, (a, b, k) in enumerate(each):
        information[t, : k.size, : k.size], told[t, : k.size] = a, b
        recipe[t, : k.size], there[t, : k.size] = k, 1.0
    workshop = np.zeros(count, dtype=np.intp)
    workshop[trial] = factors[WORKSHOP].codes[at]
    return _Trials(information, told, recipe, there, workshop, shift)


def _one(
    y: FloatArray,
    weight: FloatArray,
    group: IntArray,
    keys: dict[str, IntArray],
    sd: dict[str, float],
) -> tuple[FloatArray, FloatArray, IntArray]:
    """Absorb the random effects of one trial: information on its recipes, A m, and which."""
    recipes, own = np.unique(group, return_inverse=True)
    units, at = np.unique(np.stack([own, *keys.values()]), axis=1, return_inverse=True)
    at = at.ravel()
    w = np.bincount(at, weights=weight)
    m = np.bincount(at, weights=weight * y) / w
    v = np.diag(1.0 / w)
    for row, name in zip(units[1:], keys, strict=True):
        v += sd[name] ** 2 * (row[:, None] == row[None, :])
    x = np.zeros((w.size, recipes.size))
    x[np.arange(w.size), units[0]] = 1.0
    solved = np.linalg.solve(v, np.column_stack([x, m]))
    return x.T @ solved[:, :-1], x.T @ solved[:, -1], recipes


class _Between:
    """The posterior of the three variances between trials, and of the recipes given them."""

    def __init__(self, trials: _Trials, count: int, priors: Priors) -> None:
        self.t, self.count = trials, count
        self.priors: Sequence[Prior] = [priors[name] for name in _BETWEEN]
        self.workshops = int(trials.workshop.max()) + 1
        self.eye = np.eye(trials.there.shape[1])
        size = self.count + self.workshops
        rows = np.repeat(trials.recipe[:, :, None], trials.recipe.shape[1], 2)
        self.flat = (rows * size + rows.transpose(0, 2, 1)).ravel()

    def at(self, u: FloatArray) -> tuple[float, FloatArray, FloatArray]:
        """Return log posterior of u = log variances (up to a constant), estimates, covariance."""
        t, n, size = self.t, self.count, self.count + self.workshops
        tau = np.exp(u)
        own = t.there[:, :, None] * t.there[:, None, :]
        d = tau[0] * self.eye * own + tau[1] * own
        ad = t.information @ d
        m = np.linalg.inv(self.eye + ad)
        sign_log = np.linalg.slogdet(self.eye + ad)[1].sum()
        info = m @ t.information
        told = (m @ t.told[:, :, None])[:, :, 0]
        quad = float(np.einsum("ti,tij,tj->", t.told, d, told))
        big = np.bincount(self.flat, weights=info.ravel(), minlength=size * size)
        big = big[: size * size].reshape(size, size)
        right = np.zeros(size)
        np.add.at(right, t.recipe.ravel(), (told * t.there).ravel())
        line = info.sum(axis=2)
        for w in range(self.workshops):
            mine = t.workshop == w
            column = np.bincount(t.recipe[mine].ravel(), weights=line[mine].ravel(), minlength=n)
            big[:n, n + w] = big[n + w, :n] = column[:n]
            big[n + w, n + w] = line[mine].sum() + 1.0 / tau[2]
            right[n + w] = told[mine].sum()
        covariance = np.linalg.inv(big)
        found = covariance @ right
        value = 0.5 * (quad - sign_log - np.linalg.slogdet(big)[1] + float(right @ found))
        value -= 0.5 * self.workshops * u[2]
        for own_u, prior in zip(u, self.priors, strict=True):
            value -= 0.5 * prior.df * (own_u + prior.sd**2 * np.exp(-own_u))
        return float(value), found[:n], covariance[:n, :n]

    def integrate(self) -> tuple[Mixture, FloatArray, FloatArray]:
        """Integrate: the mixture, and standard deviations and df of the three."""
        from scipy.optimize import minimize

        start = np.array([2.0 * np.log(p.sd) for p in self.priors])
        best = minimize(
            lambda u: -self.at(u)[0],
            start,
            method="BFGS",
            options={"gtol": 0.05, "maxiter": 12, "eps": 1e-3},
        )
        root = np.linalg.cholesky(np.asarray(best.hess_inv, float) + 1e-6 * np.eye(3))
        z = np.vstack([np.zeros((1, 3)), low_discrepancy(POINTS, 3)])
        points = best.x + 1.2 * z @ root.T
        values, beta, shape = [], [], []
        for own, at in zip(points, z, strict=True):
            value, mean, covariance = self.at(own)
            values.append(value + 0.5 * float(at @ at))
            beta.append(mean + self.t.shift)
            shape.append(covariance)
        weight = np.exp(np.array(values) - max(values))
        weight /= weight.sum()
        middle = weight @ points
        variance = weight @ (points - middle) ** 2
        known = np.array([max(2.0 / max(v, 1e-9), 1.0) for v in variance])
        order = np.argsort(-weight)
        keep = order[weight[order] > 1e-4]
        mixture = Mixture(
            weight[keep] / weight[keep].sum(),
            np.exp(points[keep]),
            np.ones(keep.size),
            MANY_DF,
            np.array(beta)[keep],
            np.array(shape)[keep],
            known,
            len(points),
        )
        return mixture, np.exp(0.5 * middle), known
