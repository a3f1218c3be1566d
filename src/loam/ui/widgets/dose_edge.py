"""The edge of a section as it lies under the pad: what the tape sees, and the seam beside it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from loam.core.dose.edge import Edge
from loam.core.words.dose import edge_words
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import SMALL

MOST = 1.35


class DoseEdge(Drawing):
    """Dose across the edge of two sections: each by itself, and both, against the plateau."""

    called = "the seam with the next section"
    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.edge: Edge | None = None
        self.setObjectName("dose_edge")
        self.setFixedHeight(look.px(86))

    def sizeHint(self) -> QSize:
        return QSize(300, look.px(86))

    def show_edge(self, edge: Edge | None) -> None:
        """Show an edge."""
        self.edge = edge
        self.setVisible(edge is not None)
        self.setAccessibleDescription(edge_words(edge) if edge is not None else "")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        edge = self.edge
        if edge is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        foot = look.px(18)
        box = QRectF(0, 2, self.width(), self.height() - foot - 4)
        painter.fillRect(box, look.panel)
        wide = float(edge.at_mm[-1] - edge.at_mm[0])

        def place(mm: float, dose: float) -> QPointF:
            x = box.left() + (mm - float(edge.at_mm[0])) / wide * box.width()
            return QPointF(x, box.bottom() - min(dose, MOST) / MOST * box.height())

        def curve(dose: np.ndarray) -> QPolygonF:
            return QPolygonF(
                [place(float(x), float(y)) for x, y in zip(edge.at_mm, dose, strict=True)]
            )

        under = curve(edge.both)
        under.append(QPointF(box.right(), box.bottom()))
        under.append(QPointF(box.left(), box.bottom()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.tape)
        painter.drawPolygon(under)
        level = place(0.0, 1.0).y()
        painter.setPen(QPen(look.quiet_on_panel, 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(box.left(), level), QPointF(box.right(), level))
        ink = look.on_tape
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(ink, 1.2, Qt.PenStyle.DashLine))
        painter.drawPolyline(curve(edge.own))
        painter.drawPolyline(curve(edge.beside))
        painter.setPen(QPen(look.strong, 2))
        for mm in (0.0, -edge.overlap_mm):
            at = place(mm, 0.0)
            painter.drawLine(at, at - QPointF(0, 10))
        painter.setFont(look.words(SMALL))
        painter.setPen(look.quiet)
        line = QRectF(0, box.bottom() + 2, self.width(), foot)
        left, right = Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight
        middle = f"{edge.overlap_mm:.0f} mm over each other"
        used = painter.fontMetrics().horizontalAdvance(f"this section {middle} the next")
        painter.drawText(line, Qt.AlignmentFlag.AlignHCenter, middle)
        if used + 40 < self.width():
            painter.drawText(line, left, "this section")
            painter.drawText(line, right, "the next")
