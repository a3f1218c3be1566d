"""Words in a drawing: where they stand in their line, and what is done when they are too long."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from loam.ui.theme import look

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
MIDDLE = Qt.AlignmentFlag.AlignCenter
WRAPPED = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap)


def fitted(
    painter: QPainter, row: QRectF, text: str, right: str = "", at: Qt.AlignmentFlag = LEFT
) -> None:
    """Write a text in a row, cut with a sign where it is too long; ``right`` ends the row."""
    metrics = painter.fontMetrics()
    room = row.width() - (metrics.horizontalAdvance(right) + 10 if right else 0)
    cut = metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(max(room, 0)))
    painter.drawText(row, at, cut)
    if right:
        painter.drawText(row, RIGHT, right)


def widest(texts: Iterable[str], size: int) -> float:
    """Return the width, px, of the widest of some texts."""
    return max((float(look.width(t, size)) for t in texts), default=0.0)
