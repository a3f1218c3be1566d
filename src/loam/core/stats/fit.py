"""A fitted mixed model: estimates, covariance, variances, degrees of freedom."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from loam.core.errors import NotEnough
from loam.core.stats.likelihood import MORE_READINGS, Likelihood, Point, few_readings
from loam.core.stats.optimise import minimise
from loam.core.stats.reduce import FloatArray, IntArray, compact, reduce_to_units

ZERO_RATIO = 1e-9


@dataclass(frozen=True)
class Dropped:
    """A term left out because the layout cannot estimate it.

    Attributes
    ----------
    term : str
        Name of the random factor or covariate.
    reason : str
        One of ``one level``, ``same as <name>``, ``same as the readings``, ``same as the
        combinations``, ``no spread``, ``all alike``.
    """

    term: str
    reason: str


@dataclass(frozen=True)
class Fit:
    """A mixed model fitted by REML.

    Attributes
    ----------
    groups : tuple of str
        Names of the fixed groups, in the order of ``beta``.
    covariates : tuple of str
        Names of the slopes, after the groups in ``beta``; every one centred at its mean.
    beta : (p,)
        Adjusted group means (at the mean of the covariates), then slopes.
    covariance : (p, p)
        Covariance of ``beta`` at the estimated variances.
    factors : tuple of str
        Random factors in the model.
    variances : dict
        Variance of every factor asked for and estimable, and ``residual``.
    zero : tuple of str
        Factors whose variance is estimated as exactly zero (a singular fit).
    dropped : tuple of Dropped
        Terms that the layout cannot estimate.
    criterion : float
        REML criterion at the optimum.
    n, n_units : int
        Readings, and units after exact reduction.
    levels : dict
        Levels of every random factor.
    """

    groups: tuple[str, ...]
    covariates: tuple[str, ...]
    covariate_means: tuple[float, ...]
    beta: FloatArray
    covariance: FloatArray
    factors: tuple[str, ...]
    variances: Mapping[str, float]
    zero: tuple[str, ...]
    dropped: tuple[Dropped, ...]
    criterion: float
    n: int
    n_units: int
    levels: Mapping[str, int]
    converged: bool
    likelihood: Likelihood = field(repr=False)
    point: Point = field(repr=False)
    labels: Mapping[str, tuple[IntArray, Sequence[str]]] = field(repr=False, default_factory=dict)

    @property
    def singular(self) -> bool:
        """Whether a variance is estimated as zero."""
        return bool(self.zero)

    @property
    def residual_sd(self) -> float:
        """Repeatability: standard deviation of repeat readings in one cell."""
        return float(np.sqrt(self.variances["residual"]))

    def predictions(self, factor: str) -> tuple[tuple[str, ...], FloatArray, FloatArray]:
        """Return level names, predicted effects and conditional SD of a random factor."""
        j = self.factors.index(factor)
        values, sd = self.likelihood.predictions(self.point, j)
        codes, names = self.labels[factor]
        return tuple(names[i] for i in np.unique(codes)), values, sd


class _FixedSpace:
    """The space of group means and slopes, to ask what lies outside it."""

    def __init__(self, groups: IntArray, count: FloatArray) -> None:
        self._groups, self._count = groups, count
        self._total = np.bincount(groups, weights=count)
        self._slopes: list[FloatArray] = []

    def outside(self, column: FloatArray) -> FloatArray:
        """Return the part of a column that no group mean or slope explains (weighted)."""
        mean = np.bincount(self._groups, weights=self._count * column) / self._total
        rest = np.sqrt(self._count) * (column - mean[self._groups])
        for slope in self._slopes:
            rest = rest - slope * float(slope @ rest)
        return rest

    def add_slope(self, rest: FloatArray) -> None:
        """Take a slope's outside part into the space."""
        self._slopes.append(rest / float(np.sqrt(rest @ rest)))

    def size(self, column: FloatArray) -> float:
        """Return the weighted length of a column."""
        return float(np.sqrt((self._count * column**2).sum()))


def _screen_factors(
    factors: Mapping[str, IntArray], space: _FixedSpace, n_rows: int
) -> tuple[dict[str, IntArray], list[Dropped]]:
    """Leave out factors that the layout cannot tell from something else."""
    kept: dict[str, IntArray] = {}
    dropped: list[Dropped] = []
    probe = np.random.default_rng(20)
    for name, raw in factors.items():
        codes, k = compact(raw)
        if k < 2:
            dropped.append(Dropped(name, "one level"))
            continue
        if k == n_rows:
            dropped.append(Dropped(name, "same as the readings"))
            continue
        twin = next((o for o, c in kept.items() if _same_partition(codes, k, c)), None)
        if twin is not None:
            dropped.append(Dropped(name, f"same as {twin}"))
            continue
        column = probe.standard_normal(k)[codes]
        rest = space.outside(column)
        if float(np.sqrt(rest @ rest)) < 1e-8 * space.size(column):
            dropped.append(Dropped(name, "same as the combinations"))
            continue
        kept[name] = codes
    return kept, dropped


def _screen_covariates(
    names: Sequence[str], columns: FloatArray, space: _FixedSpace
) -> tuple[list[int], list[Dropped]]:
    kept: list[int] = []
    dropped: list[Dropped] = []
    for i, name in enumerate(names):
        size = space.size(columns[:, i])
        rest = space.outside(columns[:, i])
        if size == 0.0 or float(np.sqrt(rest @ rest)) < 1e-7 * max(size, 1e-12):
            dropped.append(
                Dropped(name, "no spread" if size < 1e-9 else "same as the combinations")
            )
            continue
        space.add_slope(rest)
        kept.append(i)
    return kept, dropped


def _need_scatter(likelihood: Likelihood, gamma: FloatArray, spread: float) -> None:
    if likelihood.at(gamma).r2 <= 1e-11 * spread:
        raise NotEnough(
            "The readings leave no scatter to judge by.",
            todo="Take repeat readings of a cell, or a second cell of a combination.",
        )


def _same_partition(a: IntArray, k: int, b: IntArray) -> bool:
    if int(b.max()) + 1 != k:
        return False
    image = np.full(k, -1, dtype=np.intp)
    image[a] = b
    return bool(np.array_equal(image[a], b)) and np.unique(image).size == k


def fit_mixed(
    y: FloatArray,
    groups: IntArray,
    group_names: Sequence[str],
    factors: Mapping[str, tuple[IntArray, Sequence[str]]],
    covariates: Mapping[str, FloatArray] | None = None,
) -> Fit:
    """Fit y = group mean + slopes + random intercepts + error by REML.

    Parameters
    ----------
    y : (n,) float
        Readings, in the unit of the measurand.
    groups : (n,) int
        Fixed group of each reading (combination within hardness), coded 0..g-1.
    group_names : sequence of str
        Their names.
    factors : mapping
        Random factor name to its (n,) codes and level names; the finest first is fastest.
    covariates : mapping, optional
        Covariate name to its (n,) values; centred here.

    Raises
    ------
    NotEnough
        When nothing is left to judge by: no more readings than averages, or no spread at all.

    Notes
    -----
    REML by exact reduction to units, closed-form absorption of nested factors and a projected
    Newton search; see ``likelihood`` and ``optimise``. Agreement with lme4 is tested.
    """
    covariates = covariates or {}
    if y.size == 0:
        raise NotEnough("There are no readings to judge.", todo="Read some cells first.")
    means = {name: float(column.mean()) for name, column in covariates.items()}
    centred = {name: column - means[name] for name, column in covariates.items()}
    codings = [codes for codes, _ in factors.values()]
    units = reduce_to_units(y, [*codings, groups], list(centred.values()))
    spread = units.within_ss + float(units.count @ units.mean**2)
    if spread <= 1e-24 * max(1.0, units.shift**2) * y.size:
        raise NotEnough(
            "All readings are the same, so their scatter is unknown.",
            todo="Check the meter; read with a finer step.",
        )
    alike = units.within_ss <= 1e-18 * spread and units.count.size < y.size
    if alike:
        units = replace(units, count=np.ones_like(units.count), within_ss=0.0)
    unit_groups = groups[units.first]
    wide = (
        np.column_stack([c[units.first] for c in centred.values()])
        if centred
        else np.zeros((units.count.size, 0))
    )
    space = _FixedSpace(unit_groups, units.count)
    keep, dropped = _screen_covariates(list(centred), wide, space)
    wide = wide[:, keep]
    names = tuple(name for i, name in enumerate(centred) if i in keep)
    on_units = {name: codes[units.first] for name, (codes, _) in factors.items()}
    rows = int(units.count.sum())
    kept, more = _screen_factors(on_units, space, rows)
    likelihood = Likelihood(units, unit_groups, wide, list(kept.values()))
    if likelihood.n <= likelihood.p:
        raise NotEnough(few_readings(likelihood.n, likelihood.p), todo=MORE_READINGS)
    if alike:
        more.append(Dropped("reading", "all alike"))
    _need_scatter(likelihood, np.ones(likelihood.k), spread)
    optimum = minimise(likelihood)
    point = optimum.point
    s2 = likelihood.sigma2(point)
    beta, inverse = likelihood.fixed(point)
    beta = beta.copy()
    beta[: len(group_names)] += units.shift
    gamma = dict(zip(kept, point.gamma, strict=True))
    return Fit(
        groups=tuple(group_names),
        covariates=names,
        covariate_means=tuple(means[name] for name in names),
        beta=beta,
        covariance=s2 * inverse,
        factors=tuple(kept),
        variances={**{name: s2 * float(g) for name, g in gamma.items()}, "residual": s2},
        zero=tuple(name for name, g in gamma.items() if g <= ZERO_RATIO),
        dropped=(*dropped, *more),
        criterion=point.criterion,
        n=y.size,
        n_units=units.count.size,
        levels={name: likelihood.levels[i] for i, name in enumerate(kept)},
        converged=optimum.converged,
        likelihood=likelihood,
        point=point,
        labels={name: factors[name] for name in kept},
    )
