"""What drives a result, in words."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from loam.core.drivers import TOGETHER, Drivers
from loam.core.judging import TrialJudgement
from loam.core.levers import Level, Lever, Untried
from loam.core.units import fixed, percent
from loam.core.verdicts import SURE
from loam.core.words.verdict import about, listed, unit_of

FIRST = 0.8
"""From this chance on one part is said to make most of the difference."""


def drivers_sentence(
    judgement: TrialJudgement, drivers: Drivers, levers: Sequence[Lever], sign: float
) -> str:
    """Say what makes most of the difference, whether levels must suit, and what is not known."""
    top = max(levers, key=lambda lever: lever.first)
    parts = []
    if top.first >= FIRST:
        together = top.label == TOGETHER or top.label not in {f.label for f in drivers.found}
        who = "what they do only together" if together else f"the {top.label}"
        make = "make" if who.endswith("s") else "makes"
        parts.append(f"{who} {make} most of the difference, {top.amount}")
        if together and top.levels:
            parts.append(_only_together(judgement, top.levels[0]))
        if not together:
            ahead = _ahead(judgement, drivers, top, sign)
            parts += [ahead] if ahead else []
    else:
        rivals = [lv for lv in sorted(levers, key=lambda lv: -lv.first) if lv.first >= 0.1][:3]
        named = [_called(lv.label) for lv in rivals]
        few = not drivers.told.all() and len(named) > 1
        parts.append(briefly_driven(levers, few) if few else f"not settled between {listed(named)}")
    if top.first >= FIRST and not top.together:
        parts.append(_together(levers, drivers))
    return "; ".join(parts) + "."


def briefly_driven(levers: Sequence[Lever], few: bool = False) -> str:
    """Say in a few words what makes the difference, and how surely.

    ``few`` is whether these combinations cannot tell what parts do only together.
    """
    if not levers:
        return "nothing that was varied"
    ranked = sorted(levers, key=lambda lever: -lever.first)
    top = ranked[0]
    who = _called(top.label) if top.together else f"the {top.label}"
    if top.first >= SURE:
        return f"{who}, surely ({percent(top.first)})"
    if top.first >= FIRST:
        return f"{who}, most likely ({percent(top.first)})"
    rivals = [_called(lv.label) for lv in ranked if lv.first >= 0.1][:3]
    if len(rivals) < 2:
        return f"{who}, perhaps ({percent(top.first)})"
    why = "too few combinations to tell" if few else "too close to call"
    return f"{why}: {', '.join(rivals[:-1])} or {rivals[-1]}"


def _only_together(judgement: TrialJudgement, level: Level) -> str:
    """Say of which two levels it is, and by how much they read otherwise."""
    kind, alone = judgement.kind, level.alone or 0.0
    values = judgement.scale.back(np.array([level.place, alone, level.low, level.high]))
    both, each, low, high = (float(v) for v in values)
    amount = about(kind.span(abs(both - each)), kind.span(0.5 * abs(high - low)), kind.decimals)
    more = "more" if both > each else "less"
    return f"{level.words} reads about {amount} {unit_of(kind)} {more} than each alone would give"


def drivers_cares(drivers: Drivers, count: int) -> tuple[str, ...]:
    """Say what these combinations cannot tell apart."""
    said = [f"{listed(f.names)} always change together" for f in drivers.found if len(f.names) > 1]
    if not drivers.told.all():
        parts = len(drivers.found)
        said.append(
            f"{count} combinations cannot tell what {parts} parts do only together: the likely"
            " ranges allow for it"
            if parts > 1
            else "what they do only together cannot be told"
        )
    return tuple(said)


def _together(levers: Sequence[Lever], drivers: Drivers) -> str:
    """Say whether levels must suit each other."""
    rest = next((lv for lv in levers if lv.label == drivers.labels[-1]), None)
    if rest is None:
        return "whether they must suit each other cannot be told"
    own = [lv for lv in levers if lv.together and lv.matters >= SURE]
    if own and (rest not in own or len(drivers.found) == 2):
        return f"{listed([_called(lv.label) for lv in own])} must suit each other"
    if own:
        return "some do well only together"
    if all(lv.matters <= 1.0 - SURE for lv in levers if lv.together):
        return "what they do only together does not matter"
    return "whether they must suit each other is not settled"


def _called(label: str) -> str:
    return "what they do only together" if label == TOGETHER else label


def _ahead(judgement: TrialJudgement, drivers: Drivers, lever: Lever, sign: float) -> str:
    """Say that one level is ahead of the last, where that is sure."""
    i = next(k for k, f in enumerate(drivers.found) if f.label == lever.label)
    levels, effects = drivers.found[i].levels, drivers.effects[i]
    best, last = lever.levels[0].words, lever.levels[-1].words
    apart = sign * (effects[:, levels.index(best)] - effects[:, levels.index(last)])
    if float((apart > 0.0).mean()) < SURE:
        return ""
    kind = judgement.kind
    if judgement.scale.ratio:
        return f"{best} is ahead of {last}"
    half = 1.645 * float(apart.std())
    amount = about(kind.span(float(apart.mean())), kind.span(half), kind.decimals)
    return f"{best} is ahead of {last} by about {amount} {unit_of(kind)}"


def untried_words(hardness: str, leader: str, found: Untried, judgement: TrialJudgement) -> str:
    """Say what a combination that was not tried would read, and how it would do."""
    kind = judgement.kind
    value, low, high = (
        fixed(kind.shown(float(v)), kind.decimals)
        for v in judgement.scale.back(np.array([found.place, found.low, found.high]))
    )
    return (
        f"Not tried on {hardness}: {found.combination.words()}. Predicted {value} ({low} to"
        f" {high}) {kind.unit}, ahead of {leader} with {percent(found.p_ahead)}."
    )
