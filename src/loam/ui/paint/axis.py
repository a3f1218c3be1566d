"""An axis: from a place on a scale to the drawing, with its round marks and their figures."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from loam.app.presenters.axis import marks_of, ticks
from loam.core.readings import ReadingKind
from loam.core.scale import Scale
from loam.ui.paint.words import MIDDLE
from loam.ui.theme import look

Marks = Sequence[tuple[float, str]]
"""Places on the axis, with what is written at them."""


@dataclass(frozen=True)
class Axis:
    """A line of the drawing that stands for a range of a scale.

    Attributes
    ----------
    left, right : float
        Its ends in the drawing, px.
    low, high : float
        What stands there, on the scale.
    flip : bool
        Whether the high end is at the left: further right is better.
    """

    left: float
    right: float
    low: float
    high: float
    flip: bool = False

    def x(self, place: float) -> float:
        """Return where a place of the scale lies in the drawing, px."""
        share = (place - self.low) / (self.high - self.low)
        return self.left + (1.0 - share if self.flip else share) * (self.right - self.left)


def around(values: Iterable[float], pad: float) -> tuple[float, float]:
    """Return the range of some values, wider on both sides by a share of it."""
    every = list(values)
    low, high = min(every), max(every)
    more = pad * max(high - low, 1e-9)
    return low - more, high + more


def measured(axis: Axis, scale: Scale, kind: ReadingKind, each: int = 70) -> Marks:
    """Return round measured values along an axis, about one in ``each`` px."""
    most = max(int((axis.right - axis.left) / look.px(each)), 2)
    found = marks_of(scale, axis.low, axis.high, most)
    return [(float(scale.to(np.array([v]))[0]), kind.write(v)) for v in found]


def even(axis: Axis, most: int, write: Callable[[float, float], str]) -> Marks:
    """Return round places along an axis; ``write`` is given a place and the step between two."""
    start, stop, step = ticks(axis.low, axis.high, most)
    places = (start + i * step for i in range(round((stop - start) / step) + 1))
    inside = (p for p in places if axis.low - 1e-9 * step <= p <= axis.high + 1e-9 * step)
    return [(p, write(p, step)) for p in inside]


def draw_lines(painter: QPainter, axis: Axis, marks: Marks, top: float, foot: float) -> None:
    """Draw a thin line at each mark, as high as the panel that it crosses."""
    painter.setPen(QPen(look.panel_cell, 1))
    for place, _ in marks:
        painter.drawLine(QPointF(axis.x(place), top), QPointF(axis.x(place), foot))


def draw_figures(
    painter: QPainter,
    axis: Axis,
    marks: Marks,
    foot: float,
    bottom: float,
    ink: QColor | None = None,
    size: int = 11,
) -> None:
    """Write the figure of each mark below the axis."""
    painter.setFont(look.figures(size))
    painter.setPen(ink or look.quiet_on_panel)
    for place, text in marks:
        painter.drawText(QRectF(axis.x(place) - 40, foot, 80, bottom - foot), MIDDLE, text)


def draw_whisker(
    painter: QPainter,
    axis: Axis,
    y: float,
    interval: tuple[float, float, float],
    *,
    hollow: bool = False,
) -> None:
    """Draw an interval (low, middle, high); dashed and hollow where it is a prediction."""
    low, middle, high = (axis.x(v) for v in interval)
    line = Qt.PenStyle.DashLine if hollow else Qt.PenStyle.SolidLine
    painter.setPen(QPen(look.quiet_on_panel, 1.6, line))
    painter.drawLine(QPointF(low, y), QPointF(high, y))
    painter.setPen(QPen(look.on_panel, 1.6))
    painter.setBrush(look.panel if hollow else look.on_panel)
    painter.drawRect(QRectF(middle - 3.5, y - 4, 7, 8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
