"""Nested random factors (cell within panel:combination within panel), in closed form.

With V = D + sum_l gamma_l Z_l Z_l' on unit means (D = diag(1/count)) and every factor nested in
the next, V^-1 follows by one rank-one update a group and level (Sherman-Morrison), from the
finest up:  s -> s / (1 + gamma s),  t -> t / (1 + gamma s),  S -> S - gamma t t' / (1 + gamma s),
where s = z'V^-1 z, t = z'V^-1 M and S = M'V^-1 M for the columns M. Going down again gives
B_l = Z_l' V^-1 M. Groups of the finest level with equal s are kept together, so that an
evaluation there costs the same for a hundred cells as for ten thousand.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.stats.class_columns import Rows, Slim
from loam.core.stats.reduce import FloatArray, IntArray, compact


@dataclass(frozen=True)
class ChainValue:
    """V^-1 in the columns M at one set of variance ratios.

    Attributes
    ----------
    cross : (q, q)
        M' V^-1 M.
    logdet : float
        Sum over levels and groups of log(1 + gamma s), which is log|V| + sum(log count).
    trace : (L,)
        trace(Z_l' V^-1 Z_l).
    squares : list of (q, q)
        (Z_l' V^-1 M)' (Z_l' V^-1 M).
    """

    cross: FloatArray
    logdet: float
    trace: FloatArray
    squares: list[FloatArray]


@dataclass(frozen=True)
class _Level:
    """One level on the way up: z'V^-1 z (S, G), Z'V^-1 M (rows, or (S, G, q)), 1 / (1 + g s)."""

    s: FloatArray
    t: FloatArray
    shrink: FloatArray


class Chain:
    """A chain of nested factors over units with columns M.

    Parameters
    ----------
    count : (N,)
        Readings a unit.
    columns : (N, q)
        M, on unit means.
    codings : list of (N,) int
        Level of each unit, finest factor first; each must be nested in the next.
    group : (N,) int, optional
        Fixed group of each unit.
    span : slice, optional
        Columns that are 1 for the units of one fixed group and 0 elsewhere.
    """

    def __init__(
        self,
        count: FloatArray,
        columns: FloatArray,
        codings: Sequence[IntArray],
        group: IntArray | None = None,
        span: slice | None = None,
    ) -> None:
        self.levels = len(codings)
        weighted = columns * count[:, None]
        self._base = columns.T @ weighted
        self.groups: list[IntArray] = []
        self._parent: list[IntArray] = []
        self._starts: list[IntArray] = []
        if not codings:
            return
        order = np.lexsort(tuple(codings))
        sorted_codes = [c[order] for c in codings]
        rank_of: list[IntArray] = []
        for level in range(self.levels):
            change = np.zeros(order.size, dtype=bool)
            for upper in range(level, self.levels):
                change[1:] |= np.diff(sorted_codes[upper]) != 0
            rank_of.append(np.cumsum(change))
        starts = [np.flatnonzero(np.diff(r, prepend=-1)) for r in rank_of]
        self.groups = [codings[i][order][starts[i]] for i in range(self.levels)]
        for level in range(self.levels - 1):
            parent = rank_of[level + 1][starts[level]]
            self._parent.append(parent)
            self._starts.append(np.flatnonzero(np.diff(parent, prepend=-1)))
        self._s, self._t = count[order], weighted[order]
        if starts[0].size < order.size:  # else every finest group is one unit already
            self._s = np.add.reduceat(self._s, starts[0])
            self._t = np.add.reduceat(self._t, starts[0], axis=0)
        self._collect()
        if self.levels > 1:
            own = np.zeros(order.size, dtype=np.intp) if group is None else group[order]
            first = own[starts[1]]
            alone = span is not None and np.array_equal(first[rank_of[1]], own)
            self._hold(first, span if span is not None and alone else slice(0, 0))

    def _collect(self) -> None:
        """Keep finest groups of equal s together."""
        self._sizes, self._kind = np.unique(self._s, return_inverse=True)
        k, q = self._sizes.size, self._base.shape[0]
        self._number = np.bincount(self._kind, minlength=k).astype(float)
        self._outer = np.empty((k, q, q))
        for i in range(k):
            t = self._t if k == 1 else self._t[self._kind == i]
            self._outer[i] = t.T @ t

    def _hold(self, group: IntArray, span: slice) -> None:
        """Sum what the groups of the second level hold, by kind of finest group."""
        k, h = self._sizes.size, group.size
        self._slim = Slim(group, span, self._base.shape[0])
        cell = self._parent[0] * k + self._kind
        self._held = np.bincount(cell, minlength=h * k).reshape(h, k).astype(float)
        narrow = self._t[:, self._slim.narrow]
        if k == 1:
            self._sums = np.add.reduceat(narrow, self._starts[0], axis=0)[:, None, :]
        else:
            sums = np.zeros((h * k, narrow.shape[1]))
            np.add.at(sums, cell, narrow)
            self._sums = sums.reshape(h, k, -1)

    def _weighed(self, weight: FloatArray) -> Rows:
        """Sum t over each second-level group, weighted by kind (S, k)."""
        own = np.tensordot(weight, self._sums, axes=(1, 1))
        return Rows(own, (weight * self._sizes) @ self._held.T)

    def many(self, gamma: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Evaluate at many points gamma (S, L) at once: cross (S, q, q) and logdet (S,)."""
        cross, logdet, _, _ = self._rise(gamma)
        return cross, logdet

    def _rise(self, gamma: FloatArray) -> tuple[FloatArray, FloatArray, Rows | None, list[_Level]]:
        """Take in the levels from the finest up."""
        count, q = gamma.shape[0], self._base.shape[0]
        cross = np.broadcast_to(self._base, (count, q, q)).copy()
        logdet = np.zeros(count)
        if not self.levels:
            return cross, logdet, None, []
        g = gamma[:, :1]
        a = 1.0 / (1.0 + g * self._sizes)
        cross -= np.tensordot(g * a, self._outer, axes=1)
        logdet += np.log1p(g * self._sizes) @ self._number
        kept = [_Level(self._sizes * a, a, a)]
        rows: Rows | None = None
        for level in range(1, self.levels):
            g = gamma[:, level : level + 1]
            if level == 1:
                s, fresh = kept[0].s @ self._held.T, self._weighed(a)
                up = 1.0 / (1.0 + g * s)
                rows = fresh.times(up)
                cross -= g[:, :, None] * self._slim.gram(fresh, rows)
                shrunk = rows.own
            else:
                s = np.add.reduceat(kept[-1].s, self._starts[level - 1], axis=1)
                t = self._up(level, rows, kept[-1].t)
                up = 1.0 / (1.0 + g * s)
                shrunk = t * up[:, :, None]
                cross -= g[:, :, None] * (t.transpose(0, 2, 1) @ shrunk)
            logdet += np.log1p(g * s).sum(axis=1)
            kept.append(_Level(s * up, shrunk, up))
        return cross, logdet, rows, kept

    def _up(self, level: int, rows: Rows | None, below: FloatArray) -> FloatArray:
        """Sum Z'V^-1 M of the level below over the groups of this one (S, G, q)."""
        if level == 2 and rows is not None:
            return self._slim.gather(rows, self._parent[1], self._starts[1])
        return np.add.reduceat(below, self._starts[level - 1], axis=1)

    def at(self, gamma: FloatArray) -> ChainValue:
        """Evaluate at variance ratios gamma (L,), finest first, all >= 0."""
        cross, logdet, rows, kept = self._rise(gamma[None])
        if not self.levels:
            return ChainValue(cross[0], 0.0, np.zeros(0), [])
        trace, squares = self._down(gamma, rows, kept)
        return ChainValue(cross[0], float(logdet[0]), trace, squares)

    def _down(
        self, gamma: FloatArray, rows: Rows | None, kept: list[_Level]
    ) -> tuple[FloatArray, list[FloatArray]]:
        """Return trace and squares of every level, from the coarsest down."""
        trace = np.zeros(self.levels)
        squares: list[FloatArray] = [np.zeros(0)] * self.levels
        above: FloatArray | None = None
        pull: FloatArray | None = None
        for level in range(self.levels - 1, 1, -1):
            s, b, a = kept[level].s[0], kept[level].t[0], kept[level].shrink[0]
            g, parent = float(gamma[level]), self._parent[level] if above is not None else None
            over = np.zeros_like(s) if pull is None else pull[parent]
            trace[level] = float((s - over * s * s).sum())
            if above is not None:
                b = b - s[:, None] * above[parent]
            squares[level] = b.T @ b
            above = g * b if above is None else above[parent] + g * b
            pull = g * a + over * a**2
        bottom = kept[0]
        squares[0] = np.tensordot(bottom.shrink[0] ** 2, self._outer, axes=1)
        trace[0] = float(self._number @ bottom.s[0])
        if rows is not None:
            second = _Second(self, float(gamma[1]), rows, kept[1], above, pull)
            trace[1], squares[1] = second.own()
            less, change = second.below(bottom)
            trace[0] -= less
            squares[0] += change
        return trace, squares

    def scores(self, gamma: FloatArray, level: int) -> tuple[FloatArray, FloatArray]:
        """Return Z_l' V^-1 M (G, q) and the diagonal of Z_l' V^-1 Z_l (G,) for one level.

        Groups are in the order of ``groups[level]``.
        """
        s: FloatArray = self._s
        t: FloatArray = self._t
        kept: list[tuple[FloatArray, FloatArray, FloatArray]] = []
        for i in range(self.levels):
            a = 1.0 / (1.0 + gamma[i] * s)
            kept.append((s * a, t * a[:, None], a))
            if i < self.levels - 1:
                s = np.add.reduceat(s * a, self._starts[i])
                t = np.add.reduceat(kept[i][1], self._starts[i], axis=0)
        above = np.zeros_like(kept[-1][1])
        pull = np.zeros_like(kept[-1][0])
        for i in range(self.levels - 1, -1, -1):
            s, t, a = kept[i]
            b = t - s[:, None] * above
            diagonal = s - pull * s * s
            if i == level:
                return b, diagonal
            above = (above + gamma[i] * b)[self._parent[i - 1]]
            pull = (gamma[i] * a + pull * a * a)[self._parent[i - 1]]
        raise IndexError(level)


class _Second:
    """The second level on the way down, without forming a row of all columns for each group.

    With U the rows of V^-1 taken over from the parents, a group's own row is t - s U.
    """

    def __init__(
        self,
        chain: Chain,
        gamma: float,
        rows: Rows,
        level: _Level,
        above: FloatArray | None,
        pull: FloatArray | None,
    ) -> None:
        self._chain, self._g, self._rows, self._above = chain, gamma, rows, above
        self._s, self._a = level.s[0], level.shrink[0]
        self._parents = chain._parent[1] if above is not None else None
        self._pull = np.zeros_like(self._s) if pull is None else pull[self._parents]

    def _through(self, rows: Rows) -> FloatArray:
        """Sum of row' U over the groups (q, q)."""
        if self._above is None:
            return np.zeros_like(self._chain._base)
        chain = self._chain
        sums = chain._slim.gather(rows, chain._parent[1], chain._starts[1])
        return np.asarray(sums[0].T @ self._above, float)

    def _twice(self, weight: FloatArray) -> FloatArray:
        """Sum of weight U' U over the groups (q, q)."""
        if self._above is None or self._parents is None:
            return np.zeros_like(self._chain._base)
        summed = np.bincount(self._parents, weights=weight)
        return (self._above * summed[:, None]).T @ self._above

    def own(self) -> tuple[float, FloatArray]:
        """Return trace and square of the second level itself."""
        s = self._s
        shared = self._through(self._rows.times(s[None]))
        square = self._chain._slim.gram(self._rows, self._rows)[0]
        return (
            float((s - self._pull * s * s).sum()),
            square - shared - shared.T + self._twice(s * s),
        )

    def below(self, bottom: _Level) -> tuple[float, FloatArray]:
        """Return what the levels above take off the trace, and add to the square, below."""
        chain, g = self._chain, self._g
        weight = (bottom.s**2 @ chain._held.T)[0]
        weighed = chain._weighed(bottom.shrink * bottom.s)
        drawn = self._rows.times((g * weight)[None])
        half = g * chain._slim.gram(drawn.less(weighed, 0.5), self._rows)[0]
        half += self._through(drawn.less(weighed).times((1.0 - g * self._s)[None]))
        change = half + half.T + self._twice(weight * (1.0 - g * self._s) ** 2)
        pull = g * self._a + self._pull * self._a**2
        return float(pull @ weight), change


def nested_in(fine: IntArray, coarse: IntArray) -> bool:
    """Tell whether every level of ``fine`` lies in one level of ``coarse``."""
    codes, k = compact(fine)
    first = np.empty(k, dtype=np.intp)
    first[codes[::-1]] = np.arange(codes.size - 1, -1, -1)
    return bool(np.array_equal(coarse[first][codes], coarse))


def split_chain(codings: Sequence[IntArray]) -> tuple[list[int], list[int]]:
    """Choose the chain of nested factors that absorbs most levels; the rest stay crossed.

    Codes are compact: 0..k-1, each present.

    Returns
    -------
    chain, crossed : lists of int
        Positions in ``codings``; the chain is ordered from fine to coarse.
    """
    size = [int(c.max()) + 1 if c.size else 0 for c in codings]
    order = sorted(range(len(codings)), key=lambda i: -size[i])
    best: list[int] = []
    for start in order:
        chain = [start]
        for i in order:
            if size[i] < size[chain[-1]] and nested_in(codings[chain[-1]], codings[i]):
                chain.append(i)
        if sum(size[i] for i in chain) > sum(size[i] for i in best):
            best = chain
    return best, [i for i in range(len(codings)) if i not in best]
