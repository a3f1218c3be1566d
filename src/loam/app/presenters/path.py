"""Where a trial stands on its path, and what is next."""

from __future__ import annotations

from dataclasses import dataclass

from loam.app.readers import crossed
from loam.app.session import Session
from loam.store import work

STEPS: tuple[tuple[str, str], ...] = (
    ("ask", "Ask"),
    ("kit", "Kit"),
    ("panels", "Panels"),
    ("layout", "Lay out"),
    ("work", "Work"),
    ("read", "Read"),
    ("judge", "Judge"),
    ("apply", "Apply"),
)


JUDGED = 7
"""So many steps make a trial; Apply comes after it, for the workshop's cars."""
MOST_PACED = 2000
"""Cells beyond which a trial is not paced: it would take weeks."""


@dataclass(frozen=True)
class PathState:
    """How far a trial has come.

    Attributes
    ----------
    reached : int
        How far it has come: the place of the last step that is done, an earlier gap or not.
    next_step : str
        Key of the step that is next.
    advice : str
        The next action, in words.
    facts : str
        Panels, cells and readings, for the corner of the window.
    """

    reached: int
    next_step: str
    advice: str
    facts: str


def progress_of(session: Session) -> tuple[int, int, int, int]:
    """Return cells, laid-out cells, those read in full, and readings of the trial at hand."""
    trial = session.trial
    if trial is None:
        return 0, 0, 0, 0
    tally = session.tally
    wanted = trial.readings_per_cell * (2 if crossed(trial) else 1)
    full = tally.full(trial.measurands, wanted)
    return len(tally.places), len(tally.order), full, tally.taken


def path_state(session: Session) -> PathState:
    """Say where the trial at hand stands."""
    state: PathState = session.cached("path", lambda: _path_state(session))
    return state


def _path_state(session: Session) -> PathState:
    trial = session.trial
    if trial is None:
        return PathState(0, "ask", "Start a trial, or bring in readings from a file.", "")
    cells, laid, full, readings = progress_of(session)
    codes = len(session.combinations())
    panels = len(session.panels())
    stands = [
        (bool(trial.question.strip()), "ask", "Write down the question of this trial."),
        (codes >= (1 if crossed(trial) else 2), "kit", "Name at least two combinations."),
        (panels >= 1, "panels", "Describe a panel and how it is taped."),
        (laid > 0 and laid == cells, "layout", f"{cells - laid} of {cells} cells are still free."),
        _worked(session, laid, full),
        (laid > 0 and full == laid, "read", f"{full} of {laid} cells are read."),
    ]
    facts = _facts(panels, cells, readings)
    reached = max((i for i, (done, _, _) in enumerate(stands, 1) if done), default=0)
    for done, key, advice in stands:
        if not done:
            reached = JUDGED if reached == len(stands) else reached
            return PathState(reached, key, advice, facts)
    held = session.workshop.connection.execute("SELECT 1 FROM job WHERE put_away=0 LIMIT 1")
    reached = JUDGED if held.fetchone() is None else len(STEPS)
    return PathState(reached, "judge", "Everything is read. Judge it.", facts)


def _worked(session: Session, laid: int, full: int) -> tuple[bool, str, str]:
    """Say how far the work has come; what was read without being paced is taken as worked."""
    db, trial_id = session.workshop.connection, session.trial_id or 0
    small = laid <= MOST_PACED
    count = work.cells_worked(db, trial_id) if laid and full < laid and small else 0
    if count:
        count += len(work.cells_lost(db, trial_id) - work.cells_through(db, trial_id))
    by_hand = not small or (not count and session.tally.taken > 0)
    done = laid > 0 and (full == laid or by_hand or count >= to_work(session))
    return done, "work", f"{count} of {to_work(session)} cells are worked."


def to_work(session: Session) -> int:
    """Return how many cells have a combination with stages."""
    staged = {c.id for c in session.combinations() if c.stages}
    return sum(n for c, n in session.tally.cells_by.items() if c in staged)


def _facts(panels: int, cells: int, readings: int) -> str:
    def plural(count: int, word: str) -> str:
        return f"{count:,} {word}{'' if count == 1 else 's'}".replace(",", "\u202f")

    return " · ".join((plural(panels, "panel"), plural(cells, "cell"), plural(readings, "reading")))
