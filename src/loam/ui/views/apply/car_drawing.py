"""A vehicle unfolded flat, front to the left, its panels to scale: what is known stands on them."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from loam.core.vehicle.job import CarPart, Job
from loam.core.vehicle.room import NOT_READ, Room
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import MIDDLE
from loam.ui.theme import look
from loam.ui.theme.look import LEAD, SMALL
from loam.ui.views.apply.marks_drawing import draw_marks, draw_nail
from loam.ui.views.apply.panel_drawing import low_spots
from loam.ui.widgets.tape import paint_tape

_TALL = 96.0
"""A panel at least so many pixels high shows where its film was read beside its words."""
_ROOMY = 56.0
"""A panel at least so many pixels across has words; a smaller one its thinnest spot only."""


class CarDrawing(Drawing):
    """``chosen`` carries the panel that was pressed, and where on it (shares of its box)."""

    called = "the vehicle, unfolded"
    likes = (720, 470)
    chosen = pyqtSignal(str, float, float)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("car")
        self.job: Job | None = None
        self.rooms: Mapping[str, Room] = {}
        self.at = ""
        self.plain = False
        self.setMinimumSize(260, 180)

    def show_job(self, job: Job | None, rooms: Mapping[str, Room], at: str) -> None:
        """Show a job; ``at`` is the panel at hand."""
        self.job, self.rooms, self.at = job, rooms, at
        self.setAccessibleDescription(self._spoken())
        self.update()

    def _spoken(self) -> str:
        if self.job is None:
            return ""
        own = self.job.part(self.at)
        return f"{self.job.shape.label}, at {part_words(own, self.rooms)}" if own else ""

    def _scale(self) -> tuple[float, float, float]:
        """Return px per mm, and where the drawing begins."""
        return placed(self.job, QRectF(2, 2, self.width() - 4, self.height() - 4))

    def shape_of(self, part: CarPart) -> QPolygonF:
        """Return where a panel lies in the drawing."""
        return polygon(self.job, part, self._scale())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.job is None:
            return
        for part in self.job.parts:
            shape = self.shape_of(part)
            if not part.glass and shape.containsPoint(event.position(), Qt.FillRule.OddEvenFill):
                box = shape.boundingRect()
                x = (event.position().x() - box.left()) / max(box.width(), 1.0)
                y = (event.position().y() - box.top()) / max(box.height(), 1.0)
                self.chosen.emit(part.key, x, y)
                return

    def beside(self, key: Qt.Key) -> str:
        """Return the panel that lies next in the direction of an arrow, or the one at hand."""
        job = self.job
        here = job.part(self.at) if job is not None else None
        if job is None or here is None:
            return self.at
        middle = self.shape_of(here).boundingRect().center()
        steps = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }
        dx, dy = steps[key]
        best, near = self.at, float("inf")
        for part in job.parts:
            if part.glass or part.key == self.at:
                continue
            gap = self.shape_of(part).boundingRect().center() - middle
            along = gap.x() * dx + gap.y() * dy
            across = abs(gap.x() * dy) + abs(gap.y() * dx)
            if along > 2.0 and along + 2.0 * across < near:
                best, near = part.key, along + 2.0 * across
        return best

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.job is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_car(
            painter,
            QRectF(2, 2, self.width() - 4, self.height() - 4),
            self.job,
            self.rooms,
            at=self.at,
            focus=self.hasFocus(),
        )


def placed(job: Job | None, area: QRectF) -> tuple[float, float, float]:
    """Return px per mm and the corner where a vehicle is drawn in an area, front to the left."""
    if job is None:
        return 1.0, area.left(), area.top()
    wide = max(y for p in job.parts for _, y in p.outline)
    high = max(x for p in job.parts for x, _ in p.outline)
    scale = min(area.width() / wide, area.height() / high)
    left = area.left() + (area.width() - wide * scale) / 2
    return scale, left, area.top() + (area.height() - high * scale) / 2


def polygon(job: Job | None, part: CarPart, scale: tuple[float, float, float]) -> QPolygonF:
    """Return a panel's outline in the drawing: the front to the left, the left side below."""
    px, left, top = scale
    across = max(x for p in (job.parts if job else (part,)) for x, _ in p.outline)
    return QPolygonF([QPointF(left + y * px, top + (across - x) * px) for x, y in part.outline])


def part_words(part: CarPart, rooms: Mapping[str, Room]) -> str:
    """Say a panel: its name, its thinnest spot and what may go."""
    room = rooms.get(part.key)
    said = [part.key if not part.own else part.label]
    if room is not None and room.thinnest is not None:
        said.append(f"{room.thinnest:.0f} µm at its thinnest")
    if room is not None and room.may_go is not None:
        said.append(f"up to {room.may_go:.0f} µm may go")
    elif room is not None and room.lacks:
        said.append(room.lacks)
    if part.done:
        said.append(f"done with {part.done}")
    return ", ".join(said)


def draw_car(
    painter: QPainter,
    area: QRectF,
    job: Job,
    rooms: Mapping[str, Room],
    *,
    at: str = "",
    focus: bool = False,
    bare: bool = False,
) -> None:
    """Draw a vehicle; ``bare`` leaves all words out."""
    scale = placed(job, area)
    for part in job.parts:
        shape = polygon(job, part, scale)
        if part.glass:
            painter.setPen(QPen(look.line, 1))
            painter.setBrush(look.clear)
            painter.setOpacity(0.45)
            painter.drawPolygon(shape)
            painter.setOpacity(1.0)
            continue
        _panel(painter, shape, part, rooms.get(part.key), here=part.key == at, focus=focus)
        draw_marks(painter, shape, part.damage, part.key, spare=not bare)
        _film(painter, shape.boundingRect(), part)
        if not bare:
            spotted = any(s.part == part.key for s in job.spots)
            _inside(painter, shape, part, rooms.get(part.key), spotted=spotted)
    for spot in job.spots:
        own = job.part(spot.part)
        if own is not None:
            size = max(10.0, min(look.px(30), area.width() / 18))
            box, said = polygon(job, own, scale).boundingRect(), "" if bare else spot.rung
            _spot(painter, box, spot.x, spot.y, said, size)


def _panel(
    painter: QPainter,
    shape: QPolygonF,
    part: CarPart,
    room: Room | None,
    *,
    here: bool,
    focus: bool,
) -> None:
    painter.setBrush(look.panel_cell if part.works else look.quiet)
    if part.substrate == "plastic" and part.works:
        painter.setBrush(look.panel)
    pen = QPen(look.line, 1)
    if here:
        pen = QPen(look.strong if focus else look.tape, 3)
    painter.setPen(pen)
    painter.drawPolygon(shape)
    if part.state in ("again", "unknown") or (room is not None and room.unlike):
        painter.setPen(QPen(look.quiet_on_panel, 1, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        inner = QPolygonF(shape)
        middle = shape.boundingRect().center()
        painter.drawPolygon(
            QPolygonF([middle + (inner.at(i) - middle) * 0.93 for i in range(inner.count())])
        )


def _inside(
    painter: QPainter, shape: QPolygonF, part: CarPart, room: Room | None, *, spotted: bool
) -> None:
    """Write what is known of a panel on it: its turn, its name, thinnest film, what may go."""
    box = shape.boundingRect().adjusted(5, 3, -5, -3)
    painter.save()
    painter.setClipRect(shape.boundingRect())
    line = float(look.px(17))
    roomy = box.width() >= look.px(_ROOMY)
    thinnest = f"{room.thinnest:.0f}" if room is not None and room.thinnest is not None else ""
    lines: list[tuple[str, int, bool, bool]] = []
    if roomy:
        lines.append((part.label, SMALL, False, False))
    if thinnest:
        lines.append((thinnest, LEAD if roomy else SMALL, True, True))
    told = _told(part, room)
    if told and roomy and box.height() >= (10.5 if spotted else 3.2) * line:  # a spot lies below
        lines.append((told, SMALL, False, False))
    if not lines:
        _upright(painter, box, part.label)
    high = sum(line * (1.3 if big else 1.0) for _, _, big, _ in lines)
    taped = line + 4 if part.done else 0.0
    y = max(box.center().y() - taped / 2 - high / 2, box.top())
    for text, size, big, figure in lines:
        row = QRectF(box.left(), y, box.width(), line * (1.3 if big else 1.0))
        _row(painter, row, text, size, big=big, figure=figure)
        y += row.height()
    if roomy and part.works and box.height() >= 4.0 * line:  # else it meets the name
        painter.setFont(look.figures(SMALL))
        painter.setPen(look.quiet_on_panel)
        corner = QRectF(box.right() - 26, box.top(), 26, line)
        if not shape.containsPoint(corner.topRight(), Qt.FillRule.OddEvenFill):
            corner.translate(-box.width() * 0.2, 0)  # a corner that is cut off
        painter.drawText(corner, Qt.AlignmentFlag.AlignRight, str(part.turn))
    for nail in part.nails:
        draw_nail(painter, shape.boundingRect(), nail)
    if part.done:
        said = f"{part.done}: done" if roomy else part.done
        _taped_over(painter, shape.boundingRect(), line, said)
    painter.restore()


def _film(painter: QPainter, box: QRectF, part: CarPart) -> None:
    """Draw where its film was read; a low spot is ringed, on a small panel it alone is drawn."""
    low = low_spots(part)
    small = box.height() < look.px(_TALL)
    for i, spot in enumerate(part.survey):
        if spot.x is None or spot.y is None or (small and i not in low):
            continue
        at = QPointF(box.left() + spot.x * box.width(), box.top() + spot.y * box.height())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.quiet_on_panel)
        painter.drawEllipse(at, 1.6, 1.6)
        if i in low:
            painter.setPen(QPen(look.care, 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, 4.0, 4.0)


def _row(painter: QPainter, row: QRectF, text: str, size: int, *, big: bool, figure: bool) -> None:
    """Write a line on a panel, shorter where it has no room."""
    painter.setFont(look.figures(size, bold=True) if figure else look.words(size))
    painter.setPen(look.on_panel if big else look.quiet_on_panel)
    metrics = painter.fontMetrics()
    if metrics.horizontalAdvance(text) > row.width():
        text = text.replace(" may go", "")  # of what it is, is said in the key below
    cut = metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(row.width()))
    painter.drawText(row, MIDDLE, cut)


def _upright(painter: QPainter, box: QRectF, text: str) -> None:
    """Write along a narrow panel."""
    painter.save()
    painter.translate(box.center())
    painter.rotate(-90.0)
    painter.setFont(look.words(SMALL))
    painter.setPen(look.quiet_on_panel)
    along = QRectF(-box.height() / 2, -box.width() / 2 - 6, box.height(), box.width() + 12)
    painter.drawText(along, MIDDLE, text)
    painter.restore()


def _taped_over(painter: QPainter, box: QRectF, line: float, said: str) -> None:
    """Tape a panel over that is done."""
    strip = QRectF(box.left() + 2, box.bottom() - line - 5, box.width() - 4, line)
    paint_tape(painter, strip, seed=int(box.left()), depth=4)
    painter.setPen(look.on_tape)
    painter.setFont(look.words(SMALL, bold=True))
    painter.drawText(strip, MIDDLE, said)


def _told(part: CarPart, room: Room | None) -> str:
    """Say in few words what may go of a panel, or why nobody knows."""
    if part.out:
        return "left out"
    if part.done:
        return ""  # the tape lies there
    if part.rung:
        return f"{part.rung} here"
    if room is None:
        return ""
    if room.unlike and part.state == "factory":
        return "unlike the rest"
    if room.may_go is not None:
        return f"{room.may_go:.0f} µm may go"
    return "" if room.lacks == NOT_READ else room.lacks


def _spot(painter: QPainter, box: QRectF, x: float, y: float, code: str, size: float) -> None:
    """Draw a test spot: a taped square with the letter of its combination."""
    half = size / 2
    at = QPointF(
        min(max(box.left() + x * box.width(), box.left() + half + 3), box.right() - half - 3),
        min(max(box.top() + y * box.height(), box.top() + half + 3), box.bottom() - half - 3),
    )
    square = QRectF(at.x() - half, at.y() - half, size, size)
    painter.setPen(QPen(look.tape, max(3.0, size / 8)))
    painter.setBrush(look.panel)
    painter.drawRect(square)
    painter.setPen(look.on_panel)
    painter.setFont(look.figures(SMALL, bold=True))
    painter.drawText(square, MIDDLE, code[:3])
