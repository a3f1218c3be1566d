"""Where a trial is written to: one line above the keys, Enter writes."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from loam.ui.theme import look
from loam.ui.widgets.fields import Field
from loam.ui.widgets.tape import TapeKey


class WriteOut(QWidget):
    """Asks for a path in place; a file that is there is replaced only on a second Enter."""

    def __init__(self, parent: QWidget, write: Callable[[Path], None]) -> None:
        super().__init__(parent)
        self.setObjectName("write_out")
        self._write = write
        self._back: QWidget | None = None
        self._warned = ""
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 12, 20, 12)
        row.setSpacing(16)
        self.path = Field("Write the trial out as a Data Package to", "write_path")
        self.path.line.returnPressed.connect(self.keep)
        row.addWidget(self.path, 1)
        self.go = TapeKey("Enter", "write it", main=True)
        self.go.clicked.connect(self.keep)
        row.addWidget(self.go, 0, Qt.AlignmentFlag.AlignBottom)
        self.hide()

    def ask(self, path: Path, base: int, back: QWidget | None) -> None:
        """Show the line with a path to start from, its lower edge at ``base``."""
        self._back, self._warned = back, ""
        self.path.set_text(str(path))
        parent = self.parentWidget()
        if parent is not None:
            self.setGeometry(24, base - 108, parent.width() - 48, 104)
        self.show()
        self.raise_()
        self.path.line.setFocus()
        name = len(path.name)
        text = str(path)
        self.path.line.setSelection(len(text) - name, name - len(path.suffix))

    def leave(self) -> None:
        """Put the line away."""
        self.hide()
        if self._back is not None:
            self._back.setFocus()

    def keep(self) -> None:
        """Write to the path that stands there."""
        text = self.path.text()
        path = Path(text).expanduser()
        if path.suffix != ".zip":
            path = path.with_name(path.name + ".zip") if path.name else path
        if not text or not path.name or path.is_dir():
            self.path.complain("Type the name of a file.")
        elif not path.parent.is_dir():
            self.path.complain(f"There is no folder {path.parent}.")
        elif path.exists() and self._warned != str(path):
            self._warned = str(path)
            self.path.complain(f"{path.name} is there already. Enter again replaces it.")
        else:
            self.leave()
            self._write(path)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), look.sheet)
        painter.setPen(QPen(look.strong, 2))
        painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
