"""What came on a car beside what panels promised: spots, checks, follow-ups, and how all lay."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from loam.app.applying.rests import Rests
from loam.app.applying.saying import OTHERWISE, spot_words
from loam.app.applying.told import Came, Lain, SpotTold
from loam.core.ladder import After, Cloud, Ladder, Measured, Spot
from loam.core.readings import kind_of
from loam.core.stats.reduce import FloatArray
from loam.core.vehicle.job import CarPart, Job, SpotDone
from loam.core.vehicle.particles import CLEAR_TAKEN

SEED = 27
LOW, HIGH = 0.05, 0.95
FILM, DEFECTS, PHOTOGRAPH = "film", "defects", "photograph"


def tells(job: Job, rests: Rests) -> bool:
    """Whether a car tells something of these classes: it is more likely of one than of none."""
    return sum(job.chances.get(h, 0.0) for h in rests.classes) >= 0.5


def spots_read(job: Job, rests: Rests, order: Sequence[str]) -> list[tuple[SpotDone, Spot]]:
    """Return the spots that were read, each rung once: a later spot of a rung stands for it."""
    found: dict[int, tuple[SpotDone, Spot]] = {}
    for done in job.spots:
        at = rests.at(done.rung)
        means = means_of(done, rests)
        read = {
            q: float(rests.promises[m].judged.scale.to(np.array([means[m]]))[0])
            for q, m in enumerate(order)
            if m in means
        }
        if at is not None and read:
            found.pop(at, None)
            found[at] = (done, Spot(at, read))
    return list(found.values())


def means_of(done: SpotDone, rests: Rests) -> dict[str, float]:
    """Return the means of what was read; photographs count where the panels were read by them."""
    means = done.means()
    if done.measured is not None and _by_photographs(rests):
        kind = kind_of(DEFECTS)
        means[DEFECTS] = min(max(done.measured[0], kind.low), kind.high)
    return means


def _by_photographs(rests: Rests) -> bool:
    return rests.scales.get(DEFECTS) == PHOTOGRAPH


def _photo_row(done: SpotDone, rests: Rests) -> Came | None:
    """Return what photographs of a spot measured where the panels were read otherwise.

    A measure of its own: nothing was promised of it.
    """
    if done.measured is None or _by_photographs(rests):
        return None
    value, error = done.measured
    return Came(DEFECTS, "by photographs", "%", value, None, None, error=error)


def quantiles(values: FloatArray, weights: FloatArray, at: Sequence[float]) -> list[float]:
    """Return weighted quantiles of values (n,)."""
    order = np.argsort(values)
    along = np.cumsum(weights[order])
    places = np.searchsorted(along / along[-1], np.asarray(at)).clip(max=len(order) - 1)
    return [float(v) for v in values[order][places]]


def told_spots(
    job: Job,
    rests: Rests,
    ladder: Ladder,
    measured: Sequence[Measured],
    spots: Sequence[tuple[SpotDone, Spot]],
    afters: Sequence[After],
) -> tuple[SpotTold, ...]:
    """Say of every spot what was promised before it, and what came."""
    found = []
    rows = _rows(job, ladder, measured, spots, ladder.cloud.weights)
    for (done, _), after, own in zip(spots, afters, rows, strict=False):
        unlike = tuple(dict.fromkeys(after.unlike))
        said = spot_words(done, own, unlike, after)
        photo = _photo_row(done, rests)
        if photo is not None:
            own, said = (*own, photo), f"{said} {OTHERWISE}"
        found.append(SpotTold(done, own, unlike, said))
    held = {told.spot.uid for told in found}
    for done in job.spots:
        photo = _photo_row(done, rests)
        if photo is not None and done.uid not in held:
            found.append(SpotTold(done, (photo,), (), OTHERWISE))
    return tuple(sorted(found, key=lambda told: told.spot.number))


def _rows(
    job: Job,
    ladder: Ladder,
    measured: Sequence[Measured],
    spots: Sequence[tuple[SpotDone, Spot]],
    weights: FloatArray,
) -> list[tuple[Came, ...]]:
    """Return, spot by spot, what was promised before it beside what came.

    It ends with a spot that no particle is like.
    """
    cloud = ladder.cloud
    found = []
    for done, spot in spots:
        rows = [
            _came(job, measured[q], cloud.results[q][:, spot.rung], weights, x)
            for q, x in spot.read.items()
        ]
        film = _film_row(done, cloud.clear[:, spot.rung], weights)
        found.append((*rows, *([film] if film is not None else [])))
        weights = ladder.weighed(weights, spot)
        if not weights.sum() > 0.0:
            break
        weights = weights / weights.sum()
    return found


def _came(job: Job, own: Measured, results: FloatArray, weights: FloatArray, x: float) -> Came:
    kind = kind_of(own.name)
    noise = own.spot_sd * np.random.default_rng(SEED).standard_normal(results.shape)
    promised = results + noise
    ends = quantiles(promised, weights, (LOW, HIGH))
    low, high = (float(v) for v in own.scale.back(np.array(ends)))
    value = float(own.scale.back(np.array([x]))[0])
    want = next((w for w in job.aim if w.measurand == own.name), None)
    limit = met = None
    if want is not None:
        limit = want.at_least if want.at_least is not None else want.at_most
        met = (want.at_least is None or value >= want.at_least - 1e-9) and (
            want.at_most is None or value <= want.at_most + 1e-9
        )
    return Came(
        own.name,
        kind.short,
        kind.unit,
        value,
        min(low, high),
        max(low, high),
        limit,
        met,
        rare=_rare(promised, weights, x),
    )


def _rare(promised: FloatArray, weights: FloatArray, x: float) -> float:
    """Return the chance of so much or more, or of so little or less: the lesser of both."""
    total = float(weights.sum())
    return min(float(weights @ (promised <= x)), float(weights @ (promised >= x))) / total


def _film_row(done: SpotDone, clear: FloatArray, weights: FloatArray) -> Came | None:
    """Return what the gauge says was taken, where film was read before and after."""
    before, after = done.means("before").get(FILM), done.means().get(FILM)
    if before is None or after is None:
        return None
    n = min(
        sum(r.measurand == FILM for r in done.before), sum(r.measurand == FILM for r in done.after)
    )
    noise = np.sqrt(2.0 / n) * np.random.default_rng(SEED).standard_normal(clear.shape)
    low, high = quantiles(clear + noise, weights, (LOW, HIGH))
    rare = _rare(clear + noise, weights, before - after)
    return Came(CLEAR_TAKEN, "clear taken", "µm", before - after, low, high, rare=rare)


def covered(
    jobs: Sequence[Job],
    rests: Rests,
    ladder: Ladder,
    measured: Sequence[Measured],
    order: Sequence[str],
) -> tuple[tuple[Lain, ...], dict[str, dict[str, float]]]:
    """Return every reading on cars so far, of spots, checks and follow-ups, and how hard each is.

    A car without a spot shows nothing of that.
    """
    cloud = ladder.cloud
    sizes = np.bincount(cloud.hardness, minlength=len(cloud.classes))
    found: list[Lain] = []
    seen: dict[str, dict[str, float]] = {}
    for job in jobs:
        share = np.array([job.chances.get(h, 0.0) for h in cloud.classes])
        if not share.sum() > 0.0 or not tells(job, rests):
            continue
        weights = (share / share.sum() / sizes)[cloud.hardness]
        spots = spots_read(job, rests, order)
        for (done, _), rows in zip(
            spots, _rows(job, ladder, measured, spots, weights), strict=False
        ):
            found += [Lain(job.name, r.measurand, done.rung, r.inside, r.rare) for r in rows]
        for _, spot in spots:
            after = ladder.weighed(weights, spot)
            if after.sum() > 0.0:
                weights = after / after.sum()
        for part in job.parts:
            found += _checked(job, part, rests, cloud, measured, weights)
        if spots:
            seen[job.name] = {
                name: float(weights[cloud.hardness == h].sum())
                for h, name in enumerate(cloud.classes)
            }
    return tuple(found), seen


def _checked(
    job: Job,
    part: CarPart,
    rests: Rests,
    cloud: Cloud,
    measured: Sequence[Measured],
    weights: FloatArray,
) -> Iterator[Lain]:
    """Hold what was read of a panel later against what its combination promised."""
    k = rests.at(part.done) if part.done else None
    if k is None:
        return
    means: dict[str, list[float]] = {}
    for r in (*part.checks, *part.later):
        means.setdefault(r.measurand, []).append(r.value)
    for q, own in enumerate(measured):
        if own.name in means:
            mean = sum(means[own.name]) / len(means[own.name])
            x = float(own.scale.to(np.array([mean]))[0])
            row = _came(job, own, cloud.results[q][:, k], weights, x)
            yield Lain(job.name, own.name, part.done, row.inside, row.rare)
