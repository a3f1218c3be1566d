"""A list of named things with a search, a count, and those that were put away."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.ui.widgets.fields import TypedLine, words
from loam.ui.widgets.rows import ListRow, RowList


class _Search(TypedLine):
    """Typing filters; Down or Enter goes to the list, Esc empties."""

    def __init__(self, shelf: Shelf, name: str) -> None:
        super().__init__()
        self._shelf = shelf
        self.setObjectName(f"{name}_search")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._shelf.list.setFocus()
        elif event.key() == Qt.Key.Key_Escape and self.text():
            self.clear()
        else:
            super().keyPressEvent(event)


class Shelf(QWidget):
    """``chosen`` carries the id of the row that is turned to.

    Rows that were put away are shown instead of the others while `away` is set; `turned` tells
    that it was, or was not any more.
    """

    chosen = pyqtSignal(int)
    turned = pyqtSignal()

    def __init__(self, title: str, name: str, said: str) -> None:
        super().__init__()
        self._title, self.away = title, False
        self._rows: Sequence[ListRow] = ()
        self._chosen: int | None = None
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        head = QHBoxLayout()
        self.title = words(title, "title")
        self.count = words("", "quiet")
        head.addWidget(self.title)
        head.addStretch(1)
        head.addWidget(self.count, 0, Qt.AlignmentFlag.AlignBottom)
        box.addLayout(head)
        self.search = _Search(self, name)
        self.search.setPlaceholderText("search (Ctrl+F)")
        self.search.setAccessibleName(f"search {title.lower()}")
        self.search.textChanged.connect(lambda _text: self._fill())
        box.addWidget(self.search)
        self.list = RowList(name, said)
        self.list.row_chosen.connect(self.chosen.emit)
        box.addWidget(self.list, 1)

    def show_rows(self, rows: Sequence[ListRow], chosen: int | None) -> None:
        """Show rows and which one is chosen, without telling."""
        self._rows, self._chosen = rows, chosen
        self._fill()

    def _fill(self) -> None:
        wanted = self.search.text().strip().lower()
        found = [
            r for r in self._rows if wanted in f"{r.code} {r.title} {r.below} {r.right}".lower()
        ]
        self.search.setVisible(len(self._rows) > 6 or bool(wanted))
        self.title.setText(f"{self._title}, put away" if self.away else self._title)
        total = len(self._rows)
        self.count.setText(f"{len(found)} of {total}" if wanted else str(total))
        self.list.show_rows(found, self._chosen)

    def turn_away(self) -> None:
        """Show what was put away, or the others again."""
        self.away = not self.away
        self.turned.emit()
        self.list.setFocus()
        if self.list.count() and self.list.currentRow() < 0:
            self.list.setCurrentRow(0)

    @property
    def turn_words(self) -> str:
        """What `turn_away` would show."""
        return "the others" if self.away else "those put away"

    @property
    def put_words(self) -> str:
        """What putting away means just now."""
        return "bring it back" if self.away else "put it away"

    def search_for(self) -> None:
        """Go to the search."""
        self.search.setVisible(True)
        self.search.setFocus()
        self.search.selectAll()
