"""A trial's readings as the columns that the core judges."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from loam.core.errors import NotEnough
from loam.core.judgement import Coded, TrialData
from loam.core.readings import FILM, REMOVED, kind_of
from loam.core.trial import HARDNESSES
from loam.store import trials as trial_store
from loam.store.draft import TrialDraft
from loam.store.readings import ReadingColumns, reading_columns

IntArray = npt.NDArray[np.intp]


def _coded(values: IntArray, names: dict[int, str]) -> Coded:
    present, codes = np.unique(values, return_inverse=True)
    return Coded(codes.astype(np.intp), tuple(names.get(int(v), "") for v in present))


def paired_fall(
    before: ReadingColumns, after: ReadingColumns
) -> tuple[IntArray, npt.NDArray[np.float64]]:
    """Pair film thickness before and after work by cell and number of the reading."""
    earlier = {
        (int(c), int(o)): v
        for c, o, v in zip(before.cell, before.ordinal, before.value, strict=True)
    }
    rows, values = [], []
    for i, (c, o, v) in enumerate(zip(after.cell, after.ordinal, after.value, strict=True)):
        first = earlier.get((int(c), int(o)))
        if first is not None:
            rows.append(i)
            values.append(first - v)
    return np.array(rows, dtype=np.intp), np.array(values)


def _final_stage(cell: IntArray, stage: IntArray) -> npt.NDArray[np.bool_]:
    """Mark the readings taken after the last stage that was read in their cell."""
    _, at = np.unique(cell, return_inverse=True)
    last = np.zeros(int(at.max()) + 1 if at.size else 0, dtype=np.intp)
    np.maximum.at(last, at, stage)
    return np.asarray(stage == last[at], dtype=bool)


def _means_before(db: sqlite3.Connection, trial_id: int, measurand: str) -> dict[int, float]:
    """Mean of the readings before work by cell."""
    columns = reading_columns(db, trial_id, measurand, "before")
    cells, at = np.unique(columns.cell, return_inverse=True)
    means = np.bincount(at, weights=columns.value) / np.maximum(np.bincount(at), 1)
    return {int(c): float(m) for c, m in zip(cells, means, strict=True)}


def load_trial_data(db: sqlite3.Connection, trial_id: int, measurand: str) -> TrialData:
    """Load a trial's readings after work of one measurand, struck ones left out.

    Only cells with a combination count, and in each the readings after its last stage. The
    reading before work becomes a covariate when every
    cell has one.

    Raises
    ------
    NotEnough
        When there is nothing to judge, or two scales of one measurand are mixed.
    """
    kind = kind_of(measurand)
    source = FILM.key if measurand == REMOVED.key else measurand
    columns = reading_columns(db, trial_id, source)
    if measurand == REMOVED.key:
        rows, y = paired_fall(reading_columns(db, trial_id, source, "before"), columns)
    else:
        rows, y = np.arange(columns.value.size), columns.value
    final = _final_stage(columns.cell[rows], columns.stage[rows])
    rows, y = rows[final], y[final]
    cells = {c.id: c for c in trial_store.cells(db, trial_id)}
    panels = {p.id: p for p in trial_store.panels(db, trial_id)}
    combinations = {c.id: c for c in trial_store.combinations(db, trial_id)}
    present, of_row = np.unique(columns.cell[rows], return_inverse=True)
    found = [cells[int(i)] for i in present]
    used = np.array([c.combination_id in combinations for c in found], dtype=bool)
    keep = used[of_row] if used.size else np.zeros(0, dtype=bool)
    rows, y, of_row = rows[keep], y[keep], of_row[keep]
    if y.size == 0:
        raise NotEnough(
            f"No {kind.label} has been read on a cell that has a combination.",
            todo="Lay out and read some cells first.",
        )
    if len(columns.scales) > 1:
        raise NotEnough(
            f"The {kind.label} readings use {len(columns.scales)} scales, which never mix.",
            todo="Strike the readings of one scale.",
        )
    panel_of = np.array([c.panel_id for c in found], dtype=np.intp)[of_row]
    combination_of = np.array([c.combination_id or 0 for c in found], dtype=np.intp)[of_row]
    hardness_at = {p.id: HARDNESSES.index(p.hardness) for p in panels.values()}
    hardness = np.array([hardness_at[int(p)] for p in [c.panel_id for c in found]])[of_row]
    operators = dict(db.execute("SELECT id, name FROM operator").fetchall())
    factors = {
        "cell": _coded(columns.cell[rows], {c.id: c.code for c in found}),
        "panel": _coded(panel_of, {p.id: p.name for p in panels.values()}),
        "operator": _coded(columns.operator[rows], operators),
        "day": _coded(columns.day[rows], dict(enumerate(columns.days))),
    }
    before = {} if measurand == REMOVED.key else _means_before(db, trial_id, measurand)
    baselines = [c.baseline.get(measurand, before.get(c.id)) for c in found]
    baseline = None
    if all(b is not None for b, u in zip(baselines, used, strict=True) if u):
        baseline = np.array([b or 0.0 for b in baselines], dtype=float)[of_row]
    codes = {i: c.code for i, c in combinations.items()}
    return TrialData(
        measurand,
        y,
        _coded(hardness, dict(enumerate(HARDNESSES))),
        _coded(combination_of, codes),
        factors,
        baseline,
        kind.higher_is_better,
        columns.scales[0] if kind.scales and columns.scales else "",
    )


def draft_trial_data(
    draft: TrialDraft, measurand: str, *, baseline: bool, names: Sequence[str] = HARDNESSES
) -> TrialData:
    """Take the same columns from a trial that is in memory only."""
    kind = kind_of(measurand)
    source = FILM.key if measurand == REMOVED.key else measurand
    before = {
        (r.cell_id, r.ordinal): r.value
        for r in draft.readings
        if r.phase == "before" and r.measurand == source
    }
    rows = [r for r in draft.readings if r.phase == "after" and r.measurand == source]
    last: dict[int, int] = {}
    for r in rows:
        last[r.cell_id] = max(last.get(r.cell_id, 0), r.stage)
    rows = [r for r in rows if r.stage == last[r.cell_id]]
    if measurand == REMOVED.key:
        rows = [r for r in rows if (r.cell_id, r.ordinal) in before]
        y = np.array([before[r.cell_id, r.ordinal] - r.value for r in rows])
    else:
        y = np.array([r.value for r in rows])
    if not rows:
        raise NotEnough(f"The file holds no {kind.label}.", todo="Name another measurand.")
    cells = [draft.cells[r.cell_id - 1] for r in rows]
    panels = [draft.panels[c.panel_id - 1] for c in cells]
    operators = sorted({r.operator for r in rows})
    days = sorted({r.day for r in rows})
    column = None
    if baseline:
        if any(measurand not in c.baseline for c in cells):
            raise NotEnough("Some cells have no reading before work.", todo="Leave --baseline out.")
        column = np.array([c.baseline[measurand] for c in cells])
    cell_names = {c.id: f"{draft.panels[c.panel_id - 1].name} {c.code}" for c in draft.cells}

    def coded(values: list[int], labels: dict[int, str]) -> Coded:
        return _coded(np.array(values, dtype=np.intp), labels)

    return TrialData(
        measurand,
        y,
        coded([names.index(p.hardness) for p in panels], dict(enumerate(names))),
        coded([c.combination_id or 0 for c in cells], {c.id: c.code for c in draft.combinations}),
        {
            "cell": coded([c.id for c in cells], cell_names),
            "panel": coded([p.id for p in panels], {p.id: p.name for p in draft.panels}),
            "operator": coded(
                [operators.index(r.operator) for r in rows], dict(enumerate(operators))
            ),
            "day": coded([days.index(r.day) for r in rows], dict(enumerate(days))),
        },
        column,
        kind.higher_is_better,
    )
