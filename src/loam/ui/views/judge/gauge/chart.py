"""A gauge study: the spots with every reader's marks, and a dial with a needle for each."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from loam.app.questions.gauge.find import GaugePicture
from loam.core.gauge import LIMIT
from loam.core.units import signed
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.lamp import faded
from loam.ui.paint.words import LEFT, MIDDLE, RIGHT, fitted
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL

_SWEEP = 130.0
"""Degrees over which the dial goes."""


class GaugeChart(Drawing):
    """Spots at the left, a lane a reader in each; the dial at the right."""

    called = "what each reader read, from the mean of each spot"
    likes = (760, 460)

    def __init__(self) -> None:
        super().__init__()
        self.found: GaugePicture | None = None
        self.setObjectName("gauge_chart")
        self.setMinimumSize(300, 220)

    def show_study(self, found: GaugePicture | None) -> None:
        """Show a study."""
        self.found = found
        self.setAccessibleDescription(" ".join(found.words) if found is not None else "")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.found is not None:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            draw_study(painter, QRectF(0, 0, self.width(), self.height()), self.found)


def draw_study(painter: QPainter, area: QRectF, found: GaugePicture) -> None:
    """Draw a study: what was read on every spot, and how each reader reads on the whole."""
    values = [v for _, by in found.spots for own in by.values() for v in own]
    half = found.kind.span(0.5 * LIMIT * found.study.result.ev)
    reach = 1.15 * max(half, *(abs(v) for v in values), 1e-9)
    split = area.left() + 0.56 * area.width()
    foot = look.px(22)
    panel = QRectF(area.left(), area.top(), split - area.left() - 14, area.height() - foot)
    _spots(painter, panel, found, half, reach)
    painter.setPen(look.quiet)
    painter.setFont(look.words(SMALL))
    decimals = max(found.kind.decimals, 1)
    ends = (
        f"each box from {signed(-reach, decimals)} to {signed(reach, decimals)} {found.kind.unit}"
    )
    row = QRectF(area.left(), panel.bottom() + 2, panel.width(), foot)
    fitted(painter, row, f"{ends} around its spot's mean; pale: the meter's own repeats")
    dial = QRectF(split + 10, area.top(), area.right() - split - 10, area.height() - foot)
    _dial(painter, dial, found, half)


def _spots(p: QPainter, panel: QRectF, found: GaugePicture, half: float, reach: float) -> None:
    p.fillRect(panel, look.panel)
    count = max(len(found.spots), 1)
    columns = min(
        count, max(1, round(math.sqrt(count * panel.width() / max(panel.height(), 1.0) * 0.9)))
    )
    rows = -(-count // columns)
    wide, high = panel.width() / columns, panel.height() / rows
    lanes = max(len(found.readers), 1)
    for i, (name, by) in enumerate(found.spots):
        cell = QRectF(
            panel.left() + i % columns * wide + 7,
            panel.top() + i // columns * high + 7,
            wide - 14,
            high - 14,
        )
        p.fillRect(cell, look.panel_cell)
        x0, each = cell.center().x(), 0.5 * cell.width() / reach
        p.fillRect(
            QRectF(x0 - half * each, cell.top(), 2 * half * each, cell.height()),
            faded(look.on_panel, 0.12),
        )
        p.setPen(QPen(look.quiet_on_panel, 1, Qt.PenStyle.DotLine))
        p.drawLine(QPointF(x0, cell.top()), QPointF(x0, cell.bottom()))
        p.setFont(look.figures(11, bold=True))
        p.setPen(look.quiet_on_panel)
        p.drawText(
            QRectF(cell.left() + 4, cell.top() + 1, cell.width(), 16), LEFT, name.split()[-1]
        )
        lane = (cell.height() - 20) / lanes
        for k, reader in enumerate(found.readers):
            y = cell.top() + 18 + (k + 0.5) * lane
            p.setFont(look.words(max(9, min(12, int(lane * 0.7)))))
            p.setPen(look.quiet_on_panel)
            if i % columns == 0 and lane >= 9:
                p.drawText(QRectF(cell.left() + 3, y - lane / 2, 46, lane), LEFT, reader[:6])
            p.setPen(QPen(look.on_panel, 2.2))
            tall = min(lane * 0.4, 9.0)
            for v in by.get(reader, ()):
                p.drawLine(QPointF(x0 + v * each, y - tall), QPointF(x0 + v * each, y + tall))


def _dial(p: QPainter, box: QRectF, found: GaugePicture, half: float) -> None:
    """One dial: pale what the meter repeats within, a needle for each reader."""
    by = found.beside
    if not by:
        return
    wide = 1.3 * max(half, *(abs(v) for v in by.values()), 1e-9)
    radius = min(0.44 * box.width() / math.sin(math.radians(_SWEEP / 2)), 0.62 * box.height())
    p.setFont(look.words(BODY, bold=True))
    for reader, value in by.items():  # a name has room beside the rim
        named = p.fontMetrics().horizontalAdvance(_named(found, reader, value)) + 6.0
        reach = abs(math.sin(math.radians(value / wide * _SWEEP / 2)))
        if reach > 0.2:
            radius = min(radius, (0.5 * box.width() - named) / reach - 12.0)
    radius = max(radius, 20.0)
    over = max(0.16 * box.height(), 0.5 * (box.height() - radius) - 20)
    hub = QPointF(box.center().x(), box.top() + over + radius)

    def at(value: float, r: float) -> QPointF:
        turn = math.radians(value / wide * _SWEEP / 2)
        return QPointF(hub.x() + r * math.sin(turn), hub.y() - r * math.cos(turn))

    rim = QRectF(hub.x() - radius, hub.y() - radius, 2 * radius, 2 * radius)
    span = 2 * half / wide * _SWEEP / 2
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(look.band)
    p.drawPie(rim, int(16 * (90 - span / 2)), int(16 * span))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(look.ink, 2))
    p.drawArc(rim, int(16 * (90 - _SWEEP / 2)), int(16 * _SWEEP))
    p.setFont(look.figures(SMALL))
    decimals = max(found.kind.decimals, 1)
    for share in (-1.0, -0.5, 0.0, 0.5, 1.0):
        value = share * wide / 1.3
        p.setPen(QPen(look.ink, 1.6))
        p.drawLine(at(value, radius), at(value, radius - 9))
        p.setPen(look.quiet)
        mark = at(value, radius - 24)
        if any(abs(value - needle) < 0.1 * wide for needle in by.values()):
            continue  # a needle lies there, and says its own
        text = "0" if not share else signed(value, decimals)
        p.drawText(QRectF(mark.x() - 30, mark.y() - 9, 60, 18), MIDDLE, text)
    _needles(p, box, found, at, radius, wide, half)
    p.setBrush(look.ink)
    p.setPen(Qt.PenStyle.NoPen)
    p.drawEllipse(hub, 6.0, 6.0)
    p.setPen(look.quiet)
    p.setFont(look.words(SMALL))
    told = f"{found.kind.label}, {found.kind.unit}, beside the others; pale: repeats of one reader"
    row = QRectF(box.left(), min(hub.y() + 14, box.bottom() - 20), box.width(), 20)
    fitted(p, row, told, at=MIDDLE)


def _named(found: GaugePicture, reader: str, value: float) -> str:
    return f"{reader} {signed(value, max(found.kind.decimals + 1, 1))}"


def _needles(
    p: QPainter,
    box: QRectF,
    found: GaugePicture,
    at: Callable[[float, float], QPointF],
    radius: float,
    wide: float,
    half: float,
) -> None:
    """Draw a needle for each reader, and how far off it points; no name over another."""
    tops: list[float] = []
    for reader, value in sorted(found.beside.items(), key=lambda rv: rv[1]):
        beyond = abs(value) > half
        p.setPen(QPen(look.strong, 3.4 if beyond else 2.2))
        p.drawLine(at(value, 0.12 * radius), at(value, radius - 2))
        end = at(value, radius + 12)
        p.setFont(look.words(BODY, bold=True))
        p.setPen(look.ink)
        text = _named(found, reader, value)
        room = p.fontMetrics().horizontalAdvance(text) + 6.0
        side = RIGHT if value < -0.05 * wide else LEFT if value > 0.05 * wide else MIDDLE
        left = end.x() - (room if side == RIGHT else 0 if side == LEFT else room / 2)
        left = min(max(left, box.left()), box.right() - room)
        top = end.y() - 12.0
        while any(abs(top - other) < 20.0 for other in tops):
            top -= 20.0
        tops.append(top)
        p.drawText(QRectF(left, top, room, 22), side, text)
