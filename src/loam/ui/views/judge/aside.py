"""What is asked beside the ranking: a page of Judge with one sentence and one drawing."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.commands import Act
from loam.app.presenters.ranking import RankingPicture
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.ui.picture_out import Picture
from loam.ui.views.base import Key, Shell
from loam.ui.widgets.drawn import Drawn
from loam.ui.widgets.fields import Chips, unbroken, words

Work = Callable[[], Any]


class Owner(Protocol):
    """What a page asks of the view."""

    session: Session
    shell: Shell
    rankings: dict[str, RankingPicture]
    refusals: dict[str, str]
    kinds: Chips
    measurand: str
    left_out: bool

    def act(self, command: Act) -> bool:
        """Run a command."""
        ...

    def to_ranking(self) -> None:
        """Go back to the ranking."""
        ...

    def next_kind(self) -> None:
        """Judge by the next measurand."""
        ...


class Aside(QWidget):
    """Asks on the worker, and shows the answer; what was answered once is kept while it holds."""

    name, letter, label = "", "", ""
    by_measurand = True
    """Whether it is about the measurand at hand, so that M turns to the next."""
    teaches = ""
    """What stands here, said while there is nothing to show."""

    def __init__(self, owner: Owner) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.owner = owner
        self.found: Any = None
        self._of: tuple[object, ...] = ()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 4, 0, 0)
        box.setSpacing(6)
        self.lead = words("", "lead", wrap=True)
        self.lead.setObjectName(f"{self.name}_lead")
        box.addWidget(self.lead)
        self.drawing = Drawn(self.name, self.label)
        self.drawing.pressed.connect(self.pressed)
        box.addWidget(self.drawing, 1)
        self.small = words("", "small", wrap=True)
        box.addWidget(self.small)

    def ask(self) -> Work | str:
        """Return what finds the answer on the worker, or why there is none to find."""
        raise NotImplementedError

    def rests_on(self) -> tuple[object, ...]:
        """Return what the answer rests on: as long as that is the same, it is not asked again."""
        return (*self.owner.rankings.values(), self.owner.measurand)

    def show_found(self) -> None:
        """Show what was found: the sentence, the drawing and what is small."""
        raise NotImplementedError

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw what was found, and return its spots."""
        raise NotImplementedError

    def begin(self) -> None:
        """Show the answer, or look for it."""
        self.setFocus()
        own = self.rests_on()
        if self.found is not None and _same(own, self._of):
            self._present()
            return
        self.found, self._of = None, own
        self.drawing.show_drawing(None)
        self.small.setText("")
        self.owner.shell.keys_changed()
        work = self.ask()
        if isinstance(work, str):
            self.lead.setText(unbroken(f"{self.teaches} {work}".strip()))
            return
        self.lead.setText("Working it out …")
        self.owner.shell.jobs.start(self.name, work, self._came, self._refused)

    def _came(self, found: object) -> None:
        if _same(self.rests_on(), self._of):
            self.found = found
            self._present()
        elif self.isVisible():
            self.begin()

    def _present(self) -> None:
        self.show_found()
        self.drawing.show_drawing(self.draw, self.lead.text())
        self.owner.shell.keys_changed()

    def _refused(self, error: LoamError) -> None:
        self.lead.setText(unbroken(f"{self.teaches} {error.what} {error.todo}".strip()))

    def lack(self, *measurands: str) -> str:
        """Say why a measurand is not judged yet; "" when all are."""
        for key in measurands:
            if key not in self.owner.rankings:
                return self.owner.refusals.get(key, "Judging the readings …")
        return ""

    def pressed(self, key: str) -> None:
        """Do what a press on a spot means."""

    def own_keys(self) -> list[Key]:
        """Return the keys of what was found."""
        return []

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        turn: list[Key] = []
        if self.by_measurand and len(self.owner.kinds.buttons) > 1:
            turn = [("M", "next measurand", self.owner.next_kind)]
        own = self.own_keys() if self.found is not None else []
        return [*own, *turn, ("Esc", "ranking", self.owner.to_ranking)]

    def table(self) -> list[list[str]]:
        """Return what was found as a table, its heading first."""
        made = getattr(self.found, "table", None)
        return made() if made is not None else []

    def picture(self) -> Picture | None:
        """Return the drawing, to be printed or written."""
        trial = self.owner.session.trial
        if self.found is None or trial is None:
            return None
        wide, high = max(self.drawing.width(), 900), max(self.drawing.height(), 420)
        told = f"{self.lead.text()}\n{self.small.text()}"
        return Picture(
            f"{trial.name}, {self.label}", trial.question or trial.name, told, float(wide),
            float(high), self.draw,
        )  # fmt: skip

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        name = event.text().upper()
        if event.key() == Qt.Key.Key_Escape or name == self.letter:
            self.owner.to_ranking()
        elif name == "M" and self.by_measurand:
            self.owner.next_kind()
        elif not (self.found is not None and self.typed(event)):
            super().keyPressEvent(event)

    def typed(self, event: QKeyEvent) -> bool:
        """Do what a key means here; False when it means nothing."""
        return False


def _same(a: tuple[object, ...], b: tuple[object, ...]) -> bool:
    """Whether two tuples hold the very same things (rankings are large: they are not compared)."""
    return len(a) == len(b) and all(
        x is y or (isinstance(x, str | int | float | bool) and x == y)
        for x, y in zip(a, b, strict=True)
    )
