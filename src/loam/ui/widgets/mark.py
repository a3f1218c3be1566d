"""The mark of a combination, drawn from its own facts: motion, pad, grain, passes.

One row a stage, top to bottom in the order of work. No colour is needed to tell marks apart.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from loam.core.kit import COMPOUND_BY_KEY, PAD_BY_KEY
from loam.core.kit.grit import grit_of
from loam.core.machines import BY_KEY as MACHINES
from loam.core.trial import Combination, Stage

FINE_GRIT = 2500
ROW_ASPECT = 5.6
"""Width of one stage's row over its height."""


def mark_size(combination: Combination | None, row: float) -> tuple[float, float]:
    """Return the width and height of a mark whose rows are ``row`` high."""
    stages = len(combination.stages) if combination else 0
    return row * ROW_ASPECT, row * max(stages, 1) + 0.18 * row * max(stages - 1, 0)


def paint_mark(
    painter: QPainter, at: QPointF, combination: Combination, row: float, ink: QColor
) -> None:
    """Paint a mark with its upper left corner at ``at`` and rows ``row`` high."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    stages = combination.stages
    for i, stage in enumerate(stages):
        _paint_stage(painter, QPointF(at.x(), at.y() + i * row * 1.18), stage, row, ink)
    if not stages:
        painter.setPen(QPen(ink, max(1.0, row * 0.07), Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(at.x(), at.y(), row * 2.2, row * 0.9))
    painter.restore()


def _paint_stage(painter: QPainter, at: QPointF, stage: Stage, row: float, ink: QColor) -> None:
    pen = max(1.0, row * 0.075)
    x, y = at.x(), at.y()
    _motion(painter, QRectF(x, y, row, row), stage.machine_kind, ink, pen)
    x += row * 1.2
    tool = QRectF(x, y + 0.08 * row, row * 1.5, row * 0.84)
    if stage.disc:
        _mesh(painter, tool, grit_of(stage.disc, stage.grit), ink, pen)
    else:
        _pad(painter, tool, stage.pad_material, ink, pen)
    x += row * 1.7
    grain = COMPOUND_BY_KEY[stage.compound_class].grain if stage.compound_class else 0.0
    if grain:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        radius = grain * row * 0.42
        painter.drawEllipse(QPointF(x + row * 0.38, y + row / 2), radius, radius)
    x += row * 0.95
    painter.setPen(QPen(ink, max(1.0, row * 0.09)))
    for i in range(min(stage.passes, 9)):
        at_x = x + i * row * 0.19
        painter.drawLine(QPointF(at_x, y + row * 0.16), QPointF(at_x, y + row * 0.84))


def _motion(painter: QPainter, rect: QRectF, kind: str, ink: QColor, pen: float) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(ink, pen))
    machine = MACHINES.get(kind)
    centre, radius = rect.center(), rect.width() * 0.44
    if machine is None:
        painter.drawLine(
            QPointF(centre.x() - radius / 2, centre.y()),
            QPointF(centre.x() + radius / 2, centre.y()),
        )
        return
    if not machine.loops:
        painter.setPen(QPen(ink, pen * 1.5))
        painter.drawEllipse(centre, radius, radius)
        return
    path = QPainterPath()
    inner, outer = radius * (1 - machine.throw), radius * machine.throw
    for i in range(97):
        t = 2 * math.pi * i / 96
        x = centre.x() + inner * math.cos(t) + outer * math.cos(machine.loops * t)
        y = centre.y() + inner * math.sin(t) + outer * math.sin(machine.loops * t)
        if i:
            path.lineTo(x, y)
        else:
            path.moveTo(x, y)
    painter.drawPath(path)


def _dots(painter: QPainter, r: QRectF, columns: int, rows: int, size: float) -> None:
    for i in range(columns):
        for j in range(rows):
            shift = 0.5 * (j % 2) * r.width() / columns
            x = r.left() + (i + 0.3) * r.width() / columns + shift
            y = r.top() + (j + 0.5) * r.height() / rows
            painter.drawEllipse(QPointF(min(x, r.right() - size), y), size, size)


def _slashes(painter: QPainter, r: QRectF, count: int) -> None:
    for i in range(count):
        x = r.left() + r.width() * i / count
        painter.drawLine(QPointF(x, r.bottom()), QPointF(x + r.width() * 0.22, r.top()))


def _waves(painter: QPainter, r: QRectF, rows: int) -> None:
    for j in range(rows):
        y = r.top() + (j + 0.5) * r.height() / rows
        path = QPainterPath(QPointF(r.left(), y))
        step = r.width() / 4
        for i in range(4):
            x = r.left() + i * step
            up = -1 if i % 2 else 1
            path.quadTo(
                QPointF(x + step / 2, y - up * r.height() / rows * 0.75), QPointF(x + step, y)
            )
        painter.drawPath(path)


def _mesh(painter: QPainter, r: QRectF, grit: float | None, ink: QColor, pen: float) -> None:
    """Draw a sanding disc: a mesh, closer for finer grits, whatever lies under it."""
    painter.setPen(QPen(ink, pen if (grit or 0) < FINE_GRIT else 0.6 * pen))
    fine = sum((grit or 1200) >= step for step in (1000, FINE_GRIT, 4000))
    across, down = 3 + fine, 1 + (fine + 1) // 2
    for i in range(across + 1):
        x = r.left() + r.width() * i / across
        painter.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()))
    for j in range(down + 1):
        y = r.top() + r.height() * j / down
        painter.drawLine(QPointF(r.left(), y), QPointF(r.right(), y))


def _pad(painter: QPainter, rect: QRectF, material: str, ink: QColor, pen: float) -> None:
    texture = PAD_BY_KEY[material].texture if material in PAD_BY_KEY else ""
    painter.setPen(QPen(ink, pen))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if texture == "empty":
        painter.drawRect(rect.adjusted(pen / 2, pen / 2, -pen / 2, -pen / 2))
        return
    drawn: dict[str, Callable[[], None]] = {
        "slashes": lambda: _slashes(painter, rect, 6),
        "waves": lambda: _waves(painter, rect, 3),
    }
    if texture in drawn:
        drawn[texture]()
        return
    if texture == "mixed":
        _waves(painter, QRectF(rect.left(), rect.top(), rect.width(), rect.height() / 2), 1)
        rect = QRectF(rect.left(), rect.center().y(), rect.width(), rect.height() / 2)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    if texture == "dots":
        _dots(painter, rect, 5, 4, rect.height() * 0.085)
    elif texture == "sparse":
        _dots(painter, rect, 3, 2, rect.height() * 0.085)
    elif texture == "mixed":
        _dots(painter, rect, 5, 2, rect.height() * 0.17)
