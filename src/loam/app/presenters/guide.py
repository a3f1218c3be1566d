"""A guided first trial: seven short notes, each where it belongs, each leaving when it is done."""

from __future__ import annotations

from dataclasses import dataclass

from loam.app.presenters.path import STEPS, path_state
from loam.app.session import Session

KEY = "guide"
"""The setting that holds whether the notes are wanted."""
_NOTES: dict[str, tuple[str, str]] = {
    "ask": (
        "Say what you want to know. Press the bare tape, choose, and type: Enter keeps it.",
        "Everything else follows the question.",
    ),
    "kit": (
        "Type two combinations: pad, compound, machine, passes. Ctrl+N begins another.",
        "Only what is compared can be ranked.",
    ),
    "panels": (
        "Ctrl+N names a panel. Say how hard its clear is, and how it is taped.",
        "Each combination meets each panel, so that panels cannot decide who wins.",
    ),
    "layout": (
        "Ctrl+R deals the cells by lot. The note at the right says what the trial will tell.",
        "Lots keep the good spots of a panel from going to one combination.",
    ),
    "work": (
        "Prepare the panel gate by gate. Then Space sets the pad going: follow it with yours.",
        "Cells that are worked alike differ by what is compared, and by nothing else.",
    ),
    "read": (
        "Type what the meter shows, then Enter: the next reading, the next cell comes by itself.",
        "Read blind, after the wipe, and often enough to know how the meter scatters.",
    ),
    "judge": (
        "Each band says what to use and how surely. D shows what to check, G turns the aim.",
        "Ctrl+. puts these notes away.",
    ),
}


@dataclass(frozen=True)
class GuideNote:
    """One note: which of seven, the step that it belongs to, and what it says."""

    number: int
    step: str
    words: str


def wanted(session: Session) -> bool:
    """Tell whether the notes are wanted."""
    return session.recall(KEY, False) is True


def guide_note(session: Session, here: str) -> GuideNote | None:
    """Return the note of the step that is next; None where notes are not wanted.

    Parameters
    ----------
    here : str
        The step that is looked at: at another, the note says where to go and why.
    """
    if not wanted(session):
        return None
    at = path_state(session).next_step if session.trial is not None else "ask"
    number = next(i for i, (key, _) in enumerate(STEPS) if key == at)
    words, why = _NOTES[at]
    if session.trial is None:
        words = "Ctrl+N starts a trial. Two small panels and two combinations are enough."
    if here != at:
        words = f"Go on with F{number + 2}, {STEPS[number][1]}."
    return GuideNote(number + 1, at, f"{words} {why}")
