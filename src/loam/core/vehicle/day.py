"""The day of a whole vehicle: minutes a panel, who works what, breaks, and how late it is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from loam.core.errors import ValueRefused
from loam.core.vehicle.job import CarPart, Job
from loam.core.vibration import ACTION, daily_exposure

PREPARE_MIN = 90.0
"""Wash, decontaminate, dry, tape and survey a vehicle: assumed."""
SECTION_M2 = 0.36
"""A section of 600 by 600 mm."""
WIPE_MIN, SET_UP_MIN, READ_MIN = 1.0, 1.0, 2.0
"""Minutes to wipe a section, to set a stage up on a panel, to check a panel: assumed."""
TIGHT = 1.35
"""Bumpers and edges take so many times longer, with small pads: assumed."""
REST_EVERY, REST_MIN = 50.0, 10.0
"""A break after so many minutes of machine: assumed, besides what vibration asks for."""
CHECK_EVERY = 4
"""Every so many panels a spot is checked."""


@dataclass(frozen=True)
class Turn:
    """A panel in the day: when, who, with what.

    Attributes
    ----------
    start, minutes : float
        Minutes from the start of the day.
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
    """A planned day.

    Attributes
    ----------
    turns : tuple of Turn
        In the order in which they begin.
    prepare : float
        Minutes before the first panel.
    ends : float
        Minutes from the start of the day.
    a8 : tuple of float
        Daily exposure of each person, m/s².
    lacking : tuple of str
        Panels whose minutes nobody knows.
    """

    turns: tuple[Turn, ...]
    prepare: float
    ends: float
    a8: tuple[float, ...]
    lacking: tuple[str, ...] = ()

    @property
    def over(self) -> bool:
        """Whether somebody comes to the action value."""
        return any(a >= ACTION for a in self.a8)


@dataclass(frozen=True)
class Pace:
    """How long a combination takes, and how it shakes.

    Attributes
    ----------
    machine, stages : float
        Minutes of machine a square metre; how many stages.
    shake : float
        Vibration total, m/s²; 0 where nobody knows.
    """

    machine: float
    stages: int
    shake: float = 0.0


def panel_minutes(part: CarPart, pace: Pace) -> float:
    """Return how long a panel takes, wipes, set-ups and a look included."""
    sections = max(1.0, part.area_m2 / SECTION_M2)
    tight = TIGHT if "bumper" in part.key or part.area_m2 < 0.25 else 1.0
    machine = pace.machine * part.area_m2 * tight
    return machine + pace.stages * (SET_UP_MIN + WIPE_MIN * sections) + READ_MIN


def vehicle_minutes(job: Job, pace: Pace) -> float:
    """Return how long all panels take with one combination."""
    return sum(panel_minutes(p, pace) for p in job.working)


def plan_day(job: Job, paces: Mapping[str, Pace], still: Sequence[str] = ()) -> Day:
    """Deal the panels out: each next one, in the order of work, to whoever is free first.

    Parameters
    ----------
    paces : mapping of str to Pace
        By combination.
    still : sequence of str
        Where given, only these panels (what is left to do).

    Raises
    ------
    ValueRefused
        When nobody works.
    """
    if job.people < 1:
        raise ValueRefused("Nobody works on this vehicle.", todo="Say how many do.")
    free = [PREPARE_MIN] * job.people
    since = [0.0] * job.people
    shaken: list[list[tuple[float, float]]] = [[] for _ in range(job.people)]
    turns: list[Turn] = []
    lacking = []
    parts = [p for p in job.working if not still or p.key in still]
    for i, part in enumerate(parts):
        rung = part.done or job.rung_of(part)
        pace = paces.get(rung)
        if pace is None:
            lacking.append(part.key)
            continue
        who = min(range(job.people), key=lambda w: (free[w], w))
        minutes = panel_minutes(part, pace)
        machine = pace.machine * part.area_m2
        if since[who] + machine > REST_EVERY and since[who] > 0.0:
            free[who] += REST_MIN
            since[who] = 0.0
        turns.append(
            Turn(
                part.key,
                rung,
                free[who],
                minutes,
                who,
                checked=i % CHECK_EVERY == CHECK_EVERY - 1 or i == len(parts) - 1,
                done=bool(part.done),
            )
        )
        free[who] += minutes
        since[who] += machine
        shaken[who].append((pace.shake, machine / 60.0))
    a8 = tuple(daily_exposure(s) for s in shaken)
    turns.sort(key=lambda t: (t.start, t.who))
    return Day(tuple(turns), PREPARE_MIN, max(free) if turns else PREPARE_MIN, a8, tuple(lacking))


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
