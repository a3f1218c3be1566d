"""One photograph with its cell and strip, and what was counted in it."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen

from loam.core.photo import Region
from loam.core.stats.reduce import FloatArray
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look

LEAST_PX = 16
CELL, STRIP, NAIL = "cell", "strip", "nail"

_LABELS = {CELL: "cell", STRIP: "strip, not worked", NAIL: "the nail catches, not counted"}


def grey_image(values: np.ndarray[Any, np.dtype[np.uint8]]) -> QImage:
    """Return a plane of bytes as a picture of its own."""
    h, w = values.shape
    flat = np.ascontiguousarray(values)
    return QImage(flat.tobytes(), w, h, w, QImage.Format.Format_Grayscale8).copy()


def overlay_image(counted: FloatArray, colour: QColor) -> QImage:
    """Return how strongly marks answered as a picture of one colour, seen through."""
    h, w = counted.shape
    out = np.empty((h, w, 4), np.uint8)
    out[..., 0], out[..., 1], out[..., 2] = colour.red(), colour.green(), colour.blue()
    out[..., 3] = np.rint(255.0 * np.sqrt(np.clip(counted, 0.0, 1.0))).astype(np.uint8)
    return QImage(out.tobytes(), w, h, 4 * w, QImage.Format.Format_RGBA8888).copy()


class PhotoPane(Drawing):
    """Shows a photograph; ``drawn`` carries a region that was dragged, in px of the whole."""

    likes = (520, 480)

    drawn = pyqtSignal(str, int, int, int, int)

    def __init__(self, title: str) -> None:
        super().__init__()
        self.title, self.hint = title, ""
        self.image: QImage | None = None
        self.overlay: QImage | None = None
        self.scale = 1
        self.regions: dict[str, Region] = {}
        self.at = CELL
        self._corners: tuple[QPointF, QPointF] | None = None
        self.setMinimumSize(220, 180)
        self.setAccessibleName(title)

    def show_photo(self, image: QImage | None, scale: int, hint: str = "") -> None:
        """Show a photograph, or what will be here."""
        self.image, self.scale, self.hint, self.overlay = image, scale, hint, None
        self.setAccessibleDescription(hint)
        self.update()

    def show_regions(self, regions: dict[str, Region], at: str) -> None:
        """Show cell and strip, and which of them is moved."""
        self.regions, self.at = regions, at
        self.update()

    def show_counted(self, overlay: QImage | None) -> None:
        """Lay what was counted over it."""
        self.overlay = overlay
        self.update()

    def _box(self) -> QRectF:
        """Return where the photograph lies."""
        top = look.px(26)
        room = QRectF(0, top, self.width(), self.height() - top)
        if self.image is None:
            return room
        w, h = self.image.width(), self.image.height()
        each = min(room.width() / w, room.height() / h)
        return QRectF(room.left(), room.top(), w * each, h * each)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(look.ink)
        painter.setFont(look.words(17, bold=True))
        painter.drawText(QRectF(0, 0, self.width(), look.px(24)), self.title)
        box = self._box()
        if self.image is None:
            painter.setPen(QPen(look.line, 1.5, Qt.PenStyle.DashLine))
            painter.drawRect(box.adjusted(1, 1, -2, -2))
            painter.setPen(look.quiet)
            painter.setFont(look.words(17))
            flags = int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap)
            painter.drawText(box.adjusted(20, 10, -20, -10), flags, self.hint)
            return
        painter.setOpacity(0.3 if look.lights_out else 1.0)
        painter.drawImage(box, self.image)
        painter.setOpacity(1.0)
        if self.overlay is not None:
            painter.drawImage(box, self.overlay)
        for key, region in self.regions.items():
            self._region(painter, box, key, region)
        if self._corners is not None:
            painter.setPen(QPen(look.edge, 2, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(*self._corners).normalized())

    def _region(self, painter: QPainter, box: QRectF, key: str, region: Region) -> None:
        assert self.image is not None
        each = box.width() / (self.image.width() * self.scale)
        rect = QRectF(
            box.left() + region.x * each,
            box.top() + region.y * each,
            region.width * each,
            region.height * each,
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.edge, 3.0 if key == self.at else 1.5))
        painter.drawRect(rect)
        label = _LABELS[key]
        painter.setFont(look.words(14, bold=key == self.at))
        wide = painter.fontMetrics().horizontalAdvance(label) + 12
        tag = QRectF(rect.left(), rect.top(), wide, look.px(20))
        painter.fillRect(tag, look.tape)
        painter.setPen(look.on_tape)
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, label)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.image is not None and self.regions:
            self._corners = (event.position(), event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._corners is not None:
            self._corners = (self._corners[0], event.position())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        corners, self._corners = self._corners, None
        self.update()
        if corners is None or self.image is None:
            return
        box = self._box()
        rect = QRectF(*corners).normalized().intersected(box)
        each = box.width() / (self.image.width() * self.scale)
        if min(rect.width(), rect.height()) < LEAST_PX:
            return
        left, top = (rect.left() - box.left()) / each, (rect.top() - box.top()) / each
        self.drawn.emit(
            self.at,
            round(left),
            round(top),
            round(rect.width() / each),
            round(rect.height() / each),
        )
