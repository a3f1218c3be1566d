"""Where the figures of what drives it come from.

Keys of spots: ``hardness:lever``, ``hardness:lever:level``, ``hardness:+number`` (not tried).
"""

from __future__ import annotations

import numpy as np

from loam.app.questions.drivers.find import DriversOf, DriversPicture
from loam.app.questions.source import Source, Sources
from loam.core.judging import TrialJudgement
from loam.core.levers import Level
from loam.core.units import percent
from loam.core.words.verdict import listed


def of_drivers(found: DriversPicture) -> Sources:
    """Levels, parts, and what was not tried."""
    made: Sources = {}
    measurand = found.judgement.measurand
    for own in found.classes:
        every = _tried(found.judgement, own.hardness)
        for i, lever in enumerate(own.levers):
            made[f"{own.hardness}:{i}"] = (
                Source(
                    f"{lever.label.capitalize()} on {own.ground}: {lever.amount} of the"
                    " difference between combinations",
                    "Mean over the draws of the variance that this part makes between the"
                    f" combinations tried, over the variance of all parts. It makes most of the"
                    f" difference with {percent(lever.first)}. {_TAKEN_APART}",
                    measurand,
                    own.hardness,
                    every,
                ),
            )
            for k, level in enumerate(lever.levels):
                value = _values(found.judgement, level.place, level.low, level.high)
                made[f"{own.hardness}:{i}:{k}"] = (
                    Source(
                        f"{lever.label.capitalize()}, {level.words}, on {own.ground}: {value}",
                        f"Middle of all combinations and the effect of {_whose(found, level)}, with"
                        f" its 90 % interval from the draws; worked with {listed(level.codes)}."
                        f" {_TAKEN_APART}",
                        measurand,
                        own.hardness,
                        level.codes,
                    ),
                )
        made |= _not_tried(found, own, every)
    return made


def _whose(found: DriversPicture, level: Level) -> str:
    if level.alone is None:
        return "this level"
    alone = float(found.judgement.scale.back(np.array([level.alone]))[0])
    told = found.judgement.kind.write(alone, 1)
    return f"both levels and of what they do only together (each alone: {told})"


_TAKEN_APART = (
    "The adjusted means of the judgement, in all its draws, are taken apart into the middle, an"
    " effect of each level, and what levels do only together; each part is partially pooled with a"
    " half-Cauchy prior (Gibbs sampling; section 19)."
)


def _not_tried(found: DriversPicture, own: DriversOf, every: tuple[str, ...]) -> Sources:
    return {
        f"{own.hardness}:+{n}": (
            Source(
                own.told(u, found.judgement),
                "Predicted: the effects of its levels, and the whole spread of what levels do only"
                f" together, drawn anew. {_TAKEN_APART} These are the readings of what was tried.",
                found.judgement.measurand,
                own.hardness,
                every,
            ),
        )
        for n, u in enumerate(own.untried, 1)
    }


def _tried(judgement: TrialJudgement, hardness: str) -> tuple[str, ...]:
    found = judgement.on(hardness)
    return tuple(sorted(found.names)) if found is not None else ()


def _values(judgement: TrialJudgement, *places: float) -> str:
    """Write a place and its interval as measured."""
    kind = judgement.kind
    at, low, high = (kind.write(float(v), 1) for v in judgement.scale.back(np.array(places)))
    return f"{kind.label} {at} ({low} to {high}) {kind.unit}"
