"""The demo's cars: one finished with its follow-up, one at its second spot, one surveyed.

All of them rest on *Cut and finish*. Their readings are drawn around what the truth says of their
class, shifted a little as a car is: `SHIFT`.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np

from loam.app.applying.rests import trial_uid
from loam.core.vehicle.places import usual_places
from loam.core.vehicle.shapes import BY_KEY
from loam.store import jobs
from loam.store.identity import digest

Said = tuple[str, dict[str, Any]]
NORTH, LIFEBOAT, ALLOTMENTS = (
    "Minibus of the north parish",
    "Minibus of the lifeboat crew",
    "Minibus of the allotments",
)
SHIFT = {"defects": -2.0, "haze": 0.6, "gloss20": -0.4}
"""How the cars differ from the panels, so that a test can ask whether it is learnt."""
CAME: dict[tuple[str, str], tuple[float, float, float, float]] = {
    ("medium", "A"): (62.0, 15.5, 82.5, 1.1),
    ("medium", "D"): (92.0, 11.5, 87.6, 3.0),
    ("hard", "A"): (34.0, 18.5, 76.4, 0.9),
    ("hard", "D"): (89.0, 13.5, 85.9, 2.8),
}
"""What a combination does on a car of a class: marks gone %, haze, gloss, clear taken µm."""
_FILM = {
    "bonnet": 118.0,
    "roof": 121.0,
    "tailgate": 104.0,
    "left wing": 113.0,
    "left front door": 115.0,
    "left sliding door": 116.0,
    "left quarter": 108.0,
    "right wing": 114.0,
    "right front door": 115.0,
    "right sliding door": 117.0,
    "right quarter": 107.0,
}


def _survey(rng: np.random.Generator, film: Mapping[str, float]) -> Iterator[Said]:
    """Five spots a panel, and one at an edge, at the usual places."""
    outlines = {p.key: p.outline for p in BY_KEY["minibus"].parts}
    for part, mean in film.items():
        values = [*(mean + 1.5 * rng.standard_normal(5)), mean - 4.0 + rng.standard_normal()]
        for value, at in zip(values, usual_places(outlines[part]), strict=False):
            place = {"place": "edge"} if at.edge else {}
            facts = {"part": part, "film_um": round(float(value), 0), **place}
            yield "film", {**facts, "x": at.x, "y": at.y}


def _spot(
    rng: np.random.Generator, uid: str, hardness: str, part: str, rung: str, x: float
) -> Iterator[tuple[str, dict[str, Any], str]]:
    """A spot: worked, wiped, read three times, with its film before and after."""
    gone, haze, gloss, taken = CAME[hardness, rung]
    yield "spot", {"part": part, "rung": rung, "x": x, "y": 0.72, "who": "Lise"}, uid
    film = _FILM[part]
    for value in film + 0.8 * rng.standard_normal(5):
        facts = {"spot": uid, "measurand": "film", "value": round(float(value), 1)}
        yield "read", {**facts, "phase": "before", "who": "Tam"}, ""
    for value in 24.0 + 1.2 * rng.standard_normal(2):
        facts = {"spot": uid, "measurand": "haze", "value": round(float(value), 1)}
        yield "read", {**facts, "phase": "before", "who": "Tam"}, ""
    yield "wiped", {"spot": uid, "who": "Tam"}, ""
    for m, mean, sd, n, digits in (
        ("defects", gone + SHIFT["defects"], 2.0, 2, 0),
        ("haze", haze + SHIFT["haze"], 0.5, 3, 1),
        ("gloss20", gloss + SHIFT["gloss20"], 0.4, 3, 1),
        ("film", film - taken, 0.8, 5, 1),
    ):
        for value in mean + sd * rng.standard_normal(n):
            facts = {"spot": uid, "measurand": m, "value": round(float(value), digits)}
            yield "read", {**facts, "phase": "after", "who": "Tam"}, ""


def _seen(*marks: tuple[str, str, str]) -> Iterator[tuple[str, dict[str, Any], str]]:
    """Marks under a point light: panel, sort, how heavy."""
    for part, kind, level in marks:
        yield "damage", {"part": part, "kind": kind, "level": level, "light": "point"}, ""


def _write(
    db: sqlite3.Connection, name: str, notes: list[tuple[str, dict[str, Any], str]], day: str
) -> None:
    job = jobs.add_job(db, name, f"{day}T08:30:00", digest("job", name))
    for i, (sort, facts, uid) in enumerate(notes):
        at = f"{day}T{9 + i // 60 % 9:02d}:{i % 60:02d}:00"
        jobs.add_note(db, job, sort, facts, at, uid or digest("job", name, i))


def add_cars(db: sqlite3.Connection, trial_id: int) -> None:
    """Write the demo's cars, resting on a trial; the one at its second spot is the newest."""
    basis: Said = ("basis", {"trial": trial_uid(db, trial_id), "house": "B"})
    _write(db, NORTH, list(_north(basis)), "2026-09-22")
    _write(db, ALLOTMENTS, list(_allotments(basis)), "2026-09-24")
    _write(db, LIFEBOAT, list(_lifeboat(basis)), "2026-09-25")


def _begun(basis: Said, colour: str, owner: str) -> list[tuple[str, dict[str, Any], str]]:
    vehicle = {"shape": "minibus", "colour": colour, "owner": owner}
    return [("vehicle", vehicle, ""), (*basis, "")]


def _north(basis: Said) -> Iterator[tuple[str, dict[str, Any], str]]:
    """Finished: medium, A was too little, D was taken; looked at again a fortnight later."""
    rng = np.random.default_rng(61)
    yield from _begun(basis, "dark green", "North parish")
    for note in _survey(rng, _FILM):
        yield (*note, "")
    first, second = digest("north", 1), digest("north", 2)
    yield from _spot(rng, first, "medium", "bonnet", "A", 0.28)
    yield from _spot(rng, second, "medium", "bonnet", "D", 0.66)
    said = "D does it on medium clear."
    yield "decided", {"what": "take", "rung": "D", "words": said}, ""
    yield "day", {"people": 2, "start": "09:00"}, ""
    for i, part in enumerate(("roof", "bonnet", "tailgate", *list(_FILM)[3:])):
        yield "done", {"part": part, "rung": "D", "minutes": 55.0 + i, "who": "Ivo"}, ""
    for part in ("front bumper", "rear bumper"):
        yield "part", {"part": part, "out": 1}, ""
    for part, value in (("roof", 90.0), ("tailgate", 88.0)):
        yield "check", {"part": part, "measurand": "defects", "value": value}, ""
    yield "check", {"part": "bonnet", "measurand": "gloss20", "value": 86.9, "later": 1}, ""
    yield "finished", {"words": "Two deep marks on the left door stay."}, ""


def _lifeboat(basis: Said) -> Iterator[tuple[str, dict[str, Any], str]]:
    """At its second spot: white, and its clear answers like the hard one."""
    rng = np.random.default_rng(62)
    yield from _begun(basis, "white", "Lifeboat crew")
    film = {k: v + 3.0 for k, v in _FILM.items()}
    for note in _survey(rng, film):
        yield (*note, "")
    yield "aim", {"measurand": "defects", "at_least": 75.0}, ""
    yield "wish", {"preset": "as said"}, ""
    yield "wish", {"say": "Fit for the open day; the bonnet is what people see."}, ""
    yield from _spot(rng, digest("lifeboat", 1), "hard", "bonnet", "A", 0.28)
    yield from _spot(rng, digest("lifeboat", 2), "hard", "bonnet", "D", 0.66)
    yield from _seen(
        ("bonnet", "swirls", "middle"),
        ("roof", "etching", "light"),
        ("right front door", "scratches", "middle"),
        ("left quarter", "holograms", "light"),
    )


def _allotments(basis: Said) -> Iterator[tuple[str, dict[str, Any], str]]:
    """Surveyed: one wing painted again, a plastic front, a nail mark on the sliding door."""
    rng = np.random.default_rng(63)
    yield from _begun(basis, "blue", "The allotments")
    film = {**_FILM, "right wing": 156.0, "tailgate": 92.0}
    for note in _survey(rng, film):
        yield (*note, "")
    yield "part", {"part": "right wing", "state": "again"}, ""
    yield "nail", {"part": "left sliding door", "x": 0.5, "y": 0.15, "words": "key scratch"}, ""
    yield from _seen(
        ("bonnet", "swirls", "heavy"),
        ("roof", "etching", "middle"),
        ("left sliding door", "scratches", "middle"),
    )
    yield "wish", {"say": "It is washed by many hands: no glaze."}, ""
