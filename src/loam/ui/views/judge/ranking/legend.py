"""What the tape on a swatch means."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.core.words.verdict import RELATION_WORDS
from loam.ui.theme import look
from loam.ui.views.judge.ranking.paint import draw_legend


class Legend(QWidget):
    """The five relations to the leader, drawn beside their words."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("legend")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("what the tape means")
        self.setAccessibleDescription("; ".join(RELATION_WORDS.values()))
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(600, 116)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        draw_legend(QPainter(self), QRectF(0, 0, self.width(), self.height()))
