"""What every view is and has."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Protocol

from PyQt6.QtWidgets import QWidget

from loam.app.changes import Changes
from loam.app.commands import Act
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.store.draft import TrialDraft
from loam.ui.widgets.fields import Field
from loam.ui.worker import Jobs

Key = tuple[str, str, Callable[[], object] | None]


class Shell(Protocol):
    """What a view asks of the window."""

    session: Session
    jobs: Jobs

    def go(self, step: str) -> None:
        """Turn to a step of the path."""
        ...

    def say(self, text: str, *, care: bool = False) -> None:
        """Say something along the lower edge."""
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

    def write_out(self) -> None:
        """Write the trial out as a Data Package."""
        ...


class View(QWidget):
    """One step of the path."""

    step = ""

    def __init__(self, shell: Shell) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.shell = shell
        self.session = shell.session

    def keys(self) -> list[Key]:
        """Return the keys that work here: key, words, what a click on them does."""
        return []

    def refresh(self, changes: Changes) -> None:
        """Show what changed."""

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
