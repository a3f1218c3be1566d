"""The model behind a judgement: its random terms, its covariate, and what rests on assumption."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from loam.core.errors import NotEnough, ValueRefused
from loam.core.judging.rests import Rests, own_df, rests_on
from loam.core.judging.starts import HARDLY_KNOWN, SLOPE_SD, Levelled, Starts, levelled
from loam.core.prior import MORE_TERMS, READER, RESIDUAL, TERMS, Priors, default_priors
from loam.core.readings import BY_KEY
from loam.core.scale import Scale
from loam.core.stats.dense import information
from loam.core.stats.likelihood import Likelihood
from loam.core.stats.posterior import FEW_POINTS, POINTS, Mixture, integrate
from loam.core.stats.prior import Prior, summed
from loam.core.stats.reduce import (
    FloatArray,
    IntArray,
    Units,
    compact,
    cross,
    first_rows,
    reduce_to_units,
)
from loam.core.trial_rows import TrialData

MOST_VALUE = 1e15
_CARRIED = 0.02
"""A term that makes up less than this share of every contrast's variance is not worth a word."""
_MANY = 40
_DEAR = 40_000


@dataclass(frozen=True)
class Term:
    """A random term of the model, perhaps several that the layout cannot tell apart."""

    names: tuple[str, ...]
    codes: IntArray
    prior: Prior
    levels: int


@dataclass(frozen=True)
class Model:
    """A trial's readings on their scale, fitted.

    Attributes
    ----------
    groups : (n,) int
        Combination within hardness of each reading.
    where : list of (int, int)
        Hardness and combination of each group.
    terms : list of Term
        Random terms with two levels or more.
    levels : dict
        Levels of every random term that the readings name.
    starts : Starts
        What became of the readings before work.
    """

    groups: IntArray
    where: list[tuple[int, int]]
    terms: list[Term]
    levels: dict[str, int]
    priors: Priors
    starts: Starts
    likelihood: Likelihood
    mixture: Mixture

    @property
    def rests(self) -> Rests:
        """What differences of the groups rest on that this trial hardly knows."""
        unknown = self.starts.used and self.starts.slope_sd > HARDLY_KNOWN
        usual = np.exp(self.mixture.weight @ np.log(self.mixture.gamma))
        blocks = [not {"operator", READER, "day"} & set(t.names) for t in self.terms]
        return rests_on(
            self.likelihood,
            self.mixture,
            [t.names for t in self.terms],
            own_df(self.likelihood, usual, blocks),
            len(self.where),
            len(self.where) if unknown else None,
        )

    def spreads(self) -> tuple[dict[str, float], dict[str, float]]:
        """Return standard deviation and df by term; what cannot be told apart is shared out."""
        found = self.mixture.sd()
        named = (*TERMS, *(t for t in (READER, *MORE_TERMS) if t in self.levels))
        sd = {name: self.priors[name].sd for name in named}
        df = {name: self.priors[name].df for name in named}
        for i, term in enumerate(self.terms):
            total = sum(self.priors[n].sd ** 2 for n in term.names)
            for n in term.names:
                sd[n] = float(found[i]) * self.priors[n].sd / float(np.sqrt(total))
                df[n] = float(self.mixture.information[i])
        sd[RESIDUAL], df[RESIDUAL] = self.mixture.residual_sd, self.mixture.df
        return sd, df

    def assumed(self) -> tuple[str, ...]:
        """Return the terms that carry a comparison and rest mostly on what was assumed."""
        known = np.maximum(self.mixture.information, 1e-9)
        doubtful = [j for j, t in enumerate(self.terms) if t.prior.df >= 0.5 * known[j]]
        pairs = _pairs(self.where)
        if not (pairs and doubtful):
            return ()
        best = int(self.mixture.weight.argmax())
        gamma, inverse = self.mixture.gamma[best], self.mixture.shape[best]
        rows = np.zeros((len(pairs), inverse.shape[0]))
        for i, (a, b) in enumerate(pairs):
            rows[i, a], rows[i, b] = 1.0, -1.0
        total = ((rows @ inverse) * rows).sum(axis=1)
        said: list[str] = []
        for j, known_by in zip(
            doubtful, information(self.likelihood, gamma, doubtful), strict=True
        ):
            part = inverse @ known_by @ inverse
            share = gamma[j] * ((rows @ part) * rows).sum(axis=1)
            if float((share / total).max()) >= _CARRIED:
                said += self.terms[j].names
        return tuple(said)


def check(data: TrialData) -> None:
    """Refuse what cannot be judged.

    Raises
    ------
    NotEnough, ValueRefused
    """
    if data.y.size == 0:
        raise NotEnough("There are no readings to judge.", todo="Read some cells first.")
    kind = BY_KEY.get(data.measurand)
    low, high = (kind.low, kind.high) if kind else (-MOST_VALUE, MOST_VALUE)
    columns = [data.y]
    if data.baseline is not None:
        columns.append(data.baseline[~np.isnan(data.baseline)])
    for column in columns:
        wrong = ~((column >= low) & (column <= high))  # a NaN is wrong too
        if wrong.any():
            raise ValueRefused(
                f"{kind.label if kind else data.measurand} of {column[wrong][0]:g} cannot be"
                f" judged: it lies between {low:g} and {high:g}.",
                todo="Strike or mend that reading.",
            )


def fit_model(
    data: TrialData,
    scale: Scale,
    priors: Priors | None,
    extra: FloatArray | None = None,
    points: int | None = None,
) -> Model:
    """Fit a trial's readings on their scale, the variances integrated over.

    Parameters
    ----------
    extra : (n,), optional
        One covariate more; its slope is the last of the fixed effects.
    points : int, optional
        How many points of the variances; what the trial's size asks for otherwise.

    Raises
    ------
    NotEnough
        When there are fewer readings than averages, or ``extra`` cannot be told from them.
    """
    y = scale.to(data.y)
    groups, count = cross(data.hardness.codes, data.combination.codes)
    first = first_rows(groups, count)
    where = [(int(data.hardness.codes[i]), int(data.combination.codes[i])) for i in first]
    assumed = priors or default_priors(BY_KEY.get(data.measurand), _scatter(y, groups, count))
    terms, levels = _terms(data, assumed)
    if extra is not None and not _is_free(extra, groups, count):
        raise NotEnough("It changes with the combinations only, and cannot be told from them.")
    level = levelled(data, scale, groups, assumed["cell"].sd)
    covariates = [c for c in (level.x, extra) if c is not None]
    units = reduce_to_units(y, [*(t.codes for t in terms), groups], covariates)
    wide = np.zeros((units.count.size, 0))
    if covariates:
        wide = np.stack([c[units.first] for c in covariates], axis=1)
    own = [t.codes[units.first] for t in terms]
    held = np.zeros(len(covariates))
    if level.x is not None:
        held[0] = _weight(units, assumed[RESIDUAL])
    likelihood = Likelihood(units, groups[units.first], wide, own, held)
    # an evaluation over many cells is dear, and such a trial knows its variances well
    dear = units.count.size * (likelihood.p + likelihood.c) > _DEAR
    points = points or (FEW_POINTS if dear else POINTS)
    try:
        mixture = integrate(likelihood, [t.prior for t in terms], assumed[RESIDUAL], points)
    except np.linalg.LinAlgError as error:
        raise NotEnough(
            "What is asked of these readings cannot be told apart in them.",
            todo="Read more cells, in other places or by other people.",
        ) from error
    mixture.beta[:, :count] += units.shift
    starts = _with_slope(level, mixture, count)
    return Model(groups, where, terms, levels, assumed, starts, likelihood, mixture)


def _is_free(x: FloatArray, groups: IntArray, count: int) -> bool:
    """Tell whether a covariate (n,) varies within the combinations."""
    size = np.maximum(np.bincount(groups, minlength=count), 1)
    rest = x - (np.bincount(groups, weights=x, minlength=count) / size)[groups]
    around = x - x.mean()
    return float(rest @ rest) > 1e-9 * float(around @ around) > 0.0


def _weight(units: Units, prior: Prior) -> float:
    """Return the weight of the row that says what a start's slope is beforehand.

    In units of the variance of a reading, as the repeats of the units and its prior know it.
    """
    free = float(units.count.sum()) - units.count.size
    variance = (prior.df * prior.sd**2 + units.within_ss) / (prior.df + free)
    return variance / SLOPE_SD**2


def _with_slope(level: Levelled, mixture: Mixture, at: int) -> Starts:
    if level.x is None:
        return level.starts
    slope = float(mixture.weight @ mixture.beta[:, at])
    variance = mixture.shape[:, at, at] * mixture.sigma2 + (mixture.beta[:, at] - slope) ** 2
    return replace(level.starts, slope=slope, slope_sd=float(np.sqrt(mixture.weight @ variance)))


def _scatter(y: FloatArray, groups: IntArray, count: int) -> float:
    """Scatter within the combinations, for a measurand without stated assumptions."""
    size = np.maximum(np.bincount(groups, minlength=count), 1)
    mean = np.bincount(groups, weights=y, minlength=count) / size
    rest = y - mean[groups]
    floor = max(1e-13 * float(np.abs(y).max()), 1e-150)
    return max(float(np.sqrt((rest**2).mean())), floor)


def _terms(data: TrialData, priors: Priors) -> tuple[list[Term], dict[str, int]]:
    """Return the random terms, those with the same levels as one, and the levels of all."""
    found: list[Term] = []
    levels: dict[str, int] = {}
    for name in (*TERMS, *(t for t in (READER, *MORE_TERMS) if t in priors)):
        coded = _coded(data, name)
        if coded is None:
            continue
        codes, levels[name] = coded
        if levels[name] < 2:
            continue
        twin = next((i for i, t in enumerate(found) if _same(t, codes, levels[name])), None)
        if twin is None:
            found.append(Term((name,), codes, priors[name], levels[name]))
        else:
            names = (*found[twin].names, name)
            both = summed([priors[n] for n in names])
            found[twin] = Term(names, found[twin].codes, both, levels[name])
    return found, levels


def _coded(data: TrialData, name: str) -> tuple[IntArray, int] | None:
    if name == "panel:combination":
        panel = data.factors.get("panel")
        return cross(panel.codes, data.combination.codes) if panel is not None else None
    column = data.factors.get(name)
    if column is None:
        return None
    return compact(column.codes)


def _same(term: Term, codes: IntArray, count: int) -> bool:
    return term.levels == count and cross(term.codes, codes)[1] == count


def _pairs(where: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """Return pairs of groups of one class; of very many combinations the neighbours."""
    by_class: dict[int, list[int]] = {}
    for g, (h, _) in enumerate(where):
        by_class.setdefault(h, []).append(g)
    pairs: list[tuple[int, int]] = []
    for own in by_class.values():
        many = len(own) > _MANY
        pairs += itertools.pairwise(own) if many else itertools.combinations(own, 2)
    return pairs
