"""What is asked beside the ranking: a page of Judge with one sentence and one drawing."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QHideEvent, QKeyEvent, QPainter
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.questions.question import Question
from loam.app.questions.source import Sources
from loam.core.errors import LoamError
from loam.core.units import percent
from loam.core.words.verdict import short_sentences
from loam.ui.picture_out import Picture
from loam.ui.views.base import Key
from loam.ui.views.judge.owner import Owner
from loam.ui.widgets.drawn import Drawn
from loam.ui.widgets.fields import unbroken, words

Work = Callable[[], Any]


class Aside(QWidget):
    """Asks on the worker, and shows the answer; what was answered once is kept while it holds."""

    question: Question
    by_measurand = True
    """Whether it is about the measurand at hand, so that M turns to the next."""
    by_arrows = True
    """Whether up and down choose a figure, and Enter opens what it rests on."""
    teaches = ""
    """What stands here, said while there is nothing to show."""

    def __init__(self, owner: Owner) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.owner = owner
        self.found: Any = None
        self._of: tuple[object, ...] = ()
        self._then: Callable[[], None] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 4, 0, 0)
        box.setSpacing(6)
        self.lead = words("", "lead", wrap=True)
        self.lead.setObjectName(f"{self.name}_lead")
        box.addWidget(self.lead)
        self.drawing = Drawn(self.name, self.label)
        self.drawing.pressed.connect(self.pressed)
        self.drawing.opened.connect(self.open_figure)
        box.addWidget(self.drawing, 1)
        self.small = words("", "small", wrap=True)
        box.addWidget(self.small)
        owner.shell.jobs.progress.connect(self._told)

    def _told(self, job: str, share: float) -> None:
        if job == self.name and self.found is None:
            self.lead.setText(unbroken(f"Working it out … {percent(share)}; Esc leaves it."))

    def hideEvent(self, event: QHideEvent | None) -> None:
        """Nobody waits for the answer any more: the worker is free for what is asked next."""
        super().hideEvent(event)
        left = event is not None and not event.spontaneous()
        if left and self.found is None and self._then is None:
            self.owner.shell.jobs.cancel(self.name)

    @property
    def name(self) -> str:
        """What its job is called."""
        return self.question.name

    @property
    def letter(self) -> str:
        """Its key."""
        return self.question.letter

    @property
    def label(self) -> str:
        """Its words in the row of questions."""
        return self.question.label

    def ask(self) -> Work | str:
        """Return what finds the answer on the worker, or why there is none to find."""
        asked = self.owner.asked()
        if asked is None:
            return self.lack(self.owner.measurand)
        find, tell = self.question.finder().answer, self.owner.shell.jobs.teller(self.name)
        return lambda: find(asked, tell)

    def rests_on(self) -> tuple[object, ...]:
        """Return what the answer rests on: as long as that is the same, it is not asked again."""
        return (*self.owner.rankings.values(), self.owner.measurand)

    def show_found(self) -> None:
        """Show what was found: the sentence, the drawing and what is small."""
        raise NotImplementedError

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw what was found, and return its spots."""
        raise NotImplementedError

    def sources(self) -> Sources:
        """Return where the figures come from, by the key of their spot."""
        return {}

    def begin(self) -> None:
        """Show the answer, or look for it."""
        self.setFocus()
        self._answer()

    def renew(self, then: Callable[[], None]) -> None:
        """Work the answer out again, out of sight if need be, then go on."""
        self._then = then
        self._answer()

    def _answer(self) -> None:
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
        elif self.isVisible() or self._then is not None:
            self._answer()

    def _present(self) -> None:
        self.show_found()
        for label in (self.lead, self.small):
            label.setText(short_sentences(label.text()))
        if self.drawing.chosen not in self.sources():
            self.drawing.choose("")
        self.drawing.show_drawing(self.draw, self.lead.text())
        self.owner.shell.keys_changed()
        then, self._then = self._then, None
        if then is not None:
            then()

    def _refused(self, error: LoamError) -> None:
        self.lead.setText(unbroken(f"{self.teaches} {error.what} {error.todo}".strip()))

    def lack(self, *measurands: str) -> str:
        """Say why a measurand is not judged yet; "" when all are."""
        for key in measurands:
            if key not in self.owner.rankings:
                return self.owner.refusals.get(key, "Judging the readings …")
        return ""

    def pressed(self, key: str) -> None:
        """Choose the figure that was pressed; pressed again, open it."""
        if key == self.drawing.chosen:
            self.open_figure(key)
        elif key in self.sources():
            self.drawing.choose(key)
            self.setFocus()

    def step_figure(self, step: int) -> None:
        """Choose the next figure, or the one before."""
        keys = list(self.sources())
        if keys:
            at = keys.index(self.drawing.chosen) + step if self.drawing.chosen in keys else 0
            self.drawing.choose(keys[at % len(keys)])

    def open_figure(self, key: str = "") -> None:
        """Show the readings behind the chosen figure; behind the first where none is chosen."""
        keys = self.sources()
        if not keys:
            return
        own = key or self.drawing.chosen
        own = own if own in keys else next(iter(keys))
        self.drawing.choose(own)
        self.owner.trace(self, own)

    def own_keys(self) -> list[Key]:
        """Return the keys of what was found."""
        return []

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        turn: list[Key] = []
        if self.by_measurand and len(self.owner.kinds.buttons) > 1:
            turn = [("M", "next measurement", self.owner.next_kind)]
        own = self.own_keys() if self.found is not None else []
        if self.by_arrows and self.found is not None and self.sources():
            own += [("↑ ↓", "a figure", None), ("Enter", "readings behind it", self.open_figure)]
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
            f"{trial.name}, {self.label}",
            trial.question or trial.name,
            told,
            float(wide),
            float(high),
            self.draw,
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        name = event.text().upper()
        if event.key() == Qt.Key.Key_Escape or name == self.letter:
            self.owner.to_ranking()
        elif name == "M" and self.by_measurand:
            self.owner.next_kind()
        elif self.found is None or not (self._figure_key(event.key()) or self.typed(event)):
            super().keyPressEvent(event)

    def _figure_key(self, key: int) -> bool:
        """Choose a figure, or open what it rests on; False for any other key."""
        if not self.by_arrows:
            return False
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.step_figure(1 if key == Qt.Key.Key_Down else -1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.open_figure()
        else:
            return False
        return True

    def typed(self, event: QKeyEvent) -> bool:
        """Do what a key means here; False when it means nothing."""
        return False


def _same(a: tuple[object, ...], b: tuple[object, ...]) -> bool:
    """Whether two tuples hold the very same things (rankings are large: they are not compared)."""
    return len(a) == len(b) and all(
        x is y or (isinstance(x, str | int | float | bool) and x == y)
        for x, y in zip(a, b, strict=True)
    )
