"""A panel of the car, large: its film where it was read, where it is read next, what is on it."""

from __future__ import annotations

from statistics import median

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from loam.core.vehicle.job import CarPart, FilmSpot
from loam.core.vehicle.places import Place, near_edge, turned
from loam.core.vehicle.shapes import box_of
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT, MIDDLE
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.views.apply.marks_drawing import draw_marks, draw_nail

_LOW_UM = 6.0
"""A spot so much thinner than the middle of its panel is a low one."""


class PanelDrawing(Drawing):
    """``placed`` carries the place that was pressed: the next spot is read there."""

    called = "the panel"
    likes = (480, 190)
    grows = (True, True)
    placed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("car_panel")
        self.setMinimumHeight(look.px(110))
        self.part: CarPart | None = None
        self.ring: Place | None = None

    def show_part(self, part: CarPart, ring: Place | None) -> None:
        """Show a panel; ``ring`` is where it is read next."""
        self.part, self.ring = part, ring
        self.setAccessibleDescription(spoken(part))
        self.update()

    def shape(self) -> QPolygonF:
        """Return where the panel lies in the drawing."""
        part = self.part
        if part is None:
            return QPolygonF()
        high, wide = box_of(part.outline)[2:]
        room = QRectF(2, 2, self.width() - 4, self.height() - 4)
        px = min(room.width() / wide, room.height() / high)
        left = room.left() + (room.width() - wide * px) / 2
        top = room.top() + (room.height() - high * px) / 2
        return QPolygonF(
            [QPointF(left + x * wide * px, top + y * high * px) for x, y in turned(part.outline)]
        )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.part is None:
            return
        shape = self.shape()
        if not shape.containsPoint(event.position(), Qt.FillRule.OddEvenFill):
            return
        box = shape.boundingRect()
        x = (event.position().x() - box.left()) / max(box.width(), 1.0)
        y = (event.position().y() - box.top()) / max(box.height(), 1.0)
        self.placed.emit(Place(round(x, 3), round(y, 3), near_edge(self.part.outline, x, y)))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.part is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_panel(painter, self.shape(), self.part, self.ring)


def spoken(part: CarPart) -> str:
    """Say what was read of a panel, and what is on it."""
    film = ", ".join(f"{s.um:g}{' at an edge' if s.edge else ''}" for s in part.survey)
    marks = ", ".join(f"{kind} {level}" for kind, level in part.damage.items())
    nails = f"{len(part.nails)} marks catch a nail" if part.nails else ""
    said = [f"film {film} µm" if film else "no film read", marks, nails]
    return "; ".join(s for s in said if s)


def low_spots(part: CarPart) -> frozenset[int]:
    """Return which of its spots are low: well below the middle of them all."""
    if len(part.survey) < 3:
        return frozenset()
    middle = median(s.um for s in part.survey)
    return frozenset(i for i, s in enumerate(part.survey) if middle - s.um >= _LOW_UM)


def draw_panel(painter: QPainter, shape: QPolygonF, part: CarPart, ring: Place | None) -> None:
    """Draw a panel with its film, its marks and the place that is read next."""
    painter.setPen(QPen(look.line, 1))
    painter.setBrush(look.panel if part.substrate == "plastic" else look.panel_cell)
    painter.drawPolygon(shape)
    draw_marks(painter, shape, part.damage, part.key)
    box = shape.boundingRect()
    for nail in part.nails:
        draw_nail(painter, box, nail)
    low = low_spots(part)
    thinnest = min((s.um for s in part.survey), default=None)
    for i, spot in enumerate(part.survey):
        at = _at(box, spot.x, spot.y)
        if at is not None:
            frame = look.care if i in low else look.on_panel
            _figure(painter, box, at, spot, frame if spot.um == thinnest or i in low else None)
    _without_place(painter, box, part)
    if ring is not None:
        at = _at(box, ring.x, ring.y)
        if at is not None:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            ink = look.on_panel if look.lights_out else look.tape
            painter.setPen(QPen(ink, 2.5, Qt.PenStyle.DashLine))
            painter.drawEllipse(at, 13.0, 13.0)


def _at(box: QRectF, x: float | None, y: float | None) -> QPointF | None:
    if x is None or y is None:
        return None
    return QPointF(box.left() + x * box.width(), box.top() + y * box.height())


def _figure(
    painter: QPainter, box: QRectF, at: QPointF, spot: FilmSpot, ring: QColor | None
) -> None:
    """Write a reading where it was taken, beside a panel that is too narrow; ``ring`` boxes it."""
    painter.setFont(look.figures(BODY, bold=True))
    said = f"{spot.um:g}"
    wide = painter.fontMetrics().horizontalAdvance(said) + 8.0
    high = float(painter.fontMetrics().height())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(look.on_panel)
    painter.drawEllipse(at, 2.2, 2.2)
    off = at.x() - box.center().x()
    outside = box.width() < 3.2 * wide and (abs(off) > 2.0 or box.width() < 1.2 * wide)
    if outside:
        left = box.right() + 6 if off >= 0.0 else box.left() - wide - 6
        row = QRectF(left, at.y() - high / 2, wide, high)
    else:
        left = min(max(at.x() - wide / 2, box.left()), box.right() - wide)
        below = at.y() + 3 + high <= box.bottom()
        row = QRectF(left, at.y() + 3 if below else at.y() - high - 3, wide, high)
    if ring is not None:
        painter.setPen(QPen(look.ink if outside and ring == look.on_panel else ring, 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(row)
    painter.setPen(look.ink if outside else look.on_panel)
    painter.drawText(row, MIDDLE, said)


def _without_place(painter: QPainter, box: QRectF, part: CarPart) -> None:
    """Write those that were read without a place below one another at the side."""
    said = [
        f"{s.um:g}{' (edge)' if s.edge else ''}" for s in part.survey if s.x is None or s.y is None
    ]
    if not said:
        return
    painter.setFont(look.words(SMALL))
    painter.setPen(look.on_panel)
    row = QRectF(box.left() + 8, box.bottom() - look.px(20), box.width() - 12, look.px(18))
    told = painter.fontMetrics().elidedText(
        " · ".join(said) + ", place not said", Qt.TextElideMode.ElideRight, int(row.width())
    )
    painter.drawText(row, LEFT, told)
