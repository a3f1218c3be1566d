"""A vehicle that comes again: what is known of it, and what was taken off it before."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from loam.app.commands.jobs import Said
from loam.core.vehicle.events import FACTORY
from loam.core.vehicle.job import CarPart, Job
from loam.core.vehicle.shapes import Part


def notes_again(job: Job, removed: Mapping[str, tuple[float, float]]) -> list[Said]:
    """Return the notes of the next job on a vehicle.

    Its panels, paint, marks that stay and aim come along, and the clear that its panels have lost
    since; film is read anew.

    Parameters
    ----------
    removed : mapping of str to (float, float)
        Clear that combinations take, mean and SD, µm.
    """
    vehicle = {"shape": job.shape.key, "colour": job.colour, "paint": job.paint, "owner": job.owner}
    notes: list[Said] = [
        ("vehicle", {k: v for k, v in vehicle.items() if v}),
        ("basis", {"trial": job.trial} | ({"house": job.house} if job.house else {})),
        (
            "wish",
            {"keep_um": job.keep_um, "preset": job.preset} | ({"say": job.say} if job.say else {}),
        ),
    ]
    if not job.assumed_aim:
        for want in job.aim:
            limits = {"at_least": want.at_least, "at_most": want.at_most}
            notes.append(
                (
                    "aim",
                    {
                        "measurand": want.measurand,
                        **{k: v for k, v in limits.items() if v is not None},
                    },
                )
            )
    usual = {p.key: p for p in job.shape.parts}
    for part in job.parts:
        if not part.glass:
            taken = removed.get(part.done, (0.0, 0.0))[0] if part.done else 0.0
            notes += _of_part(part, usual.get(part.key), part.worked_um + taken)
    return notes


def _of_part(part: CarPart, plain: Part | None, taken: float) -> Iterator[Said]:
    """Give the notes of a panel: what is not as usual with it, and its marks that stay."""
    facts: dict[str, object] = {"own": 1} if part.own else {}
    for name, usual in (
        ("label", None if plain is None else plain.label),
        ("area_m2", None if plain is None else round(plain.area_m2, 2)),
        ("substrate", None if plain is None else plain.substrate),
        ("state", FACTORY),
    ):
        if getattr(part, name) != usual:
            facts[name] = getattr(part, name)
    if taken:
        facts["worked_um"] = round(min(taken, 200.0), 1)
    if facts:
        yield "part", {"part": part.key, **facts}
    for n in part.nails:
        words = {"words": n.words} if n.words else {}
        yield "nail", {"part": part.key, "x": n.x, "y": n.y, **words}
