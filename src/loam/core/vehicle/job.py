"""A job as it stands: all its notes added up, in the order in which they were made."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from loam.core.film.build import PLASTIC, STEEL
from loam.core.vehicle.events import (
    AFTER,
    AGAIN,
    BEFORE,
    FACTORY,
    FRESH,
    MERGED,
    SINGLE,
    STATES,
    UNKNOWN,
    Note,
)
from loam.core.vehicle.shapes import BY_KEY, Outline, Shape, box_of

KEEP_UM = 15.0
"""Clear that stays everywhere unless the job says otherwise: the usual floor."""
USUAL_AIM: tuple[tuple[str, float | None, float | None], ...] = (
    ("defects", 85.0, None),
    ("haze", None, 20.0),
)
"""What is wanted of a car until the job says otherwise: measurand, at least, at most."""
HOURS = 9.0
"""From the start of a working day to its end, breaks included, unless a job says otherwise."""
_CLASSES = ("soft", "medium", "hard")


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


def job_of(name: str, notes: Iterable[Note]) -> Job:
    """Add up the notes of a job, those that were struck left out already.

    Notes of a panel or a spot that the vehicle does not have are passed over: the vehicle may have
    been another when they were made.
    """
    held = list(notes)
    says: dict[str, dict[str, Any]] = {sort: {} for sort in MERGED}
    for note in held:
        if note.sort in MERGED:
            says[note.sort] |= note.facts
    shape = BY_KEY.get(str(says["vehicle"].get("shape", "")), BY_KEY["minibus"])
    adding = _Adding(shape)
    for note in held:
        adding.take(note)
    wish, vehicle, basis = says["wish"], says["vehicle"], says["basis"]
    aim = tuple(
        Limits(m, low, high)
        for m, (low, high) in adding.aim.items()
        if low is not None or high is not None
    )
    total = sum(adding.chances.values())
    chances = {c: v / total for c, v in adding.chances.items() if v > 0.0} if total > 0.0 else {}
    return Job(
        name,
        shape,
        tuple(adding.parts.values()),
        colour=str(vehicle.get("colour", "")),
        paint=str(vehicle.get("paint", "")),
        owner=str(vehicle.get("owner", "")),
        aim=aim,
        assumed_aim=not adding.aimed,
        preset=str(wish.get("preset", "" if adding.aimed else "daily")),
        keep_um=float(wish.get("keep_um", KEEP_UM)),
        minutes=wish.get("minutes"),
        say=str(wish.get("say", "")),
        chances=chances or {c: 1.0 / 3.0 for c in _CLASSES},
        known=bool(chances),
        why=adding.why,
        trial=str(basis.get("trial", "")),
        house=str(basis.get("house", "")),
        spots=tuple(adding.spots.values()),
        decided=adding.decided,
        people=adding.day[0],
        start=adding.day[1],
        hours=adding.day[2],
        day=adding.when,
        finished=adding.finished,
        remark=adding.remark,
        apart=adding.apart,
        began=held[0].at if held else "",
    )


class _Adding:
    """What the notes come to so far."""

    def __init__(self, shape: Shape) -> None:
        self.parts = {
            p.key: CarPart(
                p.key, p.label, p.outline, p.substrate, area_m2=round(p.area_m2, 2), turn=p.turn
            )
            for p in shape.parts
        }
        self.aim: dict[str, tuple[float | None, float | None]] = {
            m: (low, high) for m, low, high in USUAL_AIM
        }
        self.aimed = False
        self.chances: dict[str, float] = {}
        self.why = ""
        self.spots: dict[str, SpotDone] = {}
        self.decided = ("", "", "")
        self.day, self.when = (1, "09:00", HOURS), ""
        self.finished, self.remark, self.apart = False, "", False

    def take(self, note: Note) -> None:
        """Add a note."""
        act = getattr(self, f"_{note.sort}", None)
        if act is not None:
            act(note, note.facts)

    def _change(self, facts: Mapping[str, Any], **values: Any) -> None:
        own = self.parts.get(str(facts["part"]))
        if own is not None and not own.glass:
            self.parts[own.key] = replace(own, **values)

    def _part(self, note: Note, facts: Mapping[str, Any]) -> None:
        key = str(facts["part"])
        if key not in self.parts and facts.get("own"):
            self.parts[key] = _added(key, list(self.parts.values()))
        values: dict[str, Any] = {
            k: facts[k]
            for k in ("label", "area_m2", "substrate", "state", "worked_um", "turn")
            if k in facts
        }
        if "out" in facts:
            values["out"] = bool(facts["out"])
        self._change(facts, **values)

    def _film(self, note: Note, facts: Mapping[str, Any]) -> None:
        own = self.parts.get(str(facts["part"]))
        if own is not None:
            read = FilmSpot(
                float(facts["film_um"]),
                facts.get("place") == "edge",
                facts.get("x"),
                facts.get("y"),
            )
            self._change(facts, survey=(*own.survey, read))

    def _damage(self, note: Note, facts: Mapping[str, Any]) -> None:
        own = self.parts.get(str(facts["part"]))
        if own is not None:
            kind = str(facts["kind"])
            damage = {**own.damage, kind: str(facts["level"])}
            lights = {**own.lights, kind: str(facts.get("light", ""))}
            self._change(
                facts,
                damage={k: v for k, v in damage.items() if v},
                lights={k: v for k, v in lights.items() if v and damage.get(k)},
            )

    def _nail(self, note: Note, facts: Mapping[str, Any]) -> None:
        own = self.parts.get(str(facts["part"]))
        if own is not None:
            nail = Nail(float(facts["x"]), float(facts["y"]), str(facts.get("words", "")))
            self._change(facts, nails=(*own.nails, nail))

    def _photo(self, note: Note, facts: Mapping[str, Any]) -> None:
        own = self.parts.get(str(facts["part"]))
        if own is not None:
            more = (str(facts["image"]), str(facts.get("words", "")))
            self._change(facts, photos=(*own.photos, more))

    def _aim(self, note: Note, facts: Mapping[str, Any]) -> None:
        if not self.aimed:
            self.aimed = True
        self.aim[str(facts["measurand"])] = (facts.get("at_least"), facts.get("at_most"))

    def _hardness(self, note: Note, facts: Mapping[str, Any]) -> None:
        self.chances = {c: float(facts[c]) for c in _CLASSES}
        self.why = str(facts.get("why", ""))

    def _spot(self, note: Note, facts: Mapping[str, Any]) -> None:
        if str(facts["part"]) in self.parts:
            self.spots[note.uid] = SpotDone(
                note.uid,
                len(self.spots) + 1,
                str(facts["part"]),
                str(facts["rung"]),
                float(facts["x"]),
                float(facts["y"]),
                bool(facts.get("by_hand")),
                str(facts.get("who", "")),
                note.at,
            )

    def _read(self, note: Note, facts: Mapping[str, Any]) -> None:
        spot = self.spots.get(str(facts["spot"]))
        if spot is not None:
            where = "before" if facts["phase"] == BEFORE else "after"
            more = Reading(str(facts["measurand"]), float(facts["value"]), note.uid)
            held: dict[str, Any] = {where: (*getattr(spot, where), more)}
            self.spots[spot.uid] = replace(spot, **held)

    def _wiped(self, note: Note, facts: Mapping[str, Any]) -> None:
        spot = self.spots.get(str(facts["spot"]))
        if spot is not None:
            self.spots[spot.uid] = replace(spot, wiped=True)

    def _worked(self, note: Note, facts: Mapping[str, Any]) -> None:
        spot = self.spots.get(str(facts["spot"]))
        if spot is not None:
            self.spots[spot.uid] = replace(spot, worked=max(spot.worked, int(facts["stage"])))

    def _measured(self, note: Note, facts: Mapping[str, Any]) -> None:
        spot = self.spots.get(str(facts["spot"]))
        if spot is not None:
            found = (float(facts["removed_pct"]), facts.get("error_points"))
            image = str(facts.get("image", ""))
            self.spots[spot.uid] = replace(spot, measured=found, image=image)

    def _decided(self, note: Note, facts: Mapping[str, Any]) -> None:
        words = (str(facts[k]) if k in facts else "" for k in ("what", "rung", "words"))
        what, rung, said = words
        self.decided = (what, rung, said)
        if what == "take":
            self.when = note.at[:10]

    def _instead(self, note: Note, facts: Mapping[str, Any]) -> None:
        self._change(facts, rung=str(facts.get("rung", "")))

    def _day(self, note: Note, facts: Mapping[str, Any]) -> None:
        self.day = (int(facts["people"]), str(facts["start"]), float(facts.get("hours", HOURS)))
        if not any(p.done for p in self.parts.values()):
            self.when = note.at[:10]  # once a panel is done, the first day has been

    def _done(self, note: Note, facts: Mapping[str, Any]) -> None:
        self._change(facts, done=str(facts["rung"]), minutes=facts.get("minutes"))

    def _check(self, note: Note, facts: Mapping[str, Any]) -> None:
        own = self.parts.get(str(facts["part"]))
        if own is not None:
            where = "later" if facts.get("later") else "checks"
            more = Reading(str(facts["measurand"]), float(facts["value"]), note.uid)
            self._change(facts, **{where: (*getattr(own, where), more)})

    def _apart(self, note: Note, facts: Mapping[str, Any]) -> None:
        self.apart = bool(facts["on"])

    def _finished(self, note: Note, facts: Mapping[str, Any]) -> None:
        self.finished, self.remark = True, str(facts.get("words", ""))


def _added(key: str, parts: Sequence[CarPart]) -> CarPart:
    """Return a panel of one's own: a plain rectangle below the others."""
    right = max(x for p in parts for x, _ in p.outline)
    low = max(y for p in parts for _, y in p.outline)
    here = [box_of(p.outline)[0] for p in parts if p.own]
    left = len(here) * 620.0 % max(right - 560.0, 1.0)
    y = low + 60.0 if not here else max(box_of(p.outline)[1] for p in parts if p.own)
    box = ((left, y), (left + 560.0, y), (left + 560.0, y + 360.0), (left, y + 360.0))
    turn = 1 + max(p.turn for p in parts)
    return CarPart(key, key, box, area_m2=0.2, turn=turn, own=True)


__all__ = [
    "KEEP_UM",
    "SINGLE",
    "UNKNOWN",
    "USUAL_AIM",
    "CarPart",
    "FilmSpot",
    "Job",
    "Limits",
    "Nail",
    "Reading",
    "SpotDone",
    "job_of",
]
