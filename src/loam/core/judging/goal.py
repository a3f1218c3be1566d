"""The judgement of a goal: what several measurands are worth together, in place of one of them.

The same verdicts, chances and intervals as of a measurand, counted in draws of the worth.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from loam.core.errors import NotEnough
from loam.core.judging.judge import figures_of, led
from loam.core.judging.result import ClassJudgement, Standing, TrialJudgement
from loam.core.judging.starts import Starts
from loam.core.matter import DIFFERENCE, Matters
from loam.core.scale import Scale
from loam.core.stats.reduce import FloatArray

GOAL = "goal"
WORTH = Scale("identity", 0.0, 1.0)
MATTERS = Matters(0.05, DIFFERENCE)
"""A twentieth of all that can be wished for: assumed."""


@dataclass(frozen=True)
class Worths:
    """What combinations are worth on one hardness.

    Attributes
    ----------
    draws : (D, K)
        From 0 to 1.
    cells, readings : tuple of int
        That each rests on: the cells of the measurand that has fewest.
    """

    hardness: str
    names: Sequence[str]
    draws: FloatArray
    cells: Sequence[int]
    readings: Sequence[int]
    panels: int = 0
    untested: tuple[str, ...] = ()


def judge_goal(worths: Sequence[Worths], chosen: Matters = MATTERS) -> TrialJudgement:
    """Judge a goal.

    Parameters
    ----------
    worths : sequence of Worths
        One a hardness.
    chosen : Matters
        The difference in worth that matters.

    Raises
    ------
    NotEnough
        Without a hardness.
    """
    if not worths:
        raise NotEnough("No hardness has all that this goal asks for.")
    return TrialJudgement(
        GOAL,
        True,
        WORTH,
        chosen,
        0.0,
        0.0,
        {},
        {},
        {},
        (),
        (),
        Starts(),
        tuple(_one(own, chosen.on_scale) for own in worths),
        sum(sum(own.cells) for own in worths),
        sum(sum(own.readings) for own in worths),
        {},
    )


def _one(own: Worths, delta: float) -> ClassJudgement:
    draws, placed, lead = led(np.asarray(own.draws, float), 1.0)
    middle = draws.mean(axis=0)
    order = [lead, *(int(i) for i in np.argsort(-middle, kind="stable") if i != lead)]
    figures = [replace(f, moved=False) for f in figures_of(draws, draws, WORTH, lead)]
    standings = tuple(
        Standing(
            own.names[i],
            figures[i],
            float(placed.p_best[i]),
            float(placed.expected[i]),
            (int(placed.low[i]), int(placed.high[i])),
            "",
            own.cells[i],
            own.readings[i],
        )
        for i in order
    )
    return ClassJudgement(
        own.hardness,
        standings,
        own.untested,
        own.panels,
        (),
        delta,
        1.0,
        draws,
        draws,
        {name: i for i, name in enumerate(own.names)},
    ).decided(delta)
