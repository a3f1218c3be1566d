"""The ladder: which combination to try next on a vehicle, at which price, and when to stop.

A vehicle is not known: it is a cloud of particles, each a possible vehicle with a weight, and for
every rung (a combination) the result that it would give, the clear that it would take, and the
clear that may still go. A sequence of test spots is tried until one meets the aim, which is then
done to the whole vehicle; where none does, giving up has its own price. The best sequence is the
one of least expected cost, found exactly over all subsets of rungs. After a spot the particles are
weighed by what was read there. Clear in µm, time in minutes, cost in µm of clear.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from loam.core.errors import ValueRefused
from loam.core.scale import Scale
from loam.core.stats.reduce import FloatArray

MOST_RUNGS = 12
SAME = 1e-9
"""Costs that differ by no more count as equal."""
UNLIKE = 0.005
"""Below this chance of so much or more, or so little or less, a reading is unlike the panels."""
SCALES = ("identity", "log1p", "logit")
GIVE_UP, APART = "give up", "unlike the panels"
LEAST_FIRST, HOUSE_FIRST = "least first", "house first"
_ROUNDING = 1e-12
_BLOCK = 8
"""Rungs whose subsets are held at once: 2^8 rows of particles."""


@dataclass(frozen=True)
class Measured:
    """A measurand of the ladder: its scale, and how a spot's reading scatters on it."""

    name: str
    scale: Scale
    spot_sd: float

    def place(self, value: float, where: str) -> float:
        """Bring a value onto the scale.

        Raises
        ------
        ValueRefused
            For one that the scale does not have.
        """
        low = 0.0 if self.scale.name != "identity" else -np.inf
        high = 100.0 if self.scale.name == "logit" else np.inf
        if not (np.isfinite(value) and low <= value <= high):
            raise ValueRefused(f"{value:g} is out of the range of {self.name}.", where=where)
        place = float(self.scale.to(np.array([value]))[0])
        if not np.isfinite(place):
            raise ValueRefused(
                f"{value:g} of {self.name} has no place on its scale.",
                where=where,
                todo="Give half a step (half) above 0 for it.",
            )
        return place


@dataclass(frozen=True)
class Limit:
    """What is wanted of a measurand: at least, or at most, a place on its scale."""

    measurand: int
    place: float
    at_least: bool

    def met(self, x: FloatArray) -> FloatArray:
        """Tell where it is met; equal counts as met."""
        return np.asarray(x >= self.place if self.at_least else x <= self.place)


@dataclass(frozen=True)
class Rung:
    """A combination, and what trying it on a spot and doing the vehicle takes, minutes."""

    name: str
    spot_minutes: float
    vehicle_minutes: float


@dataclass(frozen=True)
class Prices:
    """What clear, minutes and giving up are worth, and what is allowed.

    Attributes
    ----------
    clear_per_minute : float
        µm of clear that a minute is worth.
    spot_weight : float
        Share, 0 to 1, at which clear taken on a spot counts.
    give_up : float
        µm that reaching the aim is worth.
    increasing : bool
        Only rungs further up the order than the furthest tried.
    budget_chance, take_chance : float
        Chance of staying within the budget from which a rung is allowed; of reaching the aim from
        which one that was tried may be taken.
    """

    clear_per_minute: float
    spot_weight: float
    give_up: float
    increasing: bool = True
    budget_chance: float = 0.95
    take_chance: float = 0.8


@dataclass(frozen=True)
class Cloud:
    """The possible vehicles.

    Attributes
    ----------
    hardness : (n,) int
        Class of each particle, into ``classes``.
    weights : (n,)
        Scaled to 1.
    results : (q, n, k)
        On the scales of the measurands, in the order of the rungs.
    clear : (n, k)
        µm.
    budget : (n,)
        µm that may still go; infinite where there is no limit.
    """

    classes: tuple[str, ...]
    hardness: np.ndarray
    weights: FloatArray
    results: FloatArray
    clear: FloatArray
    budget: FloatArray


@dataclass(frozen=True)
class Plan:
    """A sequence of rungs, tried until one meets the aim, and what it comes to.

    Attributes
    ----------
    sequence : tuple of int
        Places of its rungs.
    cost : float
        J, µm.
    spot_clear, vehicle_clear, minutes, tries : float
        Expected.
    reach, accept, give_up : float
        Chances: accepted and truly reached, accepted, given up.
    """

    sequence: tuple[int, ...]
    cost: float
    spot_clear: float
    vehicle_clear: float
    minutes: float
    tries: float
    reach: float
    accept: float
    give_up: float


@dataclass(frozen=True)
class RungNow:
    """What is expected of a rung now: (of all weights) reach, passes, µm, within the budget."""

    reach: float
    passes: float
    clear: float
    within_budget: float
    allowed: bool


@dataclass(frozen=True)
class State:
    """What is known of the vehicle, and the best that can be done."""

    classes: Mapping[str, float]
    ess: float
    rungs: tuple[RungNow, ...]
    best: Plan


@dataclass(frozen=True)
class Spot:
    """A test spot that was done: its rung, and what was read, on the scales by measurand."""

    rung: int
    read: Mapping[int, float]


@dataclass(frozen=True)
class After:
    """What follows from a spot.

    Attributes
    ----------
    unlike : tuple of str
        Measurands whose reading no panel would have led one to expect.
    state : State or None
        None where no particle is like the reading.
    ways : mapping of str to float
        What can be done and its price, in order.
    decision : str
        The cheapest of them.
    """

    rung: int
    unlike: tuple[str, ...]
    state: State | None
    ways: Mapping[str, float] = field(default_factory=dict)
    decision: str = APART


class Ladder:
    """A ladder for one vehicle.

    Parameters
    ----------
    measured : sequence of Measured
    aim : sequence of Limit
    rungs : sequence of Rung
        At most twelve.

    Raises
    ------
    ValueRefused
        For more rungs, no aim, or what is not finite.
    """

    def __init__(
        self,
        cloud: Cloud,
        measured: Sequence[Measured],
        aim: Sequence[Limit],
        rungs: Sequence[Rung],
        prices: Prices,
    ) -> None:
        if not 1 <= len(rungs) <= MOST_RUNGS:
            raise ValueRefused(
                f"A ladder of {len(rungs)} rungs cannot be worked out.",
                todo=f"Give 1 to {MOST_RUNGS}.",
            )
        if not aim:
            raise ValueRefused("There is no aim.", todo="Say what is to be reached.")
        self.cloud, self.measured, self.aim = cloud, tuple(measured), tuple(aim)
        self.rungs, self.prices = tuple(rungs), prices
        p, clear = prices, cloud.clear
        spot = np.array([r.spot_minutes for r in rungs])
        whole = np.array([r.vehicle_minutes for r in rungs])
        met = clear <= cloud.budget[:, None]
        passes = np.ones_like(clear)
        for limit in self.aim:
            x = cloud.results[limit.measurand]
            met = met & limit.met(x).astype(bool)
            passes *= _chance(x, limit, self.measured[limit.measurand].spot_sd)
        self.met, self.passes = met.astype(float), passes
        self.minutes = (spot, whole)
        self.spot = p.spot_weight * clear + p.clear_per_minute * spot
        self.take = clear + p.clear_per_minute * whole + (1.0 - self.met) * p.give_up
        expected = cloud.weights @ clear
        self.order = tuple(sorted(range(len(rungs)), key=lambda k: round(float(expected[k]), 9)))

    def allowed(self, weights: FloatArray) -> np.ndarray:
        """Tell which rungs stay within the budget as surely as is asked, (k,) bool."""
        within = weights @ (self.cloud.clear <= self.cloud.budget[:, None])
        return np.asarray(within >= self.prices.budget_chance - _ROUNDING)

    def plan(self, weights: FloatArray, sequence: Sequence[int]) -> Plan:
        """Return what trying a sequence comes to."""
        s = weights.copy()
        spot_clear = vehicle_clear = minutes = tries = reach = accept = cost = 0.0
        for k in sequence:
            q, c = self.passes[:, k], self.cloud.clear[:, k]
            cost += float(s @ (self.spot[:, k] + q * self.take[:, k]))
            spot_clear += float(s @ c)
            vehicle_clear += float(s @ (q * c))
            minutes += float(s @ (self.minutes[0][k] + q * self.minutes[1][k]))
            tries += float(s.sum())
            reach += float(s @ (q * self.met[:, k]))
            accept += float(s @ q)
            s = s * (1.0 - q)
        left = float(s.sum())
        cost += self.prices.give_up * left
        return Plan(
            tuple(sequence), cost, spot_clear, vehicle_clear, minutes, tries, reach, accept, left
        )

    def best(self, weights: FloatArray, tried: Sequence[int] = ()) -> Plan:
        """Return the sequence of least expected cost; it may be empty: do not try."""
        place = {k: i for i, k in enumerate(self.order)}
        furthest = max((place[k] for k in tried), default=-1)
        allowed = self.allowed(weights)
        still = [
            k
            for k in self.order
            if allowed[k] and k not in tried and (not self.prices.increasing or place[k] > furthest)
        ]
        stage, left = self._stages(weights, still)
        count = len(still)
        value = np.empty(1 << count)
        follow: list[tuple[int, ...]] = [()] * (1 << count)
        for subset in range((1 << count) - 1, -1, -1):
            chosen: tuple[int, ...] = ()
            least = self.prices.give_up * float(left[subset])
            first = subset.bit_length() if self.prices.increasing else 0
            for k in range(first, count):
                if subset >> k & 1:
                    continue
                after = subset | 1 << k
                cost = float(stage[subset, k]) + float(value[after])
                then = (k, *follow[after])
                if cost < least - SAME or (
                    cost <= least + SAME and (len(then), then) < (len(chosen), chosen)
                ):
                    least, chosen = cost, then
            value[subset], follow[subset] = least, chosen
        return self.plan(weights, [still[k] for k in follow[0]])

    def _stages(self, weights: FloatArray, still: Sequence[int]) -> tuple[FloatArray, FloatArray]:
        """Return, by subset tried so far, what each rung costs next, (2^m, m), and what is left."""
        m = len(still)
        fails = 1.0 - self.passes[:, still]
        cost = weights[:, None] * (self.spot + self.passes * self.take)[:, still]
        both = np.column_stack([cost, weights])
        low = min(m, _BLOCK)
        inner = _products(fails[:, :low])
        found = np.empty((1 << m, m + 1))
        for high in range(1 << (m - low)):
            outer = np.ones(weights.size)
            for k in range(low, m):
                if high >> (k - low) & 1:
                    outer = outer * fails[:, k]
            start = high << low
            found[start : start + (1 << low)] = (inner * outer) @ both
        return found[:, :m], found[:, m]

    def state(self, weights: FloatArray, tried: Sequence[int] = ()) -> State:
        """Return what is known under some weights, and the best sequence from there."""
        cloud = self.cloud
        within = weights @ (cloud.clear <= cloud.budget[:, None])
        allowed = self.allowed(weights)
        now = tuple(
            RungNow(
                float(weights @ self.met[:, k]),
                float(weights @ self.passes[:, k]),
                float(weights @ cloud.clear[:, k]),
                float(within[k]),
                bool(allowed[k]),
            )
            for k in range(len(self.rungs))
        )
        chances = {
            name: float(weights[cloud.hardness == h].sum()) for h, name in enumerate(cloud.classes)
        }
        ess = 1.0 / float(weights @ weights)
        return State(chances, ess, now, self.best(weights, tried))

    def start(self) -> State:
        """Return what is known before any spot."""
        return self.state(self.cloud.weights)

    def schools(self, house: int | None = None) -> dict[str, Plan]:
        """Return other ways to go at the same prices: mildest first, and the house's own first."""
        weights = self.cloud.weights
        allowed = self.allowed(weights)
        found = {LEAST_FIRST: self.plan(weights, [k for k in self.order if allowed[k]])}
        if house is not None:
            above = self.order[self.order.index(house) :]
            found[HOUSE_FIRST] = self.plan(weights, [k for k in above if allowed[k]])
        return found

    def after(self, spots: Sequence[Spot]) -> list[After]:
        """Return what follows from each spot in turn; it ends where no particle is like one."""
        weights, tried, told = self.cloud.weights, [], []
        for spot in spots:
            unlike = self._unlike(weights, spot)
            weights = self.weighed(weights, spot)
            tried.append(spot.rung)
            total = float(weights.sum())
            if not total > 0.0:
                told.append(After(spot.rung, unlike, None))
                break
            weights = weights / total
            state = self.state(weights, tried)
            ways = self._ways(weights, state, tried)
            told.append(After(spot.rung, unlike, state, ways, _least(ways)))
        return told

    def _ways(self, weights: FloatArray, state: State, tried: Sequence[int]) -> dict[str, float]:
        ways: dict[str, float] = {}
        for k in tried:
            now = state.rungs[k]
            if now.allowed and now.reach >= self.prices.take_chance - _ROUNDING:
                ways[f"take {self.rungs[k].name}"] = float(weights @ self.take[:, k])
        if state.best.sequence:
            ways[f"try {self.rungs[state.best.sequence[0]].name}"] = state.best.cost
        ways[GIVE_UP] = self.prices.give_up
        return ways

    def _unlike(self, weights: FloatArray, spot: Spot) -> tuple[str, ...]:
        from scipy.special import ndtr

        found = []
        for q, x in spot.read.items():
            own, sd = self.cloud.results[q][:, spot.rung], self.measured[q].spot_sd
            if sd > 0.0:
                z = (x - own) / sd
                less, more = float(weights @ ndtr(z)), float(weights @ ndtr(-z))
            else:
                less = float(weights @ (own <= x + SAME))
                more = float(weights @ (own >= x - SAME))
            if min(less, more) < UNLIKE:
                found.append(self.measured[q].name)
        return tuple(found)

    def weighed(self, weights: FloatArray, spot: Spot) -> FloatArray:
        """Weigh the particles by a spot's readings; not scaled."""
        for q, x in spot.read.items():
            own, sd = self.cloud.results[q][:, spot.rung], self.measured[q].spot_sd
            if sd > 0.0:
                weights = weights * np.exp(-0.5 * ((x - own) / sd) ** 2)
            else:
                weights = weights * (np.abs(own - x) <= SAME)
        return weights


def _least(ways: Mapping[str, float]) -> str:
    """Return the cheapest way; of equal ones the first."""
    chosen = GIVE_UP
    least = np.inf
    for way, price in ways.items():
        if price < least - SAME:
            chosen, least = way, price
    return chosen


def _chance(x: FloatArray, limit: Limit, sd: float) -> FloatArray:
    """Return the chance that a spot's reading meets a limit."""
    from scipy.special import ndtr

    if sd <= 0.0:
        return np.asarray(limit.met(x), float)
    z = (x - limit.place) / sd
    return np.asarray(ndtr(z if limit.at_least else -z), float)


def _products(fails: FloatArray) -> FloatArray:
    """Return the products over all subsets of columns, (2^m, n) of (n, m)."""
    n, m = fails.shape
    found = np.ones((1 << m, n))
    for k in range(m):
        found[1 << k : 2 << k] = found[: 1 << k] * fails[:, k]
    return found


def scaled(cloud: Cloud) -> Cloud:
    """Return a cloud whose weights sum to 1.

    Raises
    ------
    ValueRefused
        When none is above 0, or one is below.
    """
    w = np.asarray(cloud.weights, float)
    if (w < 0.0).any() or not w.sum() > 0.0 or not np.isfinite(w).all():
        raise ValueRefused("No class has a chance above 0.", todo="Give chances of 0 or more.")
    return replace(cloud, weights=w / w.sum())
