"""What is decided while judging: left out or counted again, and following it when taken back."""

from __future__ import annotations

from typing import Protocol

from loam.app.commands import Decide
from loam.app.work_against_plan import left_out_key
from loam.ui.views.judge.doubts.page import DoubtsPage
from loam.ui.views.judge.owner import Owner
from loam.ui.views.judge.questions import Questions


class Paged(Owner, Protocol):
    """The view, with its pages."""

    doubts: DoubtsPage
    questions: Questions


class Deciding:
    """Turns what counts by acts, which are taken back like all others."""

    def __init__(self, view: Paged) -> None:
        self.view = view

    @property
    def left_out(self) -> bool:
        """Whether cells that were not worked as planned are left out."""
        session = self.view.session
        return session.recall(left_out_key(session.trial_id or 0), False) is True

    @property
    def may_leave_out(self) -> bool:
        """What was left out may always count again, even where nothing is left to judge."""
        ranking = self.view.ranking
        return self.left_out or (ranking is not None and ranking.unlike)

    def turn_left_out(self) -> None:
        """Leave out the cells that were not worked as planned, or let them count again."""
        if not self.may_leave_out:
            return
        here, out = self.view.session.trial_id or 0, not self.left_out
        said = f"{'leave out' if out else 'count again'}: cells that were not worked as planned"
        self.view.act(Decide(here, here, left_out_key(here), not out, out, said))

    def follow(self) -> None:
        """Show what was decided, or taken back, where it was decided."""
        view = self.view
        if view.questions.page is view.doubts:
            view.doubts.show_doubts(view.doubts.found)
        view.judge_again()
