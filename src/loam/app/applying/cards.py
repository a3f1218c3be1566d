"""What stands on the cards and sheets of a job: for the wall, for the work, for the customer."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from loam.app.applying.held_against import HIGH, LOW, SEED, quantiles
from loam.app.applying.rests import OPEN_PAD_MM, SMALL_PAD_MM, Rests, rests_on
from loam.app.applying.stairs import grounds_of, work_out
from loam.app.applying.told import PRICES, Stair, Stairs
from loam.app.reflection import Light, light_of
from loam.core.errors import LoamError
from loam.core.film.budget import CLEAR_UM
from loam.core.ladder import Prices
from loam.core.readings import kind_of
from loam.core.text import listed
from loam.core.trial import HARDNESSES, Combination, Stage
from loam.core.units import fixed, percent
from loam.core.vehicle.job import Job
from loam.core.vehicle.particles import CLEAR_TAKEN, particles
from loam.core.vehicle.room import Room
from loam.core.vehicle.supply import supply

MEASURED = ("defects", "haze", "gloss20")
LIGHTER = 0.65
"""A stage that is done again because it hazes is pressed so much lighter: assumed."""
CARE = (
    "Measure before work: an ordinary gauge reads the whole film, and the clear's share is assumed."
    " Edges and creases are thin. Vibration, solvents, dust, heat: follow the product's safety data"
    " sheet, local rules and qualified practice."
)
_HASTE = "Never a third set without measuring."


@dataclass(frozen=True)
class Expect:
    """A figure of a card: what it is, its range, and of what it is said."""

    label: str
    value: str
    below: str


@dataclass(frozen=True)
class WallCard:
    """A card for the wall: where to start on a clear of one hardness.

    Attributes
    ----------
    settings : tuple of (str, str)
        What each stage is worked with, and how it is set.
    more, hazes : str
        What to do where marks are left, and where it hazes.
    stairs : tuple of Stair
    """

    hardness: str
    title: str
    start: Combination
    settings: tuple[tuple[str, str], ...]
    expects: tuple[Expect, ...]
    more: str
    hazes: str
    stairs: tuple[Stair, ...]
    sure: str
    foot: str
    before: Light
    after: Light
    care: str = CARE


@dataclass(frozen=True)
class Customer:
    """The customer's sheet: one page, no statistics."""

    title: str
    owner: str
    say: str
    goes: str
    stays: tuple[str, ...]
    clear: str
    after: tuple[str, ...]
    before_light: Light
    after_light: Light


def stage_lines(stages: Sequence[Stage]) -> tuple[tuple[str, str], ...]:
    """Return what each stage is worked with, and how it is set."""
    found = []
    for s in stages:
        tool = " + ".join(p for p in (s.disc or s.pad, s.compound) if p) or "?"
        on = f"{tool} on {s.machine}" if s.machine else tool
        parts = (
            f"dial {s.dial}" if s.dial else "",
            "its own weight" if s.by_weight else f"{s.force_n:g} N" if s.force_n else "",
            f"{s.arm_mm_s:g} mm/s" if s.arm_mm_s else "",
            f"{s.passes} section passes" if s.passes else "",
            f"overlap {100 * s.overlap:g} %" if s.overlap else "",
            f"tilted {s.tilt_deg:g}°" if s.tilt_deg else "",
        )
        found.append((on, ", ".join(p for p in parts if p)))
    return tuple(found)


def wall_cards(
    path: Path,
    job: Job,
    others: Sequence[Job],
    foot: str,
    covered: tuple[int, int] = (0, 0),
    prices: Prices = PRICES,
) -> list[WallCard]:
    """Return a card for every hardness that was read; made for a worker.

    Parameters
    ----------
    foot : str
        Whose it is and when: the letterhead's name and the day.
    covered : (int, int)
        Readings on cars so far, and how many lay inside what was promised: as Apply says it.

    Raises
    ------
    NotEnough
        When nothing that is wanted was read.
    """
    wanted = dict.fromkeys((*MEASURED, *(w.measurand for w in job.aim)))
    cards = []
    for hardness in HARDNESSES:
        try:
            rests = rests_on(path, job.trial, tuple(wanted), {hardness: 1.0})
            card = _wall_card(rests, job, others, hardness, foot, prices)
            cards.append(replace(card, sure=card.sure + _held(*covered)))
        except LoamError:
            continue
    if not cards:  # say why
        rests_on(path, job.trial, tuple(wanted), job.chances)
    return cards


def _wall_card(
    rests: Rests, job: Job, others: Sequence[Job], hardness: str, foot: str, prices: Prices
) -> WallCard:
    """Work out the card of one hardness: any car of that class, its budget not known."""
    bare = replace(
        job,
        chances={hardness: 1.0},
        known=True,
        spots=(),
        decided=("", "", ""),
        parts=tuple(replace(p, survey=(), rung="") for p in job.parts),
    )
    stairs = work_out(bare, rests, others, prices)
    sequence = stairs.schools[0].stairs or stairs.schools[1].stairs
    first = sequence[0]
    start = rests.rungs[rests.codes.index(first.code)]
    then = _then(rests, stairs, first)
    expects, before, after = _expects(rests, bare, first)
    order = [s for s in (first, *([then] if then is not None else []))]
    aim = ", ".join(_limit_words(job))
    return WallCard(
        hardness,
        f"{hardness.capitalize()} clear" + (f": {job.preset}" if job.preset != "as said" else ""),
        start,
        stage_lines(start.stages),
        expects,
        f"{then.code}  {then.name}: {fixed(then.clear, 1)} µm. {_HASTE}" if then else _HASTE,
        _hazes(start.stages),
        tuple(order),
        f"{first.code} does it ({aim}) on {percent(first.reach)} of such cars.",
        f"from {rests.trial}; {foot}".strip("; "),
        before,
        after,
    )


def _held(count: int, inside: int) -> str:
    """Say how readings on cars lay to what panels promised; "" before there are any."""
    if not count:
        return ""
    return f" On cars, {inside} of {count} readings lay where the panels promised."


def _limit_words(job: Job) -> list[str]:
    told = []
    for w in job.aim:
        kind = kind_of(w.measurand)
        if w.at_least is not None:
            told.append(f"{kind.short} at least {w.at_least:g} {kind.unit}")
        if w.at_most is not None:
            told.append(f"{kind.short} at most {w.at_most:g} {kind.unit}")
    return told


def _then(rests: Rests, stairs: Stairs, first: Stair) -> Stair | None:
    """Return what to step up to: the next rung of the stairs that takes more and does more."""
    every = {s.code: s for school in stairs.schools for s in school.stairs}
    above = [s for s in every.values() if s.clear > first.clear and s.reach > first.reach]
    return min(above, key=lambda s: s.clear, default=None)


def _hazes(stages: Sequence[Stage]) -> str:
    """Say what to do where it hazes: the last stage again, lighter."""
    last = stages[-1]
    if last.force_n and not last.by_weight:
        how = f"lighter: {round(last.force_n * LIGHTER / 5.0) * 5:g} N"
    else:
        how = "lighter and slower"
    which = "The last stage" if len(stages) > 1 else "The same"
    return f"{which} again, {how}. Wipe twice before you judge."


def _expects(rests: Rests, job: Job, first: Stair) -> tuple[tuple[Expect, ...], Light, Light]:
    """Return what to expect on nine of ten cars like the panels, and the lamp before and after."""
    cloud = particles(grounds_of(job, rests, None, {}), np.random.default_rng(SEED))
    k = rests.codes.index(first.code)
    order = [m for m in rests.promises if m != CLEAR_TAKEN]
    found, means = [], {}
    labels = {"defects": "marks gone", "haze": "haze", "gloss20": "gloss 20°"}
    for m in MEASURED:
        if m not in order:
            continue
        scale = rests.promises[m].judged.scale
        x = cloud.results[order.index(m)][:, k]
        low, middle, high = (
            float(v) for v in scale.back(np.array(quantiles(x, cloud.weights, (LOW, 0.5, HIGH))))
        )
        kind = kind_of(m)
        means[m] = middle
        a, b = sorted((low, high))
        value = f"{a:.0f} to {b:.0f} {kind.unit}"
        found.append(Expect(labels[m], value, "on 9 of 10 cars like the panels"))
    times = int(CLEAR_UM / 2 // max(first.clear, 0.1))
    bears = f"an assumed {CLEAR_UM:.0f} µm bears it {min(times, 12)} times, by half"
    clear = f"{fixed(first.low, 1)} to {fixed(first.high, 1)} µm"
    found.append(Expect("clear it takes", clear, bears))
    pace = rests.paces.get(first.code)
    if pace is not None:
        minutes = pace.machine * 0.16
        found.append(Expect("time", f"{minutes:.0f} min a square", "of 400 × 400 mm, all stages"))
    after = light_of(means.get("gloss20"), means.get("haze"), means.get("defects"))
    return tuple(found), light_of(62.0, 25.0, 0.0), after


def customer(job: Job, stairs: Stairs | None, rooms: Mapping[str, Room]) -> Customer:
    """Return the customer's sheet of a job as far as it has come."""
    gone = _gone(job, stairs)
    goes = _goes_words(gone)
    stays = [
        f"{nail.words or 'A mark that catches a fingernail'} on the {p.key}: it is deeper than the"
        " clear that may go."
        for p in job.parts
        for nail in p.nails
    ]
    stays += [f"The {p.key} is left out." for p in job.parts if p.out and not p.glass]
    stays += [
        f"The {p.key} is {p.state_words}: it is worked gently, and less goes there."
        for p in job.parts
        if p.works and p.state in ("again", "single", "unknown")
    ]
    if gone is not None:
        stays.append("Single marks that lie deeper than the rest: chasing them costs clear.")
    spot = job.spots[-1] if job.spots else None
    before = spot.means("before") if spot is not None else {}
    now = spot.means() if spot is not None else {}
    return Customer(
        job.name,
        job.owner,
        job.say,
        goes,
        tuple(stays) or ("Nothing that was seen so far.",),
        _clear_words(job, stairs, rooms),
        (
            "Wash with much water and a soft mitt, two buckets, no brushes.",
            "Dry by patting, not by rubbing. Take bird lime and sap off the same day.",
            "For the next polish: show this sheet. What was taken off cannot be put back.",
        ),
        light_of(before.get("gloss20"), before.get("haze", 30.0), 0.0),
        light_of(
            now.get("gloss20", 88.0), now.get("haze", 12.0), now.get("defects", _middle(gone))
        ),
    )


def _middle(gone: tuple[float, float] | None) -> float:
    return sum(gone) / 2 if gone is not None else 90.0


def _gone(job: Job, stairs: Stairs | None) -> tuple[float, float] | None:
    """Return what of the marks goes, % (low, high): as a spot showed, or as is wanted."""
    for spot in reversed(job.spots):
        value = spot.means().get("defects")
        if value is not None and spot.rung == (job.taken or spot.rung):
            return max(value - 10.0, 0.0), min(value + 5.0, 100.0)
    for w in job.aim:
        if w.measurand == "defects" and w.at_least is not None:
            return w.at_least, 100.0
    return None


def _goes_words(gone: tuple[float, float] | None) -> str:
    if gone is None:
        return "How many of the marks go will be shown on one spot first."
    low, high = (round(v / 10.0) for v in gone)
    many = f"about {low} to {high} of ten" if low < high else f"about {high} of ten"
    if low < high and high == 10:
        many = f"{low} or more of ten"
    return f"Of the fine marks that a lamp shows, {many} go. The gloss comes back with them."


def _clear_words(job: Job, stairs: Stairs | None, rooms: Mapping[str, Room]) -> str:
    """Say what clear is left, as a range with its caveat."""
    told = [
        r for r in rooms.values() if r.clear is not None and (p := job.part(r.part)) and p.works
    ]
    if not told:
        return "The paint was not measured: nothing is said of how much clear is left."
    code = job.taken or (stairs.decision[1] if stairs is not None else "")
    taken = stairs.removed.get(code, (0.0, 0.0))[0] if stairs is not None and code else 0.0
    least = min(told, key=lambda r: r.clear.mean if r.clear is not None else 0.0)
    assert least.clear is not None
    left, sd = least.clear.mean - taken, least.clear.sd
    low, high = max(left - 1.64 * sd, 0.0), left + 1.64 * sd
    what = f"about {fixed(taken, 1)} µm (thousandths of a millimetre) go; " if taken else ""
    return (
        f"Of the clear coat {what}{low:.0f} to {high:.0f} µm stay at the thinnest spot that was"
        f" read ({least.part}). A gauge reads all layers together, so this is an estimate: no"
        " measurement of the clear itself."
    )


def supply_words(
    job: Job, taken: Combination | None, find: Callable[[str], Combination | None]
) -> str:
    """Say what is to be laid out for a vehicle: clean pads and compound; "" before it is known."""
    codes = {p.rung for p in job.working if p.rung} | ({taken.code} if taken is not None else set())
    found = {c: own for c in codes if (own := find(c)) is not None}
    pads, weights = supply(
        job, {c: own.stages for c, own in found.items()}, OPEN_PAD_MM, SMALL_PAD_MM
    )
    told = [f"{count} {name}" for name, count in pads.items()]
    told += [f"{weight:.0f} g {name}" for name, weight in weights.items()]
    return f"{listed(told)} (assumed: a clean pad every four sections)." if told else ""


def record_rows(job: Job, rooms: Mapping[str, Room]) -> list[list[str]]:
    """Return the record for the next time: panel, paint, film, worked with."""
    rows = [["panel", "paint", "film, µm", "thinnest", "worked with", "marks"]]
    for p in job.parts:
        if p.glass:
            continue
        film = (*p.film, *p.edge)
        room = rooms.get(p.key)
        rows.append(
            [
                p.key,
                p.state_words,
                f"{sum(film) / len(film):.0f} ({len(film)})" if film else "not read",
                "" if room is None or room.thinnest is None else f"{room.thinnest:.0f}",
                p.done or ("left out" if p.out else ""),
                listed([f"{k} {v}" for k, v in p.damage.items()]) if p.damage else "",
            ]
        )
    return rows
