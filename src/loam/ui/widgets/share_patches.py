"""What is left to be seen, at some shares: drawn patches to hold an estimate by eye against."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.app.reflection import light_of
from loam.ui.paint.lamp import draw_reflection
from loam.ui.theme import look

SHARES = (100, 60, 30, 15, 5, 0)
_GLOSS, _HAZE = 84.0, 8.0


class Remains(QWidget):
    """Patches from all marks to none, under one and the same light."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("remains")
        self.setAccessibleName("how much remains, drawn")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMinimumSize(180, 120)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(520, 260)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        gap, below = 10.0, float(look.px(22))
        columns = 3
        side = min(
            (self.width() - gap * (columns - 1)) / columns, (self.height() - 3 * below - gap) / 2
        )
        if side < 24:
            return
        for i, share in enumerate(SHARES):
            x, y = i % columns * (side + gap), i // columns * (side + below + gap)
            box = QRectF(x, y, side, side)
            painter.setOpacity(0.6 if look.lights_out else 1.0)
            draw_reflection(painter, box, light_of(_GLOSS, _HAZE, 100.0 - share))
            painter.setOpacity(1.0)
            painter.setPen(look.ink)
            painter.setFont(look.figures(14))
            label = QRectF(x, y + side + 2, side, below)
            painter.drawText(label, Qt.AlignmentFlag.AlignLeft, f"{share} %")
        painter.setPen(look.quiet)
        painter.setFont(look.words(13))
        foot = QRectF(0, 2 * (side + below + gap) - gap + 2, self.width(), below)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, "drawn, no photographs")
