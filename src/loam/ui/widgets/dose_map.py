"""The dose of a section as it lies: where much is worked, where little, and where to read."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.app.presenters.dosing import DoseView, spoken
from loam.ui.theme import look
from loam.ui.theme.look import SMALL

MOST = 1.4
"""A dose of this many times the plateau is drawn in full."""


class DoseMap(QWidget):
    """A section to scale, dark where little is worked; the circle is even ground."""

    def __init__(self) -> None:
        super().__init__()
        self.view: DoseView | None = None
        self._image: QImage | None = None
        self._bytes = b""
        self.setObjectName("dose_map")
        self.setAccessibleName("what the stage does to a section")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(140, 84)
        look.changed.connect(self._recolour)

    def sizeHint(self) -> QSize:
        return QSize(300, 300)

    def show_view(self, view: DoseView | None) -> None:
        """Show a dose."""
        self.view = view
        self.setAccessibleDescription(spoken(view) if view is not None else "")
        self._recolour()

    def _recolour(self) -> None:
        self._image = None
        if self.view is not None and not self.view.refusal:
            self._image = self._painted(self.view.map)
        self.update()

    def _painted(self, dose: np.ndarray) -> QImage:
        """Mix the panel's colour with the tape's by the dose, and beyond it with care."""
        low, full, much = (np.array(_rgb(c), float) for c in (look.panel, look.tape, look.care))
        share = np.clip(dose, 0.0, MOST)[:, :, None]
        mixed = np.where(
            share <= 1.0,
            low + (full - low) * share,
            full + (much - full) * (share - 1.0) / (MOST - 1.0) * 0.8,
        )
        rgb = np.ascontiguousarray(mixed.round().astype(np.uint8))
        self._bytes = rgb.tobytes()
        rows, columns = dose.shape
        return QImage(self._bytes, columns, rows, 3 * columns, QImage.Format.Format_RGB888)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        view = self.view
        if view is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        scale = min(self.width() / view.width_mm, self.height() / view.height_mm)
        box = QRectF(0, 0, view.width_mm * scale, view.height_mm * scale)
        if self._image is None:
            painter.fillRect(box, look.panel)
            return
        painter.drawImage(box, self._image)
        if view.circle is None:
            return
        x, y, across = (v * scale for v in view.circle)
        ink = look.on_panel if look.lights_out else look.panel
        painter.setPen(QPen(ink, 1.6, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(x, y), across / 2, across / 2)
        painter.setFont(look.words(SMALL, bold=True))
        painter.setPen(ink)
        said = "read here"
        if painter.fontMetrics().horizontalAdvance(said) < across - 8:
            room = QRectF(x - across / 2, y - 12, across, 24)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, said)


def _rgb(colour: QColor) -> tuple[int, int, int]:
    return colour.red(), colour.green(), colour.blue()
