"""Sums over groups that lie in one fixed group each, such as a combination on a panel.

Of the columns that say to which fixed group a unit belongs, such a row has one that is not
zero, and it is z'V^-1 z itself. So a row is kept as its other columns (few) and that number.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from loam.core.stats.reduce import FloatArray, IntArray


@dataclass(frozen=True)
class Rows:
    """Rows of many evaluations.

    Attributes
    ----------
    own : (S, H, m)
        Columns other than those of the fixed groups.
    at_group : (S, H)
        Value in the column of the row's own fixed group.
    """

    own: FloatArray
    at_group: FloatArray

    def times(self, weight: FloatArray) -> Rows:
        """Return every row times its weight (S, H)."""
        return Rows(self.own * weight[:, :, None], self.at_group * weight)

    def less(self, other: Rows, part: float = 1.0) -> Rows:
        """Return a part of these rows less others."""
        return Rows(part * self.own - other.own, part * self.at_group - other.at_group)


class Slim:
    """Where the values of slim rows stand among all columns.

    Rows of no one group are slim too: with an empty span they keep all columns.

    Parameters
    ----------
    group : (H,) int
        Fixed group of each row, from 0.
    span : slice
        Columns of the fixed groups.
    width : int
        Number of all columns, q.
    """

    def __init__(self, group: IntArray, span: slice, width: int) -> None:
        self.span, self.width = span, width
        self.count = span.stop - span.start
        self.narrow = np.r_[0 : span.start, span.stop : width]
        self._group = group
        self._order = np.argsort(group, kind="stable")
        self._starts = np.flatnonzero(np.diff(group[self._order], prepend=-1))
        self._present = group[self._order][self._starts]

    def gram(self, a: Rows, b: Rows) -> FloatArray:
        """Sum of a b' over the rows (S, q, q)."""
        out = np.zeros((a.own.shape[0], self.width, self.width))
        at, narrow = self.span.start + self._present, self.narrow
        out[:, narrow[:, None], narrow] = a.own.transpose(0, 2, 1) @ b.own
        if not self.count:
            return out
        out[:, at[:, None], narrow] = self._by_group(b.own * a.at_group[:, :, None])
        across = (
            out[:, at[:, None], narrow]
            if a is b
            else (self._by_group(a.own * b.at_group[:, :, None]))
        )
        out[:, narrow[:, None], at] = across.transpose(0, 2, 1)
        out[:, at, at] = self._by_group(a.at_group * b.at_group)
        return out

    def _by_group(self, x: FloatArray) -> FloatArray:
        return np.add.reduceat(np.take(x, self._order, axis=1), self._starts, axis=1)

    def gather(self, rows: Rows, parent: IntArray, starts: IntArray) -> FloatArray:
        """Sum the rows of each parent, in all columns (S, P, q).

        Rows of a parent follow each other; ``starts`` is the first of each.
        """
        many, parents = rows.own.shape[0], starts.size
        out = np.empty((many, parents, self.width))
        out[:, :, self.narrow] = np.add.reduceat(rows.own, starts, axis=1)
        if not self.count:
            return out
        place = parent * self.count + self._group
        wide = parents * self.count
        every = (np.arange(many)[:, None] * wide + place).ravel()
        sums = np.bincount(every, rows.at_group.ravel(), many * wide)
        out[:, :, self.span] = sums.reshape(many, parents, self.count)
        return out
