"""A layout that runs on like words do: line after line, as wide as there is room."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QLayoutItem

from loam.ui.widgets.listed import Listed


class Flow(Listed):
    """Items in lines; each keeps the size it wants, up to the width of the line.

    A widget with the property "tight" (a full stop, say) follows closely on the one before.
    """

    def __init__(self, across: int = 8, down: int = 8) -> None:
        super().__init__()
        self._across, self._down = across, down

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._place(QRect(0, 0, width, 0), move=False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._place(rect, move=True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        size = QSize(0, 0)
        for item in self._items:
            size = size.expandedTo(item.minimumSize())
        return size

    def _place(self, rect: QRect, *, move: bool) -> int:
        x, y, line = rect.x(), rect.y(), 0
        shown = [i for i in self._items if (w := i.widget()) is None or not w.isHidden()]
        for at, item in enumerate(shown):
            hint = item.sizeHint()
            width = min(hint.width(), rect.width())
            after = 0  # a mark that sticks to this one must fit beside it
            if at + 1 < len(shown) and _tight(shown[at + 1]):
                after = 1 + shown[at + 1].sizeHint().width()
            if _tight(item) and line:
                x -= self._across - 1
            elif x + width + after > rect.right() + 1 and line:
                x, y, line = rect.x(), y + line + self._down, 0
            if move:
                item.setGeometry(QRect(QPoint(x, y), QSize(width, hint.height())))
            x += width + self._across
            line = max(line, hint.height())
        return y + line - rect.y()


def _tight(item: QLayoutItem) -> bool:
    widget = item.widget()
    return widget is not None and bool(widget.property("tight"))
