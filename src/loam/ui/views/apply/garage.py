"""The workshop's jobs as cars, and the sorts of vehicle that a new one may be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from loam.app.applying.at_hand import Held
from loam.core.units import percent
from loam.core.vehicle.adding import job_of
from loam.core.vehicle.events import Note
from loam.core.vehicle.job import Job
from loam.core.vehicle.shapes import SHAPES
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT, fitted
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL
from loam.ui.views.apply.car_drawing import draw_car


@dataclass(frozen=True)
class Card:
    """A card of the garage: a job, or a sort of vehicle for a new one."""

    title: str
    below: str
    job: Job
    id: int = 0
    shape: str = ""


def state_words(job: Job) -> str:
    """Say how far a job is."""
    if job.finished:
        return "finished"
    working = job.working
    done = sum(bool(p.done) for p in working)
    if done:
        return f"{done} of {len(working)} panels done"
    if job.taken:
        return f"{job.taken} is taken"
    if job.spots:
        return f"{len(job.spots)} test spot{'s' if len(job.spots) != 1 else ''}"
    read = len(job.surveyed)
    return f"{read} of {len(working)} panels surveyed" if read else "nothing read yet"


def cards_of(held: Sequence[Held]) -> list[Card]:
    """Return a card for every job, then one for every sort of vehicle."""
    jobs = [Card(row.name, state_words(job), job, row.id) for row, job in held]
    new = [
        Card(s.label, "a new job", job_of("", [Note("", "vehicle", {"shape": s.key})]), 0, s.key)
        for s in SHAPES
    ]
    return [*jobs, *new]


class Garage(Drawing):
    """``opened`` carries a job, ``begun`` the sort of a new vehicle."""

    called = "the workshop's vehicles"
    likes = (1000, 520)
    opened = pyqtSignal(int)
    begun = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("garage")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.cards: list[Card] = []
        self.at = 0
        self.setMinimumSize(400, 300)

    def show_cards(self, cards: list[Card], at: int = 0) -> None:
        """Show the cards and which one is marked."""
        self.cards = cards
        self.at = min(max(at, 0), max(len(cards) - 1, 0))
        self._tell()

    def _tell(self) -> None:
        card = self.cards[self.at] if self.cards else None
        self.setAccessibleDescription(f"{card.title}, {card.below}" if card is not None else "")
        self.update()

    def _across(self) -> int:
        return max(2, min(5, int(self.width() // look.px(220))))

    def _places(self) -> list[QRectF]:
        """Return where the cards lie: jobs first, the new ones below a line of their own."""
        across = self._across()
        jobs = sum(1 for c in self.cards if c.id)
        rows = -(-jobs // across) + -(-(len(self.cards) - jobs) // across)
        gap, head = 14.0, float(look.px(26))
        heads = head * (2 if jobs else 1)
        wide = (self.width() - gap * (across - 1)) / across
        high = min((self.height() - heads - gap * max(rows - 1, 0)) / max(rows, 1), wide * 0.72)
        found = []
        for i in range(len(self.cards)):
            own = i if i < jobs else i - jobs
            row = own // across + (-(-jobs // across) if i >= jobs else 0)
            top = head + row * (high + gap) + (head if i >= jobs and jobs else 0.0)
            found.append(QRectF(own % across * (wide + gap), top, wide, high))
        return found

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for i, box in enumerate(self._places()):
            if box.contains(event.position()):
                self.at = i
                self.choose()
                return

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.cards:
            return
        key = event.key()
        across = self._across()
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -across}
        steps[Qt.Key.Key_Down] = across
        if key in steps:
            self.at = min(max(self.at + steps[Qt.Key(key)], 0), len(self.cards) - 1)
            self._tell()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.choose()
        else:
            super().keyPressEvent(event)

    def choose(self) -> None:
        """Open the job that is marked, or begin the new one."""
        if not self.cards:
            return
        card = self.cards[self.at]
        if card.id:
            self.opened.emit(card.id)
        else:
            self.begun.emit(card.shape)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        places = self._places()
        jobs = sum(1 for c in self.cards if c.id)
        painter.setFont(look.words(BODY))
        painter.setPen(look.quiet)
        head = float(look.px(26))
        if jobs:
            painter.drawText(QRectF(0, 0, self.width(), head), LEFT, "Cars of this workshop")
        if places[jobs:]:
            top = places[jobs].top() - head
            painter.drawText(QRectF(0, top, self.width(), head), LEFT, "A new one: what is it?")
        for i, (card, box) in enumerate(zip(self.cards, places, strict=True)):
            self._card(painter, box, card, here=i == self.at)

    def _card(self, painter: QPainter, box: QRectF, card: Card, *, here: bool) -> None:
        painter.setPen(QPen(look.strong, 2) if here and self.hasFocus() else Qt.PenStyle.NoPen)
        painter.setBrush(look.sheet)
        painter.drawRect(box.adjusted(1, 1, -1, -1))
        foot = float(look.px(44 if card.id else 24))
        car = QRectF(box.left() + 12, box.top() + 10, box.width() - 24, box.height() - foot - 16)
        painter.save()
        if not card.id:
            painter.setOpacity(0.55)
        draw_car(painter, car, card.job, {}, bare=True)
        painter.restore()
        painter.setPen(look.ink)
        painter.setFont(look.words(LEAD - 1, bold=bool(card.id)))
        row = QRectF(box.left() + 12, box.bottom() - foot, box.width() - 24, look.px(22))
        fitted(painter, row, card.title)
        if card.id:
            painter.setPen(look.quiet)
            painter.setFont(look.words(SMALL))
            likely = max(card.job.chances.items(), key=lambda item: item[1])
            hard = f" · {likely[0]} {percent(likely[1])}" if card.job.known else ""
            low = QRectF(row.left(), row.bottom(), row.width(), look.px(18))
            fitted(painter, low, card.below + hard)
