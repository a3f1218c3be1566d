"""Doubts about what the eye saw: a reader who sees more or less, a cell unlike its combination.

A reader is held against the others on the cells that they share: differences of arcsine roots of
shares, Student's t, no smaller an error than squares themselves scatter. A cell is held against
the other cells of its combination: the chance of its count from their beta-binomial posterior
(`seen`). Each is multiplied by the number of suspects of its kind (Bonferroni). The surest reader
is taken out before the rest is looked at.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.inspection import BY_KEY, GRID_SIDE, LIGHTS
from loam.core.seen import Key, SeenIn, chances_beside, counts
from loam.core.stats.reduce import FloatArray

READER, CELL = "reader", "cell"
ALPHA = {READER: 0.01, CELL: 0.005}
"""Nominal shares of false alarms, by trial."""
LEAST_CELLS = 4
"""Cells that a reader shares with others, and other cells of a combination, under which nothing is
doubted."""
LEAST_POINTS = 5.0
"""Percent points under which a difference is not worth a word."""
MOST_SQUARES = GRID_SIDE**2
"""A count of more squares is taken as one of so many."""
_Rows = dict[Key, dict[int, dict[str, tuple[float, float]]]]


@dataclass(frozen=True)
class SeenDoubt:
    """One doubt of inspections.

    Attributes
    ----------
    kind : str
        ``reader`` or ``cell``.
    reader : str
    cell : int
        Its id, of a cell; else 0.
    p : float
        For all suspects of its kind together.
    points : float
        Percent points by which more is seen than by the others, or in the others.
    cells : int
        That it rests on.
    """

    kind: str
    key: Key
    reader: str
    cell: int
    p: float
    points: float
    cells: int

    def words(self, called: str = "") -> str:
        """Say it, and what to do; ``called`` is the cell's name."""
        defect, light, _ = self.key
        of = f"{BY_KEY[defect].label} by {dict(LIGHTS)[light]}"
        amount = f"{abs(self.points):.0f} points {'more' if self.points > 0 else 'fewer'}"
        if self.kind == READER:
            return (
                f"{self.reader} sees {amount} than the others on the same {self.cells} cells"
                f" ({of}). Let the same eyes look at all combinations, or all look at each."
            )
        return (
            f"In {called} {amount} remain than in the other cells of its combination ({of})."
            " Look at it again, by another eye too."
        )


def seen_doubts(found: Iterable[SeenIn]) -> list[SeenDoubt]:
    """Look inspections through; of one reader and cell the last counts."""
    rows, combination = _rows(found)
    told = []
    while True:
        best = min(_readers(rows), key=lambda d: d.p, default=None)
        if best is None or best.p >= ALPHA[READER]:
            break
        told.append(best)
        for by in rows[best.key].values():
            if len(by) > 1:
                by.pop(best.reader, None)
    told += [d for d in _cells(rows, combination) if d.p < ALPHA[CELL]]
    return told


def _rows(found: Iterable[SeenIn]) -> tuple[_Rows, dict[int, tuple[str, str]]]:
    rows: _Rows = defaultdict(lambda: defaultdict(dict))
    combination: dict[int, tuple[str, str]] = {}
    for one in found:
        read = counts(one.look)
        if read is not None and read[1] > 0.0:
            key = (one.look.defect, one.look.light, one.look.method)
            rows[key][one.cell][one.reader] = read
            combination[one.cell] = (one.hardness, one.combination)
    return rows, combination


def _readers(rows: _Rows) -> list[SeenDoubt]:
    from scipy.special import stdtr

    suspects = []
    for key, cells in rows.items():
        for reader in sorted({r for by in cells.values() for r in by} - {""}):
            apart, points, floor = _apart(cells, reader)
            if len(apart) < LEAST_CELLS:
                continue
            n = len(apart)
            error = math.sqrt(max(float(np.var(apart, ddof=1)), floor) / n)
            p = 2.0 * float(stdtr(n - 1, -abs(float(np.mean(apart))) / error))
            suspects.append(SeenDoubt(READER, key, reader, 0, p, 100.0 * float(np.mean(points)), n))
    many = max(len(suspects), 1)
    return [
        SeenDoubt(d.kind, d.key, d.reader, 0, min(d.p * many, 1.0), d.points, d.cells)
        for d in suspects
        if abs(d.points) >= LEAST_POINTS
    ]


def _apart(
    cells: dict[int, dict[str, tuple[float, float]]], reader: str
) -> tuple[FloatArray, FloatArray, float]:
    """Return differences to the others by cell, on the arcsine's scale and as shares."""
    apart, points, floor = [], [], []
    for by in cells.values():
        others = [k / n for r, (k, n) in by.items() if r != reader]
        if reader not in by or not others:
            continue
        k, n = by[reader]
        rest = float(np.mean(np.arcsin(np.sqrt(others))))
        apart.append(math.asin(math.sqrt(k / n)) - rest)
        points.append(k / n - float(np.mean(others)))
        # half of the binomial variance of one count: the same marks are seen by both
        floor.append(1.0 / (8.0 * min(n, MOST_SQUARES)))
    return np.array(apart), np.array(points), float(np.mean(floor)) if floor else 0.0


def _cells(rows: _Rows, combination: dict[int, tuple[str, str]]) -> list[SeenDoubt]:
    suspects = []
    for key, cells in rows.items():
        groups: dict[tuple[str, str], list[int]] = defaultdict(list)
        for cell in sorted(cells):
            groups[combination[cell]].append(cell)
        for own in groups.values():
            if len(own) <= LEAST_CELLS:
                continue
            read = [_scaled(list(cells[c].values())) for c in own]
            marked, squares = (sum(r[i] for r in read) for i in (0, 1))
            for cell, (k, n), p in zip(own, read, chances_beside(read), strict=True):
                points = 100.0 * (k / n - (marked - k) / (squares - n))
                suspects.append(SeenDoubt(CELL, key, "", cell, float(p), points, len(own)))
    many = max(len(suspects), 1)
    return [
        SeenDoubt(d.kind, d.key, "", d.cell, min(d.p * many, 1.0), d.points, d.cells)
        for d in suspects
        if abs(d.points) >= LEAST_POINTS
    ]


def _scaled(reads: Sequence[tuple[float, float]]) -> tuple[int, int]:
    """Return a cell's count over its readers, of at most so many squares as are told apart."""
    share = float(np.mean([k / n for k, n in reads]))
    squares = min(round(max(n for _, n in reads)), MOST_SQUARES)
    return round(share * squares), squares
