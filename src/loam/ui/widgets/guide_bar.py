"""The note of a guided first trial: a piece of tape with its number, and what to do here."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from loam.app.presenters.guide import GuideNote
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import BODY
from loam.ui.widgets.fields import words
from loam.ui.widgets.tape import paint_tape

OF = 7


class _Number(Drawing):
    called = "which note of the guide"
    likes = (70, 28)
    grows = (False, False)

    def __init__(self) -> None:
        super().__init__()
        self.number = 1

    def sizeHint(self) -> QSize:
        return QSize(look.px(70), look.px(28))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        box = QRectF(0, 2, self.width() - 2, self.height() - 4)
        paint_tape(painter, box, seed=self.number, torn="right", depth=4)
        painter.setPen(look.on_tape)
        painter.setFont(look.words(BODY, bold=True))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{self.number} of {OF}")


class GuideBar(QWidget):
    """Between the view and the keys; it goes when nothing is to be said."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("guide")
        row = QHBoxLayout(self)
        row.setContentsMargins(24, 4, 24, 2)
        row.setSpacing(12)
        self.number = _Number()
        row.addWidget(self.number)
        self.said = words("", "lead", wrap=True)
        self.said.setObjectName("guide_said")
        row.addWidget(self.said, 1)
        self.off = words("Ctrl+. puts these notes away", "small")
        row.addWidget(self.off)
        self.hide()

    def show_note(self, note: GuideNote | None) -> None:
        """Show a note, or nothing."""
        self.setVisible(note is not None)
        if note is None:
            return
        self.number.number = note.number
        self.number.update()
        self.said.setText(note.words)
        self.off.setVisible("Ctrl+." not in note.words)
        self.setAccessibleName(f"guide, {note.number} of {OF}: {note.words}")
