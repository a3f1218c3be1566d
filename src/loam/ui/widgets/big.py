"""Large words for two metres: a head, a sentence, and pieces of tape to press by number."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen

from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT
from loam.ui.theme import look
from loam.ui.widgets.tape import paint_tape


def fitted(want: int, room: float, share: float, least: int = 13) -> int:
    """Return the size of text, before scaling, that fills a share of a height at most."""
    return max(least, min(want, int(room * share / look.scale)))


_WRAP = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)


@dataclass(frozen=True)
class Piece:
    """A piece of tape: its key, what it is, what it says, and whether it is the one chosen."""

    key: str
    label: str
    value: str
    chosen: bool = False


@dataclass
class Shown:
    """What a mode shows on a board."""

    head: str
    sentence: str
    pieces: list[Piece] = field(default_factory=list)
    foot: str = ""
    care: bool = False
    lines: list[tuple[str, str, str]] = field(default_factory=list)
    marks: bool = False


class BigBoard(Drawing):
    """A head, a sentence and pieces of tape, one below the other; ``pressed`` carries a key."""

    likes = (560, 460)

    pressed = pyqtSignal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName(name)
        self.head, self.sentence, self.foot = "", "", ""
        self.care, self.most = False, 64
        self.pieces: Sequence[Piece] = ()
        self._boxes: list[tuple[QRectF, str]] = []
        self.setMinimumSize(300, 240)

    def show_words(
        self,
        head: str,
        sentence: str,
        pieces: Sequence[Piece] = (),
        foot: str = "",
        *,
        care: bool = False,
        most: int = 64,
    ) -> None:
        """Show what is to be done; ``foot`` is small print, in care when that is meant.

        ``most`` is the size of the head, in pixels: 64 is read from two metres.
        """
        self.most = most
        self.head, self.sentence, self.pieces, self.foot = head, sentence, pieces, foot
        self.care = care
        self.setAccessibleName(head)
        told = [f"{p.key}: {p.label} {p.value}{', chosen' if p.chosen else ''}" for p in pieces]
        self.setAccessibleDescription(". ".join(part for part in [sentence, *told, foot] if part))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(look.ink)
        size = self.most
        while size > 20 and look.width(self.head, size, bold=True) > self.width():
            size -= 2
        painter.setFont(look.words(size, bold=True))
        y = 0.0
        if self.head:
            y = look.px(size) * 1.25
            painter.drawText(QRectF(0, 0, self.width(), y), LEFT, self.head)
            painter.setFont(look.words(24 if self.most > 40 else 18))
            y = self._wrapped(painter, self.sentence, y + 8) + 14
        self._boxes.clear()
        foot_high = 0.0
        if self.foot:
            painter.setFont(look.words(17))
            foot_high = self._height(painter, self.foot) + 10
        room = self.height() - y - foot_high
        each = min(look.px(86 if self.most > 40 else 58), room / max(len(self.pieces), 1))
        for i, piece in enumerate(self.pieces):
            self._piece(painter, QRectF(0, y + i * each, self.width(), each - 8), piece, i)
        y += each * len(self.pieces) + 4
        if self.foot:
            painter.setFont(look.words(17))
            painter.setPen(look.care if self.care else look.quiet)
            self._wrapped(painter, self.foot, y + 6)

    def _height(self, painter: QPainter, text: str) -> float:
        box = QRectF(0, 0, self.width(), 4000)
        return painter.boundingRect(box, _WRAP, text).height()

    def _wrapped(self, painter: QPainter, text: str, top: float) -> float:
        if not text:
            return top
        high = self._height(painter, text)
        painter.drawText(QRectF(0, top, self.width(), high + 2), _WRAP, text)
        return top + high

    def _piece(self, painter: QPainter, box: QRectF, piece: Piece, seed: int) -> None:
        self._boxes.append((box, piece.key))
        size = fitted(30, box.height(), 0.6)
        painter.setFont(look.figures(size, bold=True))
        wide = max(look.px(56), look.width(piece.key, size, bold=True, figures=True) + 22)
        tab = QRectF(box.left(), box.top(), wide, box.height())
        paint_tape(painter, tab, seed=seed + 3)
        painter.setPen(look.on_tape)
        painter.drawText(tab, Qt.AlignmentFlag.AlignCenter, piece.key)
        x = tab.right() + 16
        painter.setPen(look.quiet)
        painter.setFont(look.words(fitted(17, box.height(), 0.36)))
        if piece.label:
            painter.drawText(QRectF(x, box.top(), 200, box.height()), LEFT, piece.label)
            x += look.px(118)
        painter.setPen(look.ink)
        big = fitted(38 if self.most > 40 else 24, box.height(), 0.58, 15)
        room = QRectF(x, box.top(), box.right() - x, box.height())
        while big > 17 and look.width(piece.value, big, bold=piece.chosen) > room.width():
            big -= 1
        painter.setFont(look.words(big, bold=piece.chosen))
        value = painter.fontMetrics().elidedText(
            piece.value, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, LEFT, value)
        if piece.chosen:
            end = x + painter.fontMetrics().horizontalAdvance(value)
            painter.setPen(QPen(look.strong, 3))
            y = box.center().y() + look.px(big) * 0.62
            painter.drawLine(QPointF(x, y), QPointF(end, y))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        key = next((k for box, k in self._boxes if box.contains(event.position())), "")
        if key:
            self.pressed.emit(key)


class GateStrip(Drawing):
    """All gates of a panel: done ones are taped over, those left out are torn off, one is now."""

    called = "how far the panel is prepared"
    likes = (360, 360)

    def __init__(self) -> None:
        super().__init__()
        self.lines: Sequence[tuple[str, str, str]] = ()
        self.setObjectName("gate_strip")
        self.setMinimumSize(200, 160)

    def show_lines(self, lines: Sequence[tuple[str, str, str]]) -> None:
        """Show the gates: name, how it stands, who and when or why."""
        self.lines = lines
        told = [": ".join(filter(None, (name, how or "to come", who))) for name, how, who in lines]
        self.setAccessibleDescription("; ".join(told))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self.lines:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        each = min(look.px(64), self.height() / len(self.lines))
        for i, (name, how, who) in enumerate(self.lines):
            box = QRectF(0, i * each, self.width(), each - 5)
            if how == "done":
                paint_tape(painter, box, seed=i + 2)
            elif how == "left out":
                paint_tape(painter, QRectF(0, box.top(), 34, box.height()), seed=i + 2, depth=12)
            else:
                painter.setPen(QPen(look.line, 1))
                painter.drawLine(box.bottomLeft(), box.bottomRight())
            if how == "now":
                paint_tape(painter, QRectF(0, box.top(), 22, box.height()), seed=i + 2)
            inside = box.adjusted(46 if how in ("left out", "now") else 14, 0, -20, 0)
            painter.setPen(look.on_tape if how == "done" else look.ink if how else look.quiet)
            painter.setFont(look.words(fitted(22, each, 0.44, 12), bold=bool(how)))
            painter.drawText(inside, LEFT, name)
            used = painter.fontMetrics().horizontalAdvance(name) + 14
            note = f"left out: {who}" if how == "left out" else who
            painter.setFont(look.words(fitted(15, each, 0.36, 11)))
            if how == "left out":
                painter.setPen(look.care)
            room = inside.adjusted(used, 0, 0, 0)
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            cut = painter.fontMetrics().elidedText(
                note, Qt.TextElideMode.ElideRight, int(max(room.width(), 0))
            )
            painter.drawText(room, right, cut)
