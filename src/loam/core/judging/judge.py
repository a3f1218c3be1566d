"""From a trial's readings to what is said of every hardness class."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property, partial

import numpy as np

from loam.core.judging.further_cells import Footing, footing
from loam.core.judging.model import Model, check, fit_model
from loam.core.judging.rests import Rests
from loam.core.judging.result import ClassJudgement, Figures, Standing, TrialJudgement
from loam.core.matter import Matters, matters
from loam.core.prior import Priors
from loam.core.readings import BY_KEY
from loam.core.scale import Scale, scale_for, step_of
from loam.core.stats.pooling import Places, draw_class, places
from loam.core.stats.prior import Prior
from loam.core.stats.reduce import FloatArray, IntArray
from loam.core.stats.robust import repeat_sd
from loam.core.trial_rows import TrialData
from loam.core.verdicts import SURE

LIMIT_FACTOR = 2.8
MOST_PAIRED = 400
_COMMON = ("panel", "operator", "day")
"""Of one level only they still differ elsewhere; one reader is the meter that this trial has."""


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
        model.starts,
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

    @cached_property
    def rests(self) -> Rests:
        """What pairs of all groups rest on."""
        return self.model.rests

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
        pooled, placed, lead = led(drawn.pooled, sign)
        merit = sign * pooled.mean(axis=0)
        order = [lead, *(int(i) for i in np.argsort(-merit, kind="stable") if i != lead)]
        plain = drawn.plain + self._common_shift(rng, drawn.plain)
        figures = figures_of(plain, pooled, self.scale, lead)
        sizes = self._sizes(groups)
        standings = tuple(
            Standing(
                names[i],
                figures[i],
                float(placed.p_best[i]),
                float(placed.expected[i]),
                (int(placed.low[i]), int(placed.high[i])),
                "",
                *sizes[i],
            )
            for i in order
        )
        return ClassJudgement(
            data.hardness.names[h],
            standings,
            tuple(n for n in data.combination.names if n not in names),
            self._panels(h),
            self._apart(h, list(at), names),
            self.delta,
            sign,
            pooled,
            drawn.plain,
            {name: i for i, name in enumerate(names)},
            self._rests(groups),
            data.looked,
            partial(_foot, data, self.model.spreads()[0], data.hardness.names[h]),
        ).decided(self.delta)

    def _rests(self, groups: IntArray) -> Rests:
        whole = self.rests
        if not whole.terms:
            return whole
        return Rests(whole.terms, whole.share[:, groups][:, :, groups])

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


def led(pooled: FloatArray, sign: float) -> tuple[FloatArray, Places, int]:
    """Return draws in which none lies ahead of the leader on average, their ranks, the leader.

    Who has the largest chance to be best may have another's mean a little ahead, by the luck of
    the draws or because it is known less well. Both then count as level: the means are drawn
    together (isotonic, weighed by how well each is known), so that no picture shows another in
    front.

    Parameters
    ----------
    pooled : (D, K)
    sign : float
        1 where more is better, else -1.
    """
    for _ in range(4):
        merit = sign * pooled
        placed = places(merit)
        lead = foremost(merit, placed.p_best)
        mean = merit.mean(axis=0)
        ahead = np.flatnonzero(mean > mean[lead])
        if not ahead.size:
            break
        weight = 1.0 / np.maximum(merit.var(axis=0), 1e-300)
        total, level = weight[lead], mean[lead]
        block = [lead]
        for i in ahead[np.argsort(-mean[ahead])]:
            if mean[i] <= level:
                break
            level = (total * level + weight[i] * mean[i]) / (total + weight[i])
            total += weight[i]
            block.append(int(i))
        pooled = pooled.copy()
        pooled[:, block] += sign * (level - mean[block])
        tip = 1e-12 * max(float(np.abs(mean).max()), 1.0)
        pooled[:, lead] += sign * tip  # rounding must not put another ahead
    return pooled, placed, lead


def figures_of(
    plain: FloatArray, pooled: FloatArray, scale: Scale, lead: int | None = None
) -> list[Figures]:
    """Return the figures of combinations from draws on the scale.

    Parameters
    ----------
    plain : (D, K)
        Not pooled, with everything that they share.
    pooled : (D, K)
        Partially pooled, what they share left out.
    lead : int, optional
        The leader: a bar that is not settled against it touches its bar.
    """
    d, k = plain.shape
    shared = plain.mean(axis=1, keepdims=True)
    pooled = pooled - pooled.mean(axis=1, keepdims=True)
    mean = pooled.mean(axis=0) + shared.mean()
    own = pooled * math.sqrt(k / (k - 1.0)) if k > 1 else plain
    far, near = int(0.05 * d), int(0.25 * d)
    own = np.sort((own - own.mean(axis=0)).T.copy(), axis=1).T
    whole = np.sort((pooled + shared).T.copy(), axis=1).T
    bars = np.stack([mean + own[far], mean + own[-1 - far]])
    if lead is not None:
        _touch(bars, pooled, lead)
    on_scale = np.stack(
        [
            mean,
            whole[far],
            whole[-1 - far],
            *bars,
            mean + own[near],
            mean + own[-1 - near],
            plain.mean(axis=0),
        ],
        axis=1,
    )
    moved = (np.abs(plain.mean(axis=0) - mean) > (bars[1] - bars[0]) / 3.0) & (k > 1)
    back = scale.back(on_scale)
    return [_figures(back[i].tolist(), moved=bool(moved[i])) for i in range(k)]


def _touch(bars: FloatArray, pooled: FloatArray, lead: int) -> None:
    """Make the bars (2, K) of what is not settled against the leader touch its bar, in place."""
    ahead = (pooled[:, lead : lead + 1] > pooled).mean(axis=0)
    open_ = (ahead < SURE) & (ahead > 1.0 - SURE)
    open_[lead] = False
    for i in np.flatnonzero(open_ & ((bars[0] > bars[1, lead]) | (bars[1] < bars[0, lead]))):
        low, high = (i, lead) if bars[1, i] < bars[0, lead] else (lead, i)
        if bars[1, low] < bars[0, high]:
            bars[1, low] = bars[0, high] = 0.5 * (bars[1, low] + bars[0, high])


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
