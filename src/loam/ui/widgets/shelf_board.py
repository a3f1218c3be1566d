"""The shelf as boards on which things stand, drawn; chosen by mouse or arrows."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QScrollArea, QSizePolicy, QWidget

from loam.app.drawings.board import Boards, stand
from loam.app.presenters.shelf import OnShelf
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.shelf_things import draw_single, draw_standing

_MOVES = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}
_HELD = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
_MOST_SINGLES = 9
_HIGH, _WORDS = 196, 76
_SHARES = (1.5, 1.25, 1.0)


class ShelfBoard(QWidget):
    """``chosen`` carries the item of the thing that is turned to; ``opened`` asks for its facts."""

    chosen = pyqtSignal(int)
    opened = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.things: Sequence[OnShelf] = ()
        self.number = 0
        self.boards = Boards(1, (), 0.0)
        self.high = look.px(_HIGH)
        self._typed = ""
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(900)
        self._pause.timeout.connect(self._forget)
        self.setObjectName("shelf_board")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        look.changed.connect(self.update)

    def show_things(self, things: Sequence[OnShelf], item_id: int | None) -> None:
        """Show what stands on the shelf, and which of it is turned to."""
        self.things = things
        ids = [t.item_id for t in things]
        self.number = ids.index(item_id) if item_id in ids else 0
        self._lay()
        self._tell()

    def _lay(self) -> None:
        room = self.parentWidget()
        high = room.height() if room is not None else 0
        for share in _SHARES:
            self.high = look.px(_HIGH * share)
            least = look.px(150 * share)
            self.boards = stand(len(self.things), float(self.width()), least, self.high)
            if self.boards.height <= high:
                break
        self.setMinimumHeight(int(self.boards.height) + 4)
        self.update()

    def _tell(self) -> None:
        thing = self.thing
        self.setAccessibleName("the shelf")
        self.setAccessibleDescription(f"{thing.name}, {thing.below}" if thing is not None else "")

    @property
    def thing(self) -> OnShelf | None:
        """The thing that is turned to."""
        return self.things[self.number] if self.number < len(self.things) else None

    def place_of(self, number: int) -> QPointF:
        """Return the middle of a thing, for pointing at it."""
        return QPointF(*self.boards.places[number].middle)

    def sizeHint(self) -> QSize:
        return QSize(560, max(int(self.boards.height) + 4, 120))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._lay()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        found = self.boards.at(event.position().x(), event.position().y())
        if found is not None:
            self._turn(found)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.opened.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = Qt.Key(event.key())
        if key in _MOVES and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._turn(self.boards.beside(self.number, *_MOVES[key]))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.things:
            self.opened.emit()
        elif event.text().isalnum() and not event.modifiers() & _HELD:
            self._look_for(event.text())
        else:
            super().keyPressEvent(event)

    def _look_for(self, text: str) -> None:
        """Turn to the next thing whose name begins with what is typed without a pause."""
        self._typed += text.casefold()
        self._pause.start()
        names = [t.name.casefold() for t in self.things]
        start = self.number + (len(self._typed) == 1)
        for i in range(len(names)):
            if names[(start + i) % len(names)].startswith(self._typed):
                self._turn((start + i) % len(names))
                return

    def _forget(self) -> None:
        self._typed = ""

    def _turn(self, number: int) -> None:
        if number >= len(self.things):
            return
        self.number = number
        place = self.boards.places[number]
        parent = self.parentWidget()
        scroll = parent.parentWidget() if parent is not None else None
        if isinstance(scroll, QScrollArea):
            scroll.ensureVisible(int(place.middle[0]), int(place.middle[1]), 40, int(place.height))
        self._tell()
        self.update()
        self.chosen.emit(self.things[number].item_id)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        words = look.px(_WORDS)
        for top in sorted({place.y for place in self.boards.places}):
            foot = top + self.high - words
            painter.fillRect(QRectF(0, foot, self.width(), 5), look.faint)
        for number, place in enumerate(self.boards.places):
            box = QRectF(place.x, place.y, place.width, place.height)
            if event is None or event.rect().intersects(box.toAlignedRect()):
                self._draw(painter, number, box, words)

    def _draw(self, painter: QPainter, number: int, box: QRectF, words: float) -> None:
        thing = self.things[number]
        foot = box.bottom() - words
        chosen = number == self.number
        if chosen:
            back = box.adjusted(6, 4, -6, -6)
            painter.fillRect(back, look.sheet)
            painter.setPen(QPen(look.strong if self.hasFocus() else look.line, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(back)
            painter.fillRect(QRectF(back.left(), foot, back.width(), 5), look.faint)
        area = QRectF(box.left() + 16, box.top() + 14, box.width() - 32, foot - box.top() - 14)
        draw_standing(painter, area, thing)
        self._singles(painter, thing, area)
        line = QRectF(box.left() + 12, foot + 8, box.width() - 24, look.px(20))
        middle = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
        painter.setFont(look.words(BODY, bold=True))
        painter.setPen(look.ink)
        cut = Qt.TextElideMode.ElideRight
        name = painter.fontMetrics().elidedText(thing.name, cut, int(line.width()))
        painter.drawText(line, middle, name)
        painter.setFont(look.words(SMALL))
        painter.setPen(look.quiet)
        below = QRectF(line.left(), line.bottom() + 1, line.width(), look.px(33))
        painter.drawText(below, int(middle | Qt.TextFlag.TextWordWrap), thing.below)

    def _singles(self, painter: QPainter, thing: OnShelf, area: QRectF) -> None:
        """Draw the single pads of a kind in a row above it."""
        shown = thing.singles[:_MOST_SINGLES]
        wide, gap = 13.0, 4.0
        left = area.center().x() - (len(shown) * (wide + gap) - gap) / 2
        for k, single in enumerate(shown):
            box = QRectF(left + k * (wide + gap), area.bottom() - 0.43 * self.high, wide, 8)
            draw_single(painter, box, single.life)
