"""What was done to the cells beside what was planned, and what it says of the result."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping
from typing import Any

from loam.core.as_done import StageDone
from loam.core.design.costs import running
from loam.core.errors import LoamError
from loam.core.panel import Taping
from loam.core.sanding import Answer, Left, marks_left
from loam.core.snapshot import Snapshot
from loam.core.trial import Cell, Combination, Stage
from loam.core.verdict import Done
from loam.store import work
from loam.store.settings import recall, recalled
from loam.store.work import MARK, PASS, WORKED, Work


def left_out_key(trial_id: int) -> str:
    """Return the setting that says whether cells that were not worked as planned count."""
    return f"left_out:{trial_id}"


def left_out(
    db: sqlite3.Connection, trial_id: int, turned: Mapping[str, Any] | None = None
) -> bool:
    """Tell whether cells that were not worked as planned are left out; ``turned`` goes first."""
    return recalled(db, left_out_key(trial_id), False, turned) is True


def looks_key(trial_id: int) -> str:
    """Return the setting that counts how often cells were added after a look at the result."""
    return f"looks:{trial_id}"


def looks(db: sqlite3.Connection, trial_id: int) -> int:
    """Return how often cells were added after a look at the result."""
    found = recall(db, looks_key(trial_id), 0)
    return found if isinstance(found, int) else 0


def stages_done(
    noted: Iterable[Work],
    cells: Mapping[int, Cell],
    combinations: Mapping[int, Combination],
    tapings: Mapping[int, Taping],
) -> Done:
    """Return the stages of each cell that was worked, as they were done.

    Parameters
    ----------
    noted : iterable of Work
        What was noted of a trial, oldest first.
    tapings : mapping of int to Taping
        By panel.
    """
    seen: dict[tuple[int, int], list[Work]] = {}
    for w in noted:
        seen.setdefault((w.cell_id, w.stage), []).append(w)
    planned: dict[tuple[Stage, Taping], float] = {}
    found: dict[int, list[StageDone]] = {}
    for (cell_id, number), own in sorted(seen.items()):
        cell = cells.get(cell_id)
        combination = combinations.get(cell.combination_id or 0) if cell is not None else None
        if cell is None or combination is None or number > len(combination.stages):
            continue
        stage, taping = combination.stages[number - 1], tapings[cell.panel_id]
        if (stage, taping) not in planned:
            planned[stage, taping] = planned_seconds(stage, taping)
        done = _stage_done(stage, own, planned[stage, taping])
        if done is not None:
            found.setdefault(cell_id, []).append(done)
    return {cell: tuple(stages) for cell, stages in found.items()}


def planned_seconds(stage: Stage, taping: Taping) -> float:
    """Return the planned time of a stage on the paint of a cell, s; 0 when it cannot be said."""
    try:
        return running([stage], taping)[0]
    except LoamError:
        return 0.0


def _stage_done(stage: Stage, noted: list[Work], planned_s: float) -> StageDone | None:
    counted = [w for w in noted if w.what == PASS]
    marks = [w for w in noted if w.what == MARK]
    if not counted and not any("passes" in w.facts for w in marks):
        return None
    said = [int(w.facts["passes"]) for w in marks if isinstance(w.facts.get("passes"), int)]
    return StageDone(
        passes=stage.passes or len(counted),
        done=said[-1] if said else len(counted),
        planned_s=planned_s,
        seconds=sum(float(w.facts.get("paint_s", w.facts.get("seconds", 0.0))) for w in counted),
        marks=tuple(str(w.facts["mark"]) for w in marks if w.facts.get("mark")),
        timed=bool(counted) and all(w.facts.get("timed") for w in counted),
    )


def looked_for_marks(
    noted: Iterable[Work],
    cells: Mapping[int, Cell],
    combinations: Mapping[int, Combination],
    hardness: Mapping[int, str],
) -> list[Answer]:
    """Return what was answered after stages that were to take former marks off.

    Parameters
    ----------
    noted : iterable of Work
        What was noted of a trial, oldest first; of a stage worked twice the last counts.
    hardness : mapping of int to str
        By panel.
    """
    found: dict[tuple[int, int], Answer] = {}
    for w in noted:
        cell = cells.get(w.cell_id)
        gone = w.facts.get("gone")
        if w.what != WORKED or cell is None or not isinstance(gone, bool):
            continue
        combination = combinations.get(cell.combination_id or 0)
        if combination is None or cell.panel_id not in hardness:
            continue
        sets = w.facts.get("sets", 1)
        found[w.cell_id, w.stage] = Answer(
            hardness[cell.panel_id],
            combination.code,
            w.stage,
            str(w.facts.get("marks", "")),
            gone,
            str(w.facts.get("light", "")),
            sets if isinstance(sets, int) else 1,
        )
    return list(found.values())


def marks_left_in(db: sqlite3.Connection, snapshot: Snapshot, trial_id: int) -> list[Left]:
    """Return in how many cells of a trial former marks were left, from its file."""
    return marks_left(
        looked_for_marks(
            work.paced(db, trial_id),
            {c.id: c for c in snapshot.cells},
            {c.id: c for c in snapshot.combinations},
            {p.id: p.hardness for p in snapshot.panels},
        )
    )


def done_in(db: sqlite3.Connection, snapshot: Snapshot, trial_id: int) -> Done:
    """Return what was done in a trial, from its file."""
    return stages_done(
        work.paced(db, trial_id),
        {c.id: c for c in snapshot.cells},
        {c.id: c for c in snapshot.combinations},
        {p.id: p.taping for p in snapshot.panels},
    )
