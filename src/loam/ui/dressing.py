"""Style sheets where they are seen: the strips and the view at hand; the others when turned to.

Qt goes through every widget of the application when its one style sheet changes, a third of a
second with all views built; a sheet for each view costs what that view holds.
"""

from __future__ import annotations

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtWidgets import QMainWindow, QWidget

from loam.ui.theme import dress, look
from loam.ui.widgets.scroll_stack import Room


class Dressing(QObject):
    """Dresses a window again whenever the look changes."""

    def __init__(self, window: QMainWindow, body: QWidget, room: Room) -> None:
        super().__init__(window)
        self.body, self.room = body, room
        self.leaving = False
        """The view at hand is about to be left: it is dressed when it is turned to again."""
        look.changed.connect(self.again)

    def again(self) -> None:
        """Dress the strips, and the view at hand."""
        self.strips()
        page = self.room.stack.currentWidget()
        if page is not None and not self.leaving:
            dress(page)

    def strips(self) -> None:
        """Dress what stands round the view."""
        direct = Qt.FindChildOption.FindDirectChildrenOnly
        around = [w for w in self.body.findChildren(QWidget, options=direct) if w is not self.room]
        for widget in (*around, self.room.verticalScrollBar(), self.room.horizontalScrollBar()):
            if widget is not None:
                dress(widget)
