"""The readings of one cell on a line, over the band that the meter should repeat within."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from loam.app.presenters.reading import EntryState
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import BODY


class SpreadLine(Drawing):
    """A strip of readings with the repeatability band of the meter."""

    called = "spread of the readings"
    likes = (420, 62)
    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.state: EntryState | None = None

    def show_state(self, state: EntryState | None) -> None:
        """Show the readings of a cell."""
        self.state = state
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        state = self.state
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        y = 20.0
        painter.setPen(QPen(look.line if not look.lights_out else look.faint, 2))
        painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        if state is None or state.summary is None:
            return
        s, values = state.summary, [r.value for r in state.counted]
        low, high = min(s.low, *values), max(s.high, *values)
        margin = 0.45 * (s.high - s.low)
        low, high = low - margin, high + margin

        def x(value: float) -> float:
            return (value - low) / (high - low) * self.width()

        band = QRectF(x(s.low), y - 14, x(s.high) - x(s.low), 28)
        painter.fillRect(band, look.band)
        if look.lights_out:
            painter.setPen(QPen(look.edge, 1))
            painter.drawRect(band)
        for i, value in enumerate(values):
            odd = i in s.odd
            painter.setPen(QPen(look.care if odd else look.ink, 3))
            reach = 15 if odd else 11
            painter.drawLine(QPointF(x(value), y - reach), QPointF(x(value), y + reach))
        painter.setPen(look.quiet)
        painter.setFont(look.figures(BODY - 1))
        for value in (s.low, s.high):
            label = QRectF(x(value) - 40, y + 18, 80, 20)
            painter.drawText(label, Qt.AlignmentFlag.AlignCenter, state.kind.write(value))
        painter.setFont(look.words(BODY))
        middle = QRectF(x(s.low) + 42, y + 18, band.width() - 84, 20)
        if (
            painter.fontMetrics().horizontalAdvance("the meter repeats within this")
            < middle.width()
        ):
            painter.drawText(middle, Qt.AlignmentFlag.AlignCenter, "the meter repeats within this")
