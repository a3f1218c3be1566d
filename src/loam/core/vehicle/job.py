"""A job as it stands: a vehicle, its panels, what is wanted of it, its spots."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from loam.core.film.build import PLASTIC, STEEL
from loam.core.vehicle.events import (
    AFTER,
    AGAIN,
    FACTORY,
    FRESH,
    STATES,
    UNKNOWN,
)
from loam.core.vehicle.shapes import Outline, Shape

KEEP_UM = 15.0
"""Clear that stays everywhere unless the job says otherwise: the usual floor."""
USUAL_AIM: tuple[tuple[str, float | None, float | None], ...] = (
    ("defects", 85.0, None),
    ("haze", None, 20.0),
)
"""What is wanted of a car until the job says otherwise: measurand, at least, at most."""
HOURS = 9.0
"""From the start of a working day to its end, breaks included, unless a job says otherwise."""


@dataclass(frozen=True)
class Reading:
    """A reading of a spot or a panel: what, how much, and which note it is."""

    measurand: str
    value: float
    uid: str = ""


@dataclass(frozen=True)
class Limits:
    """What is wanted of a measurand."""

    measurand: str
    at_least: float | None = None
    at_most: float | None = None


@dataclass(frozen=True)
class SpotDone:
    """A test spot: where, with what, and what was read there.

    Attributes
    ----------
    number : int
        From 1, in the order in which they were done.
    x, y : float
        Share of the panel's box, from its upper left corner.
    before, after : tuple of Reading
    wiped : bool
        Whether it was wiped before it was read.
    worked : int
        How many of its stages were worked with the pacer.
    measured : (float, float or None) or None
        Marks gone by photographs, %, and its error, points; None where none were taken.
    image : str
        Both photographs, small (JPEG, base64).
    """

    uid: str
    number: int
    part: str
    rung: str
    x: float
    y: float
    by_hand: bool = False
    who: str = ""
    at: str = ""
    before: tuple[Reading, ...] = ()
    after: tuple[Reading, ...] = ()
    wiped: bool = False
    worked: int = 0
    measured: tuple[float, float | None] | None = None
    image: str = ""

    def means(self, phase: str = AFTER) -> dict[str, float]:
        """Return the mean of what was read, by measurand; repeat readings of a spot are one."""
        found: dict[str, list[float]] = {}
        for r in self.after if phase == AFTER else self.before:
            found.setdefault(r.measurand, []).append(r.value)
        return {m: sum(v) / len(v) for m, v in found.items()}


@dataclass(frozen=True)
class Nail:
    """A mark that catches a nail: it is out of scope and stays."""

    x: float
    y: float
    words: str = ""


@dataclass(frozen=True)
class FilmSpot:
    """A reading of the whole film of a panel, µm; where on it (shares of its box) may be open."""

    um: float
    edge: bool = False
    x: float | None = None
    y: float | None = None


@dataclass(frozen=True)
class CarPart:
    """A panel of this vehicle.

    Attributes
    ----------
    survey : tuple of FilmSpot
        Its film, spot by spot, in the order in which it was read.
    worked_um : float
        Clear that earlier work took, µm.
    damage, lights : mapping of str to str
        How heavy, by sort of damage, and the light that it was seen under.
    photos : tuple of (str, str)
        Photographs (JPEG, base64), and what they show.
    rung : str
        A combination of its own, or "" for the one of the whole vehicle.
    done : str
        The combination it was worked with, or "".
    checks, later : tuple of Reading
        Spot checks while it was worked, and readings of the follow-up.
    """

    key: str
    label: str
    outline: Outline
    substrate: str = STEEL
    state: str = FACTORY
    area_m2: float = 0.0
    turn: int = 0
    worked_um: float = 0.0
    out: bool = False
    own: bool = False
    survey: tuple[FilmSpot, ...] = ()
    damage: Mapping[str, str] = field(default_factory=dict)
    lights: Mapping[str, str] = field(default_factory=dict)
    nails: tuple[Nail, ...] = ()
    rung: str = ""
    done: str = ""
    minutes: float | None = None
    photos: tuple[tuple[str, str], ...] = ()
    checks: tuple[Reading, ...] = ()
    later: tuple[Reading, ...] = ()

    @property
    def film(self) -> tuple[float, ...]:
        """Its film in the field, µm."""
        return tuple(s.um for s in self.survey if not s.edge)

    @property
    def edge(self) -> tuple[float, ...]:
        """Its film at edges, µm."""
        return tuple(s.um for s in self.survey if s.edge)

    @property
    def glass(self) -> bool:
        """Whether it is glass: drawn, never worked."""
        return self.turn == 0

    @property
    def gauged(self) -> bool:
        """Whether an ordinary gauge can read it."""
        return not self.glass and self.substrate != PLASTIC

    @property
    def cleared(self) -> bool:
        """Whether it has a clear that can be budgeted."""
        return self.state in (FACTORY, AGAIN, UNKNOWN)

    @property
    def works(self) -> bool:
        """Whether it is to be worked."""
        return not self.glass and not self.out and self.state != FRESH

    @property
    def state_words(self) -> str:
        """The state of its paint in words."""
        return dict(STATES)[self.state]


@dataclass(frozen=True)
class Job:
    """A vehicle with an aim, and all that was noted of it.

    Attributes
    ----------
    aim : tuple of Limits
        What is wanted of it.
    assumed_aim : bool
        Whether that is the usual aim, as nobody said another.
    chances : mapping of str to float
        Of each hardness class, scaled to 1; equal until somebody says more.
    known : bool
        Whether somebody said them.
    decided : (str, str, str)
        What was decided last: what, the combination, in words.
    day : str
        The day on which it is worked: that of the decision, or of who works.
    taken_at : str
        When a combination was taken for the whole vehicle.
    apart : bool
        Whether it was unlike its class and teaches nothing of other vehicles.
    """

    name: str
    shape: Shape
    parts: tuple[CarPart, ...]
    colour: str = ""
    paint: str = ""
    owner: str = ""
    aim: tuple[Limits, ...] = ()
    assumed_aim: bool = True
    preset: str = "daily"
    keep_um: float = KEEP_UM
    minutes: float | None = None
    say: str = ""
    chances: Mapping[str, float] = field(default_factory=dict)
    known: bool = False
    why: str = ""
    trial: str = ""
    house: str = ""
    spots: tuple[SpotDone, ...] = ()
    decided: tuple[str, str, str] = ("", "", "")
    people: int = 1
    start: str = "09:00"
    hours: float = HOURS
    day: str = ""
    finished: bool = False
    remark: str = ""
    apart: bool = False
    taken_at: str = ""
    began: str = ""

    def part(self, key: str) -> CarPart | None:
        """Return a panel by its key."""
        return next((p for p in self.parts if p.key == key), None)

    @property
    def working(self) -> tuple[CarPart, ...]:
        """The panels to work, in their order."""
        return tuple(sorted((p for p in self.parts if p.works), key=lambda p: (p.turn, p.key)))

    @property
    def surveyed(self) -> tuple[CarPart, ...]:
        """The panels whose film was read."""
        return tuple(p for p in self.parts if p.survey)

    @property
    def taken(self) -> str:
        """The combination that was taken for the whole vehicle, or ""."""
        return self.decided[1] if self.decided[0] == "take" else ""

    def rung_of(self, part: CarPart) -> str:
        """Return the combination that a panel gets, or "" while that is open."""
        return part.rung or self.taken
