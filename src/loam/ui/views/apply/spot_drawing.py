"""A test spot: what the panels promised, as a pale range, and what came, as a mark on it.

What was measured with an error of its own has that as a line; of what nothing was promised, there
is no pale.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from loam.app.applying.told import Came, SpotTold
from loam.app.reflection import light_of
from loam.core.readings import BY_KEY
from loam.core.units import fixed
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.lamp import draw_reflection
from loam.ui.paint.words import LEFT, RIGHT
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL


class SpotDrawing(Drawing):
    """One row a measurand; beside them the lamp before and now."""

    called = "the spot against the promise"
    likes = (480, 110)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("spot")
        self.told: SpotTold | None = None
        self.setMinimumHeight(look.px(70))

    def show_spot(self, told: SpotTold | None) -> None:
        """Show a spot, or nothing."""
        self.told = told
        self.setVisible(told is not None)
        said = "" if told is None else " ".join([*(row_words(r) for r in told.rows), told.words])
        self.setAccessibleDescription(said)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.told is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_spot(painter, QRectF(0, 0, self.width(), self.height()), self.told)


def row_words(row: Came) -> str:
    """Say a row: defects removed 91 %, promised 74 to 97."""
    said = f"{row.label} {written(row, row.value)}{_error(row)} {row.unit}"
    if row.low is None or row.high is None:
        return f"{said}; nothing was promised of it."
    inside = "inside" if row.inside else "outside"
    return f"{said}, {inside} the promised {written(row, row.low)} to {written(row, row.high)}."


def _error(row: Came) -> str:
    return f" ± {row.error:.0f}" if row.error is not None else ""


def beside(row: Came) -> str:
    """Say where a value lies that is not inside: ", above"."""
    if row.inside or row.high is None:
        return ""
    return ", above" if row.value > row.high else ", below"


def written(row: Came, value: float) -> str:
    """Write a value as its meter would."""
    kind = BY_KEY.get(row.measurand)
    return kind.write(value) if kind is not None else str(fixed(value, 1))


def draw_spot(painter: QPainter, area: QRectF, told: SpotTold) -> None:
    """Draw what came against what was promised."""
    patch = min(area.height() - look.px(18), float(look.px(62)))
    lamps = 2 * (patch + 8) if patch > 30 and area.width() > look.px(440) else 0.0
    rows = QRectF(area.left(), area.top(), area.width() - lamps - 10, area.height())
    count = max(len(told.rows), 1)
    high = min(rows.height() / count, float(look.px(34)))
    names = float(look.px(112))
    figures = float(look.px(118))
    for i, row in enumerate(told.rows):
        line = QRectF(rows.left(), rows.top() + i * high, rows.width(), high)
        painter.setFont(look.words(BODY))
        painter.setPen(look.ink)
        painter.drawText(QRectF(line.left(), line.top(), names, high), LEFT, row.label)
        place = QRectF(line.left() + names, line.top(), line.width() - names - figures, high)
        _row(painter, place, row)
        painter.setFont(look.figures(BODY, bold=True))
        painter.setPen(look.ink)
        said = f"{written(row, row.value)}{_error(row)} {row.unit}{beside(row)}"
        painter.drawText(line, RIGHT, said)
    if lamps:
        _lamps(
            painter, QRectF(area.right() - lamps + 8, area.top(), lamps, area.height()), told, patch
        )


def _row(painter: QPainter, box: QRectF, row: Came) -> None:
    err = row.error or 0.0
    ends = (row.low, row.high, row.limit, row.value - err, row.value + err)
    values = [v for v in ends if v is not None]
    if row.low is None:
        values += [0.0, 100.0]  # a measure of its own is drawn on all of its range
    low, high = min(values), max(values)
    pad = 0.12 * max(high - low, 1e-9)
    low, high = low - pad, high + pad

    def x(value: float) -> float:
        return box.left() + (value - low) / (high - low) * box.width()

    y = box.center().y()
    painter.setPen(QPen(look.line, 1))
    painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
    if row.low is not None and row.high is not None:
        pale = QRectF(x(row.low), y - 7, max(x(row.high) - x(row.low), 2.0), 14)
        painter.fillRect(pale, look.band)
    if row.limit is not None:
        painter.setPen(QPen(look.care, 2))
        painter.drawLine(QPointF(x(row.limit), y - 9), QPointF(x(row.limit), y + 9))
    if row.error is not None:
        painter.setPen(QPen(look.strong, 1.6))
        painter.drawLine(QPointF(x(row.value - err), y), QPointF(x(row.value + err), y))
    painter.setPen(QPen(look.strong, 4))
    painter.drawLine(QPointF(x(row.value), y - 9), QPointF(x(row.value), y + 9))


def _lamps(painter: QPainter, area: QRectF, told: SpotTold, patch: float) -> None:
    """Draw the lamp in the paint before and now, from the readings."""
    for i, (phase, said) in enumerate((("before", "before"), ("after", "now"))):
        means = told.spot.means(phase)
        gone = means.get("defects") if phase == "after" else 0.0
        light = light_of(means.get("gloss20"), means.get("haze"), gone)
        box = QRectF(area.left() + i * (patch + 8), area.top(), patch, patch)
        draw_reflection(painter, box, light)
        painter.setFont(look.words(SMALL))
        painter.setPen(look.quiet)
        low = QRectF(box.left(), box.bottom() + 1, patch, look.px(16))
        painter.drawText(low, LEFT, said)
