"""From a trial's readings to what is said of every hardness class."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial

import numpy as np

from loam.core.judgement import TrialData
from loam.core.judging.footing import Footing, footing
from loam.core.judging.model import Model, check, fit_model
from loam.core.judging.result import ClassJudgement, Figures, Standing, TrialJudgement
from loam.core.matter import Matters, matters
from loam.core.prior import Priors
from loam.core.readings import BY_KEY
from loam.core.scale import Scale, scale_for, step_of
from loam.core.stats.pooling import draw_class, places
from loam.core.stats.prior import Prior
from loam.core.stats.reduce import FloatArray, IntArray
from loam.core.stats.robust import repeat_sd
from loam.core.verdicts import SURE

LIMIT_FACTOR = 2.8
MOST_PAIRED = 400
_COMMON = ("panel", "operator", "day")


def judge_readings(
    data: TrialData,
    *,
    delta: Matters | None = None,
    priors: Priors | None = None,
    repeat: float | None = None,
    seed: int = 1,
    fit: Callable[[TrialData, Scale, Priors | None], Model] = fit_model,
) -> TrialJudgement:
    """Judge one measurand of a trial.

    Parameters
    ----------
    data : TrialData
        Readings as measured.
    delta : Matters, optional
        What matters; the measurand's default otherwise.
    priors : mapping of str to Prior, optional
        What is assumed of the variances on the measurand's scale; stated defaults otherwise.
    repeat : float, optional
        Standard deviation of repeat readings from a gauge study; from the readings otherwise.
    seed : int
        Of the draws, at least 0.
    fit : callable
        What fits the readings: `fit_model`, or another for many trials as one.

    Raises
    ------
    NotEnough, ValueRefused
        When there is nothing to judge, or a reading cannot be one.
    """
    check(data)
    kind = BY_KEY.get(data.measurand)
    scale = scale_for(kind, data.y, data.scale) if kind else Scale("identity", -math.inf, math.inf)
    model = fit(data, scale, priors)
    chosen = delta or matters(kind)
    sd, df = model.spreads()
    cells = data.factors["cell"].codes if "cell" in data.factors else model.groups
    step = max(10.0**-kind.decimals, step_of(data.y)) if kind else 0.0
    repeated = repeat or repeat_sd(data.y, cells, step)
    repeated = repeated or (kind.repeatability if kind else model.mixture.residual_sd)
    sizes = np.bincount(cells)
    judge = _Classes(data, scale, model, cells, chosen.on_scale, seed)
    return TrialJudgement(
        data.measurand,
        data.higher_is_better,
        scale,
        chosen,
        LIMIT_FACTOR * repeated / float(np.sqrt(np.median(sizes[sizes > 0]))),
        repeated,
        sd,
        df,
        model.priors,
        model.assumed(),
        tuple(t.names for t in model.terms if len(t.names) > 1),
        model.baseline,
        tuple(judge.all()),
        int((sizes > 0).sum()),
        data.y.size,
        model.levels,
    )


@dataclass(frozen=True)
class _Classes:
    """Judges one class after the other from one fitted model."""

    data: TrialData
    scale: Scale
    model: Model
    cells: IntArray
    delta: float
    seed: int

    def all(self) -> list[ClassJudgement]:
        """Judge every class that has readings."""
        found = []
        for h in range(len(self.data.hardness.names)):
            at = {c: g for g, (hh, c) in enumerate(self.model.where) if hh == h}
            if at:
                found.append(self._one(h, at))
        return found

    def _one(self, h: int, at: Mapping[int, int]) -> ClassJudgement:
        data, sign = self.data, 1.0 if self.data.higher_is_better else -1.0
        names = [data.combination.names[c] for c in at]
        groups = np.fromiter(at.values(), dtype=np.intp)
        rng = np.random.default_rng([self.seed, h])
        drawn = draw_class(self.model.mixture, groups, rng)
        placed = places(sign * drawn.pooled)
        merit = sign * drawn.pooled.mean(axis=0)
        lead = foremost(sign * drawn.pooled, placed.p_best)
        order = [lead, *(int(i) for i in np.argsort(-merit, kind="stable") if i != lead)]
        plain = drawn.plain + self._common_shift(rng, drawn.plain)
        figures = figures_of(plain, drawn.pooled, self.scale)
        sizes = self._sizes(groups)
        standings = tuple(
            Standing(
                names[i], figures[i], float(placed.p_best[i]), float(placed.expected[i]),
                (int(placed.low[i]), int(placed.high[i])), "", *sizes[i],
            )
            for i in order
        )  # fmt: skip
        return ClassJudgement(
            data.hardness.names[h],
            standings,
            tuple(n for n in data.combination.names if n not in names),
            self._panels(h),
            self._apart(h, list(at), names),
            self.delta,
            sign,
            drawn.pooled,
            drawn.plain,
            {name: i for i, name in enumerate(names)},
            partial(_foot, data, self.model.spreads()[0], data.hardness.names[h]),
        ).decided(self.delta)

    def _panels(self, h: int) -> int:
        panels = self.data.factors.get("panel")
        if panels is None:
            return 0
        return int(np.count_nonzero(np.bincount(panels.codes[self.data.hardness.codes == h])))

    def _sizes(self, groups: IntArray) -> list[tuple[int, int]]:
        """Return cells and readings of each group."""
        span = int(self.cells.max()) + 1
        seen = np.zeros((int(self.model.groups.max()) + 1, span), dtype=bool)
        seen[self.model.groups, self.cells] = True
        cells = seen.sum(axis=1)
        readings = np.bincount(self.model.groups)
        return [(int(cells[g]), int(readings[g])) for g in groups]

    def _common_shift(self, rng: np.random.Generator, plain: FloatArray) -> FloatArray:
        """Draw what all combinations share and one panel, person or day cannot show (D, 1)."""
        half = plain.shape[0] // 2
        shift = np.zeros(half)
        for name in _COMMON:
            if self.model.levels.get(name, 0) < 2:
                shift += _drawn(self.model.priors[name], rng, half)
        return np.concatenate([shift, -shift])[:, None]

    def _apart(self, h: int, codes: list[int], names: list[str]) -> tuple[tuple[str, str], ...]:
        """Return the pairs whose panels nothing links."""
        panels = self.data.factors.get("panel")
        if panels is None or len(names) > MOST_PAIRED:
            return ()
        here = self.data.hardness.codes == h
        island = _islands(panels.codes[here], self.data.combination.codes[here])
        own = [island[c] for c in codes]
        return tuple(
            (names[i], names[j])
            for i in range(len(names))
            for j in range(i + 1, len(names))
            if own[i] != own[j]
        )


def _foot(data: TrialData, sd: Mapping[str, float], hardness: str) -> Footing | None:
    """Return by what further cells are weighed; many trials as one are not planned for."""
    return None if "trial" in data.factors else footing(data, sd, hardness)


def foremost(merit: FloatArray, p_best: FloatArray) -> int:
    """Return which combination leads: the largest chance to be best, then the best mean.

    Among twenty and more the largest chance can be so small that another is surely better than
    its holder; that one does not lead.

    Parameters
    ----------
    merit : (D, K)
        Draws, larger is better.
    p_best : (K,)
    """
    order = [int(i) for i in np.lexsort((merit.mean(axis=0), p_best))[::-1]]
    for i in order[: 1 if float(p_best.max()) > 1.0 - SURE else None]:
        ahead = (merit > merit[:, i : i + 1]).mean(axis=0)
        if float(ahead.max()) < SURE:
            return i
    return order[0]


def figures_of(plain: FloatArray, pooled: FloatArray, scale: Scale) -> list[Figures]:
    """Return the figures of combinations from draws on the scale.

    Parameters
    ----------
    plain : (D, K)
        Not pooled, with everything that they share.
    pooled : (D, K)
    """
    d, k = plain.shape
    mean = plain.mean(axis=0)
    own = plain
    if k > 1:
        own = (plain - plain.mean(axis=1, keepdims=True)) * math.sqrt(k / (k - 1.0))
    far, near = int(0.05 * d), int(0.25 * d)
    own = np.sort((own - own.mean(axis=0)).T.copy(), axis=1).T
    whole = np.sort(plain.T.copy(), axis=1).T
    shift = pooled.mean(axis=0) - (mean - mean.mean())
    on_scale = np.stack(
        [
            mean, whole[far], whole[-1 - far], mean + own[far], mean + own[-1 - far],
            mean + own[near], mean + own[-1 - near], mean + shift,
        ],
        axis=1,
    )  # fmt: skip
    moved = (np.abs(shift) > (own[-1 - far] - own[far]) / 3.0) & (k > 1)
    back = scale.back(on_scale)
    return [_figures(back[i].tolist(), moved=bool(moved[i])) for i in range(k)]


def _figures(f: list[float], *, moved: bool) -> Figures:
    return Figures(f[0], f[1], f[2], f[3], f[4], f[5], f[6], f[7], moved)


def _drawn(prior: Prior, rng: np.random.Generator, count: int) -> FloatArray:
    """Draw an effect from its prior (count,)."""
    sd = prior.sd * np.sqrt(prior.df / rng.chisquare(prior.df, count))
    return np.asarray(sd * rng.standard_normal(count), float)


def _islands(panel: IntArray, combination: IntArray) -> dict[int, int]:
    """Return, by combination, which group of panels it belongs to that share combinations."""
    seen = np.zeros((int(panel.max()) + 1, int(combination.max()) + 1))
    seen[panel, combination] = 1.0
    present = np.flatnonzero(seen.any(axis=0))
    linked = seen[:, present].T @ seen[:, present] > 0.0
    island = np.arange(present.size)
    while True:
        joined = np.where(linked, island, present.size).min(axis=1)
        if np.array_equal(joined, island):
            break
        island = joined
    return {int(c): int(i) for c, i in zip(present, island, strict=True)}
