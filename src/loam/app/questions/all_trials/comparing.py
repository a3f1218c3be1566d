"""The trial at hand against another, or its first day against its last, as drawn and in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from loam.app.questions.all_trials.judging import judge_pool
from loam.core.errors import NotEnough
from loam.core.judging import TrialJudgement
from loam.core.pool import TRIAL
from loam.core.readings.kind import ReadingKind
from loam.core.sides import Held, hold, shared_shift
from loam.core.units import fixed
from loam.core.verdicts import EQUAL, OPEN
from loam.core.words.verdict import listed, unit_of

DAYS = "its days"


@dataclass(frozen=True)
class ComparedPicture:
    """Two sides held against each other.

    Attributes
    ----------
    first, second : str
        What the sides are.
    letters : mapping of str to tuple of (str, str)
        The trials that a combination of the pool is in, and its letter there.
    """

    judgement: TrialJudgement
    kind: ReadingKind
    first: str
    second: str
    held: tuple[Held, ...]
    lead: str
    letters: Mapping[str, tuple[tuple[str, str], ...]]

    def stored(self, place: float) -> float:
        """Turn a place on the scale into what is read."""
        return float(self.judgement.scale.back(np.array([place]))[0])

    def measured(self, place: float) -> float:
        """Turn a place on the scale into what is read, in the unit that is shown."""
        return self.kind.shown(self.stored(place))

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        rows = [
            [
                "hardness",
                "combination",
                self.first,
                self.second,
                "difference on the scale",
                "low",
                "high",
                "verdict",
            ]
        ]
        for h in self.held:
            figures = (
                f"{self.measured(v):.{self.kind.decimals + 1}f}" for v in (h.first, h.second)
            )
            apart = (f"{v:.4f}" for v in (h.difference, h.low, h.high))
            rows.append([h.hardness, h.combination, *figures, *apart, h.verdict])
        return rows


def find_compared(
    path: Path, trial_id: int, name: str, other: str, measurand: str, seed: int, kind: ReadingKind
) -> ComparedPicture:
    """Hold a trial against another by name, or (`DAYS`) its first day against its last.

    Raises
    ------
    NotEnough
        When they share no combination.
    """
    pool = judge_pool(path, trial_id, measurand, seed)
    data, judged = pool.pooled.data, pool.judgement
    trials = data.factors[TRIAL]
    here = _code(trials.names, name)
    first, second = name, other
    if other == DAYS:
        days = data.factors["day"]
        own = [d for d in dict.fromkeys(days.codes[trials.codes == here].tolist())]
        named = sorted((days.names[d].removeprefix(f"{name}: "), d) for d in own)
        if len(named) < 2:
            raise NotEnough("It was read on one day only, so there is nothing to compare.")
        (first, a), (second, b) = named[0], named[-1]
        side = np.where(days.codes == a, 0, np.where(days.codes == b, 1, -1))
    else:
        there = _code(trials.names, other)
        side = np.where(trials.codes == here, 0, np.where(trials.codes == there, 1, -1))
    held = hold(data, judged, side.astype(np.intp))
    if not held:
        raise NotEnough(f"{first} and {second} share no combination on a hardness.")
    lead = _lead(held, judged, kind, first, second)
    return ComparedPicture(judged, kind, first, second, tuple(held), lead, pool.pooled.letters)


def _code(names: Sequence[str], name: str) -> int:
    if name not in names:
        raise NotEnough(f"{name} has nothing to judge in this measurand.")
    return list(names).index(name)


def _lead(
    held: list[Held], judged: TrialJudgement, kind: ReadingKind, first: str, second: str
) -> str:
    shift = shared_shift(held)
    apart = [h for h in held if h.verdict not in (EQUAL, OPEN)]
    same = [h for h in held if h.verdict == EQUAL]
    said = [f"{kind.label.capitalize()}, {second} against {first}"]
    if not judged.scale.ratio:
        word = "higher" if shift > 0 else "lower"
        amount = fixed(abs(kind.span(shift)), max(kind.decimals, 1))
        said.append(f"on the whole {amount} {unit_of(kind)} {word}")
    if apart:
        names = listed([f"{h.combination} on {h.hardness}" for h in apart[:5]])
        more = f" and {len(apart) - 5} more" if len(apart) > 5 else ""
        said.append(f"{names}{more} surely read otherwise")
    else:
        said.append("nothing surely reads otherwise")
    if same:
        names = listed([f"{h.combination} on {h.hardness}" for h in same[:5]])
        said.append(f"{names} read the same, for what matters")
    return "; ".join(said) + "."
