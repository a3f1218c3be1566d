"""What is left of a trial after a loss: laid out anew round what is done, and how good it still is.

Cells, panels and time are lost on every real bench; what is done stays, what is lost is closed,
and the rest is dealt again so that it tells as much as it can.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TypeVar

from loam.app.planning import Placement, Planned, planned
from loam.app.presenters.laying import Laid
from loam.core.design import Efficiency, Layout, PanelPlan, Plan, efficiency, lay_out
from loam.core.design.plan import DAMAGED, UNTOUCHED, Place
from loam.core.design.search import Told
from loam.core.errors import LoamError, NotEnough
from loam.core.words.verdict import listed
from loam.store import cells as cell_store
from loam.store.database import reading_apart

V = TypeVar("V")


@dataclass(frozen=True)
class Replanned:
    """What is left, and what it is worth.

    Attributes
    ----------
    laid : Laid
        As for any layout; cells that are lost get nothing, and stay empty.
    lost : int
        Cells that were to be worked and are not.
    words : str
        What it still tells, against before.
    """

    laid: Laid
    lost: int
    words: str


def replan(
    path: Path,
    trial_id: int,
    lost: Collection[int] = (),
    most: int | None = None,
    told: Told | None = None,
) -> Replanned:
    """Lay out what is left; made for a worker thread.

    Parameters
    ----------
    lost : collection of int
        Cells that can no longer be worked.
    most : int, optional
        How many cells there is still time for.

    Raises
    ------
    NotEnough
        When what is left cannot compare all combinations, or nothing is left to do.
    """
    with reading_apart(path) as db:
        stood = tuple(cell_store.places(db, trial_id))
        found = planned(db, trial_id)
    place_of = {cell: place for place, cell in found.cell_of.items()}
    gone = {place_of[c] for c in lost if c in place_of} - set(found.plan.done)
    after = replace(found.rules, turn=found.rules.turn + 1)
    seed = after.seed(found.trial)
    choices = [gone] if most is None else [gone | cut for cut in _cuts(found, gone, most)]
    best: tuple[float, Layout, dict[int, int], set[Place]] | None = None
    refused: LoamError | None = None
    for choice in choices:
        try:
            plan, index = _without(found, choice, seed)
            layout = lay_out(plan, told)
        except LoamError as error:
            refused = error
            continue
        score = sum(e.mean_variance or math.inf for e in layout.efficiency)
        if best is None or score < best[0]:
            best = (score, layout, index, choice)
    if best is None:
        raise refused or NotEnough("Nothing is left to work.")
    _, layout, index, choice = best
    placements = _placements(found, layout, index, choice)
    locked = after.locked | {found.cell_of[p] for p in choice}
    laid = Laid(trial_id, stood, found.rules, replace(after, locked=locked), tuple(placements))
    worked = sum(found.assigned.get(p) in found.plan.combinations for p in choice)
    before = efficiency(found.plan, found.assigned)
    return Replanned(laid, worked, loss_words(before, layout.efficiency))


def _left(found: Planned, gone: set[Place]) -> list[Place]:
    """Return the cells that are still to be worked, in the order of the plan."""
    return [
        place
        for place, what in sorted(found.assigned.items())
        if what in found.plan.combinations and place not in found.plan.done and place not in gone
    ]


def _cuts(found: Planned, gone: set[Place], most: int) -> list[set[Place]]:
    """Return two ways to have no more than ``most`` cells left: whole panels, or some of each."""
    left = _left(found, gone)
    surplus = len(left) - most
    if surplus <= 0:
        return [set()]
    last = set(left[-surplus:])
    even: set[Place] = set()
    count: dict[int, int] = {}
    for place in left:
        count[place[0]] = count.get(place[0], 0) + 1
    for _ in range(surplus):
        panel = max(count, key=lambda p: (count[p], p))
        even.add(next(p for p in reversed(left) if p[0] == panel and p not in even))
        count[panel] -= 1
    return [last, even]


def _without(found: Planned, gone: set[Place], seed: int) -> tuple[Plan, dict[int, int]]:
    """Return the plan without some places, and the panel in it of each former panel."""
    panels: list[PanelPlan] = []
    index: dict[int, int] = {}
    for p, panel in enumerate(found.plan.panels):
        closed = panel.closed | {place[1:] for place in gone if place[0] == p}
        smaller = replace(panel, closed=closed)
        if smaller.open_cells():
            index[p] = len(panels)
            panels.append(smaller)
    if not panels:
        raise NotEnough("Nothing is left to work.", todo="Bring a panel back under Panels (F4).")

    controls = {p: w for p, w in found.assigned.items() if w in (UNTOUCHED, DAMAGED)}
    counts = [sum(w == kind for w in controls.values()) for kind in (UNTOUCHED, DAMAGED)]
    plan = replace(
        found.plan,
        panels=tuple(panels),
        fixed=_moved({**controls, **found.plan.fixed}, index, gone),
        done=_moved(found.plan.done, index, gone),
        seed=seed,
        untouched=found.plan.untouched if counts[0] else 0,
        damaged=found.plan.damaged if counts[1] else 0,
    )
    return _with_room(plan), index


def _moved(places: Mapping[Place, V], index: dict[int, int], gone: set[Place]) -> dict[Place, V]:
    return {
        (index[p[0]], p[1], p[2]): v for p, v in places.items() if p not in gone and p[0] in index
    }


def _with_room(plan: Plan) -> Plan:
    """Ask for no more controls than are there: those that were lost are not made up."""
    most = [
        min(
            sum(w == kind for p, w in plan.fixed.items() if p[0] == i)
            for i in range(len(plan.panels))
        )
        for kind in (UNTOUCHED, DAMAGED)
    ]
    return replace(plan, untouched=min(plan.untouched, most[0]), damaged=min(plan.damaged, most[1]))


def _placements(
    found: Planned, layout: Layout, index: dict[int, int], gone: set[Place]
) -> list[Placement]:
    back = {new: old for old, new in index.items()}
    placed: list[Placement] = [(found.cell_of[p], None, None) for p in sorted(gone)]
    for cell in layout.cells:
        place = (back[cell.panel], cell.row, cell.column)
        if place in found.cell_of:
            placed.append((found.cell_of[place], found.id_of[cell.assigned], cell.run_order))
    return placed


def loss_words(before: tuple[Efficiency, ...], after: tuple[Efficiency, ...]) -> str:
    """Say what a loss does to what can be told apart, hardness by hardness."""
    now = {e.hardness: e for e in after}
    gone = [e.hardness for e in before if e.hardness not in now]
    said = []
    if gone:
        said.append(f"Nothing is left on {listed(gone)}.")
    for old in before:
        new = now.get(old.hardness)
        if new is None or old.mean_variance is None:
            continue
        if new.mean_variance is None:
            said.append(f"On {old.hardness} some combinations cannot be compared any more.")
            continue
        wider = 100.0 * (math.sqrt(new.mean_variance / old.mean_variance) - 1.0)
        if wider < 0.5:
            said.append(f"On {old.hardness} it tells as much as before.")
        else:
            said.append(f"On {old.hardness} its intervals become {wider:.0f} % wider.")
    return " ".join(said)
