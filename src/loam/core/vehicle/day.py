"""The days of a whole vehicle: minutes a panel, who works what, breaks by vibration, checks.

Time runs along one axis, working minutes: day k of the job begins at k times the hours of a day.
Nobody works past the hours of a day, nor past the limit value of a day's vibration: a panel that
does not fit waits for the next morning, and the next one that does is worked.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from loam.core.errors import ValueRefused
from loam.core.vehicle.job import CarPart, Job
from loam.core.vehicle.shapes import area_mm2, box_of, length_mm
from loam.core.vibration import ACTION, LIMIT, daily_exposure, points

PREPARE_MIN = 90.0
"""Wash, decontaminate, dry, tape and survey a vehicle: assumed."""
SECTION_M2 = 0.36
"""A section of 600 by 600 mm."""
WIPE_MIN, SET_UP_MIN, READ_MIN = 1.0, 1.0, 2.0
"""Minutes to wipe a section, to set a stage up on a panel, to check a panel: assumed."""
TIGHT_MM = 40.0
"""So far from its outline a panel is worked with a small machine: assumed."""
NARROW_MM = 300.0
"""A panel that is narrower is tight everywhere: no open pad lies flat on it."""
TIGHT = 1.35
"""Tight places take so many times longer where a combination does not say how long: assumed."""
STRETCH_MIN, REST_MIN = 90.0, 10.0
"""The longest time of machine between two breaks, and a break: assumed."""
CHECK_EVERY = 4
"""Every so many panels a spot is checked."""


@dataclass(frozen=True)
class Turn:
    """A panel in the days: when, who, with what.

    Attributes
    ----------
    start, minutes : float
        Working minutes from the start of the first day; breaks within are in its minutes.
    who : int
        From 0.
    """

    part: str
    rung: str
    start: float
    minutes: float
    who: int
    checked: bool = False
    done: bool = False

    @property
    def end(self) -> float:
        """When it ends."""
        return self.start + self.minutes


@dataclass(frozen=True)
class Day:
    """The planned days.

    Attributes
    ----------
    turns : tuple of Turn
        In the order in which they begin.
    prepare : float
        Minutes before the first panel.
    ends : float
        Working minutes from the start of the first day.
    a8 : tuple of float
        Exposure of each person on their worst day, m/s².
    lacking : tuple of str
        Panels whose minutes nobody knows.
    span : float
        Minutes of a day.
    breaks : int
        How many breaks there are, of all people.
    tight_m2 : float
        Area that is worked with a small machine.
    beyond : tuple of str
        Panels that alone take whoever works them past the limit value.
    """

    turns: tuple[Turn, ...]
    prepare: float
    ends: float
    a8: tuple[float, ...]
    lacking: tuple[str, ...] = ()
    span: float = 540.0
    breaks: int = 0
    tight_m2: float = 0.0
    beyond: tuple[str, ...] = ()

    @property
    def over(self) -> bool:
        """Whether somebody comes to the action value."""
        return any(a >= ACTION for a in self.a8)

    @property
    def days(self) -> int:
        """How many days it takes."""
        return self.of(max(self.ends - 1e-6, 0.0))[0] + 1

    def of(self, minutes: float) -> tuple[int, float]:
        """Return on which day a moment lies (from 0), and how many minutes from its start."""
        day = int(minutes / self.span + 1e-9)
        return day, max(minutes - day * self.span, 0.0)


@dataclass(frozen=True)
class Pace:
    """How long a combination takes, and how it shakes.

    Attributes
    ----------
    machine, stages : float
        Minutes of machine a square metre of open panel; how many stages.
    shake : float
        Vibration total, m/s²; 0 where nobody knows.
    small : float or None
        Minutes of machine a square metre with the pad of a small machine.
    """

    machine: float
    stages: int
    shake: float = 0.0
    small: float | None = None


def tight_m2(part: CarPart) -> float:
    """Return how much of a panel no open pad lies flat on: near its outline, or all of it, m²."""
    whole = abs(area_mm2(part.outline)) / 1e6
    if not whole > 0.0:
        return 0.0
    wide, high = box_of(part.outline)[2:]
    near = TIGHT_MM * length_mm(part.outline) / 1e6
    share = 1.0 if min(wide, high) < NARROW_MM else min(near / whole, 1.0)
    return share * part.area_m2


def machine_minutes(part: CarPart, pace: Pace) -> float:
    """Return how long machines run on a panel, a small one in its tight places."""
    tight = tight_m2(part)
    small = pace.small if pace.small is not None else TIGHT * pace.machine
    return pace.machine * (part.area_m2 - tight) + small * tight


def panel_minutes(part: CarPart, pace: Pace) -> float:
    """Return how long a panel takes, wipes, set-ups and a look included; breaks are not."""
    sections = max(1.0, part.area_m2 / SECTION_M2)
    return machine_minutes(part, pace) + pace.stages * (SET_UP_MIN + WIPE_MIN * sections) + READ_MIN


def vehicle_minutes(job: Job, pace: Pace) -> float:
    """Return how long all panels take with one combination."""
    return sum(panel_minutes(p, pace) for p in job.working)


def stretch_minutes(shake: float) -> float:
    """Return how long a machine may run before a break, min; never longer than `STRETCH_MIN`.

    Until it has shaken as much as a whole day at the action value of A(8).
    """
    if not shake > 0.0:
        return STRETCH_MIN
    return min(60.0 * points([(ACTION, 8.0)]) / points([(shake, 1.0)]), STRETCH_MIN)


@dataclass
class _Hand:
    """A person: free from when, machine since the last break, and how each day has shaken."""

    free: float
    since: float = 0.0
    breaks: int = 0
    shaken: dict[int, list[tuple[float, float]]] = field(default_factory=dict)

    def on(self, day: int) -> list[tuple[float, float]]:
        """Return the parts of a day's exposure."""
        return self.shaken.setdefault(day, [])


@dataclass(frozen=True)
class _Task:
    """A panel to be dealt out: its minutes, those of machine, and how it shakes."""

    part: CarPart
    minutes: float
    machine: float
    shake: float

    @property
    def stretch(self) -> float:
        """Minutes of machine between two breaks."""
        return stretch_minutes(self.shake)

    @property
    def within(self) -> int:
        """Breaks within it; one that needs any has one before it, unless work begins with it."""
        return max(0, int((self.machine - 1e-9) // self.stretch))

    def before(self, since: float) -> int:
        """Return the breaks before it, after so much machine since the last."""
        return int(since > 0.0 and since + self.machine > self.stretch)


def _morning(minutes: float, span: float) -> bool:
    """Return whether a moment is the start of a day: the night before it was a break."""
    return abs(minutes / span - round(minutes / span)) < 1e-9


@dataclass(frozen=True)
class _Offer:
    """When somebody could begin a panel on the day at hand, how long it takes, and its breaks."""

    start: float
    minutes: float
    breaks: int
    fits: bool


def _offer(hand: _Hand, task: _Task, span: float) -> _Offer:
    """Return what somebody could do about a panel; whether it fits into their day."""
    before = 0 if _morning(hand.free, span) else task.before(hand.since)
    start = hand.free + before * REST_MIN
    minutes = task.minutes + task.within * REST_MIN
    day = int(hand.free / span + 1e-9)
    shaken = [*hand.on(day), (task.shake, task.machine / 60.0)]
    ends = start - day * span + minutes
    fits = ends <= span + 1e-6 and daily_exposure(shaken) <= LIMIT
    return _Offer(start, minutes, before + task.within, fits)


def _next(hand: _Hand, tasks: Sequence[_Task], span: float) -> tuple[int, _Offer] | None:
    """Return which panel somebody does next; None where they go home.

    The first in the order of work that fits into what is left of their day; one that fits into no
    day is begun in the morning.
    """
    for at, task in enumerate(tasks):
        offer = _offer(hand, task, span)
        if offer.fits:
            return at, offer
    return (0, _offer(hand, tasks[0], span)) if _morning(hand.free, span) else None


def ready_minutes(job: Job) -> float:
    """Return when panels can be begun: once it is prepared, or a combination was taken that day.

    Where that was after the hours of the day, the next morning.
    """
    span = job.hours * 60.0
    if not job.day or job.taken_at[:10] != job.day:
        return PREPARE_MIN
    since = (hour_of(job.taken_at[11:16]) - hour_of(job.start)) * 60.0
    return min(max(PREPARE_MIN, since), span)


def plan_day(job: Job, paces: Mapping[str, Pace], still: Sequence[str] = ()) -> Day:
    """Deal the panels out: whoever is free first takes the next that fits into their day.

    Parameters
    ----------
    paces : mapping of str to Pace
        By combination.
    still : sequence of str
        Where given, only these panels (what is left to do).

    Raises
    ------
    ValueRefused
        When nobody works, or a day is too short to prepare a vehicle.
    """
    if job.people < 1:
        raise ValueRefused("Nobody works on this vehicle.", todo="Say how many do.")
    span = job.hours * 60.0
    if span <= PREPARE_MIN:
        raise ValueRefused("The day is over before a vehicle is washed.", todo="Make it longer.")
    ready = ready_minutes(job)
    hands = [_Hand(ready) for _ in range(job.people)]
    parts = [p for p in job.working if not still or p.key in still]
    paced = [(p, paces.get(p.done or job.rung_of(p))) for p in parts]
    left = [
        _Task(p, panel_minutes(p, pace), machine_minutes(p, pace), pace.shake)
        for p, pace in paced
        if pace is not None
    ]
    dealt: list[Turn] = []
    beyond = []
    while left:
        who = min(range(job.people), key=lambda w: (hands[w].free, w))
        found = _next(hands[who], left, span)
        if found is None:
            hands[who].free = (int(hands[who].free / span + 1e-9) + 1) * span
            continue
        task, offer = left.pop(found[0]), found[1]
        if daily_exposure([(task.shake, task.machine / 60.0)]) > LIMIT:
            beyond.append(task.part.key)
        rung, done = task.part.done or job.rung_of(task.part), bool(task.part.done)
        dealt.append(Turn(task.part.key, rung, offer.start, offer.minutes, who, done=done))
        _take(hands[who], task, offer, span)
    dealt.sort(key=lambda t: (t.start, t.who))
    last = len(dealt) - 1
    turns = [
        replace(t, checked=i % CHECK_EVERY == CHECK_EVERY - 1 or i == last)
        for i, t in enumerate(dealt)
    ]
    return Day(
        tuple(turns),
        ready,
        max((t.end for t in turns), default=ready),
        tuple(max(map(daily_exposure, h.shaken.values()), default=0.0) for h in hands),
        tuple(p.key for p, pace in paced if pace is None),
        span,
        sum(h.breaks for h in hands),
        sum(tight_m2(p) for p, pace in paced if pace is not None),
        tuple(beyond),
    )


def _take(hand: _Hand, task: _Task, offer: _Offer, span: float) -> None:
    """Give a panel to somebody; one that goes on the next day shakes on both."""
    start, end = offer.start, offer.start + offer.minutes
    rested = start - hand.free >= REST_MIN - 1e-9 or _morning(start, span)
    since = 0.0 if rested else hand.since
    hand.since = since + task.machine - task.within * task.stretch
    hand.free, hand.breaks = end, hand.breaks + offer.breaks
    first = int(start / span + 1e-9)
    for day in range(first, max(first, int(end / span - 1e-9)) + 1):
        share = (min((day + 1) * span, end) - max(day * span, start)) / offer.minutes
        hand.on(day).append((task.shake, share * task.machine / 60.0))


def in_order(job: Job, day: Day | None) -> tuple[CarPart, ...]:
    """Return the panels to work as they are planned; those that are not planned come last."""
    starts = {t.part: t.start for t in day.turns} if day is not None else {}
    return tuple(sorted(job.working, key=lambda p: starts.get(p.key, math.inf)))


def hour_of(start: str) -> float:
    """Return a time of day as hours: 8.5 for 08:30; 9 for what is none."""
    hour, _, minute = start.partition(":")
    try:
        return int(hour) + int(minute or 0) / 60.0
    except ValueError:
        return 9.0


@dataclass(frozen=True)
class Check:
    """A spot check on a panel: whether the panel is done, and what is still to be read of it."""

    part: str
    due: bool
    lacking: tuple[str, ...]


def checks_of(job: Job, day: Day) -> tuple[Check, ...]:
    """Return the spot checks of the days that lack a reading of what is wanted, in their order."""
    wanted = [w.measurand for w in job.aim if w.measurand in CHECKED]
    found = []
    for turn in day.turns:
        part = job.part(turn.part)
        if part is None or not turn.checked:
            continue
        read = {r.measurand for r in (*part.checks, *part.later)}
        lacking = tuple(m for m in wanted if m not in read)
        if lacking:
            found.append(Check(part.key, bool(part.done), lacking))
    return tuple(found)


CHECKED = ("defects", "haze", "gloss20")
"""What is read again on a vehicle while it is worked."""


@dataclass(frozen=True)
class Late:
    """How far a day is behind.

    Attributes
    ----------
    minutes : float
        Below 0: ahead.
    ends : float
        When it will end, minutes from its start.
    spare : tuple of (str, float)
        Panels that could be left out, the last ones first, with the minutes that each saves.
    """

    minutes: float
    ends: float
    spare: tuple[tuple[str, float], ...]


def late(day: Day, now: float) -> Late | None:
    """Return how far a day is behind at a moment (minutes from its start); None once it is done.

    It is behind by how long ago the first panel that is not done should have ended; ahead where
    that was not to be begun yet.
    """
    left = [t for t in day.turns if not t.done]
    if not left:
        return None
    first = left[0]
    behind = now - first.end if now > first.end else min(0.0, now - first.start)
    ends = day.ends + max(behind, 0.0)
    spare, saved = [], 0.0
    for turn in reversed(left):
        if saved >= behind:
            break
        spare.append((turn.part, turn.minutes))
        saved += turn.minutes
    return Late(behind, ends, tuple(spare))
