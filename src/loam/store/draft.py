"""A whole trial in memory, with ids of its own, before or after it is in a workshop."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, field, replace

from loam.core.trial import Cell, Combination, Panel, Reading, Trial
from loam.store import readings as reading_store
from loam.store import trials as trial_store


@dataclass(frozen=True)
class Strike:
    """One entry of the log of strikes: struck out, or counted again."""

    reading_id: int
    struck: bool
    reason: str
    at: str


@dataclass(frozen=True)
class TrialDraft:
    """A trial with all that belongs to it.

    Ids are local: panels, combinations, cells and readings are numbered from 1 in the order of
    their lists, and refer to each other by those numbers.
    """

    trial: Trial
    panels: tuple[Panel, ...]
    combinations: tuple[Combination, ...]
    cells: tuple[Cell, ...]
    readings: tuple[Reading, ...]
    strikes: tuple[Strike, ...] = ()
    created_at: str = ""
    notes: tuple[str, ...] = field(default=())


def write_draft(db: sqlite3.Connection, draft: TrialDraft, now: str) -> int:
    """Add a draft to the workshop inside the caller's transaction and return the trial's id."""

    def top(table: str) -> int:
        return int(db.execute(f"SELECT coalesce(max(id), 0) FROM {table}").fetchone()[0])

    trial_id = trial_store.add_trial(db, replace(draft.trial, id=0), draft.created_at or now)
    combination_base = top("combination")
    for i, combination in enumerate(draft.combinations, 1):
        trial_store.add_combination(db, trial_id, replace(combination, id=combination_base + i))
    panel_base = top("panel")
    for i, panel in enumerate(draft.panels, 1):
        trial_store.add_panel(db, replace(panel, id=panel_base + i, trial_id=trial_id))
    at = {
        (panel_id, row, column): cell_id
        for cell_id, panel_id, row, column in db.execute(
            'SELECT c.id, c.panel_id, c.row, c."column" FROM cell c'
            " JOIN panel p ON p.id = c.panel_id WHERE p.trial_id=?",
            (trial_id,),
        )
    }
    cell_ids = [at[c.panel_id + panel_base, c.row, c.column] for c in draft.cells]
    trial_store.assign(
        db,
        [
            (i, c.combination_id + combination_base if c.combination_id else None, c.run_order)
            for i, c in zip(cell_ids, draft.cells, strict=True)
        ],
    )
    trial_store.set_baselines(
        db,
        [
            (i, measurand, value)
            for i, c in zip(cell_ids, draft.cells, strict=True)
            for measurand, value in c.baseline.items()
        ],
    )
    reading_base = top("reading")
    reading_store.add_readings(
        db,
        (
            replace(
                r, id=reading_base + i, cell_id=cell_ids[r.cell_id - 1], taken_at=r.taken_at or now
            )
            for i, r in enumerate(draft.readings, 1)
        ),
    )
    for s in draft.strikes:
        reading_store.strike(db, [s.reading_id + reading_base], s.reason, s.at, s.struck)
    return trial_id


def read_draft(db: sqlite3.Connection, trial_id: int) -> TrialDraft:
    """Take a whole trial out of the workshop, renumbered from 1."""
    trial = next((t for t in trial_store.trials(db) if t.id == trial_id), None)
    if trial is None:
        raise KeyError(trial_id)
    created = db.execute("SELECT created_at FROM trial WHERE id=?", (trial_id,)).fetchone()[0]
    panels = trial_store.panels(db, trial_id)
    combinations = trial_store.combinations(db, trial_id)
    cells = trial_store.cells(db, trial_id)
    panel_at = {p.id: i for i, p in enumerate(panels, 1)}
    combination_at: dict[int | None, int] = {c.id: i for i, c in enumerate(combinations, 1)}
    cell_at = {c.id: i for i, c in enumerate(cells, 1)}
    readings = reading_store.readings_of_cells(db, list(cell_at))
    readings.sort(key=lambda r: r.id)
    reading_at = {r.id: i for i, r in enumerate(readings, 1)}
    strikes = [
        Strike(reading_at[r[0]], bool(r[1]), r[2], r[3])
        for r in db.execute(
            "SELECT s.reading_id, s.struck, s.reason, s.at FROM strike s"
            " JOIN reading r ON r.id = s.reading_id JOIN cell c ON c.id = r.cell_id"
            " JOIN panel p ON p.id = c.panel_id WHERE p.trial_id=? ORDER BY s.id",
            (trial_id,),
        )
        if r[0] in reading_at
    ]
    return TrialDraft(
        replace(trial, id=1),
        tuple(replace(p, id=panel_at[p.id], trial_id=1) for p in panels),
        tuple(replace(c, id=combination_at[c.id]) for c in combinations),
        tuple(
            replace(
                c,
                id=cell_at[c.id],
                panel_id=panel_at[c.panel_id],
                combination_id=combination_at.get(c.combination_id),
            )
            for c in cells
        ),
        tuple(replace(r, id=reading_at[r.id], cell_id=cell_at[r.cell_id]) for r in readings),
        tuple(strikes),
        created,
    )
