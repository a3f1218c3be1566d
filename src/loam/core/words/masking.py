"""What masking means, in one sentence a hardness."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from loam.core.judging.result import ClassJudgement
from loam.core.masking import Left, Masked
from loam.core.readings.kind import ReadingKind
from loam.core.units import percent
from loam.core.words.verdict import RELATION_WORDS, listed


def span(masked: Masked, kind: ReadingKind) -> str:
    """Write what fell back with its interval."""
    more = 0 if kind.decimals else 1
    low, high = (kind.write_span(v, more) for v in (masked.low, masked.high))
    return f"{kind.write_span(masked.masked, more)} {kind.unit} ({low} to {high})"


def trap_words(
    hardness: str, masked: Sequence[Masked], found: ClassJudgement, kind: ReadingKind
) -> str:
    """Say who looked best before the wipe and what is left of it; "" where that is nothing new.

    Only where every combination of the class was read before the wipe: else nobody knows which
    looked best.

    Parameters
    ----------
    masked : sequence of Masked
        By combination.
    found : ClassJudgement
        The ranking on what stays.
    """
    ranked = {s.combination for s in found.standings}
    known = {m.group: m for m in masked if m.group in ranked}
    if len(known) < max(2, len(ranked)):
        return ""
    first = max(known.values(), key=lambda m: m.unwiped if kind.higher_is_better else -m.unwiped)
    lead = found.leader.combination
    if not first.seen:
        return ""
    said = (
        f"Before the wipe {first.group} looked best on {found.ground}. The wipe took"
        f" {span(first, kind)} of its {kind.short} back: that was filler, not correction."
    )
    if first.group == lead:
        return f"{said} On what stays it still leads."
    standing = found.standing(first.group)
    relation = RELATION_WORDS[standing.relation] if standing is not None else ""
    return f"{said} On what stays {lead} leads; {first.group}: {relation}."


def masking_words(masked: Sequence[Masked], kind: ReadingKind) -> str:
    """Say which products hide something, and which do not, as far as can be seen."""
    if not masked:
        return ""
    seen = [m for m in masked if m.seen]
    if not seen:
        return f"Nothing that the wipe takes back of {kind.short} is seen."
    said = listed([f"{m.group} {span(m, kind)}{_share(m)}" for m in seen])
    rest = [m.group for m in masked if not m.seen]
    more = f" Nothing sure for {listed(rest)}." if rest else ""
    return f"The wipe takes back of {kind.short}: {said}.{more}"


def wipes_words(found: Sequence[Left], kind: ReadingKind) -> list[str]:
    """Say in a sentence a product what each wipe leaves of what it hid."""
    said = []
    for product in dict.fromkeys(f.product for f in found):
        own = [f for f in found if f.product == product]
        best = next(f for f in own if f.most)
        hid = f"{kind.write_span(best.hid)} {kind.unit}".strip()
        rest = sorted((f for f in own if not f.most), key=lambda f: -f.left)
        seen = [
            f"{f.wipe} leaves {kind.write_span(max(f.left, 0.0))} of it"
            f" ({kind.write_span(max(f.low, 0.0))} to {kind.write_span(f.high)})"
            for f in rest
            if f.seen
        ]
        alike = [f.wipe for f in rest if not f.seen]
        parts = [f"{product} hid {hid} of {kind.short}; {best.wipe} takes most", *seen]
        if alike:
            verb = "leaves" if len(alike) == 1 else "leave"
            parts.append(f"{listed(alike)} {verb} nothing that is surely more")
        said.append("; ".join(parts) + ".")
    return said


def leads_unclean(found: ClassJudgement, left: Left | None, kind: ReadingKind) -> str:
    """Say that a leader is flattered by what its wipe left on; "" where it is not."""
    if left is None or not left.seen:
        return ""
    lead, much = found.leader.combination, f"{kind.write_span(left.left)} {kind.unit}".strip()
    return (
        f"On {found.ground} {lead} leads with filler on it: {left.wipe} left {much} of what"
        f" {left.product} hid."
    )


def _share(masked: Masked) -> str:
    return f", {percent(masked.share)} of what it seemed to gain" if masked.share else ""


def later_words(later: Mapping[str, Sequence[Masked]], kind: ReadingKind) -> list[str]:
    """Say what fell back since the wipe: by another day, after a wash."""
    words = {"day": "a day later", "wash": "after a wash"}
    said = []
    for phase, masked in later.items():
        if not masked:
            continue
        seen = [m for m in masked if m.seen]
        found = listed([f"{m.group} {span(m, kind)}" for m in seen])
        if found:
            said.append(f"Read again {words[phase]}, {found} more had gone.")
        else:
            said.append(f"Read again {words[phase]}, nothing more is seen to have gone.")
    return said
