"""An overlay of squares over a cell: in which of them does a mark still show?"""

from __future__ import annotations

import math
from collections.abc import Collection

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen

from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look


class Squares(Drawing):
    """A square of squares; ``chosen`` carries the number of one that was clicked."""

    called = "squares of the overlay"
    likes = (360, 360)

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.at = 0
        self.marks: list[bool | None] = []
        self.out: Collection[int] = ()
        self.setObjectName("squares")
        self.setMinimumSize(180, 150)

    def show_squares(self, at: int, marks: list[bool | None], out: Collection[int] = ()) -> None:
        """Show which is next, and which show a mark (True), none (False), or are not seen yet.

        Those in ``out`` are taped over: the nail catches there, and they are not counted.
        """
        self.at, self.marks, self.out = at, marks, out
        done = sum(m is not None for m in marks)
        hits = sum(bool(m) for m in marks)
        aside = f", {len(out)} not counted" if out else ""
        self.setAccessibleDescription(f"{done} of {len(marks)} seen, {hits} show a mark{aside}")
        self.update()

    def _cells(self) -> list[QRectF]:
        side = max(1, math.isqrt(max(len(self.marks), 1)))
        each = min(self.width(), self.height()) / side
        return [
            QRectF(i % side * each, i // side * each, each, each) for i in range(len(self.marks))
        ]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        cells = self._cells()
        for i, (box, mark) in enumerate(zip(cells, self.marks, strict=True)):
            if i in self.out:
                painter.fillRect(box.adjusted(1, 1, -1, -1), look.tape)
                painter.setPen(QPen(look.on_tape, 2.0))
                painter.drawLine(_within(box, 0.3, 0.2), _within(box, 0.45, 0.55))
                painter.drawLine(_within(box, 0.45, 0.55), _within(box, 0.7, 0.8))
                continue
            painter.fillRect(box, look.panel_cell)
            painter.setPen(QPen(look.quiet_on_panel, 1))
            painter.drawRect(box)
            inner = box.adjusted(*(2 * [box.width() * 0.25]), *(2 * [-box.width() * 0.25]))
            painter.setPen(QPen(look.on_panel, 2.0))
            if mark:
                for out in (-0.3, 0.0, 0.3):
                    aside = QPointF(out * inner.width(), out * inner.height())
                    painter.drawLine(inner.bottomLeft() + aside, inner.topRight() + aside)
            elif mark is False:
                painter.setPen(QPen(look.quiet_on_panel, 1.6))
                painter.drawEllipse(box.center(), 2.0, 2.0)
        if self.at < len(cells):
            painter.setPen(QPen(look.on_panel, 4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(cells[self.at].adjusted(1, 1, -1, -1))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for i, box in enumerate(self._cells()):
            if box.contains(event.position()):
                self.chosen.emit(i)


def _within(box: QRectF, across: float, down: float) -> QPointF:
    return QPointF(box.x() + across * box.width(), box.y() + down * box.height())
