"""A job is the sum of its notes: they are added up here, in the order in which they were made."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from loam.core.trial import HARDNESSES
from loam.core.vehicle.events import BEFORE, MERGED, Note
from loam.core.vehicle.job import (
    HOURS,
    KEEP_UM,
    USUAL_AIM,
    CarPart,
    FilmSpot,
    Job,
    Limits,
    Nail,
    Reading,
    SpotDone,
)
from loam.core.vehicle.shapes import BY_KEY, Shape, box_of


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
        chances=chances or {c: 1.0 / 3.0 for c in HARDNESSES},
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
        taken_at=adding.taken_at,
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
        self.taken_at = ""

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
        self.chances = {c: float(facts[c]) for c in HARDNESSES}
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
            self.when, self.taken_at = note.at[:10], note.at

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
