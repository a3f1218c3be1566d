"""The plain REML ranking of every hardness class, for checking against other programs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from loam.core.errors import NotEnough, ValueRefused
from loam.core.stats.fit import Fit, fit_mixed
from loam.core.stats.freedom import Estimates, KenwardRoger, Satterthwaite, freedom
from loam.core.stats.ranking import (
    Pair,
    Ranks,
    best_group,
    compare,
    draw_means,
    rank_draws,
    verdict_between,
)
from loam.core.stats.reduce import FloatArray, IntArray, cross
from loam.core.trial_rows import Coded, TrialData

REPEATABILITY_FACTOR = 2.8
DEFAULT_RANDOM = ("cell", "panel", "operator")


@dataclass(frozen=True)
class Effect:
    """A combination on one hardness: adjusted mean at the mean baseline.

    ``low``/``high`` are the 90 % and ``low50``/``high50`` the 50 % interval of the
    combination's own part: the shift that all combinations of a hardness share (which panels
    were at hand) is left out, since it cancels in every comparison.
    """

    combination: str
    estimate: float
    se: float
    df: float
    own_se: float
    low: float
    high: float
    low50: float
    high50: float
    cells: int
    readings: int


@dataclass(frozen=True)
class Contrast:
    """Difference a minus b of two combinations, in the measurand's unit."""

    a: str
    b: str
    estimate: float
    se: float
    df: float
    df_method: str


@dataclass(frozen=True)
class HardnessResult:
    """What the readings say on one hardness class. Lists run in order of merit."""

    hardness: str
    effects: tuple[Effect, ...]
    contrasts: tuple[Contrast, ...]
    ranks: Ranks
    pairs: tuple[Pair, ...]
    best: tuple[str, ...]
    untested: tuple[str, ...]
    df: float
    panels: int

    def verdict(self, a: str, b: str) -> str:
        """Verdict between two combinations by name, seen from ``a``."""
        names = [e.combination for e in self.effects]
        return verdict_between(list(self.pairs), names.index(a), names.index(b))

    def contrast(self, a: str, b: str) -> Contrast:
        """Return the contrast a minus b, whichever way round it is kept."""
        for c in self.contrasts:
            if (c.a, c.b) == (a, b):
                return c
            if (c.a, c.b) == (b, a):
                return Contrast(a, b, -c.estimate, c.se, c.df, c.df_method)
        raise KeyError((a, b))


@dataclass(frozen=True)
class Judgement:
    """The whole result of one measurand.

    Attributes
    ----------
    fit : Fit
        The mixed model.
    results : tuple of HardnessResult
        One a hardness class, in the order of the data's classes.
    not_estimable : tuple of str
        ``hardness:combination`` pairs without a reading.
    delta : float
        Region of practical equivalence; ``delta_source`` says where it comes from.
    """

    measurand: str
    higher_is_better: bool
    fit: Fit
    results: tuple[HardnessResult, ...]
    not_estimable: tuple[str, ...]
    delta: float
    delta_source: str
    df_method: str
    random: tuple[str, ...] = field(default=DEFAULT_RANDOM)
    scale: str = ""


def _factor(data: TrialData, name: str) -> tuple[IntArray, tuple[str, ...]]:
    if ":" in name:
        left, right = name.split(":", 1)
        a, b = _column(data, left), _column(data, right)
        codes, k = cross(a.codes, b.codes)
        first = np.unique(codes, return_index=True)[1]
        names = tuple(f"{a.names[a.codes[i]]}:{b.names[b.codes[i]]}" for i in first)
        assert len(names) == k
        return codes, names
    column = _column(data, name)
    return column.codes, column.names


def _column(data: TrialData, name: str) -> Coded:
    if name in ("combination", "combo"):
        return data.combination
    try:
        return data.factors[name]
    except KeyError:
        raise NotEnough(
            f"The readings do not say which {name} they belong to.",
            todo=f"Add a column {name}, or leave {name} out of the random terms.",
        ) from None


def judge(
    data: TrialData,
    *,
    random: Sequence[str] = DEFAULT_RANDOM,
    delta: float | None = None,
    seed: int = 1,
) -> Judgement:
    """Fit the trial's model and rank the combinations within every hardness.

    Parameters
    ----------
    data : TrialData
    random : sequence of str
        Random factors; ``panel:combination`` crosses two. A cell is one even when its name
        repeats on another panel, if the caller coded it so.
    delta : float, optional
        Difference that does not matter; by default 2.8 times the standard deviation of repeat
        readings in this trial (the repeatability limit of ISO 5725).
    seed : int
        Seed of the draws.

    Raises
    ------
    NotEnough, ValueRefused
        When the readings cannot carry the model, or a difference is none.
    """
    groups, _ = cross(data.hardness.codes, data.combination.codes)
    first = np.unique(groups, return_index=True)[1]
    where = [(int(data.hardness.codes[i]), int(data.combination.codes[i])) for i in first]
    names = [f"{data.hardness.names[h]}:{data.combination.names[c]}" for h, c in where]
    factors = {name: _factor(data, name) for name in random}
    covariates = {"baseline": data.baseline} if data.baseline is not None else {}
    fit = fit_mixed(data.y, groups, names, factors, covariates)
    if delta is not None and not 0.0 <= delta < np.inf:
        raise ValueRefused(
            f"A difference of {delta:g} cannot be one that does not matter.",
            todo="Give a number of 0 or more.",
        )
    if delta is None:
        delta = REPEATABILITY_FACTOR * fit.residual_sd
        single = any(d.reason in ("same as the readings", "all alike") for d in fit.dropped)
        source = "scatter of cells" if single else "repeat readings"
        source += " of this trial"
    else:
        source = "set by hand"
    method = freedom(fit)
    ranker = _Ranker(
        data,
        fit,
        method,
        method if isinstance(method, Satterthwaite) else Satterthwaite(fit),
        _cells_by_group(data, groups, len(names)),
        np.bincount(groups, minlength=len(names)),
        delta,
    )
    results, missing = [], []
    for h, hardness in enumerate(data.hardness.names):
        at = {g: data.combination.names[c] for g, (hh, c) in enumerate(where) if hh == h}
        untested = tuple(n for n in data.combination.names if n not in at.values())
        missing += [f"{hardness}:{n}" for n in untested]
        if at:
            results.append(ranker.rank(h, at, untested, np.random.default_rng([seed, h])))
    return Judgement(
        data.measurand,
        data.higher_is_better,
        fit,
        tuple(results),
        tuple(missing),
        delta,
        source,
        method.method,
        tuple(random),
        data.scale,
    )


def _cells_by_group(data: TrialData, groups: IntArray, count: int) -> IntArray:
    if "cell" not in data.factors:
        return np.bincount(groups, minlength=count)
    pair, _ = cross(groups, data.factors["cell"].codes)
    first = np.unique(pair, return_index=True)[1]
    return np.bincount(groups[first], minlength=count)


def _panels(data: TrialData, h: int) -> int:
    if "panel" not in data.factors:
        return 0
    return int(np.unique(data.factors["panel"].codes[data.hardness.codes == h]).size)


@dataclass(frozen=True)
class _Ranker:
    """Ranks one hardness after the other from one fit."""

    data: TrialData
    fit: Fit
    method: Satterthwaite | KenwardRoger
    satterthwaite: Satterthwaite
    cells: IntArray
    readings: IntArray
    delta: float

    def rank(
        self, h: int, at: dict[int, str], untested: tuple[str, ...], rng: np.random.Generator
    ) -> HardnessResult:
        """Rank the fixed groups ``at`` (position to combination) of hardness ``h``."""
        sign = 1.0 if self.data.higher_is_better else -1.0
        order = sorted(at, key=lambda g: -sign * self.fit.beta[g])
        names = [at[g] for g in order]
        k = len(order)
        rows = np.zeros((k, self.fit.beta.size))
        rows[np.arange(k), order] = 1.0
        means = self.method.estimates(rows)
        contrasts, df = self._contrasts(rows, names)
        covariance = self.fit.covariance[np.ix_(order, order)]
        merit = sign * self.fit.beta[order]
        df = df if df is not None else float(means.df[0])
        pairs = compare(merit, covariance, df, self.delta)
        ranks = rank_draws(draw_means(merit, covariance, df, rng), self.delta)
        return HardnessResult(
            self.data.hardness.names[h],
            self._effects(order, names, means, covariance, df),
            contrasts,
            ranks,
            tuple(pairs),
            tuple(names[i] for i in best_group(merit, pairs)),
            untested,
            df,
            _panels(self.data, h),
        )

    def _contrasts(
        self, rows: FloatArray, names: list[str]
    ) -> tuple[tuple[Contrast, ...], float | None]:
        pair_at = [(i, j) for i in range(len(names)) for j in range(i + 1, len(names))]
        if not pair_at:
            return (), None
        difference = np.stack([rows[i] - rows[j] for i, j in pair_at])
        found = self.method.estimates(difference)
        kept = tuple(
            Contrast(names[i], names[j], float(v), float(se), float(df), found.method)
            for (i, j), v, se, df in zip(pair_at, found.value, found.se, found.df, strict=True)
        )
        return kept, float(np.median(self.satterthwaite.estimates(difference).df))

    def _effects(
        self,
        order: list[int],
        names: list[str],
        means: Estimates,
        covariance: FloatArray,
        df: float,
    ) -> tuple[Effect, ...]:
        from scipy.special import stdtrit

        own = _own_se(covariance)
        t90, t50 = float(stdtrit(df, 0.95)), float(stdtrit(df, 0.75))
        effects = []
        for i, g in enumerate(order):
            value, se = float(means.value[i]), float(own[i])
            effects.append(
                Effect(
                    names[i],
                    value,
                    float(means.se[i]),
                    float(means.df[i]),
                    se,
                    value - t90 * se,
                    value + t90 * se,
                    value - t50 * se,
                    value + t50 * se,
                    int(self.cells[g]),
                    int(self.readings[g]),
                )
            )
        return tuple(effects)


def _own_se(covariance: FloatArray) -> FloatArray:
    """Standard error of each combination's own part, without the shift that all share.

    The shared variance c is the mean of the off-diagonal covariances, so that the difference
    of two own parts has nearly the standard error of the contrast.
    """
    k = covariance.shape[0]
    diagonal = np.diag(covariance)
    if k < 2:
        return np.sqrt(diagonal)
    shared = float((covariance.sum() - diagonal.sum()) / (k * (k - 1)))
    return np.sqrt(np.maximum(diagonal - shared, 1e-12 * diagonal))
