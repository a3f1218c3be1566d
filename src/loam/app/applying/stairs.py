"""The ladder of a job, worked out: its stairs, its spots against the promise, what to do next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from loam.app.applying.held_against import (
    HIGH,
    LOW,
    SEED,
    covered,
    means_of,
    quantiles,
    spots_read,
    tells,
    told_spots,
)
from loam.app.applying.rests import Rests
from loam.app.applying.saying import advise, notes_on, too_long
from loam.app.applying.told import (
    BEST,
    PRICES,
    TAKEN,
    School,
    Stair,
    Stairs,
)
from loam.core.errors import NotEnough
from loam.core.film.sets import Guess
from loam.core.ladder import (
    HOUSE_FIRST,
    LEAST_FIRST,
    Cloud,
    Ladder,
    Limit,
    Measured,
    Plan,
    Prices,
    Rung,
    Spot,
    State,
)
from loam.core.stats.reduce import FloatArray
from loam.core.vehicle.day import Pace, vehicle_minutes
from loam.core.vehicle.follow import Learnt, Seen, learn
from loam.core.vehicle.job import Job, SpotDone
from loam.core.vehicle.particles import (
    CLEAR_TAKEN,
    DRAWS,
    READINGS_A_SPOT,
    Grounds,
    Promise,
    level_draws,
    particles,
    spot_sd,
)
from loam.core.vehicle.room import budget_of, least_room, rooms_of

KEPT = 4
LEAST_ESS, MORE = 50.0, 8
"""With fewer effective draws after a spot, so many times as many are drawn."""
_TOLD = {LEAST_FIRST: "mildest first", HOUSE_FIRST: "house process"}


def grounds_of(
    job: Job, rests: Rests, budget: tuple[float, float] | None, learnt: Mapping[str, Learnt]
) -> Grounds:
    """Return what the particles of a job are made of."""
    total = sum(job.chances.get(h, 0.0) for h in rests.classes)
    if not total > 0.0:
        raise NotEnough("No class that this vehicle may be has panels that were read.")
    chances = {h: job.chances.get(h, 0.0) / total for h in rests.classes}
    return Grounds(rests.promises, rests.taken, chances, len(rests.rungs), budget, learnt)


def limits_of(job: Job, rests: Rests) -> list[Limit]:
    """Return what is wanted, on the scales of what was read."""
    order = [m for m in rests.promises if m != CLEAR_TAKEN]
    found = []
    for want in job.aim:
        if want.measurand not in order:
            continue
        scale = rests.promises[want.measurand].judged.scale
        q = order.index(want.measurand)
        for value, low in ((want.at_least, True), (want.at_most, False)):
            if value is not None:
                found.append(Limit(q, float(scale.to(np.array([value]))[0]), low))
    return found


def learnt_from(rests: Rests, others: Sequence[Job]) -> dict[str, Learnt]:
    """Return what the spots of other vehicles on the same ground taught, by measurand."""
    found = {}
    for m, promise in rests.promises.items():
        if m == CLEAR_TAKEN:
            continue
        told = [job for job in others if tells(job, rests) and not job.apart]
        seen = [s for job in told if (s := _seen(job, rests, m, promise)) is not None]
        if not seen:
            continue
        sd = promise.judged.sd
        own = np.hypot(sd.get("panel:combination", 0.0), promise.usual("panel:combination"))
        draws = {
            h: level_draws(c, promise.columns[h])
            for h in rests.classes
            if (c := promise.judged.on(h)) is not None
        }
        found[m] = learn(seen, draws, promise.usual("panel"), sd.get("panel", 0.0), float(own))
    return found


def _seen(job: Job, rests: Rests, m: str, promise: Promise) -> Seen | None:
    z, rungs, sds = [], [], []
    for spot in job.spots:
        at, means = rests.at(spot.rung), means_of(spot, rests)
        if at is None or m not in means:
            continue
        n = sum(r.measurand == m for r in spot.after)
        z.append(float(promise.judged.scale.to(np.array([means[m]]))[0]))
        rungs.append(at)
        sds.append(spot_sd(promise.judged, n))
    if not z:
        return None
    return Seen(np.array(z), np.array(rungs), job.chances, np.array(sds))


def work_out(
    job: Job,
    rests: Rests,
    others: Sequence[Job] = (),
    prices: Prices = PRICES,
    draws: int = DRAWS,
) -> Stairs:
    """Work out the ladder of a job.

    Parameters
    ----------
    others : sequence of Job
        Other vehicles on the same ground: what they taught of how cars differ from panels.

    Raises
    ------
    NotEnough
        When nothing that is wanted was read on panels.
    """
    rooms = rooms_of(job)
    least = least_room(job, rooms.values())
    budget = budget_of(least, job.keep_um)
    learnt = learnt_from(rests, others)
    ground = grounds_of(job, rests, budget, learnt)
    cloud = _cloud(rests, ground, draws)
    aim = limits_of(job, rests)
    if not aim:
        raise NotEnough("Nothing is wanted of this vehicle.", todo="Say what is (G).")
    order = [m for m in rests.promises if m != CLEAR_TAKEN]
    counts = {m: _readings_of(job.spots, m) for m in order}
    measured = [
        Measured(m, rests.promises[m].judged.scale, spot_sd(rests.promises[m].judged, counts[m]))
        for m in order
    ]
    rungs = [
        Rung(c.code, rests.spot_minutes.get(c.code, 0.0), _minutes(job, rests.paces.get(c.code)))
        for c in rests.rungs
    ]
    ladder = Ladder(cloud, measured, aim, rungs, prices)
    spots = spots_read(job, rests, order)
    afters = ladder.after([s for _, s in spots])
    now: State | None = ladder.start() if not afters else afters[-1].state
    if now is not None and now.ess < LEAST_ESS and draws < MORE * DRAWS:
        return work_out(job, rests, others, prices, MORE * DRAWS)
    weights = _weights(ladder, [s for _, s in spots][: len(afters)], now is not None)
    told = told_spots(job, rests, ladder, measured, spots, afters)
    removed = _removed(rests, cloud, weights)
    advice, decision = advise(job, rests, ladder, now, afters, least)
    planned = job.taken or decision[1]
    if planned in removed:
        rooms = rooms_of(job, Guess(*removed[planned]))
        least = least_room(job, rooms.values())
    tried = [s.rung for _, s in spots]
    schools = _schools(job, rests, ladder, cloud, weights, now, tried, decision)
    lain, seen = covered((job, *others), rests, ladder, measured, order)
    return Stairs(
        advice,
        decision,
        dict(now.classes) if now is not None else dict(ground.chances),
        schools,
        told,
        least,
        rooms,
        removed,
        rests,
        lain,
        (*too_long(job, schools), *notes_on(job, rests, learnt, least, rooms, prices)),
        afters[-1].ways if afters else {},
        seen,
    )


def _readings_of(spots: Sequence[SpotDone], m: str) -> int:
    """Return how many readings a spot has in a measurand, where it has any."""
    counts = [sum(r.measurand == m for r in s.after) for s in spots]
    read = [c for c in counts if c]
    return min(read) if read else READINGS_A_SPOT


def _minutes(job: Job, pace: Pace | None) -> float:
    return vehicle_minutes(job, pace) if pace is not None else 0.0


def _weights(ladder: Ladder, spots: Sequence[Spot], alive: bool) -> FloatArray:
    """Return the weights of the particles after the spots."""
    weights = ladder.cloud.weights
    if not alive:
        return weights
    for spot in spots:
        weights = ladder.weighed(weights, spot)
        weights = weights / weights.sum()
    return weights


def _removed(rests: Rests, cloud: Cloud, weights: FloatArray) -> dict[str, tuple[float, float]]:
    mean = weights @ cloud.clear
    sd = np.sqrt(np.maximum(weights @ (cloud.clear - mean) ** 2, 0.0))
    return {c: (float(mean[k]), float(sd[k])) for k, c in enumerate(rests.codes)}


def _schools(
    job: Job,
    rests: Rests,
    ladder: Ladder,
    cloud: Cloud,
    weights: FloatArray,
    now: State | None,
    tried: Sequence[int],
    decision: tuple[str, str],
) -> tuple[School, ...]:
    """Return the ways to go from here, each at its price; what is to be taken is the first."""
    if now is None:
        return ()
    code = job.taken or (decision[1] if decision[0] == "take" else "")
    taken = rests.at(code) if code else None
    first = [_taking(rests, ladder, cloud, weights, now, taken)] if taken is not None else []
    house = rests.at(job.house) if job.house else None
    allowed = ladder.allowed(weights)
    left = [k for k in ladder.order if allowed[k] and k not in tried]
    ways: dict[str, Sequence[int]] = {} if first else {BEST: now.best.sequence}
    ways[LEAST_FIRST] = left
    if house is not None:
        above = ladder.order[ladder.order.index(house) :]
        ways[HOUSE_FIRST] = [k for k in above if k in left]
    found = list(first)
    for label, sequence in ways.items():
        plan = ladder.plan(weights, sequence)
        stairs = tuple(_stair(rests, cloud, weights, now, k) for k in sequence)
        why = "" if stairs else _why_empty(label, ladder, allowed, tried, house)
        found.append(_school(_TOLD.get(label, label), stairs, plan, why))
    return tuple(found)


def _taking(
    rests: Rests, ladder: Ladder, cloud: Cloud, weights: FloatArray, now: State, k: int
) -> School:
    """Return what taking a combination that was tried comes to: no further spot."""
    own = now.rungs[k]
    stairs = (_stair(rests, cloud, weights, now, k),)
    cost = float(weights @ ladder.take[:, k])
    return School(TAKEN, stairs, own.clear, 0.0, ladder.rungs[k].vehicle_minutes, own.reach, cost)


def _why_empty(
    label: str, ladder: Ladder, allowed: np.ndarray, tried: Sequence[int], house: int | None
) -> str:
    """Say why nothing is tried on a way."""
    still = [k for k in ladder.order if k not in tried]
    if label == HOUSE_FIRST and house is not None:
        still = [k for k in still if ladder.order.index(k) >= ladder.order.index(house)]
    if not still:
        return "all of it is tried"
    return "may take too much" if not any(allowed[k] for k in still) else "not worth it"


def _school(label: str, stairs: tuple[Stair, ...], plan: Plan, why: str) -> School:
    clear = plan.spot_clear + plan.vehicle_clear
    return School(label, stairs, clear, plan.tries, plan.minutes, plan.reach, plan.cost, why)


def _stair(rests: Rests, cloud: Cloud, weights: FloatArray, now: State, k: int) -> Stair:
    low, high = quantiles(cloud.clear[:, k], weights, (LOW, HIGH))
    own, c = now.rungs[k], rests.rungs[k]
    return Stair(c.code, c.name, own.clear, low, high, own.reach, own.allowed)


_CLOUDS: dict[tuple[object, ...], tuple[Rests, Cloud]] = {}
"""The last possible vehicles by what they were made of: an aim that is moved changes none."""


def _cloud(rests: Rests, ground: Grounds, draws: int) -> Cloud:
    """Return the possible vehicles, made once for what they rest on."""
    learnt = tuple((m, own.vehicles, own.means) for m, own in ground.learnt.items())
    key = (id(rests), tuple(ground.chances.items()), ground.budget, learnt, draws)
    held = _CLOUDS.get(key)
    if held is not None and held[0] is rests:
        return held[1]
    cloud = particles(ground, np.random.default_rng(SEED), draws)
    if len(_CLOUDS) >= KEPT:
        _CLOUDS.pop(next(iter(_CLOUDS)))
    _CLOUDS[key] = (rests, cloud)
    return cloud
