"""The line at the head of a step: done, missing, next and why."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent

from loam.app.standing import StepHead
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import SMALL, tip


class StepHeadLine(Drawing):
    """One line below the path; what has no room in it is in its tip and for a reader of screens."""

    called = "done, missing and next"
    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("step_head")
        self.head: StepHead | None = None
        self.hide()

    def sizeHint(self) -> QSize:
        return QSize(200, look.px(22))

    def minimumSizeHint(self) -> QSize:
        return QSize(100, look.px(22))

    def show_head(self, head: StepHead | None) -> None:
        """Show what stands at the head of a step, or nothing."""
        self.setVisible(head is not None)
        if head == self.head:
            return
        self.head = head
        self.setAccessibleDescription("" if head is None else head.words)
        self.setToolTip("" if head is None else tip(head.words))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.head is None:
            return
        painter = QPainter(self)
        parts = [
            (f"{self.head.done}.", look.quiet, False),
            (f"Missing: {self.head.missing}." if self.head.missing else "", look.ink, True),
            (self.head.then, look.quiet, False),
        ]
        x, flags = 24.0, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        for text, ink, bold in parts:
            if not text:
                continue
            painter.setFont(look.words(SMALL, bold=bold))
            painter.setPen(ink)
            room = self.width() - 24 - x
            said = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room))
            painter.drawText(QRectF(x, 0, room, self.height()), flags, said)
            x += painter.fontMetrics().horizontalAdvance(said) + look.px(14)
