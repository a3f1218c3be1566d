"""The ladder of a case: which combination to try next on a vehicle, exactly (LADDER.md)."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from loam.app.headless.common import FAILED, answer, as_json, complain
from loam.core.errors import LoamError, ValueRefused
from loam.core.ladder import (
    MOST_RUNGS,
    SCALES,
    After,
    Cloud,
    Ladder,
    Limit,
    Measured,
    Plan,
    Prices,
    Rung,
    Spot,
    State,
    scaled,
)
from loam.core.scale import Scale
from loam.store.json_file import Fields, read_json


def run(arguments: Sequence[str]) -> int:
    """Run ``loam ladder`` and return the exit status: 0, or 2 after an error on stderr."""
    parser = argparse.ArgumentParser(
        prog="loam ladder", description="Which combination to try next on a vehicle."
    )
    parser.add_argument("file", type=Path, metavar="CASE.json")
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    options = parser.parse_args(arguments)
    try:
        ladder, house, spots = case_of(read_json(options.file, "the case"))
        told = figures(ladder, house, spots)
    except LoamError as error:
        complain(error)
        return FAILED
    answer(as_json(told) if options.json else in_words(told))
    return 0


def case_of(given: Fields) -> tuple[Ladder, int | None, list[Spot]]:
    """Read a case: the ladder, the house's own rung, and the spots that were done.

    Raises
    ------
    ValueRefused
        Saying what and where.
    """
    if given.has("case"):
        inner = given.inner("case")
        given.drop("expected")
        given.done()
        given = inner
    given.drop("name", "note", "notes")
    prices = _prices(given)
    measured = _measured(given.inner("measurands"))
    aim = _aim(given.many("aim", []), measured)
    rungs = _rungs(given.many("rungs"))
    names = [r.name for r in rungs]
    house = given.text("house", "") if given.has("house") else ""
    if house and house not in names:
        raise ValueRefused(f"{house!r} is no rung.", where="house", todo=_named(names))
    cloud = _cloud(given.many("classes"), measured, names)
    spots = _spots(given.many("spots", []), measured, names)
    given.done()
    ladder = Ladder(cloud, measured, aim, rungs, prices)
    return ladder, names.index(house) if house else None, spots


def _prices(given: Fields) -> Prices:
    found = Prices(
        given.number("clear_per_minute"),
        given.number("spot_weight"),
        given.number("give_up"),
        given.yes("increasing", True),
        given.number("budget_chance", 0.95),
        given.number("take_chance", 0.8),
    )
    for name, low, high in (
        ("clear_per_minute", 0.0, np.inf),
        ("spot_weight", 0.0, 1.0),
        ("give_up", 0.0, np.inf),
        ("budget_chance", 0.0, 1.0),
        ("take_chance", 0.0, 1.0),
    ):
        value = float(getattr(found, name))
        if not low <= value <= high:
            most = "" if np.isinf(high) else f" and {high:g} at most"
            raise ValueRefused(f"{name} of {value:g} cannot be: {low:g} at least{most}.")
    return found


def _measured(given: Fields) -> list[Measured]:
    found = []
    for name in given.names():
        own = given.inner(name)
        scale = own.text("scale")
        if scale not in SCALES:
            raise ValueRefused(
                f"{scale!r} is no scale.", where=own.where, todo="Use " + ", ".join(SCALES) + "."
            )
        half = own.number("half", 0.0)
        sd = own.number("spot_sd")
        if half < 0.0 or sd < 0.0:
            raise ValueRefused("half and spot_sd are 0 at least.", where=own.where)
        own.done()
        low = 0.0 if scale != "identity" else -np.inf
        high = 100.0 if scale == "logit" else np.inf
        found.append(Measured(name, Scale(scale, low, high, half), sd))
    if not found:
        raise ValueRefused("There is no measurand.", where=given.where)
    return found


def _aim(given: list[Any], measured: Sequence[Measured]) -> list[Limit]:
    names = [m.name for m in measured]
    found = []
    for i, entry in enumerate(given, 1):
        own = Fields(entry, f"aim {i}")
        name = own.text("measurand")
        if name not in names:
            raise ValueRefused(
                f"The aim is on {name!r}, which is no measurand.",
                where=own.where,
                todo=_named(names),
            )
        if not own.has("at_least") and not own.has("at_most"):
            raise ValueRefused("It says neither at_least nor at_most.", where=own.where)
        q = names.index(name)
        for key in ("at_least", "at_most"):
            if own.has(key):
                place = measured[q].place(own.number(key), own.where)
                found.append(Limit(q, place, key == "at_least"))
        own.done()
    if not found:
        raise ValueRefused("There is no aim.", where="aim", todo="Say what is to be reached.")
    return found


def _rungs(given: list[Any]) -> list[Rung]:
    if not 1 <= len(given) <= MOST_RUNGS:
        raise ValueRefused(
            f"There are {len(given)} rungs.", where="rungs", todo=f"Give 1 to {MOST_RUNGS}."
        )
    found: list[Rung] = []
    for i, entry in enumerate(given, 1):
        own = Fields(entry, f"rung {i}")
        rung = Rung(own.text("name"), own.number("spot_minutes"), own.number("vehicle_minutes"))
        own.done()
        if rung.name in {r.name for r in found}:
            raise ValueRefused(f"There are two rungs {rung.name!r}.", where=own.where)
        if rung.spot_minutes < 0.0 or rung.vehicle_minutes < 0.0:
            raise ValueRefused("Minutes are 0 at least.", where=own.where)
        found.append(rung)
    return found


def _cloud(given: list[Any], measured: Sequence[Measured], names: Sequence[str]) -> Cloud:
    """Read the classes and their draws as one cloud."""
    classes: list[str] = []
    chances: list[float | None] = []
    own_weights: list[np.ndarray] = []
    results: list[np.ndarray] = []
    clear: list[np.ndarray] = []
    budget: list[np.ndarray] = []
    for i, entry in enumerate(given, 1):
        own = Fields(entry, f"class {i}")
        name = own.text("hardness")
        if name in classes:
            raise ValueRefused(f"The class {name!r} comes twice.", where=own.where)
        classes.append(name)
        chances.append(_chance(own))
        draws = own.many("draws")
        own_weights.append(_weights(own, len(draws)))
        own.done()
        read = [_draw(d, f"{name}, draw {j}", measured, names) for j, d in enumerate(draws, 1)]
        results.append(np.array([r for r, _, _ in read]).reshape(-1, len(measured), len(names)))
        clear.append(np.array([c for _, c, _ in read]).reshape(-1, len(names)))
        budget.append(np.array([b for _, _, b in read]))
    known = [c for c in chances if c is not None]
    if known and len(known) < len(chances):
        raise ValueRefused("Some classes have a chance and some have none.", where="classes")
    panels = [w.size > 0 for w in own_weights]
    pi = np.array(known) if known else np.array(panels, float)
    for name, chance, has in zip(classes, pi, panels, strict=True):
        if chance > 0.0 and not has:
            raise ValueRefused(
                f"{name} has a chance and no draws.", where="classes", todo="Give it 0, or draws."
            )
    if not pi.size or not pi.sum() > 0.0:
        raise ValueRefused("No class has a chance above 0.", where="classes")
    pi = pi / pi.sum()
    return scaled(
        Cloud(
            tuple(classes),
            np.repeat(np.arange(len(classes)), [w.size for w in own_weights]),
            np.concatenate([p * w for p, w in zip(pi, own_weights, strict=True)]),
            np.concatenate(results).transpose(1, 0, 2),
            np.concatenate(clear),
            np.concatenate(budget),
        )
    )


def _chance(own: Fields) -> float | None:
    if not own.has("chance"):
        return None
    chance = own.number("chance")
    if chance < 0.0:
        raise ValueRefused(f"A chance of {chance:g} cannot be.", where=own.where)
    return chance


def _weights(own: Fields, count: int) -> np.ndarray:
    """Return a class's own weights, scaled to 1; equal where none are given."""
    if not own.has("weights"):
        return np.full(count, 1.0 / max(count, 1))
    given = own.many("weights")
    if len(given) != count:
        raise ValueRefused(f"{len(given)} weights stand for {count} draws.", where=own.where)
    inner = Fields({str(i): w for i, w in enumerate(given)}, f"{own.where}, weights")
    found = np.array([inner.number(str(i)) for i in range(count)])
    if (found < 0.0).any() or (count and not found.sum() > 0.0):
        raise ValueRefused("Weights are 0 at least, one above it.", where=own.where)
    return found / found.sum() if count else found


def _draw(
    entry: Any, where: str, measured: Sequence[Measured], names: Sequence[str]
) -> tuple[list[list[float]], list[float], float]:
    own = Fields(entry, where)
    result = own.inner("result")
    rows = []
    for m in measured:
        read = result.inner(m.name)
        rows.append([m.place(read.number(n), f"{where}, {m.name}, {n}") for n in names])
        read.done()
    result.done()
    taken = own.inner("clear")
    clear = [taken.number(n) for n in names]
    taken.done()
    if min(clear, default=0.0) < 0.0:
        raise ValueRefused("Clear taken is 0 at least.", where=where)
    budget = own.number("budget") if own.has("budget") else np.inf
    own.done()
    return rows, clear, budget


def _spots(given: list[Any], measured: Sequence[Measured], names: Sequence[str]) -> list[Spot]:
    known = [m.name for m in measured]
    found: list[Spot] = []
    for i, entry in enumerate(given, 1):
        own = Fields(entry, f"spot {i}")
        rung = own.text("rung")
        if rung not in names:
            raise ValueRefused(f"{rung!r} is no rung.", where=own.where, todo=_named(names))
        k = names.index(rung)
        if any(s.rung == k for s in found):
            raise ValueRefused(f"The rung {rung!r} was tried twice.", where=own.where)
        read = own.inner("read")
        values = {
            q: measured[q].place(read.number(m), f"{own.where}, {m}")
            for q, m in enumerate(known)
            if read.has(m)
        }
        read.done()
        own.done()
        found.append(Spot(k, values))
    return found


def _named(names: Sequence[str]) -> str:
    return f"Use {', '.join(names[:12])}."


def figures(ladder: Ladder, house: int | None, spots: Sequence[Spot]) -> dict[str, Any]:
    """Return all that is worked out, as the door prints it."""
    names = [r.name for r in ladder.rungs]

    def plan(found: Plan) -> dict[str, Any]:
        return {
            "sequence": [names[k] for k in found.sequence],
            "cost": found.cost,
            "spot_clear": found.spot_clear,
            "vehicle_clear": found.vehicle_clear,
            "minutes": found.minutes,
            "tries": found.tries,
            "reach": found.reach,
            "accept": found.accept,
            "give_up": found.give_up,
        }

    def state(found: State | None) -> dict[str, Any] | None:
        if found is None:
            return None
        return {
            "classes": dict(found.classes),
            "ess": found.ess,
            "rungs": {
                names[k]: {
                    "reach": r.reach,
                    "passes": r.passes,
                    "clear": r.clear,
                    "within_budget": r.within_budget,
                    "allowed": r.allowed,
                }
                for k, r in enumerate(found.rungs)
            },
            **plan(found.best),
        }

    def after(found: After) -> dict[str, Any]:
        return {
            "rung": names[found.rung],
            "unlike": list(found.unlike),
            "state": state(found.state),
            "ways": dict(found.ways),
            "decision": found.decision,
        }

    return {
        "order": [names[k] for k in ladder.order],
        "start": state(ladder.start()),
        "schools": {name: plan(p) for name, p in ladder.schools(house).items()},
        "after": [after(a) for a in ladder.after(spots)],
    }


def in_words(told: dict[str, Any]) -> str:
    """Say what to try, what it comes to, and what follows from each spot."""
    start = told["start"]
    tried = ", then ".join(start["sequence"]) or "nothing: it is not worth it"
    lines = [
        f"Order, mildest first: {', '.join(told['order'])}.",
        f"Try {tried}: {start['cost']:.3f} µm in all, reached with {100 * start['reach']:.0f} %.",
    ]
    for name, plan in told["schools"].items():
        lines.append(f"{name}: {', '.join(plan['sequence']) or 'nothing'}: {plan['cost']:.3f} µm.")
    for after in told["after"]:
        odd = f" Unlike any panel: {', '.join(after['unlike'])}." if after["unlike"] else ""
        ways = ", ".join(f"{way} {price:.3f} µm" for way, price in after["ways"].items())
        lines.append(
            f"After {after['rung']}: {after['decision']}{f' ({ways})' if ways else ''}.{odd}"
        )
    return "\n".join(lines)
