"""What the parts of Read ask of its view."""

from __future__ import annotations

from typing import Protocol

from loam.app.commands import Act
from loam.app.presenters.reading import EntryState
from loam.app.session import Session
from loam.core.trial import Reading
from loam.ui.views.base import Shell


class Owner(Protocol):
    """The view: the cell at hand, what is read there, and ways on."""

    session: Session
    shell: Shell
    chosen: int | None
    measurand: str
    phase: str
    done: bool

    @property
    def state(self) -> EntryState | None:
        """What is shown of the chosen cell."""
        ...

    @property
    def reader_name(self) -> str:
        """Who reads."""
        ...

    @property
    def meter_name(self) -> str:
        """With which meter."""
        ...

    @property
    def together(self) -> bool:
        """Whether all meters of a cell are read in one go."""
        ...

    def act(self, command: Act) -> bool:
        """Run a command."""
        ...

    def blank(self, state: EntryState) -> Reading:
        """Return a reading of this cell with all but its value."""
        ...

    def keep(self) -> None:
        """Keep what was typed."""
        ...

    def clear(self) -> None:
        """Leave what was typed or pasted."""
        ...

    def hold(self) -> None:
        """Say that a half-typed figure stays where it is."""
        ...

    def complain(self, said: str) -> None:
        """Say what is wrong, in place."""
        ...

    def after_keeping(self) -> None:
        """See what is read next."""
        ...

    def show_all(self) -> None:
        """Show the cell at hand."""
        ...

    def take_keyboard(self) -> None:
        """Give the keyboard to what is typed on."""
        ...

    def leave_page(self) -> None:
        """Go back to reading."""
        ...

    def leave_mode(self) -> None:
        """Go back to reading."""
        ...

    def turn_phase(self, key: str) -> None:
        """Read another phase."""
        ...

    def go_on_to(self, cells: set[int]) -> None:
        """Turn to the next of some cells in the order of reading."""
        ...
