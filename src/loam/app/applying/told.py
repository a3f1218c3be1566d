"""What is said of a job's ladder: its stairs, its spots, how it goes on, what cars showed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from loam.app.applying.rests import Rests
from loam.core.ladder import Prices
from loam.core.readings import BY_KEY
from loam.core.text import listed
from loam.core.vehicle.day import in_order, plan_day
from loam.core.vehicle.follow import ODD, luck
from loam.core.vehicle.job import Job, SpotDone
from loam.core.vehicle.room import Room

PRICES = Prices(clear_per_minute=0.005, spot_weight=0.1, give_up=12.0)
"""What clear, minutes and giving up are worth: assumed until a workshop says otherwise."""
BEST = "by clear and time"
TAKEN = "take it"


@dataclass(frozen=True)
class Stair:
    """A rung on its stairs: what it takes and how surely it does what is wanted.

    Attributes
    ----------
    clear, low, high : float
        Expected clear, and its 90 % range, µm.
    reach : float
        Chance that it does what is wanted of this vehicle, within its budget.
    """

    code: str
    name: str
    clear: float
    low: float
    high: float
    reach: float
    allowed: bool


@dataclass(frozen=True)
class School:
    """One way to go about it, and its price; ``why`` says why nothing is tried on it."""

    label: str
    stairs: tuple[Stair, ...]
    clear: float
    tries: float
    minutes: float
    reach: float
    cost: float
    why: str = ""


@dataclass(frozen=True)
class Came:
    """What came of a spot in one measurand, beside what the panels promised.

    Attributes
    ----------
    low, high : float or None
        Between which nine of ten such spots should lie, as measured; None where nothing was
        promised.
    limit : float or None
        What is wanted.
    error : float or None
        Its own likely error, where it was measured with one.
    rare : float
        How often so much or more, or so little or less, was promised: the rarer of both.
    """

    measurand: str
    label: str
    unit: str
    value: float
    low: float | None
    high: float | None
    limit: float | None = None
    met: bool | None = None
    error: float | None = None
    rare: float = 1.0

    @property
    def inside(self) -> bool:
        """Whether it lies where nine of ten such spots should, or nothing was promised."""
        if self.low is None or self.high is None:
            return True
        return self.low - 1e-9 <= self.value <= self.high + 1e-9


@dataclass(frozen=True)
class SpotTold:
    """A spot and what is said of it: as promised, or unlike, and why that may be."""

    spot: SpotDone
    rows: tuple[Came, ...]
    unlike: tuple[str, ...]
    words: str

    @property
    def tells(self) -> bool:
        """Whether something was read of which something was promised."""
        return any(row.low is not None for row in self.rows)


@dataclass(frozen=True)
class Stairs:
    """All that is said of a job's ladder.

    Attributes
    ----------
    advice : str
        One line: take it, try that, stop, or measure first.
    decision : (str, str)
        "take", "try", "stop" or "measure", and the combination.
    classes : mapping of str to float
        Chances now.
    least : Room or None
        The panel that has least room; what may go of it is the line below the stairs.
    rooms : mapping of str to Room
    removed : mapping of str to (float, float)
        Mean and SD of the clear that each combination takes, by its letter.
    lain : tuple of Lain
        Every reading so far on cars of this ground, and whether it lay inside.
    notes : tuple of str
        What is assumed.
    seen : mapping of str to mapping
        How hard every car was, as its spots showed, by its name.
    """

    advice: str
    decision: tuple[str, str]
    classes: Mapping[str, float]
    schools: tuple[School, ...]
    spots: tuple[SpotTold, ...]
    least: Room | None
    rooms: Mapping[str, Room]
    removed: Mapping[str, tuple[float, float]]
    rests: Rests
    lain: tuple[Lain, ...] = ()
    notes: tuple[str, ...] = ()
    ways: Mapping[str, float] = field(default_factory=dict)
    seen: Mapping[str, Mapping[str, float]] = field(default_factory=dict)

    @property
    def covered(self) -> tuple[int, int]:
        """How many readings on cars there are so far, and how many lay inside."""
        return len(self.lain), sum(one.inside for one in self.lain)


@dataclass(frozen=True)
class Lain:
    """A reading on a car beside its promise."""

    car: str
    measurand: str
    rung: str
    inside: bool
    rare: float = 1.0


def shown_words(lain: Sequence[Lain]) -> tuple[str, ...]:
    """Say how what cars showed lay to what panels promised: in all, by measurement and rung."""
    if not lain:
        return ("No car has been read yet: what panels promise was never held against one.",)

    def told(which: Mapping[str, list[bool]]) -> str:
        return listed([f"{name} {sum(v)} of {len(v)}" for name, v in which.items()])

    by: dict[str, list[bool]] = {}
    rungs: dict[str, list[bool]] = {}
    for one in lain:
        kind = BY_KEY.get(one.measurand)
        by.setdefault(kind.short if kind is not None else one.measurand, []).append(one.inside)
        rungs.setdefault(one.rung, []).append(one.inside)
    found = [
        f"Panels to cars: {sum(o.inside for o in lain)} of {len(lain)} readings lay where nine of"
        " ten should.",
        f"By measurement: {told(by)}.",
        f"By combination: {told(rungs)}.",
    ]
    odd = list(odd_cars(lain))
    if odd:
        found.append(f"Unlike its class: {listed(odd)}. It is a doubt of the trial (F8, D).")
    return tuple(found)


def odd_cars(lain: Sequence[Lain]) -> dict[str, tuple[int, int, float]]:
    """Return the cars that were unlike their class.

    Returns
    -------
    dict of str to (int, int, float)
        By car: how many readings, how many outside, and how often luck does that.
    """
    cars: dict[str, list[Lain]] = {}
    for one in lain:
        cars.setdefault(one.car, []).append(one)
    found = {}
    for car, own in cars.items():
        outside = sum(not one.inside for one in own)
        rare = luck(len(own), outside, min(one.rare for one in own))
        if rare < ODD:
            found[car] = (len(own), outside, rare)
    return found


def going_on(job: Job, stairs: Stairs) -> str:
    """Say how a job goes on once a combination is taken, or that it is over; "" before that."""
    if job.finished:
        return f"Finished with {job.taken or 'nothing taken'}. {job.remark}".strip()
    if not job.taken:
        return ""
    day = plan_day(job, stairs.rests.paces)
    left = [p for p in in_order(job, day) if not p.done]
    if not left:
        return f"All panels are done with {job.taken}. Finish it, or look at it again later."
    told = f"{job.taken} is taken. Next: {left[0].key}, then {len(left) - 1} more."
    if len(left) == 1:
        told = f"{job.taken} is taken. Last: {left[0].key}."
    first = next(p for p in job.working if not p.done)
    if first.key != left[0].key:
        name = f"{first.key[:1].upper()}{first.key[1:]}"
        minutes = next((t.minutes for t in day.turns if t.part == first.key), None)
        if minutes is None:
            told += f" {name} waits: nobody knows how long it takes."
        else:
            told += f" {name} waits for a morning: {minutes:.0f} min."
    thin = [
        r.part
        for p in left
        if (r := stairs.rooms.get(p.key)) is not None
        and not p.rung
        and r.chance is not None
        and r.chance < PRICES.budget_chance
    ]
    if thin:
        told += f" {listed(thin[:3])} may not bear it: a milder one there (I), or leave it out (O)."
    return told


def alike(job: Job, others: Sequence[Job], stairs: Stairs) -> dict[str, float]:
    """Return how hard earlier cars of the same paint line were, on the mean; {} where none was."""
    wanted = job.paint.strip().casefold()
    found = [
        stairs.seen[o.name]
        for o in others
        if not o.apart and wanted and o.paint.strip().casefold() == wanted and o.name in stairs.seen
    ]
    if not found:
        return {}
    classes = {c for own in found for c in own}
    return {c: sum(own.get(c, 0.0) for own in found) / len(found) for c in classes}
