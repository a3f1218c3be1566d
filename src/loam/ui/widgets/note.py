"""What the window says for a while: above the keys, whole, never in the way of typing."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QLabel, QWidget

from loam.ui.theme import look


class Note(QLabel):
    """A line or more over the lower edge of the view; a click puts it away."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("note")
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setWordWrap(True)
        self.setContentsMargins(18, 8, 16, 8)
        self._care = False
        self._base = 0
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.timeout.connect(self.hide)
        self.hide()

    def say(self, text: str, base: int, *, care: bool) -> None:
        """Show a text with its lower edge at ``base``; care stays longer."""
        self._care = care
        self.setText(text)
        self.setAccessibleName(text)
        self.setVisible(bool(text))
        self.place(base)
        self.raise_()
        self._quiet.start(15000 if care else 7000)

    def place(self, base: int) -> None:
        """Lie above ``base``, as wide as the words need."""
        self._base = base
        parent = self.parentWidget()
        if parent is None:
            return
        room = parent.width() - 48
        wanted = self.fontMetrics().horizontalAdvance(self.text()) + 44
        width = min(room, wanted, 900)
        height = self.heightForWidth(width)
        self.setGeometry(24, base - height - 4, width, height)

    def mousePressEvent(self, event: object) -> None:
        self.hide()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), look.sheet)
        painter.fillRect(QRectF(0, 0, 5, self.height()), look.care if self._care else look.strong)
        painter.setPen(QPen(look.line, 1))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()
        super().paintEvent(event)
