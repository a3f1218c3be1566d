"""The dated copies of a workshop, to go back to one of them."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.presenters.files import size_words
from loam.store.copies import Copy, copies
from loam.ui.widgets.fields import words
from loam.ui.widgets.rows import ListRow, RowList


class _List(RowList):
    """The list of copies: Enter takes one."""

    taken = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit()
        else:
            super().keyPressEvent(event)


class CopyChoice(QWidget):
    """Lists the copies of a workshop, newest first; ``chosen`` carries the path of one."""

    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._copies: list[Copy] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        self.none = words(
            "There is no earlier copy yet. Loam keeps one at each start when something changed.",
            "quiet",
            wrap=True,
        )
        box.addWidget(self.none, 0, Qt.AlignmentFlag.AlignTop)
        self.list = _List("copies", "earlier copies of this workshop; Enter goes back to one")
        self.list.taken.connect(self.take)
        self.list.itemDoubleClicked.connect(lambda _item: self.take())
        box.addWidget(self.list, 1)

    def show_copies(self, workshop: Path) -> None:
        """Show the copies of a workshop."""
        self._copies = copies(workshop)
        rows = []
        for i, copy in enumerate(self._copies):
            below = size_words(copy.size)
            if copy.before:
                below += " · kept before an upgrade"
            rows.append(ListRow(i, f"{copy.at:%A %d %B %Y, %H:%M}", below))
        self.list.show_rows(rows, 0 if rows else None)
        self.none.setVisible(not rows)
        self.list.setVisible(bool(rows))

    def take(self) -> None:
        """Take the copy that is marked."""
        at = self.list.currentRow()
        if 0 <= at < len(self._copies):
            self.chosen.emit(str(self._copies[at].path))
