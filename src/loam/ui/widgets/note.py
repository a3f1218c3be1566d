"""What the window says for a while: between the view and the keys, whole, covering nothing."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QLabel, QSizePolicy, QWidget

from loam.ui.theme import look

QUIET_MS, CARE_MS = 8000, 30000


class Note(QLabel):
    """A line or more above the keys, with a room of its own; a click puts it away.

    ``matter`` names what it is about; when that is settled the note goes (`settle`).
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("note")
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setWordWrap(True)
        self.setContentsMargins(24, 8, 24, 8)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.matter = ""
        self._care = False
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.timeout.connect(self.leave)
        self.hide()

    def say(self, text: str, *, care: bool = False, matter: str = "") -> None:
        """Show a text; what wants care stays longer, what has a matter until that is settled."""
        self._care, self.matter = care, matter
        self.setText(text)
        self.setAccessibleName(text)
        self.setVisible(bool(text))
        self._quiet.stop()
        if not matter:
            self._quiet.start(CARE_MS if care else QUIET_MS)
        self.update()

    def settle(self, matter: str = "") -> None:
        """Put away what is about this matter; without one, whatever is about none."""
        if self.matter == matter:
            self.leave()

    def leave(self) -> None:
        """Put the note away."""
        self._quiet.stop()
        self.matter = ""
        self.hide()

    def mousePressEvent(self, event: object) -> None:
        self.leave()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), look.sheet)
        painter.fillRect(QRectF(0, 0, 6, self.height()), look.care if self._care else look.strong)
        painter.setPen(QPen(look.line, 1))
        painter.drawLine(0, 0, self.width(), 0)
        painter.end()
        super().paintEvent(event)
