"""Where the worth of a combination comes from."""

from __future__ import annotations

from collections.abc import Sequence

from loam.app.questions.priorities.find import TIME, PrioritiesPicture
from loam.app.questions.source import Rankings, Source, more, own_source
from loam.core.units import fixed, percent
from loam.core.words.verdict import listed


def of_goal(
    found: PrioritiesPicture,
    hardness: str,
    code: str,
    weights: Sequence[float],
    rankings: Rankings,
) -> tuple[Source, ...]:
    """What one combination is worth on a hardness: a source a measurand that it rests on."""
    goal = next((g for g in found.goals(hardness, weights) if g.combination == code), None)
    if goal is None:
        return ()
    said = (
        f" Its worth here is {fixed(goal.mean, 2)} ({fixed(goal.low, 2)} to {fixed(goal.high, 2)}),"
        f" best with {percent(goal.p_best)}: weighted geometric mean of what each measurand is"
        f" worth, counted in {found.worths[hardness].shape[0]} draws (section 18). Limits:"
        f" {listed([found.limit(key) for key in found.criteria if key != TIME or found.time])}."
    )
    return tuple(
        more(own_source(rankings[m], hardness, code), said)
        for m in found.criteria
        if m != TIME and m in rankings
    )
