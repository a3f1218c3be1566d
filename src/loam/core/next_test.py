"""What to test next: which further cells would settle a class, how likely, and in how long.

How a further cell narrows the difference of the leader and the one nearest to it that is not
settled, and how likely a verdict then falls, is the judgement's own (`judging.footing`); here
cells are chosen by what they settle per minute.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from loam.core.judging import ClassJudgement
from loam.core.judging.footing import (
    COUNTS,
    ENOUGH,
    Footing,
    Further,
    chance_to_settle,
    pairs_on,
    variance_after,
)
from loam.core.verdicts import OPEN


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


def advise(
    foot: Footing, found: ClassJudgement, free: dict[int, int], room: int, minutes: Minutes,
    enough: float = ENOUGH,
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
    for count in COUNTS:
        trial = weigh(foot, found, pair, pairs_on(pair, count, free, room), minutes)
        if trial.chance >= enough:
            break
    return cell, panel, trial
