"""Are the marks that a coarser grit left gone? Asked after each step, kept, and judged.

What is asked is a count of cells: each interval is Jeffreys' for a share.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from loam.core.inspection import jeffreys
from loam.core.text import listed
from loam.core.trial import Combination, Stage

STRIP, POINT = "strip", "point"
SHOWN_BY: dict[str, str] = {
    STRIP: "a strip light, low along the panel",
    POINT: "a point light, from two sides",
}
"""Matt ground shows its lines in a raking strip, gloss in a point."""
DAMAGE = "the first"


def former_marks(stages: Sequence[Stage], number: int) -> str | None:
    """Return which marks are to be gone after a stage (from 1): the disc's before it, or the first.

    None where nobody needs to ask: neither this stage sands nor the one before it.
    """
    now, before = stages[number - 1], stages[number - 2] if number > 1 else None
    if before is not None and before.disc:
        return before.disc
    return DAMAGE if now.disc else None


def shown_by(stage: Stage) -> str:
    """Return the light that shows whether former marks are gone after a stage."""
    return STRIP if stage.disc else POINT


@dataclass(frozen=True)
class Answer:
    """What was answered after a stage of a cell.

    Attributes
    ----------
    hardness, combination, marks : str
        ``marks``: whose, as `former_marks` calls them.
    stage : int
        After which it was asked, from 1.
    gone : bool
    light : str
    sets : int
        Of the stage that it took, 1 as planned.
    """

    hardness: str
    combination: str
    stage: int
    marks: str
    gone: bool
    light: str = ""
    sets: int = 1


@dataclass(frozen=True)
class Left:
    """In how many cells of a combination marks were left after a stage.

    Attributes
    ----------
    left, cells : int
    low, high : float
        90 % interval of the share that keeps them.
    more : int
        Cells that took more sets than planned.
    """

    hardness: str
    combination: str
    stage: int
    marks: str
    left: int
    cells: int
    low: float
    high: float
    more: int


def marks_left(answers: Iterable[Answer]) -> list[Left]:
    """Count what was answered, by hardness, combination and stage."""
    groups: dict[tuple[str, str, int, str], list[Answer]] = {}
    for a in answers:
        groups.setdefault((a.hardness, a.combination, a.stage, a.marks), []).append(a)
    found = []
    for (hardness, combination, stage, marks), own in sorted(groups.items()):
        left = sum(not a.gone for a in own)
        low, high = jeffreys(left, len(own))
        more = sum(a.sets > 1 for a in own)
        found.append(Left(hardness, combination, stage, marks, left, len(own), low, high, more))
    return found


def marks_words(found: Sequence[Left], combinations: Mapping[str, Combination]) -> str:
    """Say which combinations left former marks on; "" where nobody was asked."""
    if not found:
        return ""
    bad = [f for f in found if f.left]
    said = []
    for f in bad:
        whose = "the first marks" if f.marks == DAMAGE else f"{f.marks} marks"
        own = combinations.get(f.combination)
        after = f"stage {f.stage}"
        if own is not None and f.stage <= len(own.stages):
            stage = own.stages[f.stage - 1]
            after = stage.disc or stage.compound or after
        share = f"{100 * f.low:.0f} to {100 * f.high:.0f} %"
        said.append(
            f"{f.combination} leaves {whose} after {after} on {f.left} of {f.cells} cells ({share})"
        )
    if not said:
        cells = max(f.cells for f in found)
        return f"former marks are gone after every step asked about (up to {cells} cells each)"
    longer = [f.combination for f in found if f.more]
    more = f"; {listed(sorted(set(longer)))} took more sets than planned" if longer else ""
    return "; ".join(said) + more
