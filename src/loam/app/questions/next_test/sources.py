"""Where the figures of what to test next come from; a spot's key is a number."""

from __future__ import annotations

from loam.app.questions.next_test.find import NextPicture
from loam.app.questions.source import Source, Sources
from loam.core.judging import TrialJudgement
from loam.core.units import percent
from loam.core.words.verdict import counted, listed


def of_next(found: NextPicture, judgement: TrialJudgement) -> Sources:
    """The advice: it rests on the two combinations that it would settle."""
    made: Sources = {}
    for number, (own, tile) in enumerate(found.tiles, 1):
        a = tile.advice
        made[str(number)] = (
            Source(
                f"{tile.name.capitalize()} on {own.ground}: settles {listed(own.pair or ())}"
                f" with {percent(a.chance)}",
                f"{counted(len(a.cells)).capitalize()} {'cell' if len(a.cells) == 1 else 'cells'}"
                f" in {a.minutes:.0f} min. The variance of the difference before"
                " and after these cells follows from the model at the fitted variances; the chance"
                " is counted in the judgement's own draws, narrowed by what the cells would show"
                " (section 21).",
                judgement.measurand,
                own.hardness,
                own.pair or (),
            ),
        )
    return made
