"""What a judgement holds. Figures are as measured unless they are said to be on the scale."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from loam.core.film.build import CLEAR, PAINT
from loam.core.judging.further_cells import Footing, cells_needed
from loam.core.judging.rests import Rests
from loam.core.judging.starts import Starts
from loam.core.matter import Matters
from loam.core.prior import Priors, learnt
from loam.core.readings import ReadingKind, kind_of
from loam.core.readings.film import called
from loam.core.scale import Scale
from loam.core.stats.prior import Prior
from loam.core.stats.reduce import FloatArray
from loam.core.verdicts import (
    ASSUMED,
    BETTER,
    OPEN,
    Comparison,
    bayes_factor,
    capped,
    chances,
    compare_draws,
)

MANY_CELLS = 1_000_000


@dataclass(frozen=True)
class Figures:
    """The figures of a combination, as measured.

    Attributes
    ----------
    estimate : float
        Adjusted mean, partially pooled: where it is drawn, compared and told.
    low, high : float
        Its 90 % interval with everything in it: the panels, people and days that were at hand.
    own_low, own_high, own_low50, own_high50 : float
        90 and 50 % interval of its own part, for comparing within the class only.
    plain : float
        Adjusted mean from its own readings alone, not pooled.
    moved : bool
        Whether that lies more than a third of its own interval away.
    """

    estimate: float
    low: float
    high: float
    own_low: float
    own_high: float
    own_low50: float
    own_high50: float
    plain: float
    moved: bool


@dataclass(frozen=True)
class Standing:
    """A combination in its class.

    Attributes
    ----------
    p_best : float
        Chance to be the best of its class.
    rank : (int, int)
        90 % interval of its rank.
    relation : str
        The leader's verdict on it: ``equal``, ``clearly better`` (the leader is), ``better``,
        ``open``; "" for the leader itself.
    rests : tuple of str
        What the leader's lead rests on that this trial hardly knows; () where it carries it.
    """

    combination: str
    figures: Figures
    p_best: float
    expected_rank: float
    rank: tuple[int, int]
    relation: str
    cells: int
    readings: int
    rests: tuple[str, ...] = ()

    @property
    def look(self) -> str:
        """How the relation is drawn and named: a lead that rests on what is assumed by itself."""
        return ASSUMED if self.rests and self.relation == BETTER else self.relation


def _nothing() -> Footing | None:
    return None


@dataclass(frozen=True)
class ClassJudgement:
    """What is said of one hardness class.

    Attributes
    ----------
    standings : tuple of Standing
        The leader (largest chance to be best) first, then in order of merit.
    apart : tuple of (str, str)
        Pairs whose panels nothing links: they rest on how panels vary.
    delta : float
        What matters, on the scale.
    draws : (D, K)
        Pooled draws on the scale, of which only differences mean anything.
    plain : (D, K)
        Draws from the data and the priors of the variances alone, not pooled.
    columns : mapping of str to int
        Their columns by combination.
    rests : Rests
        What pairs rest on that the trial hardly knows, by column of the draws.
    looked : bool
        Whether cells were added after a look at the result.
    foot : callable
        Returns by what further cells are weighed; None in a class too large for that.
    coat : str
        What is worked: clear, or paint where a panel has no clear.
    """

    hardness: str
    standings: tuple[Standing, ...]
    untested: tuple[str, ...]
    panels: int
    apart: tuple[tuple[str, str], ...]
    delta: float = field(repr=False)
    sign: float = field(repr=False)
    draws: FloatArray = field(repr=False, compare=False)
    plain: FloatArray = field(repr=False, compare=False)
    columns: Mapping[str, int] = field(repr=False)
    rests: Rests = field(default_factory=Rests, repr=False, compare=False)
    looked: bool = False
    foot: Callable[[], Footing | None] = field(default=_nothing, repr=False, compare=False)
    coat: str = CLEAR

    @property
    def ground(self) -> str:
        """The class in words: soft clear; soft paint where a panel has no clear."""
        return f"{self.hardness} {self.coat}"

    def decided(self, delta: float) -> ClassJudgement:
        """Return the class with the leader's verdicts for another difference that matters.

        Chances and ranks stay: they do not rest on what matters.
        """
        found = replace(self, delta=delta)
        lead = self.columns[self.leader.combination]
        standings = [self.standings[0]]
        for s in self.standings[1:]:
            at = self.columns[s.combination]
            d = self.draws[:, lead] - self.draws[:, at]
            verdict, rests = found._capped(lead, at, chances(d, delta, self.sign)[3])
            standings.append(replace(s, relation=verdict, rests=rests))
        return replace(found, standings=tuple(standings))

    def _capped(self, a: int, b: int, verdict: str) -> tuple[str, tuple[str, ...]]:
        """Return the verdict on two columns by what it rests on, and on what it rests."""
        rests = self.rests.on(a, b)
        bayes = None
        if self.looked:
            d = self.plain[:, a] - self.plain[:, b]
            bayes = bayes_factor(float(d.mean()), float(d.std()), self.delta)
        return capped(verdict, rests, bayes), rests

    @cached_property
    def cells_to_settle(self) -> int | None:
        """About how many cells more of each of the two foremost settle them four times in five.

        None when they are settled or there is no second. Worked out when it is asked for.
        """
        pair = self.open_pair
        return self.cells_for(pair[1]) if pair is not None else None

    @property
    def open_pair(self) -> tuple[str, str] | None:
        """The leader and the one nearest to it that is not settled; None when all is."""
        lead = self.columns[self.leader.combination]
        still = [s.combination for s in self.standings[1:] if s.relation == OPEN]
        if not still:
            return None
        d = {c: self.draws[:, lead] - self.draws[:, self.columns[c]] for c in still}
        near = min(still, key=lambda c: abs(float(d[c].mean())) / max(float(d[c].std()), 1e-12))
        return self.leader.combination, near

    @cached_property
    def expected_loss(self) -> float:
        """What taking the leader now may lose: E max(0, best of the others - leader), on the scale.

        Worked out in the pooled draws.
        """
        merit = self.sign * self.draws
        if merit.shape[1] < 2:
            return 0.0
        lead = merit[:, self.columns[self.leader.combination]]
        return float(np.maximum(merit.max(axis=1) - lead, 0.0).mean())

    def cells_for(self, other: str) -> int:
        """Return how many cells more of the leader and another settle them four times in five.

        The one answer to that question: `MANY_CELLS` where 24 do not.
        """
        pair = (self.leader.combination, other)
        d = self.draws[:, self.columns[pair[0]]] - self.draws[:, self.columns[pair[1]]]
        own = {s.combination: s.cells for s in self.standings}
        cells = (own[pair[0]], own[pair[1]])
        return cells_needed(self.foot(), pair, cells, d, self.delta, self.sign) or MANY_CELLS

    @property
    def leader(self) -> Standing:
        """The combination with the largest chance to be best."""
        return self.standings[0]

    @property
    def names(self) -> tuple[str, ...]:
        """Combinations from the leader down."""
        return tuple(s.combination for s in self.standings)

    def standing(self, combination: str) -> Standing | None:
        """Return how a combination stands here; None when it was not tested."""
        return next((s for s in self.standings if s.combination == combination), None)

    def behind(self) -> tuple[float, ...]:
        """Return how far the others lie behind the leader, on the scale, nearest first."""
        middle = self.draws.mean(axis=0)
        lead = float(middle[self.columns[self.leader.combination]])
        rest = self.standings[1:]
        return tuple(sorted(abs(lead - float(middle[self.columns[s.combination]])) for s in rest))

    def compare(self, a: str, b: str) -> Comparison:
        """Compare two combinations of the class.

        Raises
        ------
        KeyError
            When one was not tested here.
        """
        at, to = self.columns[a], self.columns[b]
        found = compare_draws(a, b, self.draws[:, at] - self.draws[:, to], self.delta, self.sign)
        verdict, rests = self._capped(at, to, found.verdict)
        return replace(found, verdict=verdict, rests=rests)


@dataclass(frozen=True)
class TrialJudgement:
    """What is said of a trial in one measurand.

    Attributes
    ----------
    matters : Matters
        The difference from which on the trainer cares.
    floor : float
        What the meter cannot see: the repeatability limit of a cell's mean.
    repeat : float
        Standard deviation of repeat readings behind it, robust.
    sd, df : mapping of str to float
        Standard deviations on the scale by term (geometric mean of their posterior) and the
        degrees of freedom that they are known with, priors included.
    assumed : tuple of str
        Terms that a comparison rests on and that rest more on their prior than on the readings.
    merged : tuple of tuple of str
        Terms that the layout cannot tell apart.
    starts : Starts
        What became of the readings before work.
    """

    measurand: str
    higher_is_better: bool
    scale: Scale
    matters: Matters
    floor: float
    repeat: float
    sd: Mapping[str, float]
    df: Mapping[str, float]
    priors: Priors
    assumed: tuple[str, ...]
    merged: tuple[tuple[str, ...], ...]
    starts: Starts
    classes: tuple[ClassJudgement, ...]
    cells: int
    readings: int
    levels: Mapping[str, int]

    @property
    def kind(self) -> ReadingKind:
        """What is judged, named as it is on what was worked: paint removed where no clear is."""
        return called(kind_of(self.measurand), self.coat)

    @property
    def coat(self) -> str:
        """What was worked: clear, or paint where a panel has no clear."""
        return PAINT if any(c.coat == PAINT for c in self.classes) else CLEAR

    def with_matters(self, chosen: Matters) -> TrialJudgement:
        """Return the judgement for another difference that matters, from the same draws."""
        classes = tuple(c.decided(chosen.on_scale) for c in self.classes)
        return replace(self, matters=chosen, classes=classes)

    def coated(self, coats: Mapping[str, str]) -> TrialJudgement:
        """Return the judgement with what is worked on each hardness class, by name."""
        return replace(
            self, classes=tuple(replace(c, coat=coats.get(c.hardness, CLEAR)) for c in self.classes)
        )

    def ground(self, hardness: str) -> str:
        """Return a class in words, one without readings too."""
        found = self.on(hardness)
        return found.ground if found is not None else f"{hardness} {CLEAR}"

    def on(self, hardness: str) -> ClassJudgement | None:
        """Return what is said of a hardness class; None when nothing was read there."""
        return next((c for c in self.classes if c.hardness == hardness), None)

    def lessons(self, source: str) -> dict[str, Prior]:
        """Return what this trial teaches about the variances, for the priors of another."""
        unsure = {t for group in self.merged for t in group} | set(self.assumed)
        return {
            term: learnt(self.sd[term], self.df[term], source)
            for term in self.sd
            if term not in unsure and self.levels.get(term, 2) > 1
        }
