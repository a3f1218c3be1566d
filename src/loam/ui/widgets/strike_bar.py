"""Why a reading does not count: one of the usual reasons by its number, or a few words."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.presenters.reading import REASONS
from loam.ui.widgets.fields import Chips, Field
from loam.ui.widgets.tape import TapeKey


class StrikeBar(QWidget):
    """Asks for the reason in place. ``struck`` carries it; ``left`` when there is none.

    ``turned`` asks for the reading before (-1) or after (1).
    """

    struck = pyqtSignal(str)
    left = pyqtSignal()
    turned = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("strike_bar")
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        row = QHBoxLayout()
        row.setSpacing(12)
        self.reason = Field("", "strike_reason", placeholder="1 to 5, or a few words")
        self.reason.line.returnPressed.connect(self._typed)
        self.reason.line.textEdited.connect(self._number)
        row.addWidget(self.reason, 1)
        self.do = TapeKey("Enter", "strike it", main=True)
        self.do.setObjectName("strike")
        self.do.clicked.connect(self._typed)
        row.addWidget(self.do, 0, Qt.AlignmentFlag.AlignBottom)
        box.addLayout(row)
        choices = [(r, f"{i}  {r}") for i, r in enumerate(REASONS, 1)]
        self.usual = Chips("", "strike_reasons", choices, columns=2)
        self.usual.chosen.connect(self._take)
        box.addWidget(self.usual)
        self.hide()

    def ask(self, figure: str, which: str = "") -> None:
        """Ask why this figure does not count."""
        place = f", the {which}," if which else ""
        self.reason.set_label(f"Why {figure}{place} does not count")
        self.reason.set_text("")
        self.do.set_words(f"strike {figure}")
        self.usual.set_value()
        self.show()
        self.reason.line.setFocus()

    def _number(self, text: str) -> None:
        if len(text) == 1 and text in "12345":
            self._take(REASONS[int(text) - 1])

    def _typed(self) -> None:
        text = self.reason.text()
        if not text:
            self.reason.complain("Say why in a few words; the reading stays visible.")
            return
        self._take(text)

    def _take(self, reason: str) -> None:
        self.hide()
        self.struck.emit(reason)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
            self.left.emit()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.turned.emit(-1 if event.key() == Qt.Key.Key_Up else 1)
        else:
            super().keyPressEvent(event)
