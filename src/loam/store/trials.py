"""Trials, panels, combinations and cells in the workshop file."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

from loam.core.errors import ValueRefused
from loam.core.panel import Taping
from loam.core.trial import Cell, Combination, Panel, Stage, Trial
from loam.store.at_once import rows_at_once

STAGE_FIELDS = (
    "pad",
    "compound",
    "machine",
    "pad_material",
    "compound_class",
    "machine_kind",
    "passes",
    "dial",
    "force_n",
)
_KINDS = {"trial", "panel", "combination"}


def add_trial(db: sqlite3.Connection, trial: Trial, created_at: str) -> int:
    """Insert a trial and return its id (the one it carries when that is above 0)."""
    cursor = db.execute(
        "INSERT INTO trial(id, name, question, measurands, readings_per_cell, seed, note,"
        " created_at) VALUES (?,?,?,?,?,?,?,?)",
        (
            trial.id or None,
            trial.name,
            trial.question,
            json.dumps(trial.measurands),
            trial.readings_per_cell,
            trial.seed,
            trial.note,
            created_at,
        ),
    )
    return int(cursor.lastrowid or 0)


def change_trial(db: sqlite3.Connection, trial: Trial) -> None:
    """Write a trial's changed fields."""
    db.execute(
        "UPDATE trial SET name=?, question=?, measurands=?, readings_per_cell=?, seed=?, note=?"
        " WHERE id=?",
        (
            trial.name,
            trial.question,
            json.dumps(trial.measurands),
            trial.readings_per_cell,
            trial.seed,
            trial.note,
            trial.id,
        ),
    )


def trials(db: sqlite3.Connection) -> list[Trial]:
    """Return all trials that are not put away, oldest first."""
    rows = db.execute(
        "SELECT id, name, question, measurands, readings_per_cell, seed, note FROM trial"
        " WHERE put_away = 0 ORDER BY id"
    )
    return [Trial(r[0], r[1], r[2], tuple(json.loads(r[3])), r[4], r[5], r[6]) for r in rows]


def put_away(db: sqlite3.Connection, kind: str, row_id: int, away: bool) -> None:
    """Hide or show a trial, panel or combination; nothing is ever deleted."""
    if kind not in _KINDS:
        raise KeyError(kind)
    try:
        db.execute(f"UPDATE {kind} SET put_away=? WHERE id=?", (int(away), row_id))
    except sqlite3.IntegrityError as error:
        raise ValueRefused(
            f"Another {kind} has taken that name meanwhile.", todo="Rename it first."
        ) from error


def _panel_values(panel: Panel) -> tuple[object, ...]:
    t = panel.taping
    return (
        panel.name,
        panel.hardness,
        panel.paint,
        t.width_mm,
        t.height_mm,
        t.rows,
        t.columns,
        t.gap_mm,
        t.margin_mm,
    )


def _taken(kind: str, name: str) -> ValueRefused:
    return ValueRefused(
        f"There is a {kind} {name} in this trial already.", todo="Choose another name."
    )


def add_panel(db: sqlite3.Connection, panel: Panel) -> int:
    """Insert a panel with its cells and return its id."""
    try:
        cursor = db.execute(
            "INSERT INTO panel(name, hardness, paint, width_mm, height_mm, rows, columns, gap_mm,"
            " margin_mm, id, trial_id) VALUES (?,?,?,?,?,?,?,?,?,?,?)",
            (*_panel_values(panel), panel.id or None, panel.trial_id),
        )
    except sqlite3.IntegrityError as error:
        raise _taken("panel", panel.name) from error
    panel_id = int(cursor.lastrowid or 0)
    _tape(db, panel_id, panel.taping)
    return panel_id


def change_panel(db: sqlite3.Connection, panel: Panel) -> None:
    """Write a panel's fields and retape it; cells that carry readings may not vanish.

    Raises
    ------
    ValueRefused
        When a cell with readings would fall off the panel, or the name is taken.
    """
    lost = db.execute(
        "SELECT count(DISTINCT c.id) FROM cell c JOIN reading r ON r.cell_id = c.id"
        ' WHERE c.panel_id=? AND (c.row >= ? OR c."column" >= ?)',
        (panel.id, panel.taping.rows, panel.taping.columns),
    ).fetchone()[0]
    if lost:
        raise ValueRefused(
            f"{lost} cell{'s' if lost > 1 else ''} with readings would fall off the panel.",
            where=f"panel {panel.name}",
            todo="Keep the rows and columns, or start another panel.",
            kept="The panel is as it was.",
        )
    try:
        db.execute(
            "UPDATE panel SET name=?, hardness=?, paint=?, width_mm=?, height_mm=?, rows=?,"
            " columns=?, gap_mm=?, margin_mm=? WHERE id=?",
            (*_panel_values(panel), panel.id),
        )
    except sqlite3.IntegrityError as error:
        raise _taken("panel", panel.name) from error
    _tape(db, panel.id, panel.taping)


def _tape(db: sqlite3.Connection, panel_id: int, taping: Taping) -> None:
    db.executemany(
        'INSERT INTO cell(panel_id, row, "column") VALUES (?,?,?)'
        ' ON CONFLICT(panel_id, row, "column") DO NOTHING',
        [(panel_id, r, c) for r in range(taping.rows) for c in range(taping.columns)],
    )
    db.execute(
        'UPDATE cell SET put_away = (row >= ? OR "column" >= ?) WHERE panel_id=?',
        (taping.rows, taping.columns, panel_id),
    )


def panels(db: sqlite3.Connection, trial_id: int) -> list[Panel]:
    """Return a trial's panels in the order they came."""
    rows = db.execute(
        "SELECT id, trial_id, name, hardness, width_mm, height_mm, rows, columns, gap_mm,"
        " margin_mm, paint FROM panel WHERE trial_id=? AND put_away=0 ORDER BY id",
        (trial_id,),
    )
    return [Panel(r[0], r[1], r[2], r[3], Taping(*r[4:10]), r[10]) for r in rows]


def add_combination(db: sqlite3.Connection, trial_id: int, combination: Combination) -> int:
    """Insert a combination with its stages and return its id."""
    try:
        cursor = db.execute(
            "INSERT INTO combination(id, trial_id, code, name) VALUES (?,?,?,?)",
            (combination.id or None, trial_id, combination.code, combination.name),
        )
    except sqlite3.IntegrityError as error:
        raise _taken("combination", combination.code) from error
    combination_id = int(cursor.lastrowid or 0)
    _write_stages(db, combination_id, combination.stages)
    return combination_id


def change_combination(db: sqlite3.Connection, combination: Combination) -> None:
    """Write a combination and its stages."""
    try:
        db.execute(
            "UPDATE combination SET code=?, name=? WHERE id=?",
            (combination.code, combination.name, combination.id),
        )
    except sqlite3.IntegrityError as error:
        raise _taken("combination", combination.code) from error
    db.execute("DELETE FROM stage WHERE combination_id=?", (combination.id,))
    _write_stages(db, combination.id, combination.stages)


def _write_stages(db: sqlite3.Connection, combination_id: int, stages: Iterable[Stage]) -> None:
    db.executemany(
        f"INSERT INTO stage(combination_id, position, {', '.join(STAGE_FIELDS)})"
        f" VALUES (?,?,{','.join('?' * len(STAGE_FIELDS))})",
        [
            (combination_id, i, *(getattr(stage, f) for f in STAGE_FIELDS))
            for i, stage in enumerate(stages)
        ],
    )


def combinations(db: sqlite3.Connection, trial_id: int) -> list[Combination]:
    """Return a trial's combinations in the order they came."""
    stages: dict[int, list[Stage]] = {}
    for row in db.execute(
        f"SELECT s.combination_id, {', '.join('s.' + f for f in STAGE_FIELDS)} FROM stage s"
        " JOIN combination c ON c.id = s.combination_id WHERE c.trial_id=?"
        " ORDER BY s.combination_id, s.position",
        (trial_id,),
    ):
        stages.setdefault(row[0], []).append(Stage(**dict(zip(STAGE_FIELDS, row[1:], strict=True))))
    rows = db.execute(
        "SELECT id, code, name FROM combination WHERE trial_id=? AND put_away=0 ORDER BY id",
        (trial_id,),
    )
    return [Combination(r[0], r[1], r[2], tuple(stages.get(r[0], ()))) for r in rows]


def cells(db: sqlite3.Connection, trial_id: int, *, baselines: bool = True) -> list[Cell]:
    """Return a trial's cells, panel by panel, row by row.

    Parameters
    ----------
    baselines : bool
        Whether to fetch the readings before work too; a view that only draws the cells does not
        need them, and they come row by row, so that every bit is kept.
    """
    before: dict[int, dict[str, float]] = {}
    if baselines:
        for cell_id, measurand, value in db.execute(
            "SELECT b.cell_id, b.measurand, b.value FROM baseline b"
            " JOIN cell c ON c.id = b.cell_id JOIN panel p ON p.id = c.panel_id"
            " WHERE p.trial_id=?",
            (trial_id,),
        ):
            before.setdefault(cell_id, {})[measurand] = value
    rows = rows_at_once(
        db,
        ("id", "panel_id", "row", "col", "combination_id", "run_order"),
        'SELECT c.id, c.panel_id, c.row, c."column" AS col, c.combination_id, c.run_order'
        " FROM cell c JOIN panel p ON p.id = c.panel_id"
        " WHERE p.trial_id=? AND p.put_away=0 AND c.put_away=0"
        ' ORDER BY c.panel_id, c.row, c."column"',
        (trial_id,),
    )
    return [Cell(r[0], r[1], r[2], r[3], r[4], r[5], before.get(r[0], {})) for r in rows]


def laid_out(db: sqlite3.Connection, trial_id: int) -> tuple[int, set[int]]:
    """Return how many cells a trial has, and the ids of those that have a combination."""
    rows = rows_at_once(
        db,
        ("id", "laid"),
        "SELECT c.id, c.combination_id IS NOT NULL AS laid FROM cell c"
        " JOIN panel p ON p.id = c.panel_id"
        " WHERE p.trial_id=? AND p.put_away=0 AND c.put_away=0",
        (trial_id,),
    )
    return len(rows), {r[0] for r in rows if r[1]}


def assign(db: sqlite3.Connection, wanted: Iterable[tuple[int, int | None, int | None]]) -> None:
    """Give cells their combination and run order: (cell id, combination id, order) each."""
    db.executemany(
        "UPDATE cell SET combination_id=?, run_order=? WHERE id=?",
        [(combination, order, cell) for cell, combination, order in wanted],
    )


def set_baselines(db: sqlite3.Connection, values: Iterable[tuple[int, str, float]]) -> None:
    """Keep the mean reading before work: (cell id, measurand, value) each."""
    db.executemany(
        "INSERT INTO baseline(cell_id, measurand, value) VALUES (?,?,?)"
        " ON CONFLICT(cell_id, measurand) DO UPDATE SET value=excluded.value",
        values,
    )
