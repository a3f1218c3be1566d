"""Marks seen on a panel, drawn on it as they look in a lamp; the heavier, the more of them."""

from __future__ import annotations

import random
from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from loam.core.vehicle.job import Nail
from loam.ui.theme import look

_SHARE = {"light": 1.0, "middle": 2.2, "heavy": 4.5}
"""How many times as many marks are drawn."""
_WORDS = (0.34, 0.26)
"""So far from the middle of a panel its words reach, shares of its box."""
_EVERY_PX = 2600.0
"""A light mark on so many square pixels."""


def draw_marks(
    painter: QPainter,
    shape: QPolygonF,
    damage: Mapping[str, str],
    seed: str,
    *,
    spare: bool = False,
) -> None:
    """Draw what was seen on a panel, by its sort and how heavy; ``spare`` leaves its words free."""
    if not damage:
        return
    box = shape.boundingRect()
    inside = QPainterPath()
    inside.addPolygon(shape)
    painter.save()
    painter.setClipPath(inside, Qt.ClipOperation.IntersectClip)
    painter.setOpacity(0.5)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for kind, level in damage.items():
        rng = random.Random(f"{seed} {kind}")
        count = max(2, round(_SHARE[level] * box.width() * box.height() / _EVERY_PX))
        painter.setPen(QPen(look.on_panel, 1.0))
        for _ in range(min(count, 160)):
            x, y = rng.random(), rng.random()
            if spare and abs(x - 0.5) < _WORDS[0] and abs(y - 0.5) < _WORDS[1]:
                continue
            at = QPointF(box.left() + x * box.width(), box.top() + y * box.height())
            _DRAWN[kind](painter, at, rng)
    painter.restore()


def _swirl(painter: QPainter, at: QPointF, rng: random.Random) -> None:
    size = 8.0 + 14.0 * rng.random()
    begin = round(5760 * rng.random())
    box = QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size)
    painter.drawArc(box, begin, 500)
    painter.drawArc(box.adjusted(3, 3, -3, -3), begin + 60, 420)


def _scratch(painter: QPainter, at: QPointF, rng: random.Random) -> None:
    dx, dy = 16.0 * (rng.random() - 0.5), 26.0 * (rng.random() - 0.5)
    painter.drawLine(at, at + QPointF(dx, dy))


def _hologram(painter: QPainter, at: QPointF, rng: random.Random) -> None:
    path = QPainterPath(at)
    path.quadTo(at + QPointF(9, -7), at + QPointF(18, 0))
    path.quadTo(at + QPointF(27, 7), at + QPointF(36, 0))
    painter.drawPath(path)
    painter.drawPath(path.translated(0, 3.5))


def _etched(painter: QPainter, at: QPointF, rng: random.Random) -> None:
    size = 2.0 + 2.5 * rng.random()
    painter.drawEllipse(at, size, size * 0.85)


def _texture(painter: QPainter, at: QPointF, rng: random.Random) -> None:
    for i in range(3):
        painter.drawLine(at + QPointF(3.0 * i, 0), at + QPointF(3.0 * i + 5, -5))


_DRAWN = {
    "swirls": _swirl,
    "scratches": _scratch,
    "holograms": _hologram,
    "etching": _etched,
    "texture": _texture,
}


def draw_nail(painter: QPainter, box: QRectF, nail: Nail) -> None:
    """Draw a mark that catches a nail: it stays."""
    at = QPointF(box.left() + nail.x * box.width(), box.top() + nail.y * box.height())
    painter.setPen(QPen(look.care, 2))
    painter.drawLine(at + QPointF(-12, 3), at + QPointF(2, -3))
    painter.drawLine(at + QPointF(2, -3), at + QPointF(13, 1))
