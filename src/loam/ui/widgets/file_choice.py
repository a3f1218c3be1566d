"""Choosing a file in the window: type its path, or take it from the folder's list."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.presenters.files import SUFFIXES, Entry, entries
from loam.core.errors import LoamError
from loam.ui.widgets.fields import Field, words
from loam.ui.widgets.rows import ListRow, RowList

_TITLE = "Bring in readings"
_SAID = (
    "Choose a table of readings, or a file for exchange: the newest stand first."
    " A file can also be dropped onto the window."
)


class _List(RowList):
    """The folder's list: Enter takes, Backspace goes up."""

    taken = pyqtSignal()
    up = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit()
        elif event is not None and event.key() == Qt.Key.Key_Backspace:
            self.up.emit()
        else:
            super().keyPressEvent(event)


class FileChoice(QWidget):
    """A folder's readings, newest first; ``chosen`` carries the path as text."""

    chosen = pyqtSignal(str)

    def __init__(
        self, title: str = _TITLE, said: str = _SAID, suffixes: tuple[str, ...] = SUFFIXES
    ) -> None:
        super().__init__()
        self._suffixes = suffixes
        self.folder = Path.home()
        self._entries: list[Entry] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(10)
        self.title = words(title, "title")
        box.addWidget(self.title)
        box.addWidget(words(said, "lead", wrap=True))
        self.path = Field("File or folder", "file_path")
        self.path.line.returnPressed.connect(self._typed)
        box.addWidget(self.path)
        self.list = _List("files", "files of this folder; Enter takes one, Backspace goes up")
        self.list.taken.connect(self.take)
        self.list.up.connect(lambda: self.open_folder(self.folder.parent))
        self.list.itemDoubleClicked.connect(lambda _item: self.take())
        box.addWidget(self.list, 1)

    def open_folder(self, folder: Path) -> None:
        """Show a folder; one that cannot be opened is said at the path."""
        try:
            self._entries = entries(folder, self._suffixes)
        except LoamError as error:
            self.path.complain(f"{error.what} {error.todo}")
            return
        self.folder = folder
        self.path.set_text(str(folder))
        rows = [ListRow(i, e.title, e.below) for i, e in enumerate(self._entries)]
        self.list.show_rows(rows, 0 if rows else None)
        self.list.setFocus()

    def take(self) -> None:
        """Take the entry that is marked."""
        at = self.list.currentRow()
        if 0 <= at < len(self._entries):
            self._go(self._entries[at].path)

    def _typed(self) -> None:
        try:
            path = Path(self.path.text()).expanduser()
            there = path.exists()
        except (OSError, ValueError, RuntimeError) as error:  # ~nobody, a zero byte, no permission
            said = getattr(error, "strerror", None) or str(error)
            self.path.complain(f"This path cannot be followed: {said}.")
            return
        if there:
            self._go(path)
        else:
            self.path.complain("There is no such file or folder.")

    def _go(self, path: Path) -> None:
        if path.is_dir():
            self.open_folder(path)
        else:
            self.chosen.emit(str(path))
