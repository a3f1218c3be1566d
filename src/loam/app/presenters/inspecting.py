"""Inspection by eye: what was found in a cell, by whom, and how far readers agree."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from loam.app.presenters.rounds import notes_of
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.inspection import BY_KEY, Agreement, Looked, agreement
from loam.store import noted


@dataclass(frozen=True)
class Inspected:
    """One inspection: of which cell, by whom, when, and what was found."""

    cell_id: int
    reader: str
    at: str
    look: Looked

    def words(self) -> str:
        """Say it."""
        return self.look.words() + (f", {self.reader}" if self.reader else "")


def facts_of(look: Looked) -> dict[str, Any]:
    """Return an inspection as it is kept."""
    known: dict[str, Any] = {
        "defect": look.defect,
        "light": look.light,
        "angle": look.angle,
        "method": look.method,
        "remains": look.remains,
        "marked": look.marked,
        "squares": look.squares,
        "out": list(look.out) or None,
    }
    return {k: v for k, v in known.items() if v is not None}


def look_from(facts: Mapping[str, Any]) -> Looked | None:
    """Return an inspection from what was kept; None where it cannot be read."""
    try:
        known: dict[str, Any] = {k: facts.get(k) for k in Looked.__dataclass_fields__}
        return Looked(**known | {"out": tuple(known["out"] or ())})
    except (LoamError, TypeError):
        return None


def inspections(session: Session) -> list[Inspected]:
    """Return all inspections of the trial at hand, oldest first."""
    found = []
    for note in notes_of(session):
        look = look_from(note.facts) if note.sort == noted.INSPECTION else None
        if look is not None and note.cell_id is not None:
            found.append(Inspected(note.cell_id, note.person, note.at, look))
    return found


def looked_at(session: Session, defect: str, light: str, method: str, reader: str) -> set[int]:
    """Return the cells that a reader has looked at for a defect, by a light and a method."""
    scope = BY_KEY[defect].out_of_scope
    return {
        i.cell_id
        for i in inspections(session)
        if i.reader == reader
        and i.look.defect == defect
        and (scope or (i.look.light, i.look.method) == (light, method))
    }


def out_of_scope(session: Session) -> dict[int, tuple[int, ...]]:
    """Return the cells where a scratch catches the nail: over which squares of their grids.

    None of them where it was noted without a place; where it was noted again the last counts.
    """
    found: dict[int, tuple[int, ...]] = {}
    for i in inspections(session):
        if i.look.out:
            found[i.cell_id] = i.look.out
        elif BY_KEY[i.look.defect].out_of_scope:
            found.setdefault(i.cell_id, ())
    return found


def agreed(found: Sequence[Inspected], defect: str, light: str, method: str) -> Agreement | None:
    """Return how far readers agree on the cells that all of them inspected; None for too few."""
    by: dict[str, dict[int, float]] = {}
    for i in found:
        same = (i.look.defect, i.look.light, i.look.method) == (defect, light, method)
        if same and i.reader and i.look.percent is not None:
            by.setdefault(i.reader, {})[i.cell_id] = i.look.percent
    readers = sorted(by, key=lambda r: -len(by[r]))
    best: Agreement | None = None
    for count in range(2, len(readers) + 1):
        chosen = readers[:count]
        cells = sorted(set.intersection(*(set(by[r]) for r in chosen)))
        try:
            values = np.array([[by[r][c] for r in chosen] for c in cells]).reshape(-1, count)
            best = agreement(values, tuple(sorted(chosen)))
        except LoamError:
            continue
    return best
