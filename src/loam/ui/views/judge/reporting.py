"""What the view knows when a report is asked for."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from loam.app.questions.ranking.picture import RankingPicture
from loam.app.session import Session
from loam.ui.views.base import Shell
from loam.ui.views.judge.doubts.page import DoubtsPage
from loam.ui.views.judge.priorities.page import PrioritiesPage

if TYPE_CHECKING:
    from loam.app.report import Told


class Judged(Protocol):
    """What is asked of the view."""

    session: Session
    shell: Shell
    rankings: dict[str, RankingPicture]
    measurand: str
    doubts: DoubtsPage
    priorities: PrioritiesPage

    @property
    def left_out(self) -> bool: ...


def told_of(view: Judged) -> Told | None:
    """Return what a report is made of; None while nothing is judged."""
    from loam.app.report import Told

    session, trial = view.session, view.session.trial
    if trial is None or not view.rankings:
        return None
    return Told(
        session.workshop.reads, trial, dict(view.rankings), view.measurand,
        session.combinations(), view.doubts.result(), view.left_out,
        session.workshop.now().replace("T", " "), view.priorities.aims,
        view.priorities.worth.kept(), view.priorities.tapings(),
    )  # fmt: skip


def report_of(view: Judged) -> None:
    """Ask where to, and write a report of all that is judged."""
    told = told_of(view)
    if told is not None:
        view.shell.write_report(told)
