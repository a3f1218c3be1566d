"""A slot of a sentence: a piece of tape with what was chosen, or bare tape."""

from __future__ import annotations

from functools import lru_cache

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QWidget

from loam.ui.theme import look
from loam.ui.theme.look import TITLE, tip
from loam.ui.widgets.tape import paint_tape


@lru_cache(32)
def _height(_scale: float) -> int:
    return QFontMetrics(look.words(TITLE - 2, bold=True)).height() + 8


class Slot(QAbstractButton):
    """Opens what can be chosen there; Enter and Space press it."""

    def __init__(self, key: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.key, self.empty, self.open = key, False, False
        self.setObjectName(f"slot_{key}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.update)

    def show_part(self, text: str, *, empty: bool, open_: bool) -> None:
        """Show what stands there; ``empty`` when it is only an example."""
        self.empty, self.open = empty, open_
        self.setText(text)
        self.setToolTip(tip("choose" if empty else text))
        self.setAccessibleName(f"{self.key}: {'not chosen' if empty else text}")
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(look.width(self.text(), TITLE - 2, bold=True) + 26, _height(look.scale))

    def minimumSizeHint(self) -> QSize:
        return QSize(min(self.sizeHint().width(), look.px(120)), self.sizeHint().height())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        area = QRectF(0, 1, self.width() - 1, self.height() - 2)
        paint_tape(painter, area, seed=len(self.text()) + len(self.key), depth=6)
        painter.setFont(look.words(TITLE - 2, bold=not self.empty, italic=self.empty))
        painter.setPen(look.on_tape if not self.empty else look.quiet_on_tape)
        text = painter.fontMetrics().elidedText(
            self.text(), Qt.TextElideMode.ElideRight, self.width() - 22
        )
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        painter.drawText(area.adjusted(9, 0, 0, 0), flags, text)
        if self.hasFocus() or self.open:
            painter.setPen(QPen(look.strong, 2))
            painter.drawLine(2, self.height() - 2, self.width() - 8, self.height() - 2)
        if self.hasFocus():
            painter.drawRect(area.adjusted(1, 0, -6, -1))
