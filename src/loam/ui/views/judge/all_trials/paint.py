"""Two sides held against each other: hollow the first, full the second, tape where they differ."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from loam.app.questions.all_trials.comparing import ComparedPicture
from loam.core.sides import Held
from loam.core.units import fixed, signed
from loam.core.verdicts import EQUAL, OPEN
from loam.core.words.verdict import unit_of
from loam.ui.paint.axis import Axis, around, draw_figures, draw_lines, measured
from loam.ui.paint.words import LEFT
from loam.ui.theme import look
from loam.ui.widgets.drawn import Target
from loam.ui.widgets.tape import paint_tape

_SAID = {EQUAL: "the same, for what matters", OPEN: "not settled"}


def draw_compared(painter: QPainter, area: QRectF, found: ComparedPicture) -> list[Target]:
    """Draw a line a recipe; a spot tells it in words."""
    painter.fillRect(area, look.panel)
    foot = area.bottom() - look.px(26)
    each = min((foot - area.top() - 8) / max(len(found.held), 1), float(look.px(44)))
    left, right = area.left() + look.px(120), area.right() - look.px(330)
    low, high = around((p for h in found.held for p in (h.first, h.second)), 0.06)
    axis = Axis(left, right, low, high, flip=not found.judgement.higher_is_better)
    marks = measured(axis, found.judgement.scale, found.kind)
    draw_lines(painter, axis, marks, area.top(), foot)
    draw_figures(painter, axis, marks, foot, area.bottom())
    spots = []
    for i, h in enumerate(found.held):
        y = area.top() + 4 + (i + 0.5) * each
        sure = h.verdict not in (EQUAL, OPEN)
        painter.setFont(look.words(14, bold=True))
        painter.setPen(look.on_panel)
        name = QRectF(area.left() + 10, y - each / 2, left - area.left() - 10, each)
        painter.drawText(name, LEFT, f"{h.combination} {h.hardness}")
        a, b = axis.x(h.first), axis.x(h.second)
        if sure:
            paint_tape(
                painter, QRectF(min(a, b), y - 5, max(abs(b - a), 2.0), 10), seed=i + 3, depth=3
            )
        painter.setPen(QPen(look.on_panel if sure else look.quiet_on_panel, 1.6))
        painter.drawLine(QPointF(a, y), QPointF(b, y))
        painter.setBrush(look.panel)
        painter.drawEllipse(QPointF(a, y), 6, 6)
        painter.setBrush(look.on_panel)
        painter.drawEllipse(QPointF(b, y), 5, 5)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(look.words(13, bold=sure))
        painter.setPen(look.on_panel if sure else look.quiet_on_panel)
        told = f"{_amount(found, h)}, {_SAID.get(h.verdict, h.verdict)}"
        painter.drawText(
            QRectF(right + 16, y - each / 2, area.right() - right - 20, each), LEFT, told
        )
        words = f"{h.combination} on {h.hardness}: {told}"
        spots.append(
            Target(
                QRectF(area.left(), y - each / 2, area.width(), each),
                f"{h.hardness}:{h.combination}",
                words,
            )
        )
    return spots


def _amount(found: ComparedPicture, h: Held) -> str:
    """Write a difference as measured, at the place of the first side, with its interval."""
    ends = [
        found.measured(h.first + d) - found.measured(h.first) for d in (h.difference, h.low, h.high)
    ]
    digits = max(found.kind.decimals, 1)
    low, high = sorted(ends[1:])
    interval = f"({fixed(low, digits)} to {fixed(high, digits)})"
    return f"{signed(ends[0], digits)} {interval} {unit_of(found.kind)}"
