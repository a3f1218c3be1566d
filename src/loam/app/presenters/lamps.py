"""What a lamp shows of a combination before work, between its stages, unwiped and after."""

from __future__ import annotations

from collections.abc import Iterator

from loam.core.snapshot import Snapshot
from loam.core.stages import START
from loam.core.trial import AFTER, BEFORE, BETWEEN, UNWIPED

State = int | str
"""Stages that are done, or "unwiped"."""
Key = tuple[str, str, State]


def lamp_means(snapshot: Snapshot) -> dict[Key, dict[str, float]]:
    """Return means as measured, by hardness, combination and state, then by measurand."""
    names = {c.id: c.code for c in snapshot.combinations}
    hardness = {p.id: p.hardness for p in snapshot.panels}
    where = {
        c.id: (hardness[c.panel_id], names[c.combination_id])
        for c in snapshot.cells
        if c.combination_id in names
    }
    sums: dict[tuple[Key, str], list[float]] = {}
    for cell, state, measurand, value in _readings(snapshot):
        if cell in where:
            sums.setdefault(((*where[cell], state), measurand), []).append(value)
    read = set(sums)
    for own in snapshot.cells:
        for measurand, value in own.baseline.items():
            place = where.get(own.id)
            if place is not None and ((*place, START), measurand) not in read:
                sums.setdefault(((*place, START), measurand), []).append(value)
    found: dict[Key, dict[str, float]] = {}
    for (key, measurand), values in sums.items():
        found.setdefault(key, {})[measurand] = sum(values) / len(values)
    return found


def _readings(snapshot: Snapshot) -> Iterator[tuple[int, State, str, float]]:
    """Go through the readings with the state that each was taken in."""
    columns = snapshot.columns
    stages = {c.id: len(c.stages) for c in snapshot.combinations}
    last = {c.id: stages.get(c.combination_id or 0, 1) for c in snapshot.cells}
    between = {
        int(c)
        for m in columns.measurands
        for p in BETWEEN
        for c in columns.cell[columns.rows(m, p)]
    }
    fixed: dict[str, State] = {BEFORE: START, UNWIPED: UNWIPED}
    fixed |= {phase: done for done, phase in enumerate(BETWEEN, 1)}
    for measurand in columns.measurands:
        for phase in (*fixed, AFTER):
            for row in columns.rows(measurand, phase).tolist():
                cell = int(columns.cell[row])
                state = fixed.get(phase)
                if state is None:
                    state = max(int(columns.stage[row]), last[cell] if cell in between else 1)
                yield cell, state, measurand, float(columns.value[row])
