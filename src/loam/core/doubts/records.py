"""What a trial's readings carry beside their values: order, the very pad, its sets, their place."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from loam.core.snapshot import FloatArray, IntArray, Snapshot
from loam.core.trial import Cell


@dataclass(frozen=True)
class Extras:
    """By row of a trial's columns, (n,) each.

    Attributes
    ----------
    order : (n,) float
        In which order the meter took the readings, over the day; NaN where it is not known.
    pad : (n,) int
        Code into ``pads``; -1 where it is not known.
    sets : (n,) float
        Sets on that pad when it worked the cell; NaN where it is not known.
    number : (n,) int
        What a reading is called when it is named: its line in a file, or its id.
    """

    order: FloatArray
    pad: IntArray
    sets: FloatArray
    number: IntArray
    pads: tuple[str, ...] = ()

    @classmethod
    def unknown(cls, count: int) -> Extras:
        """Return what is known of readings that carry nothing else."""
        none = np.full(count, np.nan)
        return cls(none, np.full(count, -1), none, np.arange(1, count + 1))


@dataclass(frozen=True)
class Cells:
    """Readings of one measurand with what each one's cell is, (n,) each."""

    cell: IntArray
    panel: IntArray
    row: FloatArray
    column: FloatArray
    edge: FloatArray
    run: FloatArray

    @classmethod
    def of(cls, snapshot: Snapshot, rows: IntArray) -> Cells:
        """Look up the cells of some rows of a snapshot's readings."""
        ids = snapshot.columns.cell[rows]
        known: dict[int, Cell] = {c.id: c for c in snapshot.cells}
        tapings = {p.id: p.taping for p in snapshot.panels}
        present, at = np.unique(ids, return_inverse=True)
        cells = [known[int(i)] for i in present]
        rim = []
        for c in cells:
            t = tapings[c.panel_id]
            rim.append(c.row in (0, t.rows - 1) or c.column in (0, t.columns - 1))
        run = [float("nan") if c.run_order is None else float(c.run_order) for c in cells]
        return cls(
            ids,
            np.array([c.panel_id for c in cells])[at],
            np.array([float(c.row) for c in cells])[at],
            np.array([float(c.column) for c in cells])[at],
            np.array(rim, float)[at],
            np.array(run)[at],
        )
