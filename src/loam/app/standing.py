"""What stands at the head of a step: what is done there, what is missing, what is next and why."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

from loam.app.applying.at_hand import job_at_hand
from loam.app.presenters.path import MOST_PACED, STEPS, path_state, progress_of, to_work
from loam.app.readers import crossed
from loam.app.session import Session
from loam.core.text import listed, some
from loam.core.trial import BEFORE
from loam.core.units import thousands
from loam.store import work

WHY: dict[str, str] = {
    "ask": "everything else follows the question",
    "kit": "only what is compared can be ranked",
    "panels": "each combination meets each panel, so that panels cannot decide who wins",
    "layout": "lots keep the good spots of a panel from going to one combination",
    "work": "cells that are worked alike differ only by what is compared",
    "read": "what is read blind, wiped and often enough can be trusted",
    "judge": "it says what to use, how surely, and what to test next",
    "apply": "a car is checked on one spot before all of it is worked",
}
"""Why each step is worth its time."""


@dataclass(frozen=True)
class StepHead:
    """What is said at the head of a step.

    Attributes
    ----------
    done, missing : str
        What there is, and what is lacking ("" where nothing is).
    then : str
        What is next, at which step, and why.
    """

    done: str
    missing: str
    then: str

    @property
    def words(self) -> str:
        """All of it in a line."""
        lacks = f"Missing: {self.missing}" if self.missing else "Nothing is missing here"
        return f"{self.done}. {lacks}. {self.then}"


def step_head(session: Session, here: str) -> StepHead | None:
    """Return what stands at the head of a step; None for what is no step, or without a trial."""
    if session.trial is None or here not in _HERE:
        return None
    if here == "apply":
        return _head(session, here)
    head: StepHead = session.cached(f"head {here}", lambda: _head(session, here))
    return head


def _head(session: Session, here: str) -> StepHead:
    done, missing = _HERE[here](session)
    if here == "apply":
        return StepHead(done, missing, f"Here, as {WHY[here]}.")
    state = path_state(session)
    number = next(i for i, (key, _) in enumerate(STEPS) if key == state.next_step)
    at = "here" if state.next_step == here else f"F{number + 2} {STEPS[number][1]}"
    then = " Then F9 Apply: a car." if here == state.next_step == "judge" else ""
    return StepHead(done, missing, f"Next: {at}, as {WHY[state.next_step]}.{then}")


def _count(number: int, word: str) -> str:
    return f"{thousands(number)} {word}{'' if number == 1 else 's'}"


def _ask(session: Session) -> tuple[str, str]:
    trial = session.trial
    asked = trial is not None and bool(trial.question.strip())
    return ("The question is written", "") if asked else ("The trial has a name", "its question")


def _kit(session: Session) -> tuple[str, str]:
    trial, found = session.trial, session.combinations()
    controls = sum(bool(c.control) for c in found)
    codes = len(found) - controls
    named = [_count(codes, "combination")] if codes or not controls else []
    done = listed([*named, *([_count(controls, "control")] if controls else [])])
    lacks = []
    need = 1 if trial is not None and crossed(trial) else 2
    if codes < need:
        lacks.append(_count(need - codes, "more combination"))
    bare = [c.code for c in found if not c.control and not c.stages]
    if bare:
        lacks.append(f"the stages of {some(bare, 4)}")
    if not controls and not session.tally.taken:  # once it is read, it is too late for one
        lacks.append("a control, to show what the damage alone did")
    return done, listed(lacks) if lacks else ""


def _panels(session: Session) -> tuple[str, str]:
    found = session.panels()
    if not found:
        return "No panel yet", "a panel and how it is taped"
    by = Counter(p.hardness for p in found)
    done = f"{_count(len(found), 'panel')}: {listed([f'{n} {h}' for h, n in by.items()])}"
    read = {
        row[0]
        for row in session.workshop.connection.execute("SELECT DISTINCT panel_id FROM survey")
    }
    bare = [p.name for p in found if p.physical not in read]
    lacks = f"the film survey of {some(bare, 3)}" if bare else ""
    return done, lacks


def _layout(session: Session) -> tuple[str, str]:
    cells, laid, _, _ = progress_of(session)
    done = f"{thousands(laid)} of {_count(cells, 'cell')} have a combination"
    return done, f"{_count(cells - laid, 'cell')} still free" if laid < cells else ""


def _work(session: Session) -> tuple[str, str]:
    _, laid, full, readings = progress_of(session)
    wanted = to_work(session)
    db, trial_id = session.workshop.connection, session.trial_id or 0
    if not laid:
        return "Nothing is laid out to work", "the layout"
    if not wanted:
        return "Only controls are laid out: nothing is worked", ""
    if laid > MOST_PACED:
        return f"{_count(wanted, 'cell')} to work, not paced: too many", ""
    lost = len(work.cells_lost(db, trial_id) - work.cells_through(db, trial_id))
    paced = work.cells_worked(db, trial_id)
    done = f"{thousands(paced)} of {_count(wanted, 'cell')} worked with the pacer"
    if lost:
        done += f", {thousands(lost)} lost"
    left = wanted - paced - lost
    if left <= 0:
        return done, ""
    if full == laid or (not paced and readings):
        return f"{done}; the others were read, so taken as worked", ""
    return done, _count(left, "cell")


def _read(session: Session) -> tuple[str, str]:
    trial = session.trial
    _, laid, full, _ = progress_of(session)
    lacks = [_count(laid - full, "cell")] if full < laid else []
    before = session.tally.counts(session.workshop.connection, BEFORE)
    begun = {m for _, m in before} & set(trial.measurands if trial is not None else ())
    bare = max(
        (laid - sum(1 for c in session.tally.order if (c, m) in before) for m in begun), default=0
    )
    if bare:
        lacks.append(f"readings before work on {_count(bare, 'cell')}")
    done = f"{thousands(full)} of {_count(laid, 'cell')} read in full"
    return done, listed(lacks) if lacks else ""


def _judge(session: Session) -> tuple[str, str]:
    _, laid, full, readings = progress_of(session)
    done = f"{_count(readings, 'reading')} to judge by"
    return done, f"{_count(laid - full, 'cell')} not read in full" if full < laid else ""


def _apply(session: Session) -> tuple[str, str]:
    held = job_at_hand(session)
    if held is None:
        return "No car yet", "a car: choose what it is"
    job = held[1]
    working = job.working
    bare = [p.key for p in working if p.gauged and p.cleared and not p.film]
    lacks = [f"the film of {some(bare, 3)}"] if bare else []
    if not job.spots:
        lacks.append("a test spot")
    unread = [s.number for s in job.spots if not s.after]
    if unread:
        lacks.append(f"readings of spot {unread[-1]}")
    done = sum(bool(p.done) for p in working)
    spots = _count(len(job.spots), "test spot")
    said = f"{spots}, {done} of {_count(len(working), 'panel')} done"
    return said, listed(lacks) if lacks and not job.finished else ""


_HERE: dict[str, Callable[[Session], tuple[str, str]]] = {
    "ask": _ask,
    "kit": _kit,
    "panels": _panels,
    "layout": _layout,
    "work": _work,
    "read": _read,
    "judge": _judge,
    "apply": _apply,
}
