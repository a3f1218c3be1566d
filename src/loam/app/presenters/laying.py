"""Laying a trial out on a worker: what its cells are to get."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from loam.app.planning import Placement, Planned, Rules, planned, rules_of
from loam.app.readers import crossed
from loam.app.session import Session
from loam.core.design import lay_out
from loam.core.design.plan import UNTOUCHED
from loam.core.design.search import Told
from loam.core.design.steps import usually_by_stage
from loam.core.dose.stage import settings_for
from loam.core.errors import NotEnough, ValueRefused
from loam.core.trial import AFTER, UNWIPED, Panel
from loam.core.units import QUANTITIES
from loam.core.words.dose import wider_cells
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import panels as panel_store
from loam.store import trials as trial_store
from loam.store import work
from loam.store.cells import Place
from loam.store.database import reading_apart


def rules_at_hand(session: Session) -> Rules:
    """Return the rules by which the trial at hand is laid out."""
    if session.trial_id is None:
        return Rules()
    trial_id, db = session.trial_id, session.workshop.connection
    rules: Rules = session.cached("rules", lambda: rules_of(db, trial_id))
    return rules


def done_cells(session: Session) -> frozenset[int]:
    """Return the cells of the trial at hand that were worked or read: they keep what they got."""
    trial_id, db = session.trial_id, session.workshop.connection
    if trial_id is None:
        return frozenset()
    read = {cell for phase in (UNWIPED, AFTER) for cell, _ in session.counts(phase)}
    begun: frozenset[int] = session.cached("begun", lambda: work.cells_begun(db, trial_id))
    return begun.intersection(session.panel_of()) | read


@dataclass(frozen=True)
class Laid:
    """A layout of a trial.

    Attributes
    ----------
    stood : tuple of Place
        The cells as they stood when it was begun.
    rules : Rules
        The rules it was made by.
    after : Rules
        The same with the turn of the trial's seed that was drawn, and who works which panel.
    """

    trial_id: int
    stood: tuple[Place, ...]
    rules: Rules
    after: Rules
    placements: tuple[Placement, ...]


def _all_untouched(db: sqlite3.Connection, trial_id: int, stood: tuple[Place, ...]) -> Laid:
    """Leave every cell as it is: a gauge study reads untouched paint."""
    own = [c for c in combination_store.combinations(db, trial_id) if not c.stages]
    untouched = next((c for c in own if c.control == UNTOUCHED), None)
    if untouched is None or not stood:
        raise NotEnough(
            "A gauge study reads untouched cells, and there is no untouched control"
            " or no panel yet.",
            todo="Add the control under Kit (F3), a panel under Panels (F4).",
        )
    rules = rules_of(db, trial_id)
    placements = [(p.id, untouched.id, i) for i, p in enumerate(stood, 1)]
    return Laid(trial_id, stood, rules, rules, tuple(placements))


def _workable(found: Planned, panels: Sequence[Panel]) -> None:
    """Refuse to lay out what could not be worked, with what helps.

    Raises
    ------
    ValueRefused
    """
    for panel in panels:
        taping = panel.taping
        for name, stages in found.stages.items():
            for number, stage in enumerate(stages, 1):
                try:
                    settings_for(stage, taping.cell_width_mm, taping.cell_height_mm)
                except ValueRefused as error:
                    which = f", stage {number}," if len(stages) > 1 else ""
                    wider = wider_cells(taping, stage.pad_mm or 0.0, QUANTITIES["size"][0])
                    raise ValueRefused(
                        f"{name}{which} cannot be worked on {panel.name}: {error.what}",
                        todo=f"{wider or error.todo} Smaller pads: F3; larger cells: F4.",
                    ) from error


def lay_out_trial(path: Path, trial_id: int, told: Told | None = None) -> Laid:
    """Lay a trial out from its file; made for a worker thread.

    Raises
    ------
    NotEnough
        When there is too little to lay out.
    """
    with reading_apart(path) as db:
        stood = tuple(cell_store.places(db, trial_id))
        trial = next((t for t in trial_store.trials(db) if t.id == trial_id), None)
        if crossed(trial):
            return _all_untouched(db, trial_id, stood)
        found = planned(db, trial_id)
        panels = panel_store.panels(db, trial_id)
    _workable(found, panels)
    begun = {panels[place[0]].id for place in found.plan.done}
    after = replace(found.rules, turn=found.rules.turn + 1)
    if after.by_stage is None:
        after = replace(after, by_stage=usually_by_stage(found.stages.values()))
    after = after.with_people(found.trial, after.people, panels, begun)
    layout = lay_out(replace(found.plan, seed=after.seed(found.trial)), told)
    return Laid(trial_id, stood, found.rules, after, tuple(found.placements(layout)))
