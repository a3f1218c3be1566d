"""Where something is written to: one line above the keys, Enter writes."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.ui.theme import look
from loam.ui.widgets.fields import Chips, Field
from loam.ui.widgets.tape import TapeKey

WAYS: dict[str, tuple[tuple[str, str], ...]] = {
    "trial": ((".zip", "for exchange, nothing lost"), (".csv", "a table that people read")),
    "kit": ((".csv", "the shelf as a table, to be brought in again"),),
    "report": (
        (".pdf", "PDF"),
        (".html", "a page"),
        (".xlsx", "its numbers, a workbook"),
        (".zip", "its numbers, a Data Package"),
    ),
    "picture": ((".pdf", "PDF"), (".svg", "SVG"), (".png", "PNG")),
}
_HEADS = {
    "trial": "Write the trial out to",
    "picture": "Print the picture, or write it to",
    "kit": "Write the workshop's shelf out to",
    "report": "Write the report to",
}
_PRINTER = "printer:"


class WriteOut(QWidget):
    """Asks for a path in place; a file that is there is replaced only on a second Enter."""

    def __init__(self, write: Callable[[Path], None], print_out: Callable[[str], None]) -> None:
        super().__init__()
        self.setObjectName("write_out")
        self._write, self._print = write, print_out
        self._back: QWidget | None = None
        self._warned = self.what = ""
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 10, 24, 10)
        box.setSpacing(6)
        self.ways = Chips("", "write_ways", [])
        self.ways.chosen.connect(self._turn)
        box.addWidget(self.ways)
        row = QHBoxLayout()
        row.setSpacing(16)
        self.path = Field("", "write_path")
        self.path.line.returnPressed.connect(self.keep)
        row.addWidget(self.path, 1)
        self.go = TapeKey("Enter", "write it", main=True)
        self.go.clicked.connect(self.keep)
        row.addWidget(self.go, 0, Qt.AlignmentFlag.AlignBottom)
        box.addLayout(row)
        self.hide()

    def ask(self, path: Path, what: str, back: QWidget | None) -> None:
        """Show the line with a path to start from.

        ``what`` is "trial", "kit", "report"
        or "picture".
        """
        self._back, self._warned, self.what = back, "", what
        ways = list(WAYS[what])
        if what == "picture":
            from loam.ui.picture_out import printers

            ways += [(f"{_PRINTER}{name}", f"print on {name}") for name in printers()[:3]]
        self.path.set_label(_HEADS[what])
        self.ways.set_choices(ways)
        self.path.set_text(str(path) + ways[0][0])
        self._turn(ways[0][0])
        self.show()
        self.path.line.setFocus()
        text = self.path.line.text()
        self.path.line.setSelection(len(text) - len(path.name) - len(ways[0][0]), len(path.name))

    def _turn(self, way: str) -> None:
        """Write in another way: the path gets its ending."""
        self.ways.set_value(way)
        printing = way.startswith(_PRINTER)
        self.path.line.setEnabled(not printing)
        self.go.set_words("print it" if printing else "write it")
        if printing:
            self.go.setFocus()
            return
        path = Path(self.path.text())
        if path.suffix.lower() in self.ways.buttons:
            path = path.with_suffix("")
        self.path.set_text(f"{path}{way}")
        self.path.line.setFocus()

    def leave(self, *, back: bool = True) -> None:
        """Put the line away."""
        if self.isHidden():
            return
        self.hide()
        if back and self._back is not None:
            self._back.setFocus()

    def keep(self) -> None:
        """Write to the path that stands there, or print."""
        chosen = self.ways.value()
        way = chosen[0] if chosen else next(iter(self.ways.buttons))
        if way.startswith(_PRINTER):
            self.leave()
            self._print(way.removeprefix(_PRINTER))
            return
        try:
            path = self._checked(way)
        except (OSError, ValueError, RuntimeError) as error:  # ~nobody, a zero byte, and the like
            said = getattr(error, "strerror", None) or str(error)
            self.path.complain(f"This cannot be written to: {said}.")
            return
        if path is not None:
            self.leave()
            self._write(path)

    def _checked(self, way: str) -> Path | None:
        """Return the path that may be written to; otherwise say why not."""
        text = self.path.text()
        path = Path(text).expanduser()
        if path.name and path.suffix.lower() not in self.ways.buttons:
            path = path.with_name(path.name + way)
        if not text or not path.name or path.is_dir():
            self.path.complain("Type the name of a file.")
        elif not path.parent.is_dir():
            self.path.complain(f"There is no folder {path.parent}.")
        elif path.exists() and self._warned != str(path):
            self._warned = str(path)
            self.path.complain(f"{path.name} is there already. Enter again replaces it.")
        else:
            return path
        return None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), look.sheet)
        painter.setPen(QPen(look.strong, 2))
        painter.drawLine(0, 1, self.width(), 1)
