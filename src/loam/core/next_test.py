"""What to test next: which further cells are worth most, what they may settle, and in how long.

Cells are ranked by what they save per minute: the value of information of two normal means
(Raiffa and Schlaifer 1961, chapter 5). With s the standard deviation of the difference, r the share
of its variance that is left and m = s sqrt(1 - r) what the difference will move by, it is
m (phi(u) - u Phi(-u)), u = |mean| / m: what is lost on average by taking the leader now, less what
will be lost then. Draws of few readings have heavier tails than a normal of their spread: what is
saved is therefore that share of what the draws say is lost now, and never more than it. How a
further cell narrows the difference, and how likely a verdict then falls,
is the judgement's own (`judging.further_cells`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.judging import ClassJudgement
from loam.core.judging.further_cells import (
    COUNTS,
    Footing,
    Further,
    chance_to_settle,
    pairs_on,
    variance_after,
)
from loam.core.verdicts import OPEN

LITTLE = 0.1
"""What may be lost below this share of what matters is not worth a further test."""
MOST_WEIGHED = 8


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
    gain : float
        By how much what may be lost by taking the leader falls, on the scale.
    left : float
        What may then still be lost between the two, on the scale.
    """

    cells: tuple[Further, ...]
    chance: float
    equal: float
    ratio: float
    minutes: float
    gain: float = 0.0
    left: float = 0.0

    @property
    def per_minute(self) -> float:
        """What is saved per minute."""
        return self.gain / max(self.minutes, 1e-9)


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


def loss(mean: float, sd: float) -> float:
    """Return what is lost on average by taking the one ahead: E max(0, -d), d ~ N(|mean|, sd^2)."""
    from scipy.special import ndtr

    if sd <= 0.0:
        return 0.0
    u = abs(mean) / sd
    return float(sd * (np.exp(-0.5 * u * u) / np.sqrt(2.0 * np.pi) - u * ndtr(-u)))


def is_enough(found: ClassJudgement) -> bool:
    """Tell whether what taking the leader may lose is below a tenth of what matters."""
    return found.expected_loss < LITTLE * found.delta


def weigh(
    foot: Footing,
    found: ClassJudgement,
    pair: tuple[str, str],
    cells: Sequence[Further],
    minutes: Minutes,
) -> Advice:
    """Weigh further cells."""
    a, b = pair
    before, after = variance_after(foot, a, b, cells)
    d = found.draws[:, found.columns[a]] - found.draws[:, found.columns[b]]
    ratio = after / before if before > 0.0 else 1.0
    chance, equal = chance_to_settle(d, ratio, found.delta, found.sign)
    mean, sd = float(d.mean()), float(d.std())
    usual = loss(mean, sd)
    lost = float(np.maximum(-found.sign * d, 0.0).mean())
    share = loss(mean, sd * float(np.sqrt(max(1.0 - ratio, 0.0)))) / usual if usual > 0.0 else 0.0
    gain = lost * min(share, 1.0)
    spent = minutes.of(cells, list(foot.panels))
    return Advice(tuple(cells), chance, equal, ratio, spent, gain, lost - gain)


def best_cell(
    foot: Footing, found: ClassJudgement, free: dict[int, int], minutes: Minutes
) -> tuple[tuple[str, str], Advice] | None:
    """Return the one further cell that saves most per minute, and the pair that it is for.

    Every combination that is not settled against the leader is weighed, and the leader against it.

    Parameters
    ----------
    free : mapping of int to int
        Free cells of each panel that is there, by its code.
    """
    places = [p for p, n in free.items() if n > 0 and p in foot.panels] or [-1]
    lead = found.leader.combination
    still = [s.combination for s in found.standings[1:] if s.relation == OPEN][:MOST_WEIGHED]
    each = [
        ((lead, other), weigh(foot, found, (lead, other), (Further(k, p),), minutes))
        for other in still
        for k in (lead, other)
        for p in places
    ]
    return max(each, key=lambda one: one[1].per_minute, default=None)


def advise(
    foot: Footing, found: ClassJudgement, free: dict[int, int], room: int, minutes: Minutes
) -> tuple[Advice, Advice, Advice] | None:
    """Advise a cell, a panel and a trial; None when the class is settled.

    The panel is a new one with as many of both as there is room for, or the free cells of those at
    hand; the trial is the number of each that the class says would settle it (24 where none does).
    """
    pair, one = found.open_pair, best_cell(foot, found, free, minutes)
    if pair is None or one is None:
        return None
    a_panel = max(room // 2, 1)
    panel = weigh(foot, found, pair, pairs_on(pair, a_panel, {}, room), minutes)
    count = min(found.cells_for(pair[1]), COUNTS[-1])
    trial = weigh(foot, found, pair, pairs_on(pair, count, free, room), minutes)
    return one[1], panel, trial
