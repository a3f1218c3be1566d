"""Which cell, meter and phase is read next, and turning to another by hand."""

from __future__ import annotations

from typing import Protocol

from loam.app.presenters.reading import (
    EntryState,
    neighbour,
    next_cell,
    panel_progress,
)
from loam.app.presenters.rounds import reading_order
from loam.core.trial import Cell
from loam.ui.views.read.digits import Digits
from loam.ui.views.read.form import Form
from loam.ui.views.read.owner import Owner


class Walked(Owner, Protocol):
    """The view, with what is typed on."""

    form: Form
    digits: Digits


class Walking:
    """Turns from cell to cell."""

    def __init__(self, view: Walked) -> None:
        self.view = view

    def turn_way(self) -> None:
        """Read all meters of a cell in one go, or one meter after another."""
        view = self.view
        way = "meter" if view.together else "cell"
        view.session.remember("reading_way", way)
        view.shell.say(
            "All meters of a cell in one go." if way == "cell" else "One meter after another."
        )
        view.show_all()
        view.take_keyboard()

    def go_next(self) -> None:
        """Turn to the next cell that wants readings; its forerunner's result stays in sight."""
        view, state = self.view, self.view.state
        cell = self._next_of_all() if view.together else None
        cell = cell or next_cell(view.session, view.measurand, view.chosen, view.phase)
        view.done = False
        if cell is not None:
            if state is not None and state.summary is not None and cell.id != view.chosen:
                view.form.last.setText(state.said)
            view.chosen = cell.id
        elif view.chosen is None:
            view.chosen = next(iter(reading_order(view.session)), None)
        else:
            label = view.session.kind(view.measurand).label
            view.shell.say(f"All cells are read for {label}.")

    def _next_of_all(self) -> Cell | None:
        """Return the next cell that wants a reading of any meter, and turn to that meter."""
        view, trial = self.view, self.view.session.trial
        if trial is None:
            return None
        order = reading_order(view.session)
        start = order.get(view.chosen or 0, -1)
        found = []
        for key in trial.measurands:
            cell = next_cell(view.session, key, view.chosen, view.phase)
            if cell is not None:
                found.append(((order[cell.id] - start - 1) % len(order), key, cell))
        if not found:
            return None
        _, view.measurand, nearest = min(found, key=lambda each: each[0])
        return nearest

    def go_on_to(self, cells: set[int]) -> None:
        """Turn to the next of some cells in the order of reading, around."""
        order = list(reading_order(self.view.session))
        at = order.index(self.view.chosen) if self.view.chosen in order else -1
        following = next((c for c in [*order[at + 1 :], *order[: at + 1]] if c in cells), None)
        if following is not None:
            self.choose(following)

    def choose(self, cell_id: int) -> None:
        """Turn to a cell, unless a half-typed figure holds this one."""
        view = self.view
        if view.digits.text():
            view.hold()
        elif cell_id in view.session.order():
            view.chosen, view.done = cell_id, False
            view.complain("")
            view.show_all()
        view.take_keyboard()

    def move(self, down: int, across: int) -> None:
        """Turn to the cell beside, on the panel as it lies."""
        session, chosen = self.view.session, self.view.chosen
        cell = session.cell(chosen) if chosen in session.order() else None
        beside = neighbour(session, cell, down, across) if cell is not None else None
        if beside is not None:
            self.choose(beside.id)

    def turn_panel(self, panel_id: int) -> None:
        """Turn to the first cell of a panel that still wants readings."""
        view, session = self.view, self.view.session
        own = [c for c in session.cells_of(panel_id) if c.combination_id is not None]
        if own:
            counts, trial = session.counts(view.phase), session.trial
            wanted = trial.readings_per_cell if trial else 1
            lacking = (
                c.id for c in own if counts.get((c.id, view.measurand), (0, 0.0))[0] < wanted
            )
            self.choose(next(lacking, own[0].id))

    def turn_panel_by(self, step: int) -> None:
        """Turn some panels on."""
        view, state = self.view, self.view.state
        panels = [i for i, *_ in panel_progress(view.session, view.measurand, view.phase)]
        if state is not None and state.panel.id in panels:
            self.turn_panel(panels[(panels.index(state.panel.id) + step) % len(panels)])

    def turn_kind(self, key: str) -> None:
        """Read something else, from the first cell on that still wants it."""
        view = self.view
        if view.digits.text():
            view.hold()
        else:
            view.measurand, view.done = key, False
            cell = next_cell(view.session, key, None, view.phase)
            if cell is not None:
                view.chosen = cell.id
            view.show_all()
        view.take_keyboard()

    def next_kind(self) -> None:
        """Read the next thing that this trial reads."""
        trial = self.view.session.trial
        if trial is not None:
            keys = trial.measurands
            self.turn_kind(keys[(keys.index(self.view.measurand) + 1) % len(keys)])

    def turn_phase(self, key: str) -> None:
        """Read before work, before the wipe, after it, on another day or after a wash."""
        view = self.view
        if view.digits.text():
            view.hold()
        else:
            view.phase, view.done = key, False
            view.show_all()
        view.take_keyboard()

    def advice(self, state: EntryState) -> str:
        """Say whether the cell is read enough, and where Enter goes."""
        view = self.view
        if not view.done:
            return state.advice
        following = next_cell(view.session, view.measurand, view.chosen, view.phase)
        if following is None or following.id == view.chosen:
            return f"{state.advice} All cells are read for {state.kind.label}."
        panel = next(p for p in view.session.panels() if p.id == following.panel_id)
        place = following.code if panel.id == state.panel.id else f"{panel.name} {following.code}"
        return f"{state.advice} Enter, or the next figure, goes to {place}."
