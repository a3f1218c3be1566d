"""What a cell reflects, drawn: the lamp in the paint, as its readings say."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QImage, QPainter

from loam.app.reflection import Light, reflection
from loam.ui.theme import look


def draw_reflection(painter: QPainter, box: QRectF, light: Light) -> None:
    """Draw what a cell reflects, large."""
    pixels = int(min(box.width() * 2, 240))
    painter.drawImage(box, lit(light, pixels, look.panel_cell.rgb(), lamp().rgb()))


def lamp() -> QColor:
    """Return the colour of the lamp in the paint."""
    return look.ink if look.lights_out else look.on_panel


def faded(colour: QColor, share: float) -> QColor:
    """Return a colour that covers a share of what lies below it."""
    found = QColor(colour)
    found.setAlphaF(share)
    return found


@lru_cache(256)
def lit(light: Light, size: int, ground: int, lamp: int) -> QImage:
    """Return a reflection between the colour of the paint and that of the lamp."""
    shine = reflection(light, size)[:, :, None]
    low, high = (
        np.array([c & 255, c >> 8 & 255, c >> 16 & 255], dtype=float) for c in (ground, lamp)
    )
    rgb = low + (high - low) * shine
    pixels = np.empty((size, size, 4), dtype=np.uint8)
    pixels[:, :, :3] = np.round(rgb).astype(np.uint8)
    pixels[:, :, 3] = 255
    return QImage(pixels.tobytes(), size, size, 4 * size, QImage.Format.Format_RGB32).copy()
