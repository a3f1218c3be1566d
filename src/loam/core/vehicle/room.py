"""What may still go of each panel of a vehicle: its clear at the thinnest spot, said as assumed.

An ordinary gauge reads the whole film: the clear's share is an assumption with a spread.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from loam.core.film.budget import CLEAR_SD_UM, CLEAR_UM, SHARE
from loam.core.film.sets import Guess, sets_left
from loam.core.vehicle.events import AGAIN, FACTORY, FRESH, SINGLE, UNKNOWN
from loam.core.vehicle.job import CarPart, Job

GAUGE_SD_UM = 1.0
"""Usual scatter of a gauge of the whole film: assumed."""
SPOTS = 5
"""Spots of the film that a panel wants."""
EDGE, SEAM = 1.25, 1.15
"""How many times more an edge that was not read loses, and a seam of two sections: assumed."""
ASSUMED_CLEAR: dict[str, Guess] = {
    FACTORY: Guess(CLEAR_UM, CLEAR_SD_UM),
    AGAIN: Guess(CLEAR_UM, 2.0 * CLEAR_SD_UM),
    UNKNOWN: Guess(CLEAR_UM, 2.0 * CLEAR_SD_UM),
}
"""Clear by the state of the paint: assumed; paint of unknown build is known half as well."""
THICKER_UM, TIMES = 25.0, 4.0
"""A panel whose film lies so far off the middle of the others is unlike them."""


@dataclass(frozen=True)
class Room:
    """What a panel has room for.

    Attributes
    ----------
    thinnest, mean : float or None
        Of its survey, µm.
    clear : Guess or None
        Clear at the thinnest spot; None where it has none or it is not known.
    may_go : float or None
        µm; None where no survey says.
    chance : float or None
        That one set of what is planned leaves the clear above what is to be kept.
    unlike : bool
        Whether its film is unlike that of the other panels.
    lacks : str
        Why nothing is said of it, or "".
    few : int
        How many spots its survey lacks.
    """

    part: str
    thinnest: float | None = None
    mean: float | None = None
    clear: Guess | None = None
    may_go: float | None = None
    chance: float | None = None
    unlike: bool = False
    lacks: str = ""
    few: int = 0


NO_GAUGE = "no gauge reads it"
NO_CLEAR = "no clear: what comes off is paint"
TOO_FRESH = "fresh: not yet"
NOT_READ = "not surveyed"


def room_of(part: CarPart, keep_um: float, removed: Guess | None = None) -> Room:
    """Work out what a panel has room for.

    Parameters
    ----------
    keep_um : float
        Clear that is to stay.
    removed : Guess or None
        What one set of what is planned takes.
    """
    film = (*part.film, *part.edge)
    thinnest = min(film) if film else None
    mean = sum(film) / len(film) if film else None
    if part.state == FRESH:
        return Room(part.key, thinnest, mean, lacks=TOO_FRESH)
    if part.state == SINGLE:
        return Room(part.key, thinnest, mean, lacks=NO_CLEAR)
    if not part.gauged:
        return Room(part.key, thinnest, mean, lacks=NO_GAUGE)
    if not film:
        return Room(part.key, lacks=NOT_READ, few=SPOTS)
    usual = ASSUMED_CLEAR[part.state]
    clear = Guess(max(usual.mean - part.worked_um, 0.0), usual.sd)
    found = sets_left(
        film,
        GAUGE_SD_UM,
        clear,
        removed or Guess(0.0, 0.0),
        floor=keep_um,
        share=SHARE,
        edge=1.0 if part.edge else EDGE,
        seam=SEAM,
        most=1,
    )
    chance = found.chances[0] if removed is not None else None
    return Room(
        part.key,
        found.thinnest,
        mean,
        found.clear,
        found.may_go,
        chance,
        few=max(0, SPOTS - len(film)),
    )


def rooms_of(job: Job, removed: Guess | None = None) -> dict[str, Room]:
    """Return what each panel has room for, by its key; those unlike the rest are marked."""
    found = {p.key: room_of(p, job.keep_um, removed) for p in job.parts if not p.glass}
    odd = unlike_the_rest({k: r.mean for k, r in found.items() if r.mean is not None})
    return {key: replace(room, unlike=True) if key in odd else room for key, room in found.items()}


def unlike_the_rest(means: dict[str, float]) -> set[str]:
    """Return panels whose film lies far off the middle of the others: painted again, or filled.

    Four of them at least are held against each other.
    """
    if len(means) < 4:
        return set()
    odd = set()
    for key, mean in means.items():
        rest = np.array([m for k, m in means.items() if k != key])
        middle = float(np.median(rest))
        spread = 1.4826 * float(np.median(np.abs(rest - middle)))
        if abs(mean - middle) > max(THICKER_UM, TIMES * spread):
            odd.add(key)
    return odd


def least_room(job: Job, rooms: Iterable[Room]) -> Room | None:
    """Return the panel that has least room; None where none says.

    Of those that get what is taken for the whole vehicle: one with a combination of its own does
    not hold the others back.
    """
    working = {p.key for p in job.working if not p.rung}
    told = [r for r in rooms if r.part in working and r.may_go is not None]
    # of those that may lose alike, half of the clear, the one with least clear holds the others
    return min(told, key=lambda r: (r.may_go, r.clear.mean if r.clear else 0.0), default=None)


def budget_of(room: Room | None, keep_um: float) -> tuple[float, float] | None:
    """Return mean and SD of the clear above what is to be kept, for the ladder."""
    if room is None or room.clear is None:
        return None
    return max(room.clear.mean - keep_um, 0.0), room.clear.sd


def unsurveyed(job: Job, rooms: Iterable[Room]) -> list[str]:
    """Return the panels that are to be worked and whose film was not read."""
    working = {p.key for p in job.working}
    return [r.part for r in rooms if r.part in working and r.lacks == NOT_READ]
