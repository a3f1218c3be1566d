"""The section with the pad on its way: where it should be now, and what comes next."""

from __future__ import annotations

from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from loam.core.pacer import DONE, EASE, HELD, READY, SPREAD, Moment, Track
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.lamp import faded
from loam.ui.theme import look

_SAID = {
    READY: "Space starts",
    SPREAD: "spread, slowly",
    HELD: "held: Space goes on",
    EASE: "ease off",
    DONE: "lift",
}


class PaceDrawing(Drawing):
    """A section to scale; the pad lies where it should be, the next lines before it."""

    called = "where the pad should be"
    likes = (520, 520)

    def __init__(self) -> None:
        super().__init__()
        self.track: Track | None = None
        self.moment: Moment | None = None
        self.counting = False
        self.setObjectName("pace")
        self.setMinimumSize(240, 200)

    def show_moment(self, track: Track | None, moment: Moment | None) -> None:
        """Show a moment; the description is said anew only when something to say changes."""
        said = self.said(moment)
        if said != self.accessibleDescription():
            self.setAccessibleDescription(said)
        self.track, self.moment = track, moment
        self.update()

    @staticmethod
    def said(moment: Moment | None) -> str:
        """Say where the pacer stands, for a screen reader."""
        if moment is None:
            return ""
        return f"{_SAID.get(moment.phase, 'work')}, {moment.done_passes} of {moment.of} passes"

    def paintEvent(self, event: QPaintEvent | None) -> None:
        track, moment = self.track, self.moment
        if track is None or moment is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        s = track.settings
        foot = min(look.px(150), int(self.height() * 0.3))
        pad = s.pad_mm / 2.0
        wide, high = s.width_mm + pad, s.height_mm + pad
        scale = min(self.width() / wide, (self.height() - foot) / high)
        left = (self.width() - s.width_mm * scale) / 2.0
        top = (self.height() - foot - s.height_mm * scale) / 2.0
        box = QRectF(left, top, s.width_mm * scale, s.height_mm * scale)
        painter.fillRect(box, look.panel_cell)
        painter.setPen(QPen(look.edge, 8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(-4, -4, 4, 4))

        def at(x: float, y: float) -> QPointF:
            return QPointF(left + x * scale, top + y * scale)

        if not self.counting and moment.phase != DONE:
            self._done(
                painter, [at(float(x), float(y)) for x, y in moment.behind_mm], box, pad * scale
            )
            self._way(painter, [at(float(x), float(y)) for x, y in moment.ahead_mm])
            painter.setPen(QPen(look.on_panel, 3))
            painter.setBrush(look.panel)
            middle = at(moment.x_mm, moment.y_mm)
            painter.drawEllipse(middle, pad * scale, pad * scale)
            painter.setBrush(look.on_panel)
            painter.drawEllipse(middle, 6, 6)
        self._foot(painter, moment, QRectF(0, self.height() - foot, self.width(), foot))

    @staticmethod
    def _done(painter: QPainter, points: list[QPointF], box: QRectF, radius: float) -> None:
        """Let what was gone over in this pass be seen: as wide as the pad, within the tape."""
        if len(points) < 2:
            return
        painter.save()
        painter.setClipRect(box)
        pen = QPen(faded(look.on_panel, 0.16), 2 * radius)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(pen)
        painter.drawPolyline(QPolygonF(points))
        painter.restore()

    def _way(self, painter: QPainter, points: list[QPointF]) -> None:
        """Draw the rest of this line, and the next one fainter, with an arrow at its end."""
        for i, (a, b) in enumerate(pairwise(points)):
            painter.setPen(QPen(look.on_panel if not i else look.quiet_on_panel, 4 if not i else 3))
            painter.drawLine(a, b)
            along = QPointF(b - a)
            length = (along.x() ** 2 + along.y() ** 2) ** 0.5
            if length < 14:
                continue
            unit = along / length
            side = QPointF(-unit.y(), unit.x())
            head = QPolygonF([b, b - unit * 16 + side * 8, b - unit * 16 - side * 8])
            painter.setBrush(painter.pen().color())
            painter.drawPolygon(head)

    def _foot(self, painter: QPainter, moment: Moment, box: QRectF) -> None:
        """Say passes and time left, large."""
        painter.setPen(look.ink)
        size = min(look.px(120), int(box.height() * 0.8), int(box.width() * 0.15))
        painter.setFont(look.figures(size, bold=True, exact=True))
        now = min(moment.done_passes + (moment.phase != DONE), moment.of)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        counted = f"{now} / {moment.of}"
        painter.drawText(box, left, counted)
        used = painter.fontMetrics().horizontalAdvance(counted) + 12
        after = 0
        if not self.counting:
            whole = round(moment.left_s)
            remaining = f"{whole // 60}:{whole % 60:02d}"
            painter.drawText(box, right, remaining)
            after = painter.fontMetrics().horizontalAdvance(remaining) + 12
            painter.setFont(look.words(17))
            painter.setPen(look.quiet)
            low = Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignRight
            painter.drawText(box.adjusted(0, 0, -4, 0), low, "left")
        said = _SAID.get(moment.phase, "work")
        if self.counting and moment.phase not in (READY, DONE):
            said = "Space counts a pass"
        painter.setFont(look.words(24))
        painter.setPen(look.quiet if moment.phase not in (READY, HELD) else look.strong)
        between = box.adjusted(used, 0, -after, 0)
        wrapped = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(between, int(wrapped), said)
