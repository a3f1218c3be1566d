"""A single pad's life: what happened to it since it was new."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from loam.core.kit.facts import CLEAN, LOADED, RETIRED

WORKED, WASHED, RETIRE, BACK = "worked", "washed", "retire", "back"
BLOWN, BRUSHED = "blown", "brushed"
EVENTS: tuple[tuple[str, str], ...] = (
    (WORKED, "worked a set"),
    (BLOWN, "blown out"),
    (BRUSHED, "brushed"),
    (WASHED, "washed"),
    (RETIRE, "retire it"),
    (BACK, "back in use"),
)


SETS_CLEAN = 4
"""Sets that a clean pad is worked before it is washed, where its kind does not say: assumed."""


SETS_DISC = 3
"""Sets that a sanding disc cuts before it is worn, where the shelf does not say: assumed."""


def discs_worn(sets: int, each: int = 0) -> int:
    """Return how many sanding discs some sets take; ``each`` as the shelf says, 0 where not."""
    return math.ceil(sets / (each or SETS_DISC))


def clean_pads(sets: int, each: int = 0) -> int:
    """Return how many clean pads some sets take; ``each`` as the kind says, 0 where it does not."""
    return math.ceil(sets / (each or SETS_CLEAN))


@dataclass(frozen=True)
class PadLife:
    """What a pad has been through.

    Attributes
    ----------
    sets, since_wash, washes : int
        Worked sets since new and since it was last clean, and how often it was washed.
    state : str
        clean, loaded or retired.
    cleaned : str
        How it was cleaned last without a wash: blown, brushed, or "".
    """

    sets: int = 0
    since_wash: int = 0
    washes: int = 0
    state: str = CLEAN
    cleaned: str = ""

    @classmethod
    def of(cls, facts: Mapping[str, Any]) -> PadLife:
        """Read a life from a pad's facts; what is not said counts as new and clean."""
        plain = cls()
        return cls(**{name: facts.get(name) or value for name, value in asdict(plain).items()})

    def as_facts(self) -> dict[str, Any]:
        """Return the life as facts of a pad."""
        return {name: value for name, value in asdict(self).items() if value != ""}

    @property
    def usable(self) -> bool:
        """Whether it may be worked with as it is."""
        return self.state == CLEAN


def after(life: PadLife, event: str) -> PadLife:
    """Return a pad's life after something happened to it."""
    if event == WORKED:
        worked = {"sets": life.sets + 1, "since_wash": life.since_wash + 1}
        return replace(life, **worked, state=LOADED, cleaned="")
    if event in (BLOWN, BRUSHED):  # cleaned where it is: it has not been washed
        return replace(life, state=CLEAN, cleaned=event)
    if event == WASHED:
        return replace(life, since_wash=0, washes=life.washes + 1, state=CLEAN, cleaned="")
    if event == RETIRE:
        return replace(life, state=RETIRED)
    return replace(life, state=LOADED if life.since_wash else CLEAN)


def said(life: PadLife) -> str:
    """Say a pad's life in one line."""
    if not life.sets and not life.washes:
        return "new" if life.state != RETIRED else "retired, never worked"
    sets = f"{life.sets} set{'' if life.sets == 1 else 's'}"
    washed = f", washed {life.washes}×" if life.washes else ""
    state = life.state
    if state == CLEAN and life.since_wash:
        state = {BLOWN: "blown out", BRUSHED: "brushed"}.get(life.cleaned, "cleaned")
    return f"{state}, {sets}{washed}"


def worn_out(kind: Mapping[str, Any], life: PadLife) -> bool:
    """Tell whether a pad has had as many sets, or washes, as its kind lasts for."""
    return any(
        isinstance(most := kind.get(fact), int) and done >= most
        for fact, done in (("sets_most", life.sets), ("washes_most", life.washes))
    )


def last_use(versions: Sequence[tuple[str, Mapping[str, Any]]]) -> list[tuple[str, str]]:
    """Return what happened to a pad, oldest first: (when, in words), from its versions."""
    told: list[tuple[str, str]] = []
    before: PadLife | None = None
    for at, facts in versions:
        life = PadLife.of(facts)
        if before is None:
            told.append(
                (at, "came to the shelf" + ("" if life == PadLife() else f": {said(life)}"))
            )
        elif life != before:
            told.append((at, _step(before, life)))
        before = life
    return told


def _step(before: PadLife, life: PadLife) -> str:
    for event, words in (
        (WORKED, "worked a set"),
        (WASHED, "washed"),
        (RETIRE, "retired"),
        (BACK, "back in use"),
        (BLOWN, "blown out"),
        (BRUSHED, "brushed"),
    ):
        if after(before, event) == life:
            return words
    return f"set to: {said(life)}"
