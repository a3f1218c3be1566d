"""The question of a trial as a sentence with slots: what is asked, and of what."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class QuestionKind:
    """One way to ask.

    Attributes
    ----------
    key, label : str
        ``label`` is what the choice says.
    before, after : str
        The words around what is asked of; both are empty for a question in own words.
    example : str
        What may stand there.
    hint : str
        What such a trial needs to answer.
    controls : tuple of str
        Kinds of control that it needs on every panel.
    reads : tuple of str
        Measurands that it needs.
    """

    key: str
    label: str
    before: str
    after: str
    example: str
    hint: str = ""
    controls: tuple[str, ...] = ()
    reads: tuple[str, ...] = ()


KINDS: tuple[QuestionKind, ...] = (
    QuestionKind("best", "Which … is best", "Which", "is best", "one-step"),
    QuestionKind(
        "earns",
        "Does … earn its clear",
        "Does",
        "earn its clear",
        "a middle stage",
        "Put the same combination on with it and without it; film thickness before and after work"
        " prices it.",
        reads=("film",),
    ),
    QuestionKind(
        "factor",
        "What difference does … make",
        "What difference does",
        "make",
        "the pad",
        "Change that alone from one combination to the next, and hold the rest.",
    ),
    QuestionKind(
        "claim",
        "Does … do what is claimed",
        "Does",
        "do what is claimed",
        "Grist 9",
        "What is left is judged against cells that are damaged and not worked.",
        ("damaged",),
    ),
    QuestionKind(
        "wipe",
        "Does … take the fillers off",
        "Does",
        "take the fillers off",
        "Rinse A",
        "Read each cell before the wipe and again after it: what falls back was masked.",
        ("damaged",),
    ),
    QuestionKind(
        "gauge",
        "How well does … repeat",
        "How well does",
        "repeat",
        "the gloss meter",
        "Read untouched cells only, lift the meter between readings, and let several people read.",
        ("untouched",),
    ),
    QuestionKind(
        "people",
        "Do … read alike",
        "Do",
        "read alike",
        "Ivo, Lise and Tam",
        "Everyone reads the same cells, none seeing what the others found.",
    ),
    QuestionKind(
        "holds",
        "Does … still hold",
        "Does",
        "still hold",
        "the house process",
        "Put it beside one milder and one stronger combination on this clear.",
    ),
    QuestionKind("own", "in your own words", "", "", "Orbital or rotary for cutting hard clear?"),
)
BY_KEY: dict[str, QuestionKind] = {k.key: k for k in KINDS}
OWN = BY_KEY["own"]


def compose(kind: QuestionKind, subject: str) -> str:
    """Return the question as text; "" while nothing is asked of.

    A subject that is a question itself stands as it is.
    """
    said = " ".join(subject.split())
    if not said:
        return ""
    if kind is OWN or said.endswith("?"):
        return said
    return f"{kind.before} {said} {kind.after}?"


def parse(question: str) -> tuple[QuestionKind, str]:
    """Split a question into its kind and what it asks of; the reverse of `compose`.

    Returns
    -------
    (QuestionKind, str)
        `OWN` with the whole text when it follows no known way to ask.
    """
    said = " ".join(question.split())
    for kind in KINDS:
        start, end = f"{kind.before} ", f" {kind.after}?"
        if kind is not OWN and said.startswith(start) and said.endswith(end):
            subject = said[len(start) : -len(end)].strip()
            if subject:
                return kind, subject
    return OWN, said
