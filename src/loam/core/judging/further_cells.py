"""What a class knows of its effects, and what further cells of two combinations would settle.

Of a pair that is not settled a further cell narrows the difference. With P the covariance of all
effects given the readings so far (Henderson's equations at the judgement's variances), q the pair's
contrast, and A, R the rows and noise of further cells,

    Var_after = q'Pq - q'PA' (A P A' + R)^-1 A P q

which is section 6 of the ranking's specification for one cell, taken for several at once. What the
difference will then be is forecast as N(difference, Var_before - Var_after); the chance to settle
is the share of that forecast at which a verdict falls. The interval at hand is the judgement's
own, scaled by the ratio of the two variances. Further cells come after a look, so that "ahead" then
also asks for a Bayes factor of `LOOKED_BF` (`verdicts.bayes_factor`).
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.stats.reduce import FloatArray, compact
from loam.core.trial_rows import TrialData
from loam.core.verdicts import LOOKED_BF, SURE

MOST_EFFECTS = 600
POINTS = 201
COUNTS = (1, 2, 3, 4, 5, 6, 8, 10, 12, 16, 24)
"""How many cells of each of two are weighed."""
ENOUGH = 0.8
"""Cells are enough when a verdict falls with this chance."""
ROOM = 12


@dataclass(frozen=True)
class Further:
    """A further cell: combination, and a panel that is there (its code) or a new one (-1, -2 …)."""

    combination: str
    panel: int


@dataclass(frozen=True)
class Footing:
    """What a class knows of its effects, so that further cells can be weighed.

    Attributes
    ----------
    covariance : (E, E)
        Of combinations, then panels, then panels with a combination.
    combinations : mapping of str to int
    panels : mapping of int to int
        Code of a panel in the data to its effect.
    pairs : mapping of (int, int) to int
        Code of a panel and a combination's effect to the effect of both.
    own : float
        Variance of a cell's mean: cell and readings.
    panel, pair : float
        Variances of a new panel, and of a panel with a combination.
    room : int
        Cells of a panel: as many as panels had at most so far.
    """

    covariance: FloatArray
    combinations: dict[str, int]
    panels: dict[int, int]
    pairs: dict[tuple[int, int], int]
    own: float
    panel: float
    pair: float
    room: int = ROOM


def footing(data: TrialData, sd: Mapping[str, float], hardness: str) -> Footing | None:
    """Return what a class knows; None where it is too large to be weighed in passing.

    People and days are left out: who reads a further cell is not planned here.
    """
    h = data.hardness.names.index(hardness)
    rows = np.flatnonzero(data.hardness.codes == h)
    zeros = np.zeros(rows.size, dtype=np.intp)
    panel = data.factors["panel"].codes[rows] if "panel" in data.factors else zeros
    cell = data.factors["cell"].codes[rows] if "cell" in data.factors else np.arange(rows.size)
    combination = data.combination.codes[rows]
    at, _ = compact(cell)
    _, first, count = np.unique(at, return_index=True, return_counts=True)
    usual = float(np.median(count))
    error = sd["cell"] ** 2 + sd["residual"] ** 2 / count
    unit = float(error.mean())
    if not (np.isfinite(unit) and unit > 0.0):
        return None
    weight = unit / error
    k_codes, k_at = np.unique(combination[first], return_inverse=True)
    p_codes, p_at = np.unique(panel[first], return_inverse=True)
    both, b_at = np.unique(p_at * k_codes.size + k_at, return_inverse=True)
    k, p, b = k_codes.size, p_codes.size, both.size
    if k + p + b > MOST_EFFECTS:
        return None
    design = np.zeros((first.size, k + p + b))
    line = np.arange(first.size)
    design[line, k_at] = design[line, k + p_at] = design[line, k + p + b_at] = 1.0
    matrix = design.T @ (design * weight[:, None])
    matrix[range(k, k + p), range(k, k + p)] += 1.0 / max(sd["panel"] ** 2 / unit, 1e-9)
    last = range(k + p, k + p + b)
    matrix[last, last] += 1.0 / max(sd["panel:combination"] ** 2 / unit, 1e-9)
    return Footing(
        np.asarray(unit * np.linalg.inv(matrix), float),
        {data.combination.names[int(c)]: i for i, c in enumerate(k_codes)},
        {int(c): k + i for i, c in enumerate(p_codes)},
        {(int(p_codes[x // k]), int(x % k)): k + p + i for i, x in enumerate(both)},
        sd["cell"] ** 2 + sd["residual"] ** 2 / usual,
        sd["panel"] ** 2,
        sd["panel:combination"] ** 2,
        max(int(np.bincount(p_at).max()), 2),
    )


def variance_after(foot: Footing, a: str, b: str, cells: Sequence[Further]) -> tuple[float, float]:
    """Return the variance of a minus b before and after further cells."""
    q = np.zeros(foot.covariance.shape[0])
    q[foot.combinations[a]], q[foot.combinations[b]] = 1.0, -1.0
    before = float(q @ foot.covariance @ q)
    if not cells:
        return before, before
    line = np.arange(len(cells))
    k = np.array([foot.combinations[c.combination] for c in cells])
    panel = np.array([c.panel for c in cells])
    known = np.array([foot.panels.get(c.panel, -1) for c in cells])
    both = np.array([foot.pairs.get((c.panel, int(i)), -1) for c, i in zip(cells, k, strict=True)])
    rows = np.zeros((len(cells), q.size))
    rows[line, k] = 1.0
    rows[line[known >= 0], known[known >= 0]] = 1.0
    rows[line[both >= 0], both[both >= 0]] = 1.0
    beside = panel[:, None] == panel
    noise = np.eye(len(cells)) * foot.own
    noise += foot.panel * (beside & (known < 0))
    noise += foot.pair * (beside & (k[:, None] == k) & (both < 0))
    held = rows @ foot.covariance
    gain = held @ q
    after = before - float(gain @ np.linalg.solve(held @ rows.T + noise, gain))
    return before, max(after, 0.0)


def variance_with_pairs(foot: Footing, a: str, b: str, count: int) -> tuple[float, float]:
    """Return what `variance_after` does for ``count`` cells of each, side by side on new panels.

    On a new panel with m cells of each their two means say all: with S the panel's variance and
    s = pair + own / m, they are known with noise S 11' + s I, whose inverse is added to that of
    the two effects' own covariance.
    """
    at = [foot.combinations[a], foot.combinations[b]]
    covariance = foot.covariance[np.ix_(at, at)]
    q = np.array([1.0, -1.0])
    before = float(q @ covariance @ q)
    side = max(foot.room, 2) // 2
    whole, rest = divmod(count, side)
    information = np.zeros((2, 2))
    for panels, cells in ((whole, side), (1, rest)):
        if panels and cells:
            own = foot.pair + foot.own / cells
            share = foot.panel / (own + 2.0 * foot.panel)
            information += panels / own * (np.eye(2) - share)
    after = float(q @ covariance @ np.linalg.solve(np.eye(2) + information @ covariance, q))
    return before, max(after, 0.0)


def chance_to_settle(
    d: FloatArray, ratio: float, delta: float, sign: float = 1.0
) -> tuple[float, float]:
    """Return the chance that a verdict falls, and the part of it in which they are equal.

    Parameters
    ----------
    d : (D,)
        Draws of the difference as it is known now.
    ratio : float
        Its variance after, over its variance now.
    """
    return _chances(sign * float(d.mean()), float(d.std()), ratio, delta)


def _chances(middle: float, sd: float, ratio: float, delta: float) -> tuple[float, float]:
    from scipy.special import ndtr, ndtri

    after = max(sd * float(np.sqrt(ratio)), 1e-300)
    moved = sd * float(np.sqrt(max(1.0 - ratio, 0.0)))
    there = middle + moved * ndtri((np.arange(POINTS) + 0.5) / POINTS)
    up = ndtr(there / after)
    clear, worse = ndtr((there - delta) / after), ndtr((-there - delta) / after)
    equal = 1.0 - clear - worse >= SURE
    s2 = max(after**2, 1e-150)
    t2 = (2.0 * delta) ** 2 or s2
    power = np.minimum(there**2 / (2.0 * s2) * (t2 / (s2 + t2)), 1e9)
    told = 0.5 * np.log(s2 / (s2 + t2)) + power >= np.log(LOOKED_BF)
    settled = equal | (told & ((up >= SURE) | (1.0 - up >= SURE)))
    return float(settled.mean()), float(equal.mean())


def pairs_on(
    pair: tuple[str, str], count: int, free: dict[int, int], room: int
) -> tuple[Further, ...]:
    """Place ``count`` cells of each of two side by side: free cells first, then new panels.

    Parameters
    ----------
    room : int
        Cells of a new panel.
    """
    left = {p: n for p, n in free.items() if n >= 2}
    cells: list[Further] = []
    new, on_new = -1, 0
    for _ in range(count):
        most = max(left, key=lambda p: left[p], default=None)
        if most is not None and left[most] >= 2:
            left[most] -= 2
            cells += [Further(k, most) for k in pair]
            continue
        if on_new + 2 > max(room, 2):
            new, on_new = new - 1, 0
        on_new += 2
        cells += [Further(k, new) for k in pair]
    return tuple(cells)


def cells_needed(
    foot: Footing | None,
    pair: tuple[str, str],
    cells: tuple[int, int],
    d: FloatArray,
    delta: float,
    sign: float,
) -> int | None:
    """Return how many further cells of each settle a pair with `ENOUGH`; None when 24 do not.

    Parameters
    ----------
    foot : Footing or None
        Without one (a class too large for it) the variance falls as with cells alone.
    cells : (int, int)
        Cells of both so far.
    d : (D,)
        Draws of their difference.
    """
    middle, sd = sign * float(d.mean()), float(d.std())

    def settles(count: int) -> bool:
        if foot is not None:
            before, after = variance_with_pairs(foot, *pair, count)
            ratio = after / before if before > 0.0 else 1.0
        else:
            a, b = cells
            ratio = (1.0 / (a + count) + 1.0 / (b + count)) / (1.0 / a + 1.0 / b)
        return _chances(middle, sd, ratio, delta)[0] >= ENOUGH

    if not settles(COUNTS[-1]):  # the usual case, and the others need not be tried then
        return None
    return COUNTS[bisect_left(COUNTS[:-1], True, key=settles)]
