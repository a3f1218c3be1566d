"""A whole trial in memory, with ids of its own, before or after it is in a workshop."""

from __future__ import annotations

import sqlite3
from collections.abc import Generator, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar

from loam.core.errors import LoamError
from loam.core.trial import Cell, Combination, Panel, Reading, Trial
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import readings as reading_store
from loam.store import trials as trial_store
from loam.store.origins import keep_origin, origin_of
from loam.store.panels import add_panel, panels

_T = TypeVar("_T")


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
    workshop: str = field(default="", compare=False)
    """Print of the workshop that it comes from."""
    lines: tuple[int, ...] = field(default=(), compare=False, repr=False)
    """Line of the file that each reading stands on, where it comes from a table."""
    called: tuple[str, ...] = field(default=(), compare=False, repr=False)
    """What the table calls each cell."""


PORTION = 1000
"""Rows written in one step: a few milliseconds, so that typing beside it never waits long."""


def draft_steps(db: sqlite3.Connection, draft: TrialDraft, now: str) -> Generator[int, None, int]:
    """Write a draft step by step and return the trial's id.

    The caller may end its transaction at every yield (which carries the readings written so
    far): until the last step the trial is "coming in", and nobody sees it.
    """
    trial_id = trial_store.add_trial(
        db, replace(draft.trial, id=0), draft.created_at or now, trial_store.COMING_IN
    )
    combination_ids: dict[int | None, int | None] = {None: None}
    for portion in _portions(draft.combinations, 50):
        for combination in portion:
            combination_ids[combination.id] = combination_store.add_combination(
                db, trial_id, replace(combination, id=0), now
            )
        yield 0
    taping_ids: dict[int, int] = {}
    for panel in draft.panels:
        new = replace(panel, id=0, trial_id=trial_id, physical=0)
        taping_ids[panel.id] = add_panel(db, new, now, state=trial_store.COMING_IN, check=False)
        yield 0
    at = {
        (taping_id, row, column): cell_id
        for cell_id, taping_id, row, column in db.execute(
            'SELECT c.id, c.taping_id, c.row, c."column" FROM cell c'
            " JOIN taping t ON t.id = c.taping_id WHERE t.trial_id=?",
            (trial_id,),
        )
    }
    cell_ids = [at[taping_ids[c.panel_id], c.row, c.column] for c in draft.cells]
    for pairs in _portions(list(zip(cell_ids, draft.cells, strict=True)), PORTION):
        cell_store.assign(
            db, [(i, combination_ids[c.combination_id], c.run_order) for i, c in pairs]
        )
        cell_store.name_cells(db, [(i, c.name) for i, c in pairs if c.name])
        cell_store.set_baselines(db, [(i, m, v) for i, c in pairs for m, v in c.baseline.items()])
        yield 0
    yield from _readings(db, draft, cell_ids, now)
    db.execute(
        "UPDATE panel SET put_away=0 WHERE id IN (SELECT v.panel_id FROM taping t"
        " JOIN panel_version v ON v.id = t.panel_version_id WHERE t.trial_id=?)",
        (trial_id,),
    )
    db.execute("UPDATE trial SET put_away=0 WHERE id=?", (trial_id,))
    keep_origin(db, trial_id, draft.workshop)
    return trial_id


def _readings(
    db: sqlite3.Connection, draft: TrialDraft, cell_ids: list[int], now: str
) -> Iterator[int]:
    clerk = reading_store.Clerk(db, now)
    struck = {s.reading_id for s in draft.strikes}
    reading_ids: dict[int, int] = {}
    done = 0
    for portion in _portions(draft.readings, PORTION):
        base = int(db.execute("SELECT coalesce(max(id), 0) FROM reading").fetchone()[0])
        clerk.add(
            replace(r, id=base + i, cell_id=cell_ids[r.cell_id - 1])
            for i, r in enumerate(portion, 1)
        )
        if struck:
            reading_ids.update((r.id, base + i) for i, r in enumerate(portion, 1) if r.id in struck)
        done += len(portion)
        yield done
    for entries in _portions(draft.strikes, PORTION):
        for s in entries:
            reading_store.strike(db, [reading_ids[s.reading_id]], s.reason, s.at, s.struck)
        yield done


def _portions(items: Sequence[_T], size: int) -> Iterator[Sequence[_T]]:
    for start in range(0, len(items), size):
        yield items[start : start + size]


def write_draft(db: sqlite3.Connection, draft: TrialDraft, now: str) -> int:
    """Add a draft to the workshop inside the caller's transaction and return the trial's id."""
    steps = draft_steps(db, draft, now)
    while True:
        try:
            next(steps)
        except StopIteration as end:
            return int(end.value)


def clear_steps(db: sqlite3.Connection) -> Iterator[None]:
    """Clear away, step by step, trials whose coming in was cut off; they were never shown."""
    of_cells = (
        "SELECT c.id FROM cell c JOIN taping t ON t.id = c.taping_id"
        f" JOIN trial x ON x.id = t.trial_id WHERE x.put_away = {trial_store.COMING_IN}"
    )
    for sql in (
        f"DELETE FROM strike WHERE id IN (SELECT s.id FROM strike s JOIN reading r"
        f" ON r.id = s.reading_id WHERE r.cell_id IN ({of_cells}) LIMIT {PORTION})",
        f"DELETE FROM reading WHERE id IN (SELECT id FROM reading WHERE cell_id IN ({of_cells})"
        f" LIMIT {PORTION})",
        f"DELETE FROM work WHERE id IN (SELECT id FROM work WHERE cell_id IN ({of_cells})"
        f" LIMIT {PORTION})",
        f"DELETE FROM baseline WHERE cell_id IN (SELECT cell_id FROM baseline"
        f" WHERE cell_id IN ({of_cells}) LIMIT {PORTION})",
    ):
        while db.execute(sql).rowcount:
            yield
    state = trial_store.COMING_IN
    of_trial = f"(SELECT id FROM trial WHERE put_away = {state})"
    for sql in (
        f"DELETE FROM cell WHERE id IN ({of_cells})",
        f"DELETE FROM taping WHERE trial_id IN {of_trial}",
        f"DELETE FROM panel_version WHERE panel_id IN"
        f" (SELECT id FROM panel WHERE put_away = {state})",
        f"DELETE FROM panel WHERE put_away = {state}",
        f"DELETE FROM stage WHERE combination_id IN"
        f" (SELECT id FROM combination WHERE trial_id IN {of_trial})",
        f"DELETE FROM combination WHERE trial_id IN {of_trial}",
        f"DELETE FROM trial WHERE put_away = {state}",
    ):
        db.execute(sql)
        yield


def read_draft(db: sqlite3.Connection, trial_id: int) -> TrialDraft:
    """Take a whole trial out of the workshop, renumbered from 1."""
    trial = next((t for t in trial_store.trials(db) if t.id == trial_id), None)
    if trial is None:
        raise LoamError("There is no such trial any more.", todo="Choose another one.")
    created = db.execute("SELECT created_at FROM trial WHERE id=?", (trial_id,)).fetchone()[0]
    taped = panels(db, trial_id)
    combinations = combination_store.combinations(db, trial_id)
    shown = {p.id for p in taped}
    cells = [c for c in cell_store.cells(db, trial_id) if c.panel_id in shown]
    panel_at = {p.id: i for i, p in enumerate(taped, 1)}
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
            " JOIN taping t ON t.id = c.taping_id WHERE t.trial_id=? ORDER BY s.id",
            (trial_id,),
        )
        if r[0] in reading_at
    ]
    return TrialDraft(
        replace(trial, id=1),
        tuple(replace(p, id=panel_at[p.id], trial_id=1, physical=0) for p in taped),
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
        workshop=origin_of(db, trial_id),
    )
