"""Where the figures of all trials come from; a spot's key is ``hardness:combination``."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from loam.app.questions.all_trials.comparing import ComparedPicture
from loam.app.questions.all_trials.find import PooledPicture
from loam.app.questions.source import Source, Sources, own_source
from loam.core.verdicts import (
    BETTER,
    CLEARLY_BETTER,
    CLEARLY_WORSE,
    EQUAL,
    OPEN,
    WORSE,
)

Letters = Mapping[str, Sequence[tuple[str, str]]]


def of_pooled(found: PooledPicture, here: str) -> Sources:
    """The combinations of all trials as one, with their readings in each trial."""
    made: Sources = {}
    for strip in found.ranking.strips:
        for s in strip.swatches:
            own = own_source(found.ranking, strip.hardness, s.combination)
            codes, trials = _there(found.letters, s.combination, here)
            made[f"{strip.hardness}:{s.combination}"] = (replace(own, codes=codes, trials=trials),)
    return made


def _there(
    letters: Letters, code: str, here: str, only: str = ""
) -> tuple[tuple[str, ...], dict[str, tuple[str, ...]]]:
    """Return a pool's code as the letters of the trial at hand, and of other trials."""
    at: dict[str, tuple[str, ...]] = {}
    for trial, letter in letters.get(code, ()):
        if trial == here or only in ("", trial):
            at[trial] = (*at.get(trial, ()), letter)
    return at.pop(here, ()), at


_HELD = {
    EQUAL: "the same, for what matters",
    OPEN: "not settled",
    BETTER: "better, perhaps by less than matters",
    WORSE: "worse, perhaps by less than matters",
    CLEARLY_BETTER: "clearly better",
    CLEARLY_WORSE: "clearly worse",
}


def of_compared(found: ComparedPicture, here: str) -> Sources:
    """The combinations that two sides share, with their readings on both."""
    label = found.kind.label
    made: Sources = {}
    for h in found.held:
        first, second = (found.kind.write(found.stored(v), 1) for v in (h.first, h.second))
        trial = found.second in {t for own in found.letters.values() for t, _ in own}
        codes, trials = _there(found.letters, h.combination, here, found.second if trial else here)
        at, rest = ("in", "") if trial else ("on", " What was read on days between is not in it.")
        ground = found.judgement.ground(h.hardness)
        made[f"{h.hardness}:{h.combination}"] = (
            Source(
                f"{h.combination} on {ground}: {label} {first} {at} {found.first}, {second}"
                f" {at} {found.second}, {found.kind.unit}",
                "Difference of the means of cells, each cell's readings averaged first; 90 %"
                " interval (t) from the spread of cells on both sides:"
                f" {_HELD[h.verdict]} (section 22).{rest}",
                found.judgement.measurand,
                h.hardness,
                codes,
                trials=trials,
            ),
        )
    return made
