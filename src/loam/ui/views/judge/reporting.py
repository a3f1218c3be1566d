"""What the view knows when a report is asked for."""

from __future__ import annotations

from dataclasses import replace
from typing import Protocol

from loam.app.presenters.depth import may_go_known
from loam.app.questions.question import Asked
from loam.ui.views.judge.aiming import Aiming
from loam.ui.views.judge.doubts.page import DoubtsPage
from loam.ui.views.judge.owner import Owner
from loam.ui.views.judge.priorities.page import PrioritiesPage


class Judged(Owner, Protocol):
    """The view, with what the report takes from its pages."""

    doubts: DoubtsPage
    priorities: PrioritiesPage
    aiming: Aiming


def asked_from(view: Judged) -> Asked | None:
    """Return what a question is asked of; None while nothing is judged."""
    session, trial = view.session, view.session.trial
    if trial is None or not view.rankings:
        return None
    reads, combinations = session.workshop.reads, session.combinations()
    advice = dict(view.aiming.advice)
    return Asked(reads, trial, dict(view.rankings), view.measurand, combinations, advice=advice)


def told_of(view: Judged) -> Asked | None:
    """Return what a report is made of; None while nothing is judged."""
    asked = asked_from(view)
    if asked is None:
        return None
    return replace(
        asked,
        doubts=view.doubts.result(),
        left_out=view.left_out,
        when=view.session.workshop.now().replace("T", " "),
        aims=view.priorities.aims,
        limits=view.priorities.worth.kept(),
        tapings=view.priorities.tapings(),
        aim=view.aiming.aim,
        may_go=may_go_known(view.session),
    )


def report_of(view: Judged) -> None:
    """Ask where to, and write a report of all that is judged."""
    told = told_of(view)
    if told is not None:
        view.shell.write_report(told)
