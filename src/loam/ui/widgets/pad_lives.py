"""The single pads of a kind: each with its life, to be handled one by one."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from loam.app.presenters.shelf import Single, life_words
from loam.core.kit.facts import RETIRED
from loam.core.kit.life import BACK, RETIRE, WASHED, WORKED
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.shelf_things import draw_single

_ROW = 40
_KEYS = {Qt.Key.Key_S: WORKED, Qt.Key.Key_W: WASHED}


class PadLives(Drawing):
    """``happened`` carries a pad's item and what happened to it; S, W and R on the keyboard."""

    called = "single pads"
    grows = (True, False)

    happened = pyqtSignal(int, str)
    turned = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.pads: Sequence[Single] = ()
        self.number = 0
        self.setObjectName("pad_lives")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    @property
    def pad(self) -> Single | None:
        """The pad that is turned to."""
        return self.pads[self.number] if self.number < len(self.pads) else None

    def show_pads(self, pads: Sequence[Single]) -> None:
        """Show the pads of a kind."""
        self.pads = pads
        self.number = min(self.number, max(len(pads) - 1, 0))
        self.setVisible(bool(pads))
        self.setFixedHeight(look.px(_ROW) * len(pads) + 2)
        self._tell()
        self.update()

    def _tell(self) -> None:
        pad = self.pad
        self.setAccessibleDescription(f"{pad.name}: {life_words(pad)}" if pad is not None else "")

    def sizeHint(self) -> QSize:
        return QSize(240, look.px(_ROW) * len(self.pads) + 2)

    def turn(self, number: int) -> None:
        """Turn to a pad."""
        self.number = max(0, min(number, len(self.pads) - 1))
        self._tell()
        self.update()
        self.turned.emit()

    def happen(self, event: str) -> None:
        """Let something happen to the pad that is turned to."""
        if self.pad is not None:
            self.happened.emit(self.pad.item_id, event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.turn(int(event.position().y() // look.px(_ROW)))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = Qt.Key(event.key())
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier or self.pad is None:
            super().keyPressEvent(event)
        elif key in steps:
            self.turn(self.number + steps[key])
        elif key in _KEYS:
            self.happen(_KEYS[key])
        elif key == Qt.Key.Key_R:
            self.happen(BACK if self.pad.life.state == RETIRED else RETIRE)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        height = look.px(_ROW)
        for i, pad in enumerate(self.pads):
            row = QRectF(0, i * height, self.width(), height)
            if i == self.number:
                painter.fillRect(row, look.ground)
                painter.fillRect(QRectF(0, row.top(), 3, height), look.strong)
                if self.hasFocus():
                    painter.setPen(QPen(look.strong, 2))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawRect(row.adjusted(1, 1, -1, -1))
            draw_single(painter, QRectF(12, row.top() + height * 0.3, 30, height * 0.4), pad.life)
            self._words(painter, row.adjusted(54, 2, -6, -2), pad)

    def _words(self, painter: QPainter, box: QRectF, pad: Single) -> None:
        upper = QRectF(box.left(), box.top(), box.width(), box.height() / 2)
        lower = upper.translated(0, box.height() / 2)
        flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.setFont(look.words(BODY, bold=True))
        painter.setPen(look.quiet if pad.life.state == RETIRED else look.ink)
        cut = Qt.TextElideMode.ElideRight
        name = painter.fontMetrics().elidedText(pad.name, cut, int(upper.width()))
        painter.drawText(upper, flags, name)
        painter.setFont(look.words(SMALL))
        painter.setPen(look.quiet)
        said = life_words(pad)
        painter.drawText(lower, flags, said)
        # a tick for each set since the pad was clean: what it carries just now
        left = lower.left() + painter.fontMetrics().horizontalAdvance(said) + 10
        painter.setPen(QPen(look.ink, 1.6))
        for k in range(min(pad.life.since_wash, int((lower.right() - left) / 5))):
            x = left + 5 * k
            painter.drawLine(QPointF(x, lower.center().y() - 5), QPointF(x, lower.center().y() + 5))
