"""Words in a drawing: where they stand in their line, and what is done when they are too long."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

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


def that_fits(painter: QPainter, said: Sequence[str], width: float) -> str:
    """Return the first of some words, the longest first, that fit a width, px; "" where none."""
    metrics = painter.fontMetrics()
    return next((s for s in said if metrics.horizontalAdvance(s) <= width), "")


def widest(texts: Iterable[str], size: int) -> float:
    """Return the width, px, of the widest of some texts."""
    return max((float(look.width(t, size)) for t in texts), default=0.0)


def broken(painter: QPainter, text: str, width: float) -> list[str]:
    """Break a text into lines of a width, px, at its spaces."""
    metrics = painter.fontMetrics()
    lines: list[str] = []
    for word in text.split(" "):
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and metrics.horizontalAdvance(longer) <= width:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines


def wrapped(painter: QPainter, area: QRectF, text: str, most: int) -> float:
    """Write a text in so many lines at most, the last cut with a sign; return the height used."""
    metrics = painter.fontMetrics()
    lines = broken(painter, text, area.width() - 2.0)
    if len(lines) > most:
        lines = [*lines[: most - 1], " ".join(lines[most - 1 :])]
    y = area.top()
    for line in lines:
        row = QRectF(area.left(), y, area.width(), metrics.height())
        cut = metrics.elidedText(line, Qt.TextElideMode.ElideRight, int(area.width()))
        painter.drawText(row, LEFT, cut)
        y += metrics.height()
    return y - area.top()
