"""What the blocks of a layout leave over: C = X'(I - P_Z)X, panels (and trends) taken out.

Cell-level model with fixed blocks and unit cell variance. Blocks never reach beyond a panel, so
that I - P_Z is kept panel by panel; with panels alone it is I - J / k. A good layout has a small
mean variance of the differences, from the generalised inverse of C (John and Williams 1995,
Cyclic and Computer Generated Designs).
"""

from __future__ import annotations

import math

import numpy as np

from loam.core.stats.reduce import FloatArray, IntArray

_SEEN = 1e-9
"""An eigenvalue below this times the largest is none: some pair cannot be compared."""


class Ground:
    """The worked cells of one hardness, and what blocks leave of each.

    Parameters
    ----------
    panel, row, column : (n,) int
        Where each cell lies; panels from 0, each present.
    trends : bool
        Whether rows and columns of a panel are blocks too.
    """

    def __init__(self, panel: IntArray, row: IntArray, column: IntArray, trends: bool) -> None:
        self.panel, self.row, self.column, self.trends = panel, row, column, trends
        self.n = panel.size
        self.members = [np.flatnonzero(panel == p) for p in range(int(panel.max()) + 1)]
        self.size = np.array([m.size for m in self.members], float)
        self.rest = [_left_over(row[m], column[m]) for m in self.members] if trends else []
        self.beside = _neighbours(panel, row, column)
        order = np.argsort(panel[self.beside[0]], kind="stable")
        self.beside = (self.beside[0][order], self.beside[1][order])
        self._first_pair = np.searchsorted(panel[self.beside[0]], np.arange(self.size.size + 1))

    def counts(self, label: IntArray, v: int) -> FloatArray:
        """Cells of each combination on each panel (v, P)."""
        panels = self.size.size
        flat = np.bincount(label * panels + self.panel, minlength=v * panels)
        return np.asarray(flat.reshape(v, panels), float)

    def information(self, label: IntArray, v: int) -> FloatArray:
        """C (v, v) of a layout: ``label`` (n,) is the combination of each cell, 0 to v - 1."""
        if not self.trends:
            count = self.counts(label, v)
            return np.asarray(np.diag(count.sum(axis=1)) - (count / self.size) @ count.T, float)
        out = np.zeros((v, v))
        for own, rest in zip(self.members, self.rest, strict=True):
            x = np.eye(v)[label[own]]
            out += x.T @ rest @ x
        return out

    def scores(self, label: IntArray, v: int, some: IntArray) -> FloatArray:
        """X'(I - P_Z) in the columns of some cells (v, m)."""
        if not self.trends:
            count = self.counts(label, v)
            out: FloatArray = -count[:, self.panel[some]] / self.size[self.panel[some]]
            out[label[some], np.arange(some.size)] += 1.0
            return out
        out = np.zeros((v, self.n))
        for own, rest in zip(self.members, self.rest, strict=True):
            out[:, own] = np.eye(v)[label[own]].T @ rest
        return out[:, some]

    def between(self, some: IntArray) -> FloatArray:
        """I - P_Z between some cells (m, m)."""
        same = self.panel[some][:, None] == self.panel[some][None, :]
        if not self.trends:
            out = np.where(same, -1.0 / self.size[self.panel[some]][:, None], 0.0)
            out[np.arange(some.size), np.arange(some.size)] += 1.0
            return out
        out = np.zeros((some.size, some.size))
        place = np.empty(self.n, dtype=np.intp)
        for p in np.unique(self.panel[some]).tolist():
            place[self.members[p]] = np.arange(self.members[p].size)
            at = np.flatnonzero(self.panel[some] == p)
            own = place[some[at]]
            out[np.ix_(at, at)] = self.rest[p][np.ix_(own, own)]
        return out

    def conflicts(self, label: IntArray) -> int:
        """Count cells that lie beside an equal one: side by side, or one above the other."""
        a, b = self.beside
        return int((label[a] == label[b]).sum())

    def touching(self, label: IntArray, v: int, some: IntArray) -> tuple[FloatArray, FloatArray]:
        """Neighbours of some cells by combination (m, v), and which of them touch (m, m)."""
        a, b = self.beside
        own = np.unique(self.panel[some])
        if own.size == 1:  # most often a panel alone is looked at
            near = slice(self._first_pair[own[0]], self._first_pair[own[0] + 1])
            a, b = a[near], b[near]
        both, other = np.concatenate([a, b]), np.concatenate([b, a])
        where = np.full(self.n, -1, dtype=np.intp)
        where[some] = np.arange(some.size)
        seen = np.zeros((some.size, v))
        inside = where[both] >= 0
        np.add.at(seen, (where[both][inside], label[other][inside]), 1.0)
        touch = np.zeros((some.size, some.size))
        known = inside & (where[other] >= 0)
        touch[where[both][known], where[other][known]] = 1.0
        return seen, touch


def _left_over(row: IntArray, column: IntArray) -> FloatArray:
    """I - P of a panel, its rows and its columns (k, k)."""
    k = row.size
    z = np.hstack(
        [
            np.ones((k, 1)),
            (row[:, None] == np.unique(row)).astype(float),
            (column[:, None] == np.unique(column)).astype(float),
        ]
    )
    return np.asarray(np.eye(k) - z @ np.linalg.pinv(z), float)


def _neighbours(panel: IntArray, row: IntArray, column: IntArray) -> tuple[IntArray, IntArray]:
    where = {
        (p, r, c): i
        for i, (p, r, c) in enumerate(
            zip(panel.tolist(), row.tolist(), column.tolist(), strict=True)
        )
    }
    pairs = [
        (i, where[p, r + dr, c + dc])
        for (p, r, c), i in where.items()
        for dr, dc in ((0, 1), (1, 0))
        if (p, r + dr, c + dc) in where
    ]
    both = np.array(pairs, dtype=np.intp).reshape(-1, 2)
    return both[:, 0], both[:, 1]


def mean_variance(information: FloatArray) -> float:
    """Mean over pairs of the variance of a difference; infinite when a pair is not comparable."""
    v = information.shape[0]
    if v < 2:
        return math.inf
    values = np.linalg.eigvalsh(information)
    if values[1] <= _SEEN * max(float(values[-1]), 1e-300):
        return math.inf
    return float(2.0 / (v - 1) * (1.0 / values[1:]).sum())
