"""Photographs of a panel: small beside its film, made small enough to be kept with the car."""

from __future__ import annotations

import base64
from functools import lru_cache
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QImage, QPainter, QPaintEvent

from loam.core.vehicle.events import MOST_IMAGE
from loam.store.picture_file import read_small
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.lamp import faded
from loam.ui.theme import look

LONG_PX = 900
"""The long side of a photograph that is kept."""


@lru_cache(64)
def image_of(text: str) -> QImage:
    """Return a photograph that was kept."""
    found = QImage()
    found.loadFromData(base64.b64decode(text))
    return found


def small_jpeg(path: Path) -> str:
    """Return a photograph as it is kept (JPEG, base64).

    Raises
    ------
    ValueRefused
        For what is no picture, no ordinary file, or too large; nothing of it is decoded then.
    """
    text = base64.b64encode(read_small(path, LONG_PX)).decode()
    if len(text) > MOST_IMAGE:
        text = base64.b64encode(read_small(path, LONG_PX // 2)).decode()
    return text


class Photos(Drawing):
    """The photographs of a panel in a row."""

    called = "photographs of the panel"
    likes = (300, 74)
    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("car_photos")
        self.photos: tuple[tuple[str, str], ...] = ()

    def sizeHint(self) -> QSize:
        return QSize(300, look.px(70))

    def show_photos(self, photos: tuple[tuple[str, str], ...]) -> None:
        """Show photographs, the newest first; hidden where there is none."""
        self.photos = photos
        self.setVisible(bool(photos))
        self.setAccessibleDescription(f"{len(photos)} photographs")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        x = 0.0
        for text, _ in reversed(self.photos):
            image = image_of(text)
            if image.isNull():
                continue
            wide = self.height() * image.width() / image.height()
            if x + wide > self.width():
                break
            painter.drawImage(QRectF(x, 0, wide, self.height()), image)
            if look.lights_out:
                painter.fillRect(QRectF(x, 0, wide, self.height()), faded(look.ground, 0.75))
            x += wide + 6
