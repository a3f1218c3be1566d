"""The gates before a panel is worked: what is to be done, and what it costs to leave one out."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.trial import Stage

DONE, SKIPPED = "done", "skipped"
WASH, DECONTAMINATE, FEEL, MASK, DAMAGE, DEGREASE, AGAIN, INSPECT, BASELINE = (
    "wash",
    "decontaminate",
    "feel",
    "mask",
    "damage",
    "degrease",
    "again",
    "inspect",
    "baseline",
)
AS_IT_CAME = "wash marring, as it came"


@dataclass(frozen=True)
class Asked:
    """Something that a gate records, and the answers that are offered, the usual one first."""

    key: str
    label: str
    choices: tuple[str, ...]


@dataclass(frozen=True)
class Gate:
    """One gate.

    Attributes
    ----------
    name, todo : str
        Its name, and what is to be done, in a sentence.
    skipped : str
        What leaving it out does to the result.
    asks : tuple of Asked
        What is recorded beside who and when.
    care : str
        The usual caution.
    """

    key: str
    name: str
    todo: str
    skipped: str
    asks: tuple[Asked, ...] = ()
    care: str = ""


_SOLVENT = (
    "Solvents: flammable; ventilate, wear gloves, no sparks, rags into a closed tin. Follow the"
    " product's safety data sheet."
)
_DUST = "Dust: wear eye and breathing protection; follow local rules."
GATES: tuple[Gate, ...] = (
    Gate(
        WASH,
        "Wash",
        "Wash the panel and rinse it; dry it without rubbing.",
        "grit left on the paint may have marked cells at random",
    ),
    Gate(
        DECONTAMINATE,
        "Decontaminate",
        "Take off what is bonded: fallout, tar, overspray.",
        "what is bonded may have come off in some cells and marked them",
    ),
    Gate(
        FEEL,
        "Feel",
        "Feel the dry paint through a thin bag: it is smooth everywhere.",
        "nobody felt for what was left on the paint",
    ),
    Gate(
        INSPECT,
        "Inspect",
        "Look at every cell under the light; a deep scratch is out of scope.",
        "nobody looked for deep scratches and old repairs",
        (Asked("light", "light", ("point light", "strip light", "sun", "point and strip")),),
    ),
    Gate(
        DEGREASE,
        "Degrease",
        "Wipe with the panel wipe and a clean cloth: tape holds, and oils are off.",
        "oils may have hidden marks in the readings before work",
        (Asked("wipe", "wipe", ("panel wipe", "alcohol mix")),),
        _SOLVENT,
    ),
    Gate(
        MASK,
        "Tape",
        "Tape the cells by the plan; cover edges, trim and creases.",
        "cells may have been worked over their borders",
    ),
    Gate(
        DAMAGE,
        "Damage alike",
        "Give every worked and every damaged cell the same marks.",
        "cells did not start alike: what was removed is compared less surely",
        (
            Asked("how", "how", ("by hand", "with a machine")),
            Asked("with", "with", ("paper", "a disc", "a pad")),
            Asked("grit", "grit", ("P2000", "P1500", "P2500", "P3000", AS_IT_CAME)),
            Asked("strokes", "strokes", ("10", "5", "20", "40")),
            Asked("direction", "direction", ("one way", "crossed", "circles")),
        ),
        _DUST,
    ),
    Gate(
        AGAIN,
        "Degrease again",
        "Wipe once more, with a fresh side of the cloth: dust and finger marks are off.",
        "one wipe leaves oils: readings before work may be too good",
        (Asked("wipe", "wipe", ("panel wipe", "alcohol mix")),),
        _SOLVENT,
    ),
    Gate(
        BASELINE,
        "Read before work",
        "Read every cell before work.",
        "without readings before work cells count as if they had started alike",
    ),
)
BY_KEY: dict[str, Gate] = {gate.key: gate for gate in GATES}
REASONS: tuple[str, ...] = (
    "no time",
    "done before, elsewhere",
    "this question does not need it",
    "nothing at hand for it",
)


@dataclass(frozen=True)
class Passed:
    """A gate that was done or skipped.

    Attributes
    ----------
    facts : mapping
        Answers to what the gate asks; of a skipped one its ``reason``.
    """

    gate: str
    what: str
    person: str = ""
    day: str = ""
    at: str = ""
    facts: Mapping[str, Any] = field(default_factory=dict)
    id: int = 0


def check(gate: str, what: str, facts: Mapping[str, Any]) -> None:
    """Refuse what cannot be noted of a gate.

    Raises
    ------
    ValueRefused
        For a gate that is none, and for one skipped without a reason.
    """
    if gate not in BY_KEY:
        raise ValueRefused(f"{gate[:60]!r} is no gate.", todo="Use " + ", ".join(BY_KEY) + ".")
    if what not in (DONE, SKIPPED):
        raise ValueRefused(f"A gate is done or skipped, not {what[:40]!r}.")
    if what == SKIPPED and not str(facts.get("reason", "")).strip():
        raise ValueRefused("A gate is skipped for a reason.", todo="Choose one, or type it.")


def standing(passed: Iterable[Passed]) -> dict[str, Passed]:
    """Return what counts of each gate: the last that was noted."""
    return {p.gate: p for p in passed}


def gates_for(combinations: Iterable[Sequence[Stage]]) -> tuple[Gate, ...]:
    """Return the gates that a trial asks: what is sanded first makes its own marks, all alike."""
    worked = [stages for stages in combinations if stages]
    sands = bool(worked) and all(stages[0].disc for stages in worked)
    return tuple(g for g in GATES if not (sands and g.key == DAMAGE))


def next_gate(
    passed: Mapping[str, Passed], missing: int, gates: Sequence[Gate] = GATES
) -> Gate | None:
    """Return the gate that is open, None when the panel may be worked.

    Parameters
    ----------
    missing : int
        Cells without a reading before work; 0 opens the last gate by itself.
    """
    for gate in gates:
        if gate.key not in passed and not (gate.key == BASELINE and missing == 0):
            return gate
    return None


def consequences(panels: Sequence[tuple[str, Mapping[str, Passed]]]) -> list[str]:
    """Say what the gates that were left out do to the result, alike ones together.

    Parameters
    ----------
    panels : sequence of (name, what counts of each gate)
    """
    found = []
    for gate in GATES:
        names = [n for n, passed in panels if (p := passed.get(gate.key)) and p.what == SKIPPED]
        if names:
            on = "every panel" if len(names) == len(panels) > 1 else ", ".join(names[:4])
            if len(names) > 4 and on != "every panel":
                on += f" and {len(names) - 4} more"
            found.append(f"{gate.name} was left out on {on}: {gate.skipped}.")
    unlike = _unlike([p[DAMAGE] for _, p in panels if DAMAGE in p and p[DAMAGE].what == DONE])
    return found + ([unlike] if unlike else [])


def _unlike(damaged: Sequence[Passed]) -> str:
    """Say when panels were damaged in different ways."""
    for asked in BY_KEY[DAMAGE].asks:
        ways = sorted({str(p.facts.get(asked.key, "")) for p in damaged} - {""})
        if len(ways) > 1:
            return (
                f"Panels were damaged unlike each other ({asked.label}: {', '.join(ways)}):"
                " compare within a panel."
            )
    return ""


def baseline_words(label: str, missing: int, of: int) -> str:
    """Say what it means that cells lack a reading before work; "" when none does, or all do."""
    if missing == 0 or missing == of:
        return ""
    cells = f"{missing} cell{'' if missing == 1 else 's'}"
    return f"The {label} before work is missing on {cells} of {of}: ranked without it."
