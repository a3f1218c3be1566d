"""The questions that Judge answers: a row of them, each with its letter, each a page."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

from PyQt6.QtWidgets import QStackedWidget, QWidget

from loam.ui.picture_out import Picture
from loam.ui.views.base import Key
from loam.ui.widgets.fields import Chips

RANKING = "Esc"


class Answering(Protocol):
    """What stands in place of the ranking."""

    def keys(self) -> list[Key]:
        """Return its keys."""
        ...

    def table(self) -> list[list[str]]:
        """Return what it shows as a table."""
        ...


class Page(Answering, Protocol):
    """A page of Judge beside the ranking."""

    letter: str
    label: str

    def begin(self) -> None:
        """Show the answer, or look for it."""
        ...

    def picture(self) -> Picture | None:
        """Return what it draws."""
        ...


class Questions(Chips):
    """Turns to the page of a question."""

    def __init__(
        self, stack: QStackedWidget, pages: Sequence[Page], to_ranking: Callable[[], object]
    ) -> None:
        super().__init__("", "judge_questions", [])
        self.stack, self.to_ranking = stack, to_ranking
        self.by_letter = {page.letter: page for page in pages}
        for page in pages:
            assert isinstance(page, QWidget)
            stack.addWidget(page)
        named = [(page.letter, f"{page.letter}  {page.label}") for page in pages]
        self.set_choices([(RANKING, "ranking"), *named])
        self.set_value(RANKING)
        self.chosen.connect(self.open)
        stack.currentChanged.connect(lambda _i: self.follow())

    @property
    def page(self) -> Page | None:
        """The page of a question that is shown; None at the ranking and what lies behind it."""
        shown = self.stack.currentWidget()
        return next((p for p in self.by_letter.values() if p is shown), None)

    def open(self, letter: str) -> None:
        """Turn to a question."""
        page = self.by_letter.get(letter)
        if page is None:
            self.to_ranking()
            return
        assert isinstance(page, QWidget)
        self.stack.setCurrentWidget(page)
        page.begin()

    def again(self) -> None:
        """What the answers rest on has changed: ask again."""
        if self.page is not None:
            self.page.begin()

    def follow(self) -> None:
        """Press the chip of what is shown."""
        self.set_value(self.page.letter if self.page is not None else RANKING)
