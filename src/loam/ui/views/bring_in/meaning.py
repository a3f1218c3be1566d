"""What a column means: typed until one meaning is left, or taken from the list."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.presenters.incoming import matching_roles
from loam.ui.widgets.fields import TypedLine, words
from loam.ui.widgets.rows import ListRow, RowList

LEFT_OUT = "left out"


class _Typed(TypedLine):
    """Up and down move through the meanings while it is typed in."""

    def __init__(self, chooser: Meaning) -> None:
        super().__init__()
        self._chooser = chooser
        self.setObjectName("meaning")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = event.key()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._chooser.step_by(-1 if key == Qt.Key.Key_Up else 1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._chooser.take()
        elif key == Qt.Key.Key_Escape:
            self._chooser.left.emit()
        else:
            super().keyPressEvent(event)


class Meaning(QWidget):
    """``chosen`` carries the column and its role ("" leaves it out); ``left`` keeps it as it is."""

    chosen = pyqtSignal(str, str)
    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.column = ""
        self._keys: list[str] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        self.head = words("", "head", wrap=True)
        box.addWidget(self.head)
        self.typed = _Typed(self)
        self.typed.setAccessibleName("what this column means")
        self.typed.textChanged.connect(self._fill)
        box.addWidget(self.typed)
        self.list = RowList("meanings", "meanings; Enter takes one")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(lambda _item: self.take())
        box.addWidget(self.list, 1)

    def ask(self, column: str, shown: str, typed: str) -> None:
        """Ask what a column means, beginning with what was typed."""
        self.column = column
        self.head.setText(f"{shown} is")
        self.typed.setText(typed)
        self._fill(typed)
        self.typed.setFocus()

    def _fill(self, text: str) -> None:
        roles = matching_roles(text)
        self._keys = [r.key for r in roles]
        rows = [ListRow(i, r.label, "needed" if r.needed else "") for i, r in enumerate(roles)]
        if not text.strip() or LEFT_OUT.startswith(text.strip().lower()):
            self._keys.append("")
            rows.append(ListRow(len(rows), LEFT_OUT))
        self.list.show_rows(rows, 0 if rows else None)

    def step_by(self, by: int) -> None:
        """Mark the meaning before or after."""
        at = self.list.currentRow() + by
        if 0 <= at < self.list.count():
            self.list.setCurrentRow(at)

    def take(self) -> None:
        """Take the meaning that is marked."""
        at = self.list.currentRow()
        if 0 <= at < len(self._keys):
            self.chosen.emit(self.column, self._keys[at])
