"""A column of figures that was pasted: shown where it would go, kept on Enter."""

from __future__ import annotations

from dataclasses import replace

from loam.app.commands import TakeReadings
from loam.app.presenters.reading import Pasted, asked_back, place_pasted
from loam.core.errors import LoamError
from loam.core.readings.slip import MARK
from loam.core.trial import Reading
from loam.ui.views.read.owner import Owner


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
