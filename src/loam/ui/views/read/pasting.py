"""A column of figures that was pasted: shown where it would go, kept on Enter."""

from __future__ import annotations

from dataclasses import replace
from typing import Protocol

from loam.app.commands import Act, TakeReadings
from loam.app.presenters.reading import EntryState, Pasted, asked_back, place_pasted
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.readings.slip import MARK
from loam.core.trial import Reading


class Owner(Protocol):
    """What pasting asks of the view."""

    session: Session
    chosen: int | None

    @property
    def state(self) -> EntryState | None:
        """What is shown of the chosen cell."""
        ...

    def blank(self, state: EntryState) -> Reading:
        """Return a reading of this cell with all but its value."""
        ...

    def clear(self) -> None:
        """Leave what was typed or pasted."""
        ...

    def complain(self, said: str) -> None:
        """Say something at the digits."""
        ...

    def act(self, command: Act) -> bool:
        """Run a command."""
        ...

    def after_keeping(self) -> None:
        """See what is read next."""
        ...


class Pasting:
    """What was pasted and is not kept yet."""

    def __init__(self, view: Owner) -> None:
        self.view = view
        self.placed: Pasted | None = None

    def _odd(self, reading: Reading) -> bool:
        state = self.view.state
        if state is None:
            return False
        return asked_back(self.view.session, state, reading.value, reading.scale) is not None

    def offer(self, figures: list[str]) -> None:
        """Show where several pasted figures would go; Enter keeps them."""
        view, state = self.view, self.view.state
        if state is None:
            return
        view.clear()
        try:
            placed = place_pasted(view.session, state, figures, view.blank(state))
        except LoamError as error:
            view.complain(f"{error.what} {error.todo} Nothing was kept.".replace("  ", " "))
            return
        slips = [r.value for r in placed.readings if self._odd(r)]
        said = placed.words
        if slips:
            first = state.kind.write(slips[0])
            said += f" {len(slips)} of them ({first}) would be marked as unlike the rest."
        self.placed = placed
        view.complain(said)

    def keep(self, trial_id: int) -> None:
        """Keep them all, or none."""
        view, placed = self.view, self.placed
        if placed is None:
            return
        readings = [replace(r, mark=MARK if self._odd(r) else "") for r in placed.readings]
        command = TakeReadings(trial_id, readings)
        command.name = f"take {len(readings)} readings"
        if view.act(command):
            view.chosen = readings[-1].cell_id
            view.clear()
            view.after_keeping()
