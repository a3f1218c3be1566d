"""The plan of a trial: its rules of laying out, and the trial as the design sees it."""

from __future__ import annotations

import sqlite3
from collections.abc import Container, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import Any

from loam.core.design import Layout, PanelPlan, Plan
from loam.core.design.hands import share_out
from loam.core.design.plan import DAMAGED, UNTOUCHED, Place
from loam.core.design.steps import usually_by_stage
from loam.core.errors import NotEnough
from loam.core.panel import Taping
from loam.core.trial import Cell, Combination, Panel, Stage, Trial
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import panels as panel_store
from loam.store import trials as trial_store
from loam.store import work
from loam.store.readings import cells_read
from loam.store.settings import recall, remember

MOST_CONTROLS = 20
Placement = tuple[int, int | None, int | None]
"""Cell, combination, place in the order of work."""


@dataclass(frozen=True)
class Rules:
    """How a trial is laid out.

    Attributes
    ----------
    untouched, damaged : int
        Cells a panel for each kind of control that the trial has.
    apart : bool
        Equal combinations do not touch.
    trends : bool
        Rows and columns of a panel are evened out too.
    by_machine : bool
        On a panel one machine is finished before the next.
    by_stage : bool or None
        Worked stage by stage over each panel, not cell by cell; None: as is usual for such a plan,
        from when it is laid out next.
    locked : frozenset of int
        Cells that keep what they have; an empty one stays empty.
    turn : int
        How often it was laid out: with the trial's seed it gives the seed of the layout.
    people : tuple of str
        Who works it; nobody named: whoever is free.
    workers : tuple of (panel, person)
        Who works which panel, drawn by lot.
    """

    untouched: int = 1
    damaged: int = 1
    apart: bool = True
    trends: bool = False
    by_machine: bool = False
    by_stage: bool | None = None
    locked: frozenset[int] = field(default_factory=frozenset)
    turn: int = 0
    people: tuple[str, ...] = ()
    workers: tuple[tuple[int, str], ...] = ()

    def worker(self, panel_id: int) -> str:
        """Return who is to work a panel; "" for whoever is free."""
        return dict(self.workers).get(panel_id, "")

    def with_people(
        self, trial: Trial, people: Iterable[str], panels: Sequence[Panel], begun: Container[int]
    ) -> Rules:
        """Return the rules with other people; a panel that was begun keeps its person."""
        named = tuple(people)
        kept = {i: w for i, p in enumerate(panels) if p.id in begun and (w := self.worker(p.id))}
        shared = share_out([p.hardness for p in panels], named, self.seed(trial), kept)
        workers = tuple((p.id, who) for p, who in zip(panels, shared, strict=True) if who)
        return replace(self, people=named, workers=workers)

    def seed(self, trial: Trial) -> int:
        """Return the seed of the layout."""
        return (trial.seed + 7919 * self.turn) % 2**32


def staged_now(rules: Rules, combinations: Iterable[Combination], *, laid: bool) -> bool:
    """Tell whether a trial is worked stage by stage; before it is laid out, whether it will be."""
    if rules.by_stage is not None or laid:
        return bool(rules.by_stage)
    return usually_by_stage(c.stages for c in combinations)


def _key(trial_id: int) -> str:
    return f"plan:{trial_id}"


def rules_of(db: sqlite3.Connection, trial_id: int) -> Rules:
    """Return the rules of a trial; what cannot be one counts as not said."""
    kept: Any = recall(db, _key(trial_id), {})
    if not isinstance(kept, dict):
        return Rules()
    known: dict[str, Any] = {
        name: kept[name]
        for name in ("apart", "trends", "by_machine", "by_stage")
        if isinstance(kept.get(name), bool)
    }
    for name in ("untouched", "damaged"):
        count = kept.get(name)
        if isinstance(count, int) and not isinstance(count, bool) and 0 <= count <= MOST_CONTROLS:
            known[name] = count
    turn = kept.get("turn")
    if isinstance(turn, int) and not isinstance(turn, bool) and 0 <= turn < 2**31:
        known["turn"] = turn
    locked = kept.get("locked", [])
    if isinstance(locked, list):
        known["locked"] = frozenset(
            i for i in locked if isinstance(i, int) and not isinstance(i, bool)
        )
    people = kept.get("people", [])
    if isinstance(people, list):
        known["people"] = tuple(p for p in people if isinstance(p, str))
    workers = kept.get("workers", [])
    if isinstance(workers, list):
        known["workers"] = tuple((w[0], w[1]) for w in workers if _names_worker(w))
    return Rules(**known)


def _names_worker(kept: Any) -> bool:
    return isinstance(kept, list) and [type(part) for part in kept] == [int, str]


def keep_rules(db: sqlite3.Connection, trial_id: int, rules: Rules) -> None:
    """Keep the rules of a trial."""
    remember(db, _key(trial_id), asdict(rules) | {"locked": sorted(rules.locked)})


@dataclass(frozen=True)
class Planned:
    """A trial as the design sees it, and the way back to its cells and combinations.

    Attributes
    ----------
    cell_of : dict
        Cell id by place.
    id_of : dict
        Combination id by its name in the plan.
    assigned : dict
        What each place has now.
    stages : dict
        Stages of each combination; controls have none.
    panels : tuple of (Taping, hardness)
    """

    trial: Trial
    rules: Rules
    plan: Plan
    cell_of: Mapping[Place, int]
    id_of: Mapping[str, int]
    assigned: Mapping[Place, str]
    stages: Mapping[str, tuple[Stage, ...]]
    panels: tuple[tuple[Taping, str], ...]

    def placements(self, layout: Layout) -> list[Placement]:
        """Turn a layout into what the cells get; what stays as it is is left out."""
        return [
            (self.cell_of[place], self.id_of[cell.assigned], cell.run_order)
            for cell in layout.cells
            if (place := (cell.panel, cell.row, cell.column)) in self.cell_of
        ]


def planned(db: sqlite3.Connection, trial_id: int) -> Planned:
    """Return the plan of a trial as it stands in its file.

    Raises
    ------
    NotEnough
        Without combinations or panels, or too few cells for what is asked.
    """
    trial = next((t for t in trial_store.trials(db) if t.id == trial_id), None)
    if trial is None:
        raise NotEnough("The trial is put away.", todo="Bring it back under Ask (F2).")
    return plan_of(
        trial,
        panel_store.panels(db, trial_id),
        combination_store.combinations(db, trial_id),
        cell_store.cells(db, trial_id, baselines=False),
        cells_read(db, trial_id) | work.cells_begun(db, trial_id),
        rules_of(db, trial_id),
    )


def plan_of(
    trial: Trial,
    panels: Iterable[Panel],
    combinations: Iterable[Combination],
    cells: Iterable[Cell],
    done: frozenset[int],
    rules: Rules,
) -> Planned:
    """Put a trial's parts together as a plan; cells that are done keep what they have."""
    found, compared = list(panels), list(combinations)
    controls = _controls(compared)
    worked = [c for c in compared if c.id not in controls.values()]
    names = {c.id: _name(c) for c in worked} | {i: what for what, i in controls.items()}
    if not worked:
        raise NotEnough("There is no combination to lay out.", todo="Name some under Kit (F3).")
    at = {p.id: i for i, p in enumerate(found)}
    cell_of: dict[Place, int] = {}
    assigned: dict[Place, str] = {}
    fixed: dict[Place, str] = {}
    behind: dict[Place, int] = {}
    closed: dict[int, set[tuple[int, int]]] = {}
    there: dict[int, set[tuple[int, int]]] = {}
    present = list(cells)
    begun = {c.panel_id for c in present if c.id in done}
    for cell in present:
        if cell.panel_id not in at:
            continue
        place = (at[cell.panel_id], cell.row, cell.column)
        there.setdefault(place[0], set()).add(place[1:])
        cell_of[place] = cell.id
        has = names.get(cell.combination_id or 0)
        stays = cell.id in rules.locked or cell.id in done
        if cell.panel_id in begun and has in (UNTOUCHED, DAMAGED):
            stays = True  # a control has been prepared with its panel
        if cell.id in done and cell.run_order is not None:
            behind[place] = cell.run_order
        if has is not None:
            assigned[place] = has
            if stays:
                fixed[place] = has
        elif stays:
            closed.setdefault(place[0], set()).add(place[1:])
    plans = tuple(
        PanelPlan(
            p.name,
            p.hardness,
            p.taping.rows,
            p.taping.columns,
            frozenset(closed.get(i, set()) | _gone(p, there.get(i, set()))),
        )
        for i, p in enumerate(found)
    )
    plan = Plan(
        combinations=tuple(names[c.id] for c in worked),
        panels=plans,
        untouched=rules.untouched if UNTOUCHED in controls else 0,
        damaged=rules.damaged if DAMAGED in controls else 0,
        trends=rules.trends,
        groups={names[c.id]: _machines(c) for c in worked} if rules.by_machine else {},
        apart=rules.apart,
        readings_per_cell=trial.readings_per_cell,
        seed=rules.seed(trial),
        fixed=fixed,
        done=behind,
    )
    return Planned(
        trial,
        rules,
        plan,
        cell_of,
        {name: i for i, name in names.items()},
        assigned,
        {names[c.id]: c.stages for c in compared if c.id in names},
        tuple((p.taping, p.hardness) for p in found),
    )


def _controls(combinations: Iterable[Combination]) -> dict[str, int]:
    """Return the first combination of each kind of control."""
    found: dict[str, int] = {}
    for c in combinations:
        if c.control:
            found.setdefault(c.control, c.id)
    return found


def _name(combination: Combination) -> str:
    code = combination.code
    return f"{code} #{combination.id}" if code in (UNTOUCHED, DAMAGED) else code


def _machines(combination: Combination) -> str:
    return " then ".join(s.machine for s in combination.stages)


def _gone(panel: Panel, there: set[tuple[int, int]]) -> set[tuple[int, int]]:
    """Return the places of the grid that have no cell (any more)."""
    grid = {(r, c) for r in range(panel.taping.rows) for c in range(panel.taping.columns)}
    return grid - there
