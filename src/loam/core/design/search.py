"""Exchange search: swap what two cells get as long as that makes differences surer.

Every swap of two cells changes C by d g' + g d' + q d d', where d is the difference of the two
combinations' unit vectors and g, q come from I - P_Z; so all swaps are priced at once from the
inverse at hand. Steepest descent from evenly dealt starts, then from small disturbances of the
best (iterated local search). The work is counted, not timed: a seed gives one layout anywhere.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from loam.core.design.blocks import Ground, mean_variance
from loam.core.stats.reduce import BoolArray, FloatArray, IntArray

MOST_AT_ONCE = 240
"""Cells whose swaps are priced in one step; of larger layouts a random part."""
PRICED = 3_500_000
MOST_STEPS = 900
_RIDGE = 1e-7
_BETTER = 1e-9

Told = Callable[[float], bool]
"""Told how much is done (0 to 1); answers whether to go on."""


@dataclass(frozen=True)
class Found:
    """A layout and the mean variance of its differences."""

    label: IntArray
    variance: float


def _go_on(_share: float) -> bool:
    return True


class Search:
    """Looks for a good layout of v combinations over the worked cells of one hardness.

    Parameters
    ----------
    ground : Ground
    v : int
        Combinations.
    free : (n,) bool
        Cells that may change.
    apart : bool
        Keep equal combinations from touching.
    rng : Generator
    told : callable, optional
        Told the share done; the best so far is returned when it answers False.
    """

    def __init__(
        self,
        ground: Ground,
        v: int,
        free: BoolArray,
        apart: bool,
        rng: np.random.Generator,
        told: Told | None = None,
    ) -> None:
        self.ground, self.v, self.free, self.apart, self.rng = ground, v, free, apart, rng
        self._told = told or _go_on
        cells = min(int(free.sum()), MOST_AT_ONCE)
        self._left = self._budget = min(MOST_STEPS, PRICED // max(cells * cells, 1) + 20)
        self._stopped = False
        self._whole: FloatArray | None = None

    def best(self, starts: list[IntArray]) -> Found:
        """Search from the starts, then around the best; all share one budget."""
        bound = self._bound(starts[0])
        found: Found | None = None
        for start in starts:
            here = self._descend(start)
            found = here if found is None or _beats(here, found) else found
            if self._done(found, bound):
                break
        if found is None:
            raise ValueError("a search needs a start")
        while not self._done(found, bound):
            here = self._descend(self._disturbed(found.label))
            found = here if _beats(here, found) else found
        return self._settled(found)

    def _done(self, found: Found, bound: float) -> bool:
        few = self.v < 2 or int(self.free.sum()) < 2
        return few or self._stopped or self._left <= 0 or found.variance <= bound * (1.0 + 1e-9)

    def _bound(self, label: IntArray) -> float:
        """Return a mean variance that no layout with these counts can beat."""
        v, ground = self.v, self.ground
        if v < 2:
            return 0.0
        per = np.bincount(label, minlength=v).astype(float)
        if per.min() < 1:
            return 0.0
        whole = float(2.0 * (1.0 / per).mean())  # complete blocks, nothing lost to them
        if ground.trends:
            return whole
        each, more = np.divmod(ground.size, v)
        lost = ((v - more) * each**2 + more * (each + 1) ** 2) / ground.size
        trace = float(ground.n - lost.sum())
        return max(whole, 2.0 * (v - 1) / trace if trace > 0 else math.inf)

    def _spend(self) -> bool:
        self._left -= 1
        if self._left % 16 == 0 and not self._told(1.0 - max(self._left, 0) / self._budget):
            self._stopped = True
        return self._left >= 0 and not self._stopped

    def _some(self) -> IntArray:
        at = np.flatnonzero(self.free)
        if at.size > MOST_AT_ONCE:
            at = np.sort(self.rng.choice(at, MOST_AT_ONCE, replace=False))
        return at

    def _descend(self, start: IntArray) -> Found:
        """Take the best swap until none helps."""
        label = start.copy()
        together = self.apart and self.ground.trends  # else places are chosen afterwards
        while self._spend():
            some = self._some()
            if some.size < 2:
                break
            now, price, clash = self._priced(label, some, together)
            gain = now - price
            if together:
                gain = gain - 10.0 * abs(now) * clash
            s, t = np.unravel_index(int(gain.argmax()), gain.shape)
            if gain[s, t] <= _BETTER * abs(now):
                break
            a, b = some[s], some[t]
            label[a], label[b] = label[b], label[a]
        return Found(label, self._variance(label, together))

    def _variance(self, label: IntArray, together: bool) -> float:
        found = mean_variance(self.ground.information(label, self.v)) if self.v > 1 else 0.0
        if together and math.isfinite(found):
            found *= 1.0 + 10.0 * self.ground.conflicts(label)
        return found

    def _priced(
        self, label: IntArray, some: IntArray, clashes: bool
    ) -> tuple[float, FloatArray, FloatArray]:
        """Price every swap among some cells.

        Returns
        -------
        now : float
            Trace of the generalised inverse as it is.
        price : (m, m)
            The trace after each swap; infinite where nothing would change, or a pair be lost.
        clash : (m, m)
            Change in the number of equal neighbours; zeros unless asked for.
        """
        v, m = self.v, some.size
        own = label[some]
        c = self.ground.information(label, v) + 1.0 / v
        scale = float(np.trace(c)) / v
        inverse = np.asarray(np.linalg.inv(c + _RIDGE * scale * np.eye(v)), float)
        square = inverse @ inverse
        g = self.ground.scores(label, v, some)
        rest = self._rest(some)
        gg, gs = inverse @ g, square @ g
        a = _pairwise(inverse)[np.ix_(own, own)]
        alpha = _pairwise(square)[np.ix_(own, own)]
        b, beta = _mixed(gg[own]), _mixed(gs[own])
        c2, gamma = _pairwise(g.T @ gg), _pairwise(g.T @ gs)
        low = c2 - rest
        det = a * low - (1.0 + b) ** 2
        change = (low * alpha - 2.0 * (1.0 + b) * beta + a * gamma) / np.minimum(det, -1e-12)
        now = float(np.trace(inverse))
        price = now - change
        useless = (own[:, None] == own[None, :]) | (det > -1e-9) | (price <= 0)
        clash = self._clashes(label, some) if clashes else np.zeros((m, m))
        return now, np.where(useless, np.inf, price), clash

    def _rest(self, some: IntArray) -> FloatArray:
        """(e_s - e_t)'(I - P_Z)(e_s - e_t) for all pairs; the same in every step for all cells."""
        if self._whole is not None and self._whole.shape[0] == some.size == int(self.free.sum()):
            return self._whole
        rest = _pairwise(self.ground.between(some))
        if some.size == int(self.free.sum()):
            self._whole = rest
        return rest

    def _clashes(self, label: IntArray, some: IntArray) -> FloatArray:
        own = label[some]
        seen, touch = self.ground.touching(label, self.v, some)
        mine = seen[np.arange(some.size), own]
        theirs = seen[:, own]  # neighbours of s that are like t
        return np.asarray(theirs + theirs.T - mine[:, None] - mine[None, :] - 2.0 * touch, float)

    def _disturbed(self, label: IntArray) -> IntArray:
        """Swap a few pairs of cells at random."""
        out = label.copy()
        at = np.flatnonzero(self.free)
        for _ in range(2 + int(self.rng.integers(0, 4))):
            s, t = self.rng.choice(at, 2, replace=False)
            out[s], out[t] = out[t], out[s]
        return out

    def _settled(self, found: Found) -> Found:
        """Find places on each panel so that equals do not touch; efficiency comes second."""
        if not self.apart:
            return found
        label = found.label.copy()
        if not self.ground.trends:
            for own in self.ground.members:
                self._told(1.0)  # whoever waits no more says so by raising
                self._spread(label, own[self.free[own]])
        tries = 0
        while self.ground.conflicts(label) and tries < 200 and self.v > 1:
            tries += 1
            some = self._near_clashes(label)
            if some.size < 2:
                break
            _, price, clash = self._priced(label, some, True)
            price = np.where(np.isfinite(price), price, 1e300)
            clash = np.where(label[some][:, None] == label[some][None, :], 0.0, clash)
            least = clash.min()
            if least >= 0:
                break
            s, t = np.unravel_index(
                int(np.where(clash == least, price, np.inf).argmin()), clash.shape
            )
            a, b = some[s], some[t]
            label[a], label[b] = label[b], label[a]
        return Found(label, self._variance(label, False))

    def _near_clashes(self, label: IntArray) -> IntArray:
        """Cells that touch an equal one first, then others, as many as are priced at once."""
        a, b = self.ground.beside
        hit = label[a] == label[b]
        first = np.unique(np.concatenate([a[hit], b[hit]]))
        first = first[self.free[first]][: MOST_AT_ONCE // 2]
        others = np.setdiff1d(np.flatnonzero(self.free), first)
        room = MOST_AT_ONCE - first.size
        if others.size > room:
            others = self.rng.choice(others, room, replace=False)
        return np.sort(np.concatenate([first, others]))

    def _spread(self, label: IntArray, own: IntArray) -> None:
        """Shuffle a panel's cells, then swap by the fewest clashes, sideways too."""
        if own.size < 2:
            return
        best, least = label[own].copy(), math.inf
        for _ in range(12):
            label[own] = label[own][self.rng.permutation(own.size)]
            for _ in range(4 * own.size):
                clash = self._clashes(label, own)
                other = label[own][:, None] != label[own][None, :]
                seen, _ = self.ground.touching(label, self.v, own)
                hurt = seen[np.arange(own.size), label[own]] > 0
                if not hurt.any():
                    break
                allowed = np.where(other & (hurt[:, None] | hurt[None, :]), clash, np.inf)
                lowest = float(allowed.min())
                if lowest > 0:
                    break
                at = np.flatnonzero(allowed.ravel() == lowest)
                s, t = divmod(int(self.rng.choice(at)), own.size)
                a, b = own[s], own[t]
                label[a], label[b] = label[b], label[a]
            seen, _ = self.ground.touching(label, self.v, own)
            clashes = float(seen[np.arange(own.size), label[own]].sum())
            if clashes < least:
                best, least = label[own].copy(), clashes
            if least == 0:
                break
        label[own] = best


def _beats(a: Found, b: Found) -> bool:
    return a.variance < b.variance * (1.0 - _BETTER)


def _pairwise(square: FloatArray) -> FloatArray:
    """(e_i - e_j)' M (e_i - e_j) for all pairs."""
    diagonal = np.diag(square)
    return np.asarray(diagonal[:, None] + diagonal[None, :] - square - square.T, float)


def _mixed(m: FloatArray) -> FloatArray:
    """(e_t - e_s)' M (e_s - e_t) for all pairs of cells, rows of M by cell."""
    diagonal = np.diag(m)
    return np.asarray(m.T - diagonal[None, :] - diagonal[:, None] + m, float)
