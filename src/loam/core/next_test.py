"""What to test next: which further cells would settle a class, how likely, and in how long.

Of the pair that is not settled (the leader b and the one nearest to it) a further cell narrows the
difference. With P the covariance of all effects given the readings so far (Henderson's equations at
the judgement's variances), q the pair's contrast, and A, R the rows and noise of further cells,

    Var_after = q'Pq - q'PA' (A P A' + R)^-1 A P q

which is section 6 of the ranking's specification for one cell, taken for several at once. What the
difference will then be is forecast as N(difference, Var_before - Var_after); the chance to settle
is the share of that forecast at which a verdict falls. The interval at hand is the judgement's
own, scaled by the ratio of the two variances.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.judgement import TrialData
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.stats.reduce import FloatArray, compact
from loam.core.verdicts import OPEN, verdict_of

MOST_EFFECTS = 2500
POINTS = 201


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
    """

    covariance: FloatArray
    combinations: dict[str, int]
    panels: dict[int, int]
    pairs: dict[tuple[int, int], int]
    own: float
    panel: float
    pair: float


def footing(data: TrialData, judged: TrialJudgement, hardness: str) -> Footing | None:
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
    sd = judged.sd
    usual = float(np.median(count))
    error = sd["cell"] ** 2 + sd["residual"] ** 2 / count
    weight = 1.0 / error
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
    matrix[range(k, k + p), range(k, k + p)] += 1.0 / max(sd["panel"] ** 2, 1e-12)
    last = range(k + p, k + p + b)
    matrix[last, last] += 1.0 / max(sd["panel:combination"] ** 2, 1e-12)
    return Footing(
        np.asarray(np.linalg.inv(matrix), float),
        {data.combination.names[int(c)]: i for i, c in enumerate(k_codes)},
        {int(c): k + i for i, c in enumerate(p_codes)},
        {(int(p_codes[x // k]), int(x % k)): k + p + i for i, x in enumerate(both)},
        sd["cell"] ** 2 + sd["residual"] ** 2 / usual,
        sd["panel"] ** 2,
        sd["panel:combination"] ** 2,
    )  # fmt: skip


def variance_after(foot: Footing, a: str, b: str, cells: Sequence[Further]) -> tuple[float, float]:
    """Return the variance of a minus b before and after further cells."""
    q = np.zeros(foot.covariance.shape[0])
    q[foot.combinations[a]], q[foot.combinations[b]] = 1.0, -1.0
    before = float(q @ foot.covariance @ q)
    if not cells:
        return before, before
    rows = np.zeros((len(cells), q.size))
    noise = np.eye(len(cells)) * foot.own
    for i, one in enumerate(cells):
        k = foot.combinations[one.combination]
        rows[i, k] = 1.0
        if one.panel in foot.panels:
            rows[i, foot.panels[one.panel]] = 1.0
        known = foot.pairs.get((one.panel, k))
        if known is not None:
            rows[i, known] = 1.0
    for i, one in enumerate(cells):
        for j, other in enumerate(cells):
            if one.panel != other.panel:
                continue
            if one.panel not in foot.panels:
                noise[i, j] += foot.panel
            k = foot.combinations[one.combination]
            if one.combination == other.combination and (one.panel, k) not in foot.pairs:
                noise[i, j] += foot.pair
    held = rows @ foot.covariance
    gain = held @ q
    after = before - float(gain @ np.linalg.solve(held @ rows.T + noise, gain))
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
    from scipy.special import ndtr, ndtri

    middle, sd = sign * float(d.mean()), float(d.std())
    after = max(sd * np.sqrt(ratio), 1e-12)
    moved = sd * np.sqrt(max(1.0 - ratio, 0.0))
    z = ndtri((np.arange(POINTS) + 0.5) / POINTS)
    settled = equal = 0
    for there in middle + moved * z:
        up = float(ndtr(there / after))
        clear = float(ndtr((there - delta) / after))
        worse = float(ndtr((-there - delta) / after))
        said = verdict_of(up, 1.0 - clear - worse, clear, worse)
        settled += said != OPEN
        equal += said == "equal"
    return settled / POINTS, equal / POINTS


@dataclass(frozen=True)
class Advice:
    """Further cells, and what they would probably settle.

    Attributes
    ----------
    cells : tuple of Further
    chance, equal : float
        That a verdict falls, and that it is "as good, for what matters".
    ratio : float
        The variance of the difference after, over that now.
    minutes : float
    """

    cells: tuple[Further, ...]
    chance: float
    equal: float
    ratio: float
    minutes: float

    @property
    def per_minute(self) -> float:
        """Chance to settle per minute."""
        return self.chance / max(self.minutes, 1e-9)


@dataclass(frozen=True)
class Minutes:
    """How long things take.

    Attributes
    ----------
    cell : mapping of str to float
        To work, wipe and read a cell, by combination.
    panel : float
        To tape, wash, damage and read a new panel before work.
    """

    cell: dict[str, float]
    panel: float

    def of(self, cells: Sequence[Further], there: Sequence[int]) -> float:
        """Return how long further cells take, new panels with them."""
        new = {c.panel for c in cells if c.panel not in there}
        return sum(self.cell[c.combination] for c in cells) + self.panel * len(new)


def open_pair(found: ClassJudgement) -> tuple[str, str] | None:
    """Return the leader and the nearest that is not settled against it; None when all is."""
    lead = found.leader.combination
    still = [s for s in found.standings[1:] if s.relation == OPEN]
    if not still:
        return None
    d = {s.combination: found.draws[:, found.columns[lead]]
         - found.draws[:, found.columns[s.combination]] for s in still}  # fmt: skip
    near = min(still, key=lambda s: abs(float(d[s.combination].mean()))
               / max(float(d[s.combination].std()), 1e-12))  # fmt: skip
    return lead, near.combination


def weigh(
    foot: Footing, found: ClassJudgement, pair: tuple[str, str], cells: Sequence[Further],
    minutes: Minutes,
) -> Advice:  # fmt: skip
    """Weigh further cells."""
    a, b = pair
    before, after = variance_after(foot, a, b, cells)
    d = found.draws[:, found.columns[a]] - found.draws[:, found.columns[b]]
    ratio = after / before if before > 0.0 else 1.0
    chance, equal = chance_to_settle(d, ratio, found.delta, found.sign)
    return Advice(
        tuple(cells), chance, equal, ratio, minutes.of(cells, list(foot.panels))
    )  # fmt: skip


def best_cell(
    foot: Footing, found: ClassJudgement, pair: tuple[str, str], free: dict[int, int],
    minutes: Minutes,
) -> Advice:  # fmt: skip
    """Return the one further cell that narrows the difference most per minute.

    Parameters
    ----------
    free : mapping of int to int
        Free cells of each panel that is there, by its code.
    """
    places = [p for p, n in free.items() if n > 0 and p in foot.panels] or [-1]
    each = [weigh(foot, found, pair, (Further(k, p),), minutes) for k in pair for p in places]
    return max(each, key=lambda a: (1.0 - a.ratio) / max(a.minutes, 1e-9))


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


def advise(
    foot: Footing, found: ClassJudgement, free: dict[int, int], room: int, minutes: Minutes,
    enough: float = 0.8, most: int = 24,
) -> tuple[Advice, Advice, Advice] | None:  # fmt: skip
    """Advise a cell, a panel and a trial; None when the class is settled.

    The panel is a new one with as many of both as there is room for, or the free cells of those at
    hand; the trial is the least number of each with which a verdict falls with ``enough``.
    """
    pair = open_pair(found)
    if pair is None:
        return None
    cell = best_cell(foot, found, pair, free, minutes)
    a_panel = max(room // 2, 1)
    panel = weigh(foot, found, pair, pairs_on(pair, a_panel, {}, room), minutes)
    trial = panel
    for count in sorted({1, 2, 3, 4, 6, 8, 12, 16, most} | {a_panel}):
        trial = weigh(foot, found, pair, pairs_on(pair, count, free, room), minutes)
        if trial.chance >= enough:
            break
    return cell, panel, trial
