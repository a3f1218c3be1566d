"""Striking a reading while reading: which one, and why."""

from __future__ import annotations

from typing import Protocol

from loam.app.commands import StrikeReadings
from loam.app.presenters.reading import EntryState, ordinal
from loam.ui.views.read.digits import Digits
from loam.ui.views.read.owner import Owner
from loam.ui.widgets.strike_bar import StrikeBar


class Struck(Owner, Protocol):
    """The view, with its digits and the bar that strikes."""

    digits: Digits
    strike_bar: StrikeBar


class Striking:
    """Asks why a reading of the cell at hand does not count; the last one first."""

    def __init__(self, view: Struck) -> None:
        self.view, self._at = view, 0
        bar = view.strike_bar
        bar.struck.connect(self._struck)
        bar.left.connect(self._left)
        bar.turned.connect(self._turn)

    def ask(self) -> None:
        """Ask why the last reading that counts does not."""
        view = self.view
        state = view.state
        if view.digits.text():
            view.hold()
        elif state is None or not state.counted:
            view.complain("There is no reading here to strike.")
        else:
            self._at = len(state.counted) - 1
            self._ask(state)

    def _ask(self, state: EntryState) -> None:
        self.view.complain("Up and down choose another reading; Esc leaves it.")
        figure = state.kind.write(state.counted[self._at].value)
        self.view.strike_bar.ask(figure, ordinal(self._at))

    def _turn(self, step: int) -> None:
        state = self.view.state
        if state is not None and 0 <= self._at + step < len(state.counted):
            self._at += step
            self._ask(state)

    def _left(self) -> None:
        self.view.complain("")
        self.view.digits.setFocus()

    def _struck(self, reason: str) -> None:
        view = self.view
        state, trial = view.state, view.session.trial
        view.complain("")
        if state is not None and trial is not None and self._at < len(state.counted):
            reading, cells = state.counted[self._at], frozenset({state.cell.id})
            view.done = False
            view.act(StrikeReadings(trial.id, [reading.id], reason, of_cells=cells))
        view.digits.setFocus()
