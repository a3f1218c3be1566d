"""What the tape on a swatch means."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent

from loam.core.words.verdict import RELATION_WORDS
from loam.ui.paint.drawing import Drawing
from loam.ui.views.judge.ranking.paint import draw_legend


class Legend(Drawing):
    """The five relations to the leader, drawn beside their words."""

    called = "what the tape means"
    likes = (600, 116)
    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("legend")
        self.setAccessibleDescription("; ".join(RELATION_WORDS.values()))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        draw_legend(QPainter(self), QRectF(0, 0, self.width(), self.height()))
