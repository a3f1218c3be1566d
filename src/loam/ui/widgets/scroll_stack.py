"""The room of the view at hand: what the window gives, scrolled only when that is too small."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QStackedWidget

BAR = 8


class Stack(QStackedWidget):
    """As large as the page at hand needs at least, whatever the others need or would like."""

    def hasHeightForWidth(self) -> bool:
        return False

    def minimumSizeHint(self) -> QSize:
        current = self.currentWidget()
        return current.minimumSizeHint() if current is not None else QSize(0, 0)

    def sizeHint(self) -> QSize:
        return self.minimumSizeHint()


def _lacking(stack: Stack) -> int:
    """Return how much higher the page at hand must be than it says, for its words to wrap."""
    page = stack.currentWidget()
    layout = page.layout() if page is not None else None
    if layout is None or not layout.hasHeightForWidth() or stack.width() < 50:
        return 0
    wanted = layout.minimumHeightForWidth(stack.width())
    return max(0, wanted - stack.minimumSizeHint().height())


class Room(QScrollArea):
    """Scrolls a view that needs more than there is, rather than cut it (large text, small screen).

    Qt's own fitting asks for the height that wrapped words would like best, and so scrolls early.
    """

    def __init__(self, stack: Stack) -> None:
        super().__init__()
        self.stack = stack
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("view")
        self.setWidget(stack)
        stack.installEventFilter(self)
        stack.currentChanged.connect(lambda _i: self.fit())

    def fit(self) -> None:
        """Give the view at hand the room that there is, or what it needs at least."""
        view = self.stack.currentWidget()
        if view is None:
            return
        room, least = self.maximumViewportSize(), view.minimumSizeHint()
        width = max(room.width(), least.width())
        height = self._least_height(width)
        if height > room.height():
            width = max(room.width() - BAR, least.width())
            height = self._least_height(width)
        size = QSize(width, max(height, room.height() - (BAR if width > room.width() else 0)))
        if size != self.stack.size():
            self.stack.resize(size)

    def _least_height(self, width: int) -> int:
        view = self.stack.currentWidget()
        layout = view.layout() if view is not None else None
        if layout is None:
            return 0
        flows = layout.hasHeightForWidth()
        height = layout.minimumHeightForWidth(width) if flows else layout.minimumSize().height()
        pages = [s for s in view.findChildren(Stack) if s.isVisibleTo(view)] if view else []
        return height + max((_lacking(page) for page in pages), default=0)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            self.fit()
        return super().eventFilter(watched, event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.fit()
