"""What is shown when a workshop cannot be opened: why, and every way on from there."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QMainWindow, QVBoxLayout, QWidget

from loam.core.errors import LoamError
from loam.store.database import WorkshopRefused
from loam.ui.theme import dress
from loam.ui.widgets.copy_choice import CopyChoice
from loam.ui.widgets.fields import Field, words
from loam.ui.widgets.tape import TapeKey


class RescueWindow(QMainWindow):
    """Says what is wrong with a workshop and offers its copies, a look, or another file.

    ``go_back`` carries the path of a copy; ``look`` asks for a look only; ``other`` carries the
    path of another workshop, which is made when missing.
    """

    go_back = pyqtSignal(str)
    look = pyqtSignal()
    other = pyqtSignal(str)

    def __init__(self, path: Path, error: LoamError) -> None:
        super().__init__()
        self.setWindowTitle("Loam")
        self.resize(900, 620)
        self.path = path
        body = QWidget()
        body.setObjectName("ground")
        box = QVBoxLayout(body)
        box.setContentsMargins(36, 28, 36, 24)
        box.setSpacing(12)
        box.addWidget(words("This workshop cannot be opened", "title"))
        self.said = words("", "lead", wrap=True)
        self.said.setObjectName("said")
        self.said.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        box.addWidget(self.said)
        self.where = words(str(path), "quiet", wrap=True)
        box.addWidget(self.where)
        box.addWidget(words("Earlier copies", "head"))
        self.choice = CopyChoice()
        self.choice.chosen.connect(self.go_back.emit)
        box.addWidget(self.choice, 1)
        self.file = Field("Or open another workshop, or a new one, at", "other_workshop")
        self.file.line.returnPressed.connect(self._other)
        box.addWidget(self.file)
        row = QHBoxLayout()
        row.setSpacing(16)
        self.back_key = TapeKey("Enter", "go back to the copy", main=True)
        self.back_key.clicked.connect(self.choice.take)
        self.look_key = TapeKey("Ctrl+L", "only look at it", main=True)
        self.look_key.clicked.connect(self.look.emit)
        self.close_key = TapeKey("Ctrl+Q", "close Loam")
        self.close_key.clicked.connect(self.close)
        for key in (self.back_key, self.look_key, self.close_key):
            row.addWidget(key)
        row.addStretch(1)
        box.addLayout(row)
        self.setCentralWidget(body)
        dress(body)
        for keys, act in (("Ctrl+L", self._look), ("Ctrl+Q", self.close)):
            QShortcut(QKeySequence(keys), self).activated.connect(act)
        self.complain(error)

    def complain(self, error: LoamError) -> None:
        """Say what is wrong, and show what can be done about it."""
        parts = (error.what, error.kept, error.todo.replace(" (Ctrl+Shift+O)", ""))
        self.said.setText(" ".join(p for p in parts if p))
        fault = error.fault if isinstance(error, WorkshopRefused) else ""
        self.look_key.setVisible(fault in ("newer", "place", "changed") and self.path.exists())
        self.choice.show_copies(self.path)
        some = self.choice.list.count() > 0
        self.back_key.setVisible(some)
        fresh = self.path.with_name(f"{self.path.stem}-new.loam")
        self.file.set_text(str(fresh))
        (self.choice.list if some else self.file.line).setFocus()

    def _look(self) -> None:
        if self.look_key.isVisibleTo(self):
            self.look.emit()

    def _other(self) -> None:
        text = self.file.text()
        if text:
            self.other.emit(text)
