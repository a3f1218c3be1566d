"""What the view knows when a report is asked for."""

from __future__ import annotations

from typing import Protocol

from loam.app.presenters.ranking import RankingPicture
from loam.app.session import Session
from loam.ui.views.base import Shell
from loam.ui.views.judge.doubts_page import DoubtsPage
from loam.ui.views.judge.priorities_page import PrioritiesPage


class Judged(Protocol):
    """What is asked of the view."""

    session: Session
    shell: Shell
    rankings: dict[str, RankingPicture]
    measurand: str
    doubts: DoubtsPage
    priorities: PrioritiesPage
    left_out: bool


def report_of(view: Judged) -> None:
    """Ask where to, and write a report of all that is judged."""
    from loam.app.presenters.report import Told

    session, trial = view.session, view.session.trial
    if trial is None or not view.rankings:
        return
    view.shell.write_report(
        Told(
            session.workshop.reads, trial, dict(view.rankings), view.measurand,
            session.combinations(), list(view.doubts.found), view.left_out,
            session.workshop.now().replace("T", " "), view.priorities.aims,
            view.priorities.worth.kept(), view.priorities.tapings(),
        )
    )  # fmt: skip
