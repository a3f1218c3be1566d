"""One plain sentence for a ranking, and plain notes on what the model could not see."""

from __future__ import annotations

from collections.abc import Sequence

from loam.core.plain_rank import HardnessResult, Judgement
from loam.core.readings import BY_KEY, ReadingKind
from loam.core.stats.fit import Dropped
from loam.core.stats.ranking import A_BETTER, TIE
from loam.core.text import listed, some
from loam.core.units import fixed

FEW_DF = 8.0
FEW_LEVELS = 3


def _purpose(judgement: Judgement) -> str:
    kind = BY_KEY.get(judgement.measurand)
    return kind.short if kind else judgement.measurand


def _amount(judgement: Judgement, value: float, kind: ReadingKind | None) -> str:
    kind = kind or BY_KEY.get(judgement.measurand)
    if kind is None:
        return fixed(value, 2)
    return f"{fixed(kind.span(value), max(kind.decimals, 1))} {kind.unit}".rstrip()


def hardness_sentence(
    judgement: Judgement, result: HardnessResult, kind: ReadingKind | None = None
) -> str:
    """Say in one sentence what is settled on one hardness class and what is not.

    ``kind`` carries the unit to say it in; the stored one by default.
    """
    purpose = _purpose(judgement)
    place = f"On {result.hardness} clear"
    names = [e.combination for e in result.effects]
    if len(names) == 1:
        return f"{place}, only {names[0]} was tested, so there is nothing to compare it with."
    best = list(result.best)
    rest = [n for n in names if n not in best]
    leader = best[0]
    if len(best) == 1:
        contrast = result.contrast(leader, names[1])
        ahead = _amount(judgement, abs(contrast.estimate), kind)
        return f"{place}, {leader} is best for {purpose}, {ahead} ahead of {names[1]}."
    verdicts = {n: result.verdict(leader, n) for n in best[1:]}
    ending = _over_the_rest(result, best, rest)
    if all(v == TIE for v in verdicts.values()):
        within = _amount(judgement, judgement.delta, kind)
        return f"{place}, {some(best)} are equal for {purpose} within {within}{ending}."
    if not rest:
        return f"{place}, nothing is settled for {purpose} yet: {some(best)} are all still open."
    return f"{place}, {some(best)} cannot be told apart yet for {purpose}{ending}."


def _over_the_rest(result: HardnessResult, best: Sequence[str], rest: Sequence[str]) -> str:
    if not rest:
        return ""
    winners = [b for b in best if all(result.verdict(b, r) == A_BETTER for r in rest)]
    if len(winners) == len(best):
        return "; both beat the rest" if len(best) == 2 else "; all of them beat the rest"
    return f"; only {some(winners)} {'beats' if len(winners) == 1 else 'beat'} all the rest"


def sentence(judgement: Judgement, kind: ReadingKind | None = None) -> str:
    """Say the whole result, hardest class first, one sentence a class."""
    return " ".join(hardness_sentence(judgement, r, kind) for r in reversed(judgement.results))


TERM_WORDS = {
    "cell": "cells",
    "panel": "panels",
    "operator": "operators",
    "reader": "readers",
    "day": "days",
    "panel:combination": "how a combination takes to each panel",
    "panel:combo": "how a combination takes to each panel",
}


def _dropped_note(dropped: Dropped) -> str:
    term, reason = dropped.term, dropped.reason
    if term == "baseline":
        why = (
            "it is the same everywhere" if reason == "no spread" else "each combination had its own"
        )
        return f"The reading before work was left out: {why}."
    if reason == "all alike":
        return "Repeat readings of a cell are all alike, so each cell counts once."
    if reason == "one level":
        return f"Only one {term}: what another {term} would change is not known."
    if reason == "same as the readings":
        return f"One reading a {term}: {term}s cannot be told from the scatter of the meter."
    if reason == "same as the combinations":
        if term == "panel":
            return (
                "One panel a hardness: the panel cannot be told from"
                " the hardness, so nothing is said across classes."
            )
        return f"Each combination had its own {term}, so the two cannot be told apart."
    other = reason.removeprefix("same as ")
    words, others = TERM_WORDS.get(term, term), TERM_WORDS.get(other, other)
    return f"{words.capitalize()} cannot be told from {others}."


def notes(judgement: Judgement) -> list[str]:
    """Say plainly what the fit could not see, what is hardly known and what was not tested."""
    fit = judgement.fit
    said = [_dropped_note(d) for d in fit.dropped]
    for name in fit.zero:
        words = TERM_WORDS.get(name, name)
        if name == "panel":
            said.append("Panels differ no more than cells do.")
        elif name == "cell":
            said.append("Cells differ no more than repeat readings do.")
        else:
            said.append(f"Differences between {words} are too small to see.")
    for name in fit.factors:
        if name not in fit.zero and fit.levels[name] < FEW_LEVELS:
            words = TERM_WORDS.get(name, name)
            said.append(
                f"Only {fit.levels[name]} {words}: how much {words} differ is hardly known."
            )
    for result in judgement.results:
        if result.untested:
            verb = "was" if len(result.untested) == 1 else "were"
            said.append(f"{listed(result.untested)} {verb} not tested on {result.hardness}.")
        if len(result.effects) > 1 and result.df < FEW_DF:
            said.append(f"On {result.hardness} clear the ranking rests on few cells.")
    if not fit.converged:
        said.append("The search for the variances did not settle; take the intervals with care.")
    return said
