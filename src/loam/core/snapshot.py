"""A trial at one moment: its panels, combinations and cells, and its readings as columns."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from loam.core.trial import AFTER, PHASES, UNWIPED, Cell, Combination, Panel, Reading

IntArray = npt.NDArray[np.intp]
FloatArray = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Columns:
    """Readings that count, one row each; struck ones are left out.

    Attributes
    ----------
    cell, stage, ordinal : (n,) int
        Cell id, stages done, number of the reading.
    measurand, phase, scale, operator, reader, day : (n,) int
        Codes into the tuples of names below; phases are those of `PHASES`.
    value : (n,) float
    """

    cell: IntArray
    stage: IntArray
    ordinal: IntArray
    measurand: IntArray
    phase: IntArray
    scale: IntArray
    operator: IntArray
    reader: IntArray
    day: IntArray
    value: FloatArray
    measurands: tuple[str, ...]
    scales: tuple[str, ...]
    operators: tuple[str, ...]
    readers: tuple[str, ...]
    days: tuple[str, ...]

    def rows(self, measurand: str, phase: str) -> IntArray:
        """Return the rows of one measurand in one phase."""
        if measurand not in self.measurands:
            return np.zeros(0, dtype=np.intp)
        code = self.measurands.index(measurand)
        return np.flatnonzero((self.measurand == code) & (self.phase == PHASES.index(phase)))


def before_wipe(columns: Columns, measurand: str) -> Columns:
    """Return readings as if what was read before the wipe were what counts; the rest is left out.

    To be looked at only: fillers may still mask.
    """
    if measurand not in columns.measurands:
        return columns
    own = columns.measurand == columns.measurands.index(measurand)
    keep = ~own | (columns.phase != PHASES.index(AFTER))
    phase = columns.phase.copy()
    phase[own & (columns.phase == PHASES.index(UNWIPED))] = PHASES.index(AFTER)
    part = {
        f.name: getattr(columns, f.name)[keep]
        for f in fields(Columns)
        if isinstance(getattr(columns, f.name), np.ndarray)
    }
    return replace(columns, **part | {"phase": phase[keep]})


@dataclass(frozen=True)
class Snapshot:
    """All that a judgement of a trial rests on, taken in one moment.

    ``numbers`` (n,) is what each reading of the columns is called: its row in the workshop, or its
    number in a file.
    """

    panels: tuple[Panel, ...]
    combinations: tuple[Combination, ...]
    cells: tuple[Cell, ...]
    columns: Columns
    numbers: IntArray | None = None


def in_one_order(snapshot: Snapshot) -> Snapshot:
    """Return a trial with its readings in an order that only what they say decides.

    Cell by cell as the cells stand, before work first. So a judgement is the same to the last bit
    in whichever order readings came into a workshop.
    """
    c = snapshot.columns
    place = place_of([cell.id for cell in snapshot.cells], c.cell)
    named = [
        _ranks(names)[code]
        for names, code in (
            (c.measurands, c.measurand),
            (c.days, c.day),
            (c.readers, c.reader),
            (c.operators, c.operator),
        )
        if code.size
    ]
    if not named:
        return snapshot
    measurand, day, reader, operator = named
    order = np.lexsort(
        (c.value, operator, reader, day, c.ordinal, c.stage, measurand, c.phase, place)
    )
    part = {
        f.name: getattr(c, f.name)[order]
        for f in fields(Columns)
        if isinstance(getattr(c, f.name), np.ndarray)
    }
    for code in ("measurand", "scale", "operator", "reader", "day"):
        names = f"{code}s"
        part[code], part[names] = _coded_anew(part[code], getattr(c, names))
    numbers = None if snapshot.numbers is None else snapshot.numbers[order]
    return replace(snapshot, columns=Columns(**part), numbers=numbers)


def place_of(ids: Sequence[int], wanted: IntArray) -> IntArray:
    """Return the place (n,) in a list of ids of each wanted id; after the last where it has none.

    Parameters
    ----------
    ids : sequence of int
    wanted : (n,) int
    """
    if not ids:
        return np.zeros(wanted.size, dtype=np.intp)
    known = np.array(ids, dtype=np.intp)
    order = np.argsort(known, kind="stable")
    at = np.minimum(np.searchsorted(known[order], wanted), known.size - 1)
    found = order[at]
    return np.where(known[found] == wanted, found, known.size)


def _ranks(names: Sequence[str]) -> IntArray:
    """Return the alphabetical rank of each name."""
    ranks = np.empty(len(names), dtype=np.intp)
    ranks[sorted(range(len(names)), key=names.__getitem__)] = np.arange(len(names))
    return ranks


def _coded_anew(codes: IntArray, names: tuple[str, ...]) -> tuple[IntArray, tuple[str, ...]]:
    """Number names in the order in which they come."""
    present, first = np.unique(codes, return_index=True)
    came = present[np.argsort(first)]
    anew = np.zeros(len(names), dtype=np.intp)
    anew[came] = np.arange(came.size)
    return anew[codes], tuple(names[i] for i in came)


_PHASE_CODES = {phase: i for i, phase in enumerate(PHASES)}


class ColumnMaker:
    """Collects readings, in portions, into `Columns`."""

    def __init__(self) -> None:
        self._parts: list[FloatArray] = []
        self.measurands: dict[str, int] = {}
        self.scales: dict[str, int] = {}
        self.operators: dict[str, int] = {}
        self.readers: dict[str, int] = {}
        self.days: dict[str, int] = {}

    def add(
        self,
        rows: Iterable[tuple[int, int, int, str, str, str, str, str, str, float]],
    ) -> None:
        """Add rows: cell, stage, ordinal, measurand, phase, scale, operator, reader, day, value."""
        self.add_columns(list(zip(*rows, strict=True)))

    def add_columns(self, columns: Sequence[Sequence[Any]]) -> None:
        """Add the same turned round: ten columns of one length, or none at all."""
        if not columns:
            return
        coded = {
            3: self.measurands,
            5: self.scales,
            6: self.operators,
            7: self.readers,
            8: self.days,
        }
        part = np.empty((10, len(columns[0])))
        for i in (0, 1, 2, 9):
            part[i] = columns[i]
        part[4] = list(map(_PHASE_CODES.__getitem__, columns[4]))
        for i, codes in coded.items():
            for name in dict.fromkeys(columns[i]):
                codes.setdefault(name, len(codes))
            part[i] = list(map(codes.__getitem__, columns[i]))
        self._parts.append(part)

    def columns(self) -> Columns:
        """Return what was collected."""
        table = np.concatenate(self._parts, axis=1) if self._parts else np.zeros((10, 0))
        c = [table[i].astype(np.intp) for i in range(9)]
        return Columns(
            c[0],
            c[1],
            c[2],
            c[3],
            c[4],
            c[5],
            c[6],
            c[7],
            c[8],
            table[9].copy(),
            tuple(self.measurands),
            tuple(self.scales),
            tuple(self.operators),
            tuple(self.readers),
            tuple(self.days),
        )


def columns_of(readings: Iterable[Reading]) -> Columns:
    """Return readings in memory as columns, struck ones left out."""
    maker = ColumnMaker()
    maker.add(
        (
            r.cell_id,
            r.stage,
            r.ordinal,
            r.measurand,
            r.phase,
            r.scale,
            r.operator,
            r.reader,
            r.day,
            r.value,
        )
        for r in readings
        if r.struck is None
    )
    return maker.columns()
