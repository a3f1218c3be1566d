"""A trial without what is doubted, or corrected for it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields, replace

import numpy as np

from loam.core.doubts.records import Extras
from loam.core.doubts.values import READS, Doubt
from loam.core.errors import LoamError
from loam.core.readings import FILM, REMOVED, kind_of
from loam.core.scale import scale_for
from loam.core.snapshot import Columns, Snapshot
from loam.core.trial import AFTER

CORRECTED = ("drift", "order", "position", "reader")
KEPT = ("masking", "start")
"""A combination that hid something is ranked on what stays already; starts are levelled already."""


def without(snapshot: Snapshot, extras: Extras, found: Sequence[Doubt]) -> tuple[Snapshot, Extras]:
    """Leave out what is doubted; drift, order and position are corrected for instead."""
    slipped = [row for doubt in found for row in doubt.readings]
    if slipped:  # all at once: their rows are those of the whole trial
        keep = np.ones(snapshot.columns.value.size, dtype=bool)
        keep[slipped] = False
        snapshot, extras = _kept(snapshot, extras, keep)
    for doubt in found:
        if doubt.kind in KEPT or doubt.readings:
            continue
        if doubt.kind in CORRECTED:
            snapshot = _corrected(snapshot, doubt)
        else:
            gone = doubt.cells | {c.id for c in snapshot.cells if c.panel_id in doubt.panels}
            keep = ~np.isin(snapshot.columns.cell, list(gone))
            snapshot, extras = _kept(snapshot, extras, keep)
            cells = tuple(c for c in snapshot.cells if c.id not in gone)
            snapshot = replace(snapshot, cells=cells)
    return snapshot, extras


def _kept(snapshot: Snapshot, extras: Extras, keep: np.ndarray) -> tuple[Snapshot, Extras]:
    columns = snapshot.columns
    part = {
        f.name: getattr(columns, f.name)[keep]
        for f in fields(Columns)
        if isinstance(getattr(columns, f.name), np.ndarray)
    }
    own = Extras(
        extras.order[keep], extras.pad[keep], extras.sets[keep], extras.number[keep], extras.pads
    )
    return replace(snapshot, columns=replace(columns, **part)), own


def _corrected(snapshot: Snapshot, doubt: Doubt) -> Snapshot:
    """Take a slope off the readings after work, on the measurand's scale."""
    columns = snapshot.columns
    value = columns.value.copy()
    for measurand, x, slope in doubt.slope:
        source = FILM.key if measurand == REMOVED.key else measurand
        kind = kind_of(measurand)
        rows = columns.rows(source, AFTER)
        if not rows.size:
            continue
        own = np.array([x.get(c, 0.0) for c in columns.cell[rows].tolist()])
        if doubt.kind == READS:  # of each reading: several may have read one cell
            read_by = np.array(columns.readers, dtype=object)[columns.reader[rows]]
            own = (read_by == doubt.subject).astype(float)
        if measurand == REMOVED.key:  # less thickness after is more removed
            value[rows] += slope * own
            continue
        try:
            scale = scale_for(kind, value[rows], "")
        except LoamError:
            continue
        shifted = scale.back(scale.to(value[rows]) - slope * own)
        value[rows] = np.clip(shifted, kind.low, kind.high)
    return replace(snapshot, columns=replace(columns, value=value))
