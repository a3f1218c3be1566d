"""What a trial will be able to tell apart, in a sentence."""

from __future__ import annotations

import math
from collections.abc import Sequence

from loam.core.design.outlook import Outlook
from loam.core.matter import Matters
from loam.core.readings.kind import ReadingKind
from loam.core.units import fixed
from loam.core.words.verdict import listed, unit_of

MOSTLY = 0.5
BEFORE = "The small marks: how far combinations lay behind the leader in the last trial."
NOTE = (
    "From there on it is said four times in five. It can answer when it will say clearly of twice"
    " what matters, and as good of what is alike, four times in five each. One person and one day a"
    " panel are taken for granted."
)


def short_amount(kind: ReadingKind, on_scale: float) -> str:
    """Say a difference on the measurand's scale in figures alone: 0.8 GU; 12 %; 1.6 times."""
    if kind.scale == "identity":
        value = kind.span(on_scale)
        digits = 0 if value >= 20 else 1 if value >= 0.095 else 2
        return f"{fixed(value, min(digits, kind.decimals + 1))} {unit_of(kind)}"
    ratio = math.exp(min(on_scale, 50.0))
    if kind.scale == "logit" or ratio > 3:
        return f"{ratio:.2g} times" if ratio < 100 else f"{ratio:.0f} times"
    return f"{100 * (ratio - 1):.0f} %"


def amount(kind: ReadingKind, on_scale: float) -> str:
    """Say a difference on the measurand's scale, and of what where that is not plain."""
    said = short_amount(kind, on_scale)
    if kind.scale == "logit":
        return f"{said} the odds of what is left"
    if kind.scale == "log1p":
        return f"{said} the {kind.short}" if said.endswith("times") else f"{said} of {kind.short}"
    return said


def ahead_words(kind: ReadingKind, one: Outlook) -> str:
    """Say what is told apart on a class: differences over 1.7 GU, clearly over 2.8."""
    if one.ahead is None or one.verdicts is None:
        return "nothing to compare"
    said = f"differences over {short_amount(kind, one.ahead)}"
    if one.verdicts.clearly is None:
        return f"{said}, clearly never"
    return f"{said}, clearly over {short_amount(kind, one.verdicts.clearly)}"


def ahead_short(kind: ReadingKind, one: Outlook) -> str:
    """Say it in a few words, where there is little room: what is said clearly, if anything."""
    if one.ahead is None or one.verdicts is None:
        return "nothing to compare"
    if one.verdicts.clearly is None:
        return f"shows over {short_amount(kind, one.ahead)}"
    return f"clearly over {short_amount(kind, one.verdicts.clearly)}"


def _found(kind: ReadingKind, known: Sequence[Outlook]) -> str:
    """Say what is told apart where, equal amounts together."""
    where: dict[str, list[str]] = {}
    for o in known:
        where.setdefault(ahead_words(kind, o), []).append(o.hardness)
    return "; ".join(f"{said} on {listed(classes)}" for said, classes in where.items())


def outlook_sentence(found: Sequence[Outlook], matters: Matters, kind: ReadingKind) -> str:
    """Say on which classes the trial can answer its question, and what it tells apart."""
    if not found:
        return "Nothing is laid out yet."
    known = [o for o in found if o.ahead is not None]
    if not known:
        return "Nothing can be compared yet: each class needs two combinations that are worked."
    if matters.on_scale <= 0.0:
        return f"For {kind.label} it shows {_found(kind, known)}."
    able = [o for o in known if o.answers]
    rest = [o for o in known if not o.answers]
    wanted = f"{amount(kind, matters.on_scale)} matters"
    if not rest:
        return f"It can answer for {kind.label}: it shows {_found(kind, able)}; {wanted}."
    only = f"it can only show {_found(kind, rest)}"
    if not able:
        return f"It cannot answer for {kind.label} yet: {only}; {wanted}."
    return (
        f"It can answer for {kind.label} on {listed([o.hardness for o in able])}: it shows"
        f" {_found(kind, able)}; {wanted}. Not yet elsewhere: {only}."
    )


def outlook_notes(found: Sequence[Outlook]) -> list[str]:
    """Say what the outlook rests on, and what is missing."""
    notes = []
    guessed = [o.hardness for o in found if o.ahead is not None and o.assumed > MOSTLY]
    if guessed:
        where = "" if len(guessed) == len(found) else f" on {listed(guessed)}"
        notes.append(
            f"This rests mostly on what is assumed of how cells and panels vary{where}: with so"
            " few cells the trial itself cannot show it."
        )
    never = [o.hardness for o in found if o.verdicts is not None and o.verdicts.clearly is None]
    if never:
        notes.append(
            f"Clearly cannot be said on {listed(never)}: too few panels with all of them show how a"
            " combination takes to another panel. A panel more changes that."
        )
    for o in found:
        if o.missing:
            some = "one combination has" if o.missing == 1 else f"{o.missing} combinations have"
            notes.append(f"On {o.hardness} {some} no cell.")
    return notes
