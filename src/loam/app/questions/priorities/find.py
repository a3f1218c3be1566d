"""What one wants decides who wins: a map of finish, removal and clear kept for each hardness.

Time is a fourth wish: the map is a slice at the weight that it has.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from loam.app.questions.price.find import minutes_of, values
from loam.app.questions.question import Asked, Tell
from loam.app.questions.ranking.picture import RankingPicture
from loam.core.errors import LoamError, NotEnough
from loam.core.film import PAINT
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.panel import Taping
from loam.core.priorities import (
    Criterion,
    PriorityMap,
    Wish,
    decide,
    lattice,
    overall,
    priority_map,
)
from loam.core.readings import KINDS, REMOVED
from loam.core.stats.reduce import FloatArray
from loam.core.trial import Combination
from loam.core.units import fixed, percent
from loam.core.words.verdict import listed

STEPS, MOST_DRAWS = 20, 1024
CORNERS = ("finish", "removal", "clear kept")
TIME = "time"
MEASURANDS: dict[str, tuple[str, ...]] = {
    corner: tuple(k.key for k in KINDS if k.aim == corner) for corner in CORNERS
}
"""What each corner rests on; what a corner has several of counts alike."""
AIMS: tuple[tuple[str, Wish], ...] = (
    ("daily", (0.4, 0.3, 0.3, 0.0)),
    ("show", (0.7, 0.2, 0.1, 0.0)),
    ("thin coat", (0.2, 0.1, 0.7, 0.0)),
    ("heavy marks", (0.2, 0.7, 0.1, 0.0)),
    ("fast turn-over", (0.25, 0.25, 0.1, 0.4)),
)
MOST_AIMS = 9
_TIME_RATIO = 1.1
"""Minutes matter from a tenth on."""


@dataclass(frozen=True)
class Making:
    """What time and clear rest on.

    Attributes
    ----------
    tapings : mapping of str to Taping
        One of each hardness.
    may_go : float or None
        What may go at the thinnest spot of any panel, µm, where that is known: a combination that
        takes it all keeps nothing.
    """

    combinations: Sequence[Combination] = ()
    tapings: Mapping[str, Taping] = field(default_factory=dict)
    may_go: float | None = None


@dataclass(frozen=True)
class Goal:
    """How one combination does for a wish: worth from 0 to 1, and the chance to be best."""

    combination: str
    mean: float
    low: float
    high: float
    p_best: float


@dataclass(frozen=True)
class PrioritiesPicture:
    """The map of each hardness, and on what limits it rests.

    Attributes
    ----------
    maps : mapping of str to PriorityMap
        By hardness; weights in the order of `CORNERS`.
    worths : mapping of str to (D, K, 3 or 4)
        Draws of worth, for any other wish.
    criteria : mapping of str to Criterion
        By measurand, on its scale; `TIME` in log minutes.
    left_out : tuple of str
        Hardness classes that lack one of the measurands.
    time : float
        Weight of time.
    """

    maps: Mapping[str, PriorityMap]
    worths: Mapping[str, FloatArray]
    judged: Mapping[str, TrialJudgement]
    criteria: Mapping[str, Criterion]
    left_out: tuple[str, ...]
    time: float

    @property
    def corners(self) -> tuple[str, str, str]:
        """The names of the corners: clear kept is paint kept where a panel has no clear."""
        bare = any(j.coat == PAINT for j in self.judged.values())
        return CORNERS[0], CORNERS[1], f"{PAINT} kept" if bare else CORNERS[2]

    def ground(self, hardness: str) -> str:
        """Return a hardness class in words."""
        return next(iter(self.judged.values())).ground(hardness)

    @property
    def timed(self) -> bool:
        """Whether time can be wished for: the minutes of every combination are known."""
        return TIME in self.criteria

    @property
    def limits(self) -> tuple[str, ...]:
        """What is worth nothing and all, in words."""
        return tuple(self.limit(key) for key in self.criteria)

    def measured(self, key: str, place: float) -> float:
        """Turn a place on a criterion's scale into what is measured."""
        if key == TIME:
            return float(np.exp(place))
        return float(self.judged[key].scale.back(np.array([place]))[0])

    def limit(self, key: str) -> str:
        """Say the limits of one criterion."""
        c = self.criteria[key]
        nothing, full = self.measured(key, c.nothing), self.measured(key, c.full)
        if key == TIME:
            return f"time {fixed(nothing, 1)} (nothing) to {fixed(full, 1)} min a cell (all)"
        kind = self.judged[key].kind
        said = f"{kind.write(nothing)} (nothing) to {kind.write(full)} {kind.unit} (all)"
        return f"{kind.label} {said}"

    def wish(self, hardness: str, weights: Sequence[float]) -> FloatArray:
        """Return the weights of all criteria of a hardness: three share what time leaves."""
        wish = (1.0 - self.time) * np.asarray(weights, float)
        return np.append(wish, self.time) if self.worths[hardness].shape[2] > 3 else wish

    def goals(self, hardness: str, weights: Sequence[float]) -> list[Goal]:
        """Rank a hardness for a wish, the best first."""
        own, worth = self.maps[hardness], self.worths[hardness]
        found = decide(worth, self.wish(hardness, weights))
        goals = [
            Goal(n, *(float(x[k]) for x in (found.mean, found.low, found.high, found.p_best)))
            for k, n in enumerate(own.names)
        ]
        return sorted(goals, key=lambda g: (-g.p_best, -g.mean))


def needed(rankings: Mapping[str, RankingPicture]) -> list[str]:
    """Return the measurands that a map needs and that are not judged."""
    least = [own[0] for own in MEASURANDS.values()]
    return [m for m in least if m not in rankings]


def point_of(wish: Wish) -> tuple[float, float, float]:
    """Return the point of the map nearest to a wish, whatever time weighs."""
    rest = max(wish[0] + wish[1] + wish[2], 1e-9)
    points = lattice(STEPS)
    near = ((points - np.array(wish[:3]) / rest) ** 2).sum(axis=1).argmin()
    at = points[int(near)].tolist()
    return at[0], at[1], at[2]


@dataclass(frozen=True)
class Worthy:
    """What combinations are worth, before anything is wished for.

    Attributes
    ----------
    names : mapping of str to list of str
        By hardness, in the order of the draws.
    draws : mapping of str to (D, K, 3 or 4)
        Worth by corner, and of time where minutes are known.
    """

    criteria: Mapping[str, Criterion]
    names: Mapping[str, list[str]]
    draws: Mapping[str, FloatArray]
    left_out: tuple[str, ...]

    @property
    def timed(self) -> bool:
        """Whether the minutes of every combination are known."""
        return TIME in self.criteria

    def value(self, hardness: str, wish: Wish) -> FloatArray:
        """Return draws of what each combination is worth for a wish, (D, K)."""
        time = wish[3] if self.timed else 0.0
        weights = (1.0 - time) * np.asarray(point_of(wish))
        if self.draws[hardness].shape[2] > 3:
            weights = np.append(weights, time)
        return overall(self.draws[hardness], weights)


def worths_of(
    judged: Mapping[str, TrialJudgement],
    making: Making | None = None,
    limits: Mapping[str, tuple[float, float]] | None = None,
) -> Worthy:
    """Return what combinations are worth by corner; no hardness where it does not carry it."""
    chosen = limits or {}
    used = [m for corner in CORNERS for m in MEASURANDS[corner] if m in judged]
    making = making or Making()
    criteria = {m: _criterion(judged[m], chosen.get(m)) for m in used}
    if REMOVED.key in criteria and REMOVED.key not in chosen:
        criteria[REMOVED.key] = _within(criteria[REMOVED.key], judged[REMOVED.key], making.may_go)
    minutes = _minutes(judged, making, used)
    if minutes:
        criteria[TIME] = _time(minutes, chosen.get(TIME))
    names: dict[str, list[str]] = {}
    draws: dict[str, FloatArray] = {}
    left_out = []
    for found in judged[used[0]].classes if used else ():
        one = _of_class(found.hardness, judged, criteria, minutes)
        if one is None:
            left_out.append(found.hardness)
        else:
            names[found.hardness], draws[found.hardness] = one
    return Worthy(criteria, names, draws, tuple(left_out))


def find_map(
    judged: Mapping[str, TrialJudgement],
    making: Making | None = None,
    time: float = 0.0,
    limits: Mapping[str, tuple[float, float]] | None = None,
) -> PrioritiesPicture:
    """Map who wins where; made for a worker.

    Parameters
    ----------
    time : float
        Weight of time.
    limits : mapping of str to (float, float), optional
        What is worth nothing and all, as measured, where the trainer chose it.

    Raises
    ------
    NotEnough
        When no hardness has all three.
    """
    found = worths_of(judged, making, limits)
    time = time if found.timed else 0.0
    maps = {h: priority_map(w, found.names[h], STEPS, time) for h, w in found.draws.items()}
    if not maps:
        raise NotEnough(
            "Who wins for which priority needs gloss, defects removed, and film before and after"
            " work, of two combinations at least.",
            todo="Ask (F2) adds what is read.",
        )
    return PrioritiesPicture(maps, found.draws, dict(judged), found.criteria, found.left_out, time)


def with_time(found: PrioritiesPicture, time: float) -> PrioritiesPicture:
    """Return the map of another slice: the same worth, another weight of time."""
    if not found.timed:
        return found
    maps = {
        h: priority_map(found.worths[h], own.names, STEPS, time) for h, own in found.maps.items()
    }
    return replace(found, maps=maps, time=time)


def _minutes(
    judged: Mapping[str, TrialJudgement], making: Making, used: Sequence[str]
) -> dict[tuple[str, str], float]:
    """Return log minutes by hardness and combination; nothing where one is not known."""
    by_code = {c.code: c for c in making.combinations}
    found: dict[tuple[str, str], float] = {}
    for own in judged[used[0]].classes if used else ():
        for name in own.names:
            c, taping = by_code.get(name), making.tapings.get(own.hardness)
            minutes = minutes_of(c.stages, taping) if c and taping else None
            if not minutes:
                return {}
            found[own.hardness, name] = float(np.log(minutes))
    return found


def _time(
    minutes: Mapping[tuple[str, str], float], chosen: tuple[float, float] | None
) -> Criterion:
    if chosen is not None:
        return Criterion(TIME, float(np.log(chosen[0])), float(np.log(chosen[1])))
    wide = float(np.log(_TIME_RATIO))
    return Criterion(TIME, max(minutes.values()) + wide, min(minutes.values()) - wide)


def _criterion(judged: TrialJudgement, chosen: tuple[float, float] | None) -> Criterion:
    """Return limits on the scale: chosen, or what matters beyond the worst and the best."""
    if chosen is not None:
        ends = judged.scale.to(np.array(chosen, float))
        return Criterion(judged.measurand, float(ends[0]), float(ends[1]))
    values = [
        float(judged.scale.to(np.array([s.figures.estimate]))[0])
        for found in judged.classes
        for s in found.standings
    ]
    wide = max(abs(judged.matters.on_scale), 1e-6)
    low, high = min(values) - wide, max(values) + wide
    nothing, full = (low, high) if judged.higher_is_better else (high, low)
    return Criterion(judged.measurand, nothing, full)


def _within(own: Criterion, judged: TrialJudgement, may_go: float | None) -> Criterion:
    """Return the limits of what is taken off, nearer where less than that may go."""
    if may_go is None or may_go >= own.nothing:
        return own
    least = min(s.figures.estimate for c in judged.classes for s in c.standings)
    wide = max(abs(judged.matters.on_scale), 1e-6)
    return replace(own, nothing=max(may_go, least + wide))


def _of_class(
    hardness: str,
    judged: Mapping[str, TrialJudgement],
    criteria: Mapping[str, Criterion],
    minutes: Mapping[tuple[str, str], float],
) -> tuple[list[str], FloatArray] | None:
    here = {m: judged[m].on(hardness) for m in criteria if m != TIME}
    known = {m: c for m, c in here.items() if c is not None}
    if any(not any(m in known for m in MEASURANDS[corner]) for corner in CORNERS):
        return None
    names = [
        n for n in next(iter(known.values())).names if all(n in c.columns for c in known.values())
    ]
    if len(names) < 2:
        return None
    worth = []
    for corner in CORNERS:
        own = [m for m in MEASURANDS[corner] if m in known]
        each = [
            criteria[m].worth(_values(known[m], judged[m], names, i)) for i, m in enumerate(own)
        ]
        worth.append(np.exp(np.mean([np.log(np.maximum(w, 1e-12)) for w in each], axis=0)))
    if minutes:
        own_time = np.array([minutes[hardness, n] for n in names])
        quick = criteria[TIME].worth(own_time)
        worth.append(np.broadcast_to(np.maximum(quick, 1e-12), worth[0].shape))
    return names, np.stack(worth, axis=-1)


def _values(
    found: ClassJudgement, judged: TrialJudgement, names: list[str], turn: int
) -> FloatArray:
    """Return draws of the combinations on the scale, (D, K); measurands vary independently."""
    rng = np.random.default_rng([turn, len(names), sum(map(ord, judged.measurand))])
    return values(judged, found, names)[rng.permutation(found.draws.shape[0])[:MOST_DRAWS]]


def kept_aims(kept: object) -> list[tuple[str, Wish]]:
    """Return the aims that a trainer kept; what cannot be one is left out."""
    found: list[tuple[str, Wish]] = []
    for entry in kept if isinstance(kept, list) else []:
        try:
            name, weights = str(entry[0])[:30], [float(w) for w in entry[1]]
        except (TypeError, ValueError, IndexError, KeyError):
            continue
        total = sum(weights)
        if len(weights) == 4 and min(weights) >= 0.0 and 0.0 < total < np.inf and name:
            w = [x / total for x in weights]
            found.append((name, (w[0], w[1], w[2], w[3])))
    return found[: MOST_AIMS - len(AIMS)]


def kept_limits(kept: object) -> dict[str, tuple[float, float]]:
    """Return the limits that a trainer chose; what cannot be one is left out."""
    found = {}
    for key, pair in kept.items() if isinstance(kept, dict) else ():
        known = key == TIME or any(key in own for own in MEASURANDS.values())
        try:
            low, high = float(pair[0]), float(pair[1])
        except (TypeError, ValueError, IndexError, KeyError):
            continue
        least = 0.0 if key == TIME else -np.inf
        if known and np.isfinite([low, high]).all() and low != high and min(low, high) > least:
            found[key] = (low, high)
    return found


@dataclass(frozen=True)
class Aimed:
    """Who wins for each aim."""

    base: PrioritiesPicture
    aims: Sequence[tuple[str, Wish]]

    def _goals(self) -> Iterator[tuple[str, Wish, str, tuple[Goal, ...]]]:
        for name, wish in self.aims:
            found = with_time(self.base, wish[3])
            for hardness in found.maps:
                yield name, wish, hardness, tuple(found.goals(hardness, point_of(wish)))

    def said(self) -> tuple[str, ...]:
        """Return who wins for each aim, and what is worth what."""
        won: dict[str, list[str]] = {}
        for name, _, hardness, goals in self._goals():
            first = goals[0]
            said = f"{first.combination} on {hardness} ({percent(first.p_best)})"
            won.setdefault(name, []).append(said)
        return (
            *(f"{name.capitalize()}: {listed(own)}." for name, own in won.items()),
            f"Worth: {'; '.join(self.base.limits)}; together the weighted geometric mean. What is"
            " read is taken to vary independently.",
        )

    def table(self) -> list[list[str]]:
        """Return what each combination is worth for each aim, the heading first."""
        rows = [
            [
                "aim",
                *self.base.corners,
                "time",
                "hardness",
                "combination",
                "worth, 0 to 1",
                "low",
                "high",
                "chance to win",
            ]
        ]
        return rows + [
            [
                name,
                *(percent(w) for w in wish),
                hardness,
                g.combination,
                *(fixed(v, 2) for v in (g.mean, g.low, g.high)),
                percent(g.p_best),
            ]
            for name, wish, hardness, goals in self._goals()
            for g in goals
        ]


def head(asked: Asked) -> str:
    """Return what its part of the report is called."""
    return "Priorities"


def answer(asked: Asked, tell: Tell) -> Aimed | None:
    """Find who wins for the named aims; None where the trial does not carry it."""
    if needed(asked.rankings):
        return None
    making = Making(asked.combinations, asked.tapings, asked.may_go)
    try:
        base = find_map(asked.judged, making, 0.0, asked.limits)
    except LoamError:
        return None
    return Aimed(base, asked.aims or AIMS)
