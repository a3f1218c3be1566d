"""What every view is and has."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, Protocol, runtime_checkable

from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QWidget

from loam.app.changes import Changes
from loam.app.commands import Act
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.store.draft import TrialDraft
from loam.ui.keys import Key as Key
from loam.ui.keys import perform
from loam.ui.widgets.fields import Field
from loam.ui.worker import Jobs

if TYPE_CHECKING:
    from loam.app.questions.question import Asked
    from loam.devices.meter import Meter
    from loam.ui.picture_out import Picture

WIDEST = 16_777_215
"""Qt's own limit of a width: as wide as there is room."""
TIGHT = 900
"""Window width, at the usual size of text, under which what stands beside goes below."""


class Shell(Protocol):
    """What a view asks of the window."""

    session: Session
    jobs: Jobs

    @property
    def view(self) -> View:
        """The view at hand."""
        ...

    def go(self, step: str) -> None:
        """Turn to a step of the path."""
        ...

    def uncover(self, step: str) -> None:
        """Turn to a step although a blind round covers it, until another is turned to."""
        ...

    def say(self, text: str, *, care: bool = False, matter: str = "") -> None:
        """Say something above the keys."""
        ...

    def settle(self, matter: str) -> None:
        """Put away what was said about a matter that is settled."""
        ...

    def turn_guide(self) -> None:
        """Want the notes of a guided first trial, or put them away."""
        ...

    def keys_changed(self) -> None:
        """Show the keys of the view anew."""
        ...

    def bring_in(self) -> None:
        """Bring in readings from a file."""
        ...

    def bring_in_file(self, path: Path) -> None:
        """Bring in this file."""
        ...

    def turn_to(self, trial_id: int) -> None:
        """Turn to another trial."""
        ...

    def take_in(
        self,
        draft: TrialDraft,
        said: str = "",
        failed: Callable[[LoamError], None] | None = None,
    ) -> None:
        """Write a trial that was read from a file, then turn to its ranking."""
        ...

    def go_back_to(self, copy: str) -> None:
        """Put an earlier copy of the workshop in its place."""
        ...

    def meter_of(self, measurand: str) -> Meter | None:
        """Return the meter that was joined in Read and reads a measurand."""
        ...

    def write_report(self, told: Asked) -> None:
        """Write a report of what is judged."""
        ...

    def write_out(self) -> None:
        """Write the trial out."""
        ...

    def set_text(self, percent: int) -> None:
        """Show all text at a size."""
        ...

    def build_again(self) -> None:
        """Build the views anew."""
        ...

    def turn_lights(self) -> None:
        """Turn to the other theme."""
        ...

    def may_leave(self, how: str) -> bool:
        """Tell whether nothing typed would be lost."""
        ...


@runtime_checkable
class CellView(Protocol):
    """A view that shows one cell."""

    def choose(self, cell_id: int) -> None:
        """Turn to a cell."""
        ...


@runtime_checkable
class PhaseView(Protocol):
    """A view that reads a phase, panel by panel."""

    def turn_phase(self, key: str) -> None:
        """Turn to what is read before work, unwiped or after."""
        ...

    def turn_panel(self, panel_id: int) -> None:
        """Turn to a panel."""
        ...


class View(QWidget):
    """One step of the path."""

    step = ""
    sometimes: ClassVar[tuple[tuple[str, str], ...]] = ()
    """Keys that work only at times, and what they do then: for the page of all keys."""

    @property
    def writes(self) -> str:
        """What is written out from here: "trial", or "kit" for the workshop's shelf."""
        return "trial"

    def __init__(self, shell: Shell) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.shell = shell
        self.session = shell.session

    def keys(self) -> list[Key]:
        """Return the keys that work here: key, words, what a click on them does."""
        return []

    def more_keys(self) -> list[Key]:
        """Return keys that work here too, but stand only in the list of all keys."""
        return []

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Do what the key is declared to do here."""
        if not perform(event, [*self.keys(), *self.more_keys()]):
            super().keyPressEvent(event)

    def pending(self) -> str:
        """Say what has been typed and not kept, in a sentence; "" when nothing would be lost."""
        for field in self.findChildren(Field):
            if field.refused and field.isVisibleTo(self):
                return f"“{field.text()[:40]}” is not kept: {field.error.text()}"
        return ""

    def picture(self) -> Picture | None:
        """Return what this view draws, to be printed or written to a file."""
        return None

    def take_picture(self, path: Path) -> bool:
        """Take a picture file that was dropped here; False where pictures have no place."""
        return False

    def table(self) -> list[list[str]]:
        """Return the table at hand, its heading first, to be copied."""
        return []

    def refresh(self, changes: Changes) -> None:
        """Show what changed."""

    def warm_up(self) -> bool:
        """Build one part more that has not been looked at yet; tell whether there was one."""
        return False

    def entered(self) -> None:
        """Take the keyboard when the view is turned to."""

    def act(self, command: Act, field: Field | None = None) -> bool:
        """Run a command; a refusal is said in place (or along the lower edge)."""
        try:
            self.session.run(command)
        except LoamError as error:
            if field is not None:
                field.complain(f"{error.what} {error.todo}".strip())
            else:
                self.shell.say(str(error), care=True)
            return False
        if field is not None:
            field.complain("")
        return True
