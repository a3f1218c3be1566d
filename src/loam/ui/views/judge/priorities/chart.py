"""The map of priorities: a triangle a hardness, a region for each that wins, shaded by chance."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from loam.app.questions.priorities.find import CORNERS, STEPS, PrioritiesPicture, point_of
from loam.core.priorities import PriorityMap, Wish
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import MIDDLE
from loam.ui.theme import look

_HIGH, _EDGE = 0.8660254037844386, 0.5773502691896258

LEAST = 290
"""Height in which letters, numbers and corners do not meet, at the usual size of text."""
FULL = 0.75
"""From this chance on the shade is so full that a dark letter is read better."""


def _far(a: QPointF, b: QPointF) -> float:
    return float(np.hypot(a.x() - b.x(), a.y() - b.y()))


class PriorityChart(Drawing):
    """Shows one triangle a hardness; ``moved`` carries the lattice place that was clicked."""

    called = "map of priorities"
    likes = (900, 420)

    moved = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.found: PrioritiesPicture | None = None
        self.at = 0
        self.aims: Sequence[tuple[str, Wish]] = ()
        self._spots: list[tuple[QPointF, int]] = []
        self.setObjectName("priorities")
        self.setMinimumSize(320, 200)

    def show_map(self, found: PrioritiesPicture | None, at: int) -> None:
        """Show a map and the point that is looked at."""
        self.found, self.at = found, at
        self.setMinimumHeight(look.px(LEAST))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        self._spots = []
        if self.found is not None:
            self.paint(QPainter(self), QRectF(0, 0, self.width(), self.height()))

    def paint(self, painter: QPainter, room: QRectF) -> None:
        """Draw the map."""
        found = self.found
        if found is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide = room.width() / len(found.maps)
        above, below = look.px(24 + 20 + 14), look.px(14 + 22)
        side = min(wide - look.px(60), (room.height() - above - below) / _HIGH)
        spare = room.top() + max(room.height() - above - below - side * _HIGH, 0.0) / 2
        for i, (hardness, own) in enumerate(found.maps.items()):
            left = room.left() + i * wide
            painter.setPen(look.ink)
            painter.setFont(look.words(17, bold=True))
            head = QRectF(left, spare, wide, look.px(24))
            painter.drawText(head, MIDDLE, found.ground(hardness).capitalize())
            self._triangle(painter, own, left + (wide - side) / 2, spare + above, side)
        if spare - room.top() >= look.px(24):
            self._key(painter, QRectF(room.left(), room.top(), room.width(), look.px(22)))

    def _key(self, painter: QPainter, row: QRectF) -> None:
        """Say above the maps what their shades are, where there is room."""
        painter.setFont(look.words(13))
        metrics, x = painter.fontMetrics(), row.left()
        step = 1.1 * look.px(16)
        for said, shades in (("surely wins", (1.0, 0.85, 0.7, 0.55, 0.4)), ("hardly ahead", ())):
            painter.setPen(look.quiet)
            wide = float(metrics.horizontalAdvance(said))
            painter.drawText(QRectF(x, row.top(), wide + 4, row.height()), MIDDLE, said)
            x += wide + look.px(10)
            for sure in shades:
                box = QRectF(x, row.center().y() - step / 2, step, step)
                painter.fillRect(box, look.panel)
                self._shade(painter, box.center(), step, sure)
                x += step
            x += look.px(8)

    def _place(
        self, weights: tuple[float, float, float], left: float, top: float, side: float
    ) -> QPointF:
        """Finish above, removal lower left, clear kept lower right."""
        finish, _, clear = weights
        return QPointF(left + side * (clear + finish / 2), top + side * _HIGH * (1.0 - finish))

    def _triangle(
        self, painter: QPainter, own: PriorityMap, left: float, top: float, side: float
    ) -> None:
        step = side / STEPS
        grow = min(step * 0.62, look.px(14))
        corners = [
            QPointF(left + side / 2, top - grow * 1.6),
            QPointF(left - grow * 1.4, top + side * _HIGH + grow * 0.8),
            QPointF(left + side + grow * 1.4, top + side * _HIGH + grow * 0.8),
        ]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.panel)
        painter.drawPolygon(QPolygonF(corners))
        winner = own.chance.argmax(axis=1)
        for p, weights in enumerate(own.points.tolist()):
            spot = self._place((weights[0], weights[1], weights[2]), left, top, side)
            self._spots.append((spot, p))
            self._shade(painter, spot, step, float(own.chance[p, winner[p]]))
        self._borders(painter, own, left, top, side)
        self._letters(painter, own, winner, left, top, side)
        self._presets(painter, own, left, top, side)
        spot = self._place(tuple(own.points[self.at].tolist()), left, top, side)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.on_panel, 3))
        painter.drawEllipse(spot, 12.0, 12.0)
        painter.setPen(look.quiet)
        painter.setFont(look.words(14))
        called = self.found.corners if self.found is not None else CORNERS
        low, tall, broad = top + side * _HIGH + grow, look.px(20), look.px(60)
        names = (
            (QRectF(left, top - grow * 1.6 - tall, side, tall), called[0]),
            (QRectF(left - broad / 2, low, broad * 2, tall), called[1]),
            (QRectF(left + side - broad * 1.5, low, broad * 2, tall), called[2]),
        )
        for box, corner in names:
            painter.drawText(box, MIDDLE, corner)

    def _shade(self, painter: QPainter, spot: QPointF, step: float, sure: float) -> None:
        """A hexagon about a point, the fuller the more surely somebody wins there."""
        ink = QColor(look.tape if not look.lights_out else look.edge)
        ink.setAlphaF(min(max(0.04 + 0.56 * (sure - 0.35) / 0.65, 0.04), 0.6))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        reach = step * _EDGE
        painter.drawPolygon(
            QPolygonF(
                [
                    spot + QPointF(reach * np.sin(a), -reach * np.cos(a))
                    for a in np.arange(6) * np.pi / 3.0
                ]
            )
        )

    def _letters(
        self,
        painter: QPainter,
        own: PriorityMap,
        winner: np.ndarray,
        left: float,
        top: float,
        side: float,
    ) -> None:
        """One large letter in the middle of what each wins."""
        taken = [
            self._place(tuple(own.points[p].tolist()), left, top, side)
            for p in (self.at, *(own.nearest(point_of(wish)) for _, wish in self.aims))
        ]
        for k in np.unique(winner):
            mine = np.flatnonzero(winner == k)
            middle = own.points[mine].mean(axis=0)
            # what is won may be a bent strip: the letter stands on it
            order = mine[((own.points[mine] - middle) ** 2).sum(axis=1).argsort()]
            places = [self._place(tuple(own.points[p].tolist()), left, top, side) for p in order]
            free = (s for s in places if all(_far(s, t) > 0.1 * side for t in taken))
            spot = next(free, places[0])
            sure = float(own.chance[order[0], k])
            share = len(mine) / len(own.points)
            size = int(max(13, min(34, 16 + 40 * share)))
            painter.setFont(look.figures(size, bold=True))
            painter.setPen(look.on_tape if sure > FULL and not look.lights_out else look.on_panel)
            box = QRectF(spot.x() - 40, spot.y() - 24, 80, 48)
            painter.drawText(box, MIDDLE, own.names[int(k)][:3])

    def _presets(
        self, painter: QPainter, own: PriorityMap, left: float, top: float, side: float
    ) -> None:
        """The usual aims, by the number that turns to each."""
        painter.setFont(look.words(11, bold=True))
        for number, (_, wish) in enumerate(self.aims, 1):
            spot = self._place(
                tuple(own.points[own.nearest(point_of(wish))].tolist()), left, top, side
            )
            painter.setPen(QPen(look.on_panel, 1))
            painter.setBrush(look.panel)
            painter.drawEllipse(spot, 8.0, 8.0)
            painter.drawText(QRectF(spot.x() - 9, spot.y() - 9, 18, 18), MIDDLE, str(number))

    def _borders(
        self, painter: QPainter, own: PriorityMap, left: float, top: float, side: float
    ) -> None:
        """Draw where the winner changes, between each point and its neighbours."""
        winner = own.chance.argmax(axis=1)
        place = {tuple(np.rint(w * STEPS).astype(int)): p for p, w in enumerate(own.points)}
        painter.setPen(QPen(look.edge, 1))
        for (f, r, c), p in place.items():
            for near in ((f, r + 1, c - 1), (f + 1, r - 1, c), (f + 1, r, c - 1)):
                q = place.get(near)
                if q is None or winner[p] == winner[q]:
                    continue
                a, b = (self._place(tuple(own.points[k].tolist()), left, top, side) for k in (p, q))
                middle, across = (a + b) / 2, QPointF(a.y() - b.y(), b.x() - a.x())
                half = across * (0.5 * _EDGE)
                painter.drawLine(middle - half, middle + half)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._spots:
            return
        at = event.position()
        near = min(self._spots, key=lambda s: (s[0] - at).manhattanLength())
        self.moved.emit(near[1])
