"""The question of the trial at hand as a sentence with slots, and what the trial holds so far."""

from __future__ import annotations

from dataclasses import dataclass

from loam.app.session import Session
from loam.core.question import BY_KEY, OWN, compose, parse
from loam.core.text import listed
from loam.core.trial import HARDNESSES, Trial
from loam.core.units import thousands

MOST_LETTERS = 80


@dataclass(frozen=True)
class Part:
    """Words of the sentence, or (with a ``slot``) a piece that is chosen."""

    text: str
    slot: str = ""
    empty: bool = False


EXAMPLE: tuple[Part, ...] = (
    Part("Which", "kind", True),
    Part("one-step", "subject", True),
    Part("is best on"),
    Part("soft and hard", "clear", True),
    Part("clear, for"),
    Part("gloss 20° and haze", "reads", True),
    Part("? Each cell is read"),
    Part("5 times", "times", True),
    Part("."),
)
"""The sentence as it stands before there is a trial: bare tape with an example on it."""


def sentence_parts(session: Session, kind_key: str = "") -> list[Part]:
    """Return the question of the trial at hand, piece by piece.

    Parameters
    ----------
    kind_key : str
        The way to ask that was chosen but holds no words yet.
    """
    trial = session.trial
    if trial is None:
        return []
    kind, subject = parse(trial.question)
    if not subject and kind_key:
        kind = BY_KEY[kind_key]
    shown = subject if len(subject) <= MOST_LETTERS else subject[: MOST_LETTERS - 1].rstrip() + "…"
    classes = [h for h in HARDNESSES if any(p.hardness == h for p in session.panels())]
    reads = [session.kind(m).label for m in trial.measurands] + [
        f"{u[:20]} (unknown here)" for u in trial.unknown
    ]
    asked = Part(shown or kind.example, "subject", not subject)
    if kind is OWN:
        parts = [Part("Own words", "kind"), asked, Part("On")]
    else:
        parts = [Part(kind.before, "kind"), asked, Part(f"{kind.after} on")]
    times = trial.readings_per_cell
    return [
        *parts,
        Part(listed(classes) or "no panel yet", "clear", not classes),
        Part(f"{session.coat}, for"),
        Part(listed(reads), "reads"),
        Part("? Each cell is read" if kind is not OWN else ". Each cell is read"),
        Part("once" if times == 1 else f"{times} times", "times"),
        Part("."),
    ]


def asked(trial: Trial, kind_key: str, subject: str) -> str:
    """Return the question that a way to ask and its words make."""
    return compose(BY_KEY[kind_key], subject)


def holds(session: Session) -> str:
    """Say what the trial holds: cells, how often each combination, and how many readings."""
    trial, cells = session.trial, session.places()
    if trial is None or not cells:
        return ""
    counts = [n for combination, n in session.tally.cells_by.items() if combination is not None]
    panels = len(session.panels())
    said = f"{thousands(len(cells))} cells on {panels} panel{'' if panels == 1 else 's'}"
    if counts:
        low, high = min(counts), max(counts)
        said += (
            f", {low} of each combination"
            if low == high
            else (f", {low} to {high} of each combination")
        )
        wanted = sum(counts) * trial.readings_per_cell * len(trial.measurands)
        taken = session.tally.taken
        if taken >= wanted:
            return f"{said}; all {thousands(taken)} readings are taken."
        done = f", {thousands(taken)} taken" if taken else ""
        said += f"; {thousands(wanted)} readings to take{done}"
    return f"{said}."


def combination_words(session: Session, most: int = 12) -> str:
    """Name the combinations in a line."""
    found = session.combinations()
    if not found:
        return "No combination yet: F3 names what is compared."
    parts = [f"{c.code} {c.name}".strip().replace(" ", "\u00a0") for c in found[:most]]
    more = f" and {len(found) - most} more" if len(found) > most else ""
    return f"Combinations: {'   '.join(parts)}{more}"
