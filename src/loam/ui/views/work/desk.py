"""What the board's modes ask of the view that they stand in."""

from __future__ import annotations

from typing import Protocol

from loam.app.commands import Act
from loam.app.presenters.working import Working
from loam.app.session import Session
from loam.ui.views.base import Shell
from loam.ui.views.work.ask_line import AskLine
from loam.ui.views.work.bench import Bench
from loam.ui.views.work.runner import Runner


class Desk(Protocol):
    """The bench at hand and its person, a line to type on, and ways on."""

    session: Session
    shell: Shell
    runner: Runner
    words: AskLine

    @property
    def bench(self) -> Bench:
        """The bench at hand."""
        ...

    @property
    def state(self) -> Working | None:
        """What is worked there."""
        ...

    @property
    def worker(self) -> str:
        """Who works there."""
        ...

    def act(self, command: Act) -> bool:
        """Run a command; False when it was refused."""
        ...

    def show_board(self) -> None:
        """Show what the board asks."""
        ...

    def show_all(self) -> None:
        """Show the bench at hand."""
        ...

    def leave_more(self) -> None:
        """Leave the board of more marks."""
        ...

    def mark(self, key: str) -> None:
        """Mark what went wrong on this cell."""
        ...

    def next_cell(self) -> None:
        """Turn to what is next."""
        ...

    def open_words(self) -> None:
        """Say in words what happened."""
        ...

    def ask_heat(self) -> None:
        """Ask how warm the panel is."""
        ...

    def mark_number(self, number: int) -> None:
        """Mark by number."""
        ...

    def leave_loss(self) -> None:
        """Leave what was lost."""
        ...
