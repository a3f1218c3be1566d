"""Which readings count, and what is computed from them: the rows that a judgement fits."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from loam.core.errors import NotEnough
from loam.core.prior import READER
from loam.core.readings import FILM, REMOVED, kind_of
from loam.core.snapshot import Columns, FloatArray, IntArray, Snapshot, place_of
from loam.core.trial import AFTER, BEFORE, HARDNESSES
from loam.core.trial_rows import Coded, TrialData


def source_of(measurand: str) -> str:
    """Return what is read for a measurand: film thickness for clear removed, else itself."""
    return FILM.key if measurand == REMOVED.key else measurand


def final_stage(cell: IntArray, stage: IntArray) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Mark the readings taken after the last stage that was read in their cell.

    Parameters
    ----------
    cell, stage : (n,) int

    Returns
    -------
    (n,) bool
    """
    _, at = np.unique(cell, return_inverse=True)
    last = np.zeros(int(at.max()) + 1 if at.size else 0, dtype=np.intp)
    np.maximum.at(last, at, stage)
    return np.asarray(stage == last[at], dtype=bool)


def paired_fall(columns: Columns, before: IntArray, after: IntArray) -> tuple[IntArray, FloatArray]:
    """Pair film thickness before and after work by cell and number of the reading.

    Parameters
    ----------
    before, after : (m,), (n,) int
        Rows of ``columns``.

    Returns
    -------
    rows : (k,) int
        Those rows of ``after`` that have a partner.
    fall : (k,) float
        Thickness before less thickness after, µm.
    """
    base = int(columns.ordinal.max()) + 1 if columns.ordinal.size else 1
    early = columns.cell[before] * base + columns.ordinal[before]
    late = columns.cell[after] * base + columns.ordinal[after]
    order = np.argsort(early, kind="stable")
    at = np.searchsorted(early[order], late, side="right") - 1
    found = at >= 0
    found[found] = early[order][at[found]] == late[found]
    partner = before[order][at[found]]
    rows = after[found]
    return rows, columns.value[partner] - columns.value[rows]


@dataclass(frozen=True)
class Counted:
    """The rows that count for one measurand: (n,) rows of the columns and (n,) values."""

    rows: IntArray
    y: FloatArray


def counted(columns: Columns, measurand: str) -> Counted:
    """Return the readings after work that count: those after the last stage of their cell."""
    source = source_of(measurand)
    after = columns.rows(source, AFTER)
    after = after[final_stage(columns.cell[after], columns.stage[after])]
    if measurand == REMOVED.key:
        return Counted(*paired_fall(columns, columns.rows(source, BEFORE), after))
    return Counted(after, columns.value[after])


def cell_means(columns: Columns, measurand: str) -> dict[int, float]:
    """Return the mean of what counts in every cell, by cell id."""
    found = counted(columns, measurand)
    return _means(columns.cell[found.rows], found.y)


def _means(cell: IntArray, values: FloatArray) -> dict[int, float]:
    cells, at = np.unique(cell, return_inverse=True)
    means = np.bincount(at, weights=values) / np.maximum(np.bincount(at), 1)
    return {int(c): float(m) for c, m in zip(cells, means, strict=True)}


def worked_only(snapshot: Snapshot) -> Snapshot:
    """Leave the controls out, which are no answer to which combination is best.

    A trial of controls alone stays as it is: how well a meter repeats is asked of such.
    """
    worked = tuple(c for c in snapshot.combinations if not c.control)
    named = {c.id for c in worked}
    read = set(np.unique(snapshot.columns.cell).tolist())
    if not any(c.combination_id in named and c.id in read for c in snapshot.cells):
        return snapshot
    return replace(snapshot, combinations=worked)


def control_means(snapshot: Snapshot, measurand: str) -> dict[tuple[str, str], float]:
    """Return what controls read, as measured, by hardness and kind: the mean of cell means."""
    kinds = {c.id: c.control for c in snapshot.combinations if c.control}
    hardness = {p.id: p.hardness for p in snapshot.panels}
    means = cell_means(snapshot.columns, measurand)
    found: dict[tuple[str, str], list[float]] = {}
    for cell in snapshot.cells:
        control = kinds.get(cell.combination_id or 0)
        if control and cell.id in means:
            found.setdefault((hardness[cell.panel_id], control), []).append(means[cell.id])
    return {key: sum(own) / len(own) for key, own in found.items()}


def _coded(values: IntArray, names: dict[int, str]) -> Coded:
    """Code values by their places in the order of ``names``, which is the trial's own."""
    known = list(names)
    present, codes = np.unique(place_of(known, values), return_inverse=True)
    named = (names[known[int(v)]] if v < len(known) else "" for v in present)
    return Coded(codes.astype(np.intp), tuple(named))


def trial_data(snapshot: Snapshot, measurand: str, *, baseline: bool | None = None) -> TrialData:
    """Take the columns of one measurand out of a trial.

    Only cells with a combination count, and in each the readings after its last stage. The
    reading before work is a covariate: the mean that the cell carries, else the mean of its
    readings before work; NaN where it has none.

    Parameters
    ----------
    baseline : bool, optional
        Whether to use the reading before work; by default where there is any. True wants one of
        every cell.

    Raises
    ------
    NotEnough
        When there is nothing to judge, two scales are mixed, or a wanted baseline is missing.
    """
    kind, columns = kind_of(measurand), snapshot.columns
    found = counted(columns, measurand)
    combinations = {c.id: c for c in snapshot.combinations}
    panels = {p.id: p for p in snapshot.panels}
    used = {c.id: c for c in snapshot.cells if c.combination_id in combinations}
    present, of_row = np.unique(columns.cell[found.rows], return_inverse=True)
    keep = np.array([int(i) in used for i in present], dtype=bool)[of_row]
    rows, y = found.rows[keep], found.y[keep]
    if y.size == 0:
        raise NotEnough(
            f"No {kind.label} has been read on a cell that has a combination.",
            todo="Lay out and read some cells first.",
        )
    scales = sorted(columns.scales[int(s)] for s in np.unique(columns.scale[rows]))
    if len(scales) > 1:
        raise NotEnough(
            f"The {kind.label} readings use {len(scales)} scales, which never mix.",
            todo="Strike the readings of one scale.",
        )
    present, of_row = np.unique(columns.cell[rows], return_inverse=True)
    cells = [used[int(i)] for i in present]
    panel = np.array([c.panel_id for c in cells], dtype=np.intp)[of_row]
    combination = np.array([c.combination_id or 0 for c in cells], dtype=np.intp)[of_row]
    of_class = np.array([HARDNESSES.index(panels[c.panel_id].hardness) for c in cells])[of_row]
    factors = {
        "cell": _coded(
            columns.cell[rows],
            {c.id: f"{panels[c.panel_id].name} {c.code}" for c in used.values()},
        ),
        "panel": _coded(panel, {p.id: p.name for p in panels.values()}),
        "operator": _coded(columns.operator[rows], dict(enumerate(columns.operators))),
        "day": _coded(columns.day[rows], dict(enumerate(columns.days))),
    }
    read_by = _coded(columns.reader[rows], dict(enumerate(columns.readers)))
    if any(read_by.names):
        factors[READER] = read_by
    before = None
    if baseline is not False and measurand != REMOVED.key:
        before = _baseline(snapshot, measurand, [c.id for c in cells])
    if baseline and (before is None or np.isnan(before).any()):
        raise NotEnough("Some cells have no reading before work.", todo="Leave --baseline out.")
    return TrialData(
        measurand,
        y,
        _coded(of_class.astype(np.intp), dict(enumerate(HARDNESSES))),
        _coded(combination, {i: c.code for i, c in combinations.items()}),
        factors,
        before[of_row] if before is not None else None,
        kind.higher_is_better,
        scales[0] if kind.scales else "",
        rows,
    )


def _baseline(snapshot: Snapshot, measurand: str, cells: list[int]) -> FloatArray | None:
    """Return the reading before work of these cells, NaN for none; None when none has one."""
    columns = snapshot.columns
    rows = columns.rows(measurand, BEFORE)
    read = _means(columns.cell[rows], columns.value[rows])
    kept = {c.id: c.baseline.get(measurand, read.get(c.id)) for c in snapshot.cells}
    found = np.array([np.nan if kept[c] is None else kept[c] for c in cells], dtype=float)
    return None if np.isnan(found).all() else found
