"""Doubts in sentences: what was found, its evidence, and what it does to the ranking."""

from __future__ import annotations

import math
from collections.abc import Sequence

from loam.core.doubts.values import (
    CLASS,
    DRIFT,
    HAND,
    MASKING,
    ORDER,
    PAD,
    READS,
    SLIP,
    START,
    Doubt,
    Evidence,
)
from loam.core.film import CLEAR
from loam.core.judging import TrialJudgement
from loam.core.readings import kind_of
from loam.core.readings.film import called
from loam.core.units import fixed
from loam.core.words.verdict import listed

_TOLD = 1.0
"""A measurand is named where it moves by more than its error."""
_SAYS = {
    CLASS: "Panel {subject} answers like a {side} class than it is declared",
    HAND: "{subject} has a heavy hand",
    READS: "{subject} reads unlike the other readers",
    PAD: "The cut of {subject} fades with its sets",
    DRIFT: "The meter drifted: {subject}",
    MASKING: "{subject} hid something: it falls back at the wipe",
    ORDER: "The order of work shows in the readings",
}
_TAKEN = {
    CLASS: "without panel {subject}",
    HAND: "without the cells of {subject}",
    PAD: "without {subject}",
    DRIFT: "corrected for the drift",
    READS: "corrected for how {subject} reads",
    ORDER: "corrected for the order",
    SLIP: "without that reading",
}


def amount(evidence: Evidence, coat: str = CLEAR) -> str:
    """Say how a measurand moves: by so much, or so many times."""
    kind, value = called(kind_of(evidence.measurand), coat), evidence.moved.estimate
    less = "less" if value < 0 else "more"
    if kind.scale == "identity":
        much = fixed(abs(kind.span(value)), max(kind.decimals, 1))
        return f"{much} {kind.unit} {less} {kind.short}"
    factor = math.exp(min(abs(value), 6.0))
    if kind.scale == "logit":
        return f"{less} {kind.short} (odds {factor:.1f} times)"
    return f"{less} {kind.short} ({factor:.2f} times)"


def evidence_words(doubt: Doubt, coat: str = CLEAR) -> str:
    """List what moved by more than its error, the surest first."""
    told = [e for e in doubt.evidence if e.moved.strength > _TOLD]
    told.sort(key=lambda e: -e.moved.strength)
    return listed([amount(e, coat) for e in (told or doubt.evidence[:1])])


def chance_words(p: float) -> str:
    """Say how likely such a thing comes about by itself."""
    if p < 0.0001:
        return "by chance less than once in 10 000 trials"
    return f"by chance in {1000 * p:.1f} of 1000 trials"


def luck_words(p: float) -> str:
    """Say how unlikely it is to be luck; `chance_words` has the figure."""
    return "very unlikely to be luck" if p < 0.01 else "unlikely to be luck"


_HEADS = {
    CLASS: "Panel {subject} answers like a {side} class than it is declared.",
    HAND: "{subject} has a heavy hand.",
    READS: "{subject} reads {way} than the other readers.",
    PAD: "{subject} wore out with its sets.",
    DRIFT: "The meter drifted: {subject}.",
    MASKING: "{subject} hid marks under its fillers.",
    ORDER: "The order of work shows in the readings.",
    SLIP: "A reading of {subject} looks like a slip.",
    START: "{subject} started apart from the rest.",
}


def doubt_head(doubt: Doubt, where: str = "") -> str:
    """Say a doubt in a few words; ``where`` is the cell of a slip."""
    if doubt.kind == PAD and doubt.by_day:
        return f"{doubt.subject} did less than on its other days, as with a worn pad."
    if doubt.kind == HAND and doubt.unlike:
        return f"{doubt.subject} works unlike the others."
    way = "lower" if doubt.evidence and doubt.evidence[0].moved.estimate < 0 else "higher"
    said = _HEADS.get(doubt.kind, "The place on the panel shows in the readings: {subject}.")
    subject = where if doubt.kind == SLIP else doubt.subject
    return said.format(subject=subject, side="harder" if doubt.harder else "softer", way=way)


def evidence_line(doubt: Doubt, unit: str = "", coat: str = CLEAR) -> str:
    """Say what shows a doubt, and how likely that is luck."""
    if doubt.kind == SLIP:
        said = f"It likely was {doubt.likely[0]:g} {unit}".rstrip()
    else:
        said = evidence_words(doubt, coat)
    return f"{said[:1].upper()}{said[1:]} ({luck_words(doubt.p)})."


_ADVICE = {
    CLASS: "Leave it out, or test its hardness again.",
    DRIFT: "Correct for it; check the meter on its tile more often.",
    READS: "Correct for it; let all readers read the tile, or one person read all.",
    PAD: "Leave those cells out, and work them again with a clean pad.",
    MASKING: "Nothing to do: ranks rest on what stays after the wipe.",
    ORDER: "Correct for it; the next order is drawn by lot.",
    SLIP: "Look at the cell: strike it if the meter reads otherwise.",
    START: "Nothing to do: all is levelled to one start. Damage alike next time.",
}


def doubt_advice(doubt: Doubt, *, stays: bool) -> str:
    """Say what to do about a doubt; ``stays``: without it the order stays."""
    if doubt.kind == HAND:
        who = doubt.subject
        if stays:
            return f"Let the cells count. Show {who} the film readings."
        return f"Leave {who}'s cells out, or let others work them again."
    return _ADVICE.get(doubt.kind, "Correct for it.")


def doubt_sentence(doubt: Doubt, where: str = "", unit: str = "", coat: str = CLEAR) -> str:
    """Say a doubt with its evidence.

    Parameters
    ----------
    where : str
        Of a slip: which cell.
    unit : str
        Of a slip: in what it was read.
    coat : str
        What is worked: clear, or paint.
    """
    chance = chance_words(doubt.p)
    if doubt.kind == SLIP:
        likely = f"{doubt.likely[0]:g}{f' {unit}' if unit else ''}"
        return f"A reading of {where} looks like a slip: it likely was {likely} ({chance})."
    subject = doubt.subject
    if doubt.kind == START:
        own = doubt.evidence[0]
        return (
            f"Combinations started apart: {subject} from {amount(own, coat)} before work than the"
            f" rest of its hardness ({chance})."
        )
    if doubt.kind == PAD and doubt.by_day:
        worn = f"{subject} did less than on other days, as with a worn pad"
        return f"{worn}: {evidence_words(doubt, coat)} ({chance})."
    if doubt.kind == HAND and doubt.unlike:
        unlike = f"{subject} works unlike the others"
        return f"{unlike}: {evidence_words(doubt, coat)} ({chance})."
    said = _SAYS.get(doubt.kind, "The place on the panel shows in the readings: {subject}")
    side = "harder" if doubt.harder else "softer"
    return f"{said.format(subject=subject, side=side)}: {evidence_words(doubt, coat)} ({chance})."


def effect_words(doubt: Doubt, before: TrialJudgement, after: TrialJudgement | None) -> str:
    """Say what leaving it out, or correcting for it, does to the ranking of one measurand."""
    how = _TAKEN.get(doubt.kind, "corrected for it").format(subject=doubt.subject)
    how = how[:1].upper() + how[1:]
    if doubt.kind == START:
        return "The ranking is levelled to one start, as far as starts tell."
    if doubt.kind == MASKING:
        return "Ranks rest on what stays after the wipe."
    if after is None:
        return f"{how}, too little is left to judge."
    changes = []
    for found in before.classes:
        other = next((c for c in after.classes if c.hardness == found.hardness), None)
        if other is None:
            changes.append(f"{found.hardness} cannot be judged")
            continue
        changes += _changes(
            found.hardness,
            [s.combination for s in found.standings],
            [s.combination for s in other.standings],
        )
    return f"{how}, {listed(changes)}." if changes else f"{how}, the order stays."


def _changes(hardness: str, old: Sequence[str], new: Sequence[str]) -> list[str]:
    """Return who changes places on one hardness, and who is no longer there."""
    gone = [c for c in old if c not in new]
    kept, now = [c for c in old if c in new], [c for c in new if c in old]
    said = [f"{listed(gone)} cannot be judged on {hardness}"] if gone else []
    if kept == now:
        return said
    moved = [c for c, d in zip(kept, now, strict=True) if c != d]
    if kept and now and kept[0] != now[0]:
        return [*said, f"{now[0]} leads on {hardness} instead of {kept[0]}"]
    if len(moved) == 2:
        return [*said, f"{moved[0]} and {moved[1]} change places on {hardness}"]
    return [*said, f"{listed(moved)} change places on {hardness}"]
