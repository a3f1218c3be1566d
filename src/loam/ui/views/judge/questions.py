"""The questions that Judge answers: a row of them, each with its letter, each a page."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import Any, Protocol, cast

from PyQt6.QtWidgets import QStackedWidget, QWidget

from loam.app.questions import questions
from loam.app.questions.question import Question
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

    @property
    def letter(self) -> str:
        """Its key."""
        ...

    def begin(self) -> None:
        """Show the answer, or look for it."""
        ...

    def picture(self) -> Picture | None:
        """Return what it draws."""
        ...


def on_screen(question: Question, module: str) -> Any:
    """Return a module of a question's folder beside this: its page, or what it paints."""
    return import_module(f"{__package__}.{question.folder}.{module}")


class Questions(Chips):
    """Turns to the page of a question, which is built when it is asked first."""

    def __init__(
        self, stack: QStackedWidget, owner: object, to_ranking: Callable[[], object]
    ) -> None:
        super().__init__("", "judge_questions", [], flows=True)
        self.stack, self.owner, self.to_ranking = stack, owner, to_ranking
        self.offers = {q.letter: q for q in questions()}
        self.by_letter: dict[str, Page] = {}
        named = [(q.letter, f"{q.letter}  {q.label}") for q in self.offers.values()]
        self.set_choices([(RANKING, "ranking"), *named])
        self.set_value(RANKING)
        self.chosen.connect(self.open)
        stack.currentChanged.connect(lambda _i: self.follow())

    @property
    def page(self) -> Page | None:
        """The page of a question that is shown; None at the ranking and what lies behind it."""
        shown = self.stack.currentWidget()
        return next((p for p in self.by_letter.values() if cast(object, p) is shown), None)

    def build(self, letter: str) -> QWidget:
        """Return the page of a question."""
        if letter not in self.by_letter:
            self.by_letter[letter] = on_screen(self.offers[letter], "page").PAGE(self.owner)
        page = self.by_letter[letter]
        assert isinstance(page, QWidget)
        if self.stack.indexOf(page) < 0:
            self.stack.addWidget(page)
        return page

    def of(self, folder: str) -> Any:
        """Return the page of a question by its folder."""
        letter = next(q.letter for q in self.offers.values() if q.folder == folder)
        return self.build(letter)

    def build_next(self) -> bool:
        """Build one page more before it is asked for; tell whether there was one."""
        letter = next((at for at in self.offers if at not in self.by_letter), None)
        if letter is not None:
            self.build(letter)
        return letter is not None

    def open(self, letter: str) -> None:
        """Turn to a question."""
        if letter not in self.offers:
            self.to_ranking()
            return
        page = self.build(letter)
        self.stack.setCurrentWidget(page)
        self.by_letter[letter].begin()

    def say(self, letter: str, label: str = "") -> None:
        """Let a chip say something else than its question; "" for that again."""
        own = self.offers[letter]
        self.buttons[letter].setText(f"{letter}  {label or own.label}")

    def again(self) -> None:
        """What the answers rest on has changed: ask again."""
        if self.page is not None:
            self.page.begin()

    def advised(self) -> None:
        """What is advised has come: ask again what starts from it."""
        if self.page is not None and self.offers[self.page.letter].by_advice:
            self.page.begin()

    def follow(self) -> None:
        """Press the chip of what is shown."""
        self.set_value(self.page.letter if self.page is not None else RANKING)
