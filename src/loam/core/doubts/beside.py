"""Whoever is doubted beside the others: what each person's cells read, their combinations aside."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from loam.core.dataset import counted
from loam.core.doubts.values import HAND, READS, Doubt
from loam.core.readings import REMOVED
from loam.core.snapshot import FloatArray, IntArray, Snapshot


@dataclass(frozen=True)
class Beside:
    """One measurement by person, in its unit.

    Attributes
    ----------
    measurand : str
    values : tuple of (str, float)
        Mean of each, as if all had worked or read the same combinations; the doubted one's name
        is the doubt's subject.
    """

    measurand: str
    values: tuple[tuple[str, float], ...]


def beside(snapshot: Snapshot, doubt: Doubt) -> Beside | None:
    """Return what each person reads or takes; None where a doubt is not of a person.

    Of a hand the film that goes, where it was read: that is what shows how somebody presses.
    """
    if doubt.kind not in (HAND, READS) or not doubt.evidence:
        return None
    keys = [e.measurand for e in doubt.evidence]
    surest = max(doubt.evidence, key=lambda e: e.moved.strength)
    key = REMOVED.key if doubt.kind == HAND and REMOVED.key in keys else surest.measurand
    cells, values, who = _read(snapshot, key, reads=doubt.kind == READS)
    group = _groups(snapshot, cells)
    known = (group >= 0) & np.array([bool(w) for w in who])
    if not known.any():
        return None
    group, values = group[known], values[known]
    names = np.array(who)[known]
    _, at = np.unique(group, return_inverse=True)
    means = np.bincount(at, weights=values) / np.bincount(at)
    rest = values - means[at] + float(values.mean())
    found = tuple((str(n), float(rest[names == n].mean())) for n in dict.fromkeys(sorted(names)))
    return Beside(key, found) if len(found) > 1 else None


def _read(
    snapshot: Snapshot, key: str, *, reads: bool
) -> tuple[IntArray, FloatArray, tuple[str, ...]]:
    """Return cells, values and whose they are, reading by reading."""
    columns = snapshot.columns
    found = counted(columns, key)
    codes, names = (
        (columns.reader, columns.readers) if reads else (columns.operator, columns.operators)
    )
    return columns.cell[found.rows], found.y, tuple(names[codes[r]] for r in found.rows)


def _groups(snapshot: Snapshot, cells: IntArray) -> IntArray:
    """Return which combination on which hardness each cell is, as a number; -1 for none."""
    hardness = {p.id: p.hardness for p in snapshot.panels}
    named = {c.id for c in snapshot.combinations}
    of = {
        c.id: (hardness[c.panel_id], c.combination_id)
        for c in snapshot.cells
        if c.combination_id in named
    }
    codes = {g: i for i, g in enumerate(dict.fromkeys(of.values()))}
    return np.array([codes[of[int(c)]] if int(c) in of else -1 for c in cells], dtype=np.intp)
