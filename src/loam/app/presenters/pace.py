"""Real minutes against the planned ones."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from loam.app.presenters.run_sheet import cells_to_work
from loam.app.presenters.working import noted
from loam.app.session import Session
from loam.app.work_against_plan import planned_seconds
from loam.core.design.costs import SET_UP_S
from loam.store.work import PASS, WORKED, Work

PAUSE_S = 1200.0
"""A gap beyond it is a pause, and counts as neither work nor delay: assumed."""
LATE = 0.15


@dataclass(frozen=True)
class Pace:
    """How long the work took beside the plan.

    Attributes
    ----------
    real_s, planned_s : float
        Of the stages that are done, pauses left out.
    left_s : float
        Of those that are not, as planned.
    """

    real_s: float
    planned_s: float
    left_s: float


def pace(session: Session) -> Pace:
    """Compare the time that work took with the plan."""
    found: Pace = session.cached("pace", lambda: _pace(session))
    return found


def _pace(session: Session) -> Pace:
    combinations = {c.id: c for c in session.combinations()}
    tapings = {p.id: p.taping for p in session.panels()}
    read = {cell for cell, _ in session.counts()}
    seen = noted(session)
    worked = {(w.cell_id, w.stage) for w in seen if w.what == WORKED}
    begun = {w.cell_id for w in seen}
    known: dict[tuple[object, object], float] = {}
    done = left = 0.0
    for cell in cells_to_work(session):
        for number, stage in enumerate(combinations[cell.combination_id or 0].stages, 1):
            key = (stage, tapings[cell.panel_id])
            if key not in known:
                known[key] = planned_seconds(stage, tapings[cell.panel_id]) + SET_UP_S
            if (cell.id, number) in worked:
                done += known[key]
            elif cell.id not in read or cell.id in begun:
                left += known[key]
    return Pace(real_seconds(seen), done, left)


def real_seconds(seen: Iterable[Work]) -> float:
    """Return how long the work took, from the times at which passes and stages were noted, s.

    By person and day; what lies before the first note is that pass alone.
    """
    last: dict[tuple[str, str], datetime] = {}
    total = 0.0
    for w in seen:
        if w.what not in (PASS, WORKED):
            continue
        key, at = (w.person, w.day), datetime.fromisoformat(w.at)
        if key in last:
            gap = (at - last[key]).total_seconds()
            total += gap if 0.0 < gap <= PAUSE_S else 0.0
        else:
            total += float(w.facts.get("seconds", 0.0))
        last[key] = at
    return total


def pace_words(session: Session) -> str:
    """Say how the time stands against the plan."""
    found = pace(session)
    said = ""
    if found.left_s >= 60.0:
        said = (
            f"About {duration(found.left_s)} of work {'is' if found.left_s < 120 else 'are'} left"
        )
    if found.planned_s >= 60.0 and found.real_s >= 60.0:
        apart = found.real_s - found.planned_s
        if abs(apart) <= LATE * found.planned_s or abs(apart) < 60.0:
            so_far = "as planned so far"
        else:
            so_far = (
                f"{duration(abs(apart))} {'behind' if apart > 0 else 'ahead of'} the plan so far"
            )
        said = f"{said}, {so_far}" if said else so_far.capitalize()
    return f"{said}." if said else ""


def duration(seconds: float) -> str:
    """Say a time: 40 min, 2 h 05."""
    minutes = max(1, round(seconds / 60.0))
    return f"{minutes} min" if minutes < 90 else f"{minutes // 60} h {minutes % 60:02d}"
