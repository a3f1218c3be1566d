"""A stage as one drawing: machine, pad and grains at work, and their path over a section.

Each figure of the stage has its place here; a press on the place goes to the figure, and the place
of the figure that is typed stands out.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent

from loam.core.trial import Stage
from loam.core.units import thousands
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import SMALL
from loam.ui.widgets.things import COMPOUND, DISC, GRIT, MACHINE, PAD, Thing, pad_size

FULL_FORCE_N = 80.0
"""A force that is drawn as long as an arrow can be."""
SIDE = 0.6
"""Share of the width for the side view; the section from above has the rest."""
_SWEEP, _FROM = 270.0, 135.0
_MOST_LINES = 40


@dataclass(frozen=True)
class Seen:
    """What is drawn beside the stage itself.

    Attributes
    ----------
    marks : tuple of str
        The marks of the machine's dial, in their order; none where the shelf has no table.
    section_mm : (float, float)
        Width and height of what is worked.
    """

    marks: tuple[str, ...] = ()
    section_mm: tuple[float, float] = (375.0, 375.0)


def dial_angle(marks: Sequence[str], dial: str) -> float | None:
    """Return how far a dial is turned, degrees clockwise from its lower left stop.

    Without a table a whole number is taken on a dial of six; None where that says nothing.
    """
    wanted = dial.strip().casefold()
    known = [m.casefold() for m in marks] or [str(n) for n in range(1, 7)]
    if wanted not in known:
        return None
    return _SWEEP * known.index(wanted) / max(len(known) - 1, 1)


def line_count(stage: Stage, across_mm: float) -> int:
    """Return how many lines cross a section at the stage's overlap; 0 where the stage is silent."""
    if not stage.pad_mm or stage.overlap is None or not 0.0 <= stage.overlap < 1.0:
        return 0
    step = stage.pad_mm * (1.0 - stage.overlap)
    return max(1, min(_MOST_LINES, math.ceil((across_mm - stage.pad_mm) / step) + 1))


class StageDrawing(Drawing):
    """``pressed`` carries the figure whose place was pressed."""

    called = "the stage: machine, pad, force and path"
    likes = (554, 240)
    pressed = pyqtSignal(str)

    def __init__(self, things: dict[str, Thing]) -> None:
        super().__init__()
        self.setObjectName("stage_drawing")
        self.stage = Stage("", "", "")
        self.seen = Seen()
        self.at = ""
        self.things = things
        self.setMinimumHeight(look.px(110))
        self.places: dict[str, QRectF] = {}
        self._wide = 0.0
        for thing in things.values():
            thing.setParent(self)

    def show_stage(self, stage: Stage, seen: Seen) -> None:
        """Show a stage."""
        self.stage, self.seen = stage, seen
        self._arrange()
        self.update()

    def point_at(self, figure: str) -> None:
        """Let the place of a figure stand out; "" for none."""
        if figure != self.at:
            self.at = figure
            self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._arrange()

    def _side(self) -> QRectF:
        return QRectF(0, 0, self.width() * SIDE - 8, self.height())

    def _above(self) -> QRectF:
        """Return where the section lies from above, to scale."""
        room = QRectF(self.width() * SIDE + 8, 14, self.width() * (1 - SIDE) - 20, 0)
        room.setHeight(self.height() - 34)
        wide, high = self.seen.section_mm
        scale = min(room.width() / wide, room.height() / high)
        size = (wide * scale, high * scale)
        return QRectF(room.center().x() - size[0] / 2, room.top(), *size)

    def _arrange(self) -> None:
        """Put the things where they belong: the machine's motion over the pad, grains beside."""
        side = self._side()
        column = side.width() * 0.42
        middle = side.left() + side.width() * 0.54
        pad_high = min(max(side.height() * 0.5, 60.0), look.px(120))
        pad = QRectF(middle - column / 2, side.bottom() - pad_high, column, pad_high)
        motion = QRectF(middle - column / 2 - 12, 0, column + 24, max(pad.top() - 2, 40))
        grains = QRectF(side.left(), pad.top(), side.width() * 0.31, pad_high)
        for name, box in (
            (PAD, pad),
            (DISC, pad),
            (MACHINE, motion),
            (COMPOUND, grains),
            (GRIT, grains),
        ):
            self.things[name].setMinimumSize(40, 40)
            self.things[name].setGeometry(box.toRect())
        above = self._above()
        self._wide, tall = pad_size(pad.width() - 8, pad_high - look.px(22) - 4, self.stage.pad_mm)
        area_middle = pad.top() + 2 + (pad_high - look.px(22) - 4) / 2
        film = area_middle + tall / 2 + (8 if self.stage.disc else 1)
        arrow = QRectF(pad.left() - 26, 8, 30, area_middle - tall / 2 - 10)
        across = min(side.width() - (motion.right() + 6), motion.height(), look.px(96))
        dial = QRectF(motion.right() + 6, motion.top() + 2, across, across)
        beside = side.right() - pad.right() - 6
        swing = QRectF(pad.right() + 6, pad.top() + 4, beside, max(film - pad.top() - 8, 20))
        self.places = {
            "force_n": arrow,
            "dial": dial,
            "speed": QRectF(dial.left(), dial.bottom(), dial.width(), 16),
            "pad_mm": QRectF(pad.left(), film, pad.width(), 16),
            "orbit_mm": swing,
            "tilt_deg": swing,
            "arm_mm_s": QRectF(above.left(), 0, above.width(), 14),
            "overlap": QRectF(above.left(), above.top(), above.width() / 2, above.height()),
            "passes": QRectF(above.center().x(), above.top(), above.width() / 2, above.height()),
        }

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for name, box in self.places.items():
            if box.contains(event.position()):
                tilted = self.stage.machine_kind == "rotary"
                named = "tilt_deg" if name == "orbit_mm" and tilted else name
                self.pressed.emit(named)
                return

    def _pen(self, *names: str, wide: float = 1.4) -> QPen:
        here = self.at in names
        return QPen(look.strong if here else look.ink, wide + (1.2 if here else 0.0))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.words(SMALL))
        self._film(painter)
        self._force(painter)
        self._dial(painter)
        self._orbit(painter)
        self._path(painter)

    def _film(self, painter: QPainter) -> None:
        """Draw what is worked, and how wide the pad is on it."""
        side, box = self._side(), self.places["pad_mm"]
        painter.fillRect(QRectF(side.left(), box.top(), side.width(), 5), look.panel)
        if not self.stage.pad_mm:
            return
        area, middle, y = self._wide, box.center().x(), box.top() + 11
        painter.setPen(self._pen("pad_mm", wide=1.1))
        painter.drawLine(QPointF(middle - area / 2, y), QPointF(middle + area / 2, y))
        for end in (-1, 1):
            x = middle + end * area / 2
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))

    def _force(self, painter: QPainter) -> None:
        """Draw the force as an arrow that is as long as it is strong."""
        box = self.places["force_n"]
        force = self.stage.force_n
        share = 0.5 if force is None else max(0.12, min(force / FULL_FORCE_N, 1.0))
        foot = box.bottom()
        top = foot - share * box.height()
        pen = self._pen("force_n", wide=3.0)
        if force is None or self.stage.by_weight:
            pen.setStyle(Qt.PenStyle.DotLine)
        if force is None:
            pen.setColor(look.line if self.at != "force_n" else look.strong)
        painter.setPen(pen)
        x = box.center().x()
        painter.drawLine(QPointF(x, top), QPointF(x, foot - 8))
        _head(painter, QPointF(x, foot), 90.0, pen.color(), 9.0)
        if self.stage.by_weight:
            painter.setPen(look.quiet)
            low = QRectF(x + 10, top, 90, 18)
            painter.drawText(low, Qt.AlignmentFlag.AlignLeft, "its weight")

    def _dial(self, painter: QPainter) -> None:
        """Draw the speed dial, its marks, and where it stands."""
        box = self.places["dial"]
        radius = box.width() / 2 - look.px(13)
        if radius < 8:
            return
        marks = self.seen.marks or tuple(str(n) for n in range(1, 7))
        painter.setPen(self._pen("dial"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(box.center(), radius, radius)
        turned = dial_angle(self.seen.marks, self.stage.dial)
        for i, mark in enumerate(marks):
            angle = math.radians(_FROM + _SWEEP * i / max(len(marks) - 1, 1))
            here = turned is not None and mark.casefold() == self.stage.dial.strip().casefold()
            out = QPointF(math.cos(angle), math.sin(angle))
            at = box.center() + out * (radius + look.px(8))
            painter.setPen(look.ink if here else look.quiet)
            painter.setFont(look.figures(SMALL, bold=here))
            if len(marks) <= 12:
                wide, high = look.px(32), look.px(18)
                around = QRectF(at.x() - wide / 2, at.y() - high / 2, wide, high)
                painter.drawText(around, Qt.AlignmentFlag.AlignCenter, mark[:4])
        if turned is not None:
            angle = math.radians(_FROM + turned)
            out = QPointF(math.cos(angle), math.sin(angle))
            painter.setPen(self._pen("dial", wide=3.0))
            painter.drawLine(box.center(), box.center() + out * (radius - 4))
        if self.stage.speed and radius > look.px(26):
            painter.setPen(look.strong if self.at == "speed" else look.quiet)
            painter.setFont(look.figures(SMALL))
            high = look.px(18)
            y = box.center().y() + radius * 0.3
            low = QRectF(box.left() - 10, y, box.width() + 20, high)
            painter.drawText(low, Qt.AlignmentFlag.AlignCenter, thousands(round(self.stage.speed)))

    def _orbit(self, painter: QPainter) -> None:
        """Draw how far the pad swings, as large as it is, or how a rotary is held."""
        stage, box = self.stage, self.places["orbit_mm"]
        middle = box.center()
        if stage.machine_kind == "rotary":
            painter.setPen(self._pen("tilt_deg"))
            angle = math.radians(stage.tilt_deg or 0.0)
            reach = box.width() * 0.42
            foot = QPointF(box.left() + 8, box.bottom() - 10)
            painter.drawLine(foot, foot + QPointF(2 * reach, 0))
            if angle:
                end = foot + QPointF(2 * reach * math.cos(angle), -2 * reach * math.sin(angle))
                painter.drawLine(foot, end)
            said = "held flat" if not angle else f"tilted {stage.tilt_deg:g}°"
            painter.setPen(look.quiet)
            high = QRectF(box.left() - 8, box.top(), box.width() + 16, 18)
            painter.drawText(high, Qt.AlignmentFlag.AlignCenter, said)
            return
        if not stage.orbit_mm or not stage.pad_mm:
            return
        radius = max(3.0, stage.orbit_mm * self._wide / stage.pad_mm / 2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(self._pen("orbit_mm"))
        middle = QPointF(middle.x(), min(middle.y(), box.bottom() - radius - 2))
        painter.drawEllipse(middle, radius, radius)
        _head(painter, middle + QPointF(radius, 2), 90.0, painter.pen().color(), 6.0)
        said = "swings so far"
        room = middle.y() - radius - 19 >= box.top()
        if room and painter.fontMetrics().horizontalAdvance(said) <= box.width():
            painter.setPen(look.quiet)
            high = QRectF(box.left(), middle.y() - radius - 19, box.width(), 16)
            painter.drawText(high, Qt.AlignmentFlag.AlignCenter, said)

    def _path(self, painter: QPainter) -> None:
        """Draw the section from above: lines of a pass, the pad on two of them, passes below."""
        area, stage = self._above(), self.stage
        wide, _ = self.seen.section_mm
        scale = area.width() / wide
        painter.fillRect(area, look.panel)
        lines = line_count(stage, self.seen.section_mm[1])
        if lines and stage.pad_mm is not None and stage.overlap is not None:
            self._lines(painter, area, lines, stage.pad_mm * scale)
        else:
            painter.setPen(look.on_panel)
            said = "pad and overlap say how many lines"
            flags = Qt.AlignmentFlag.AlignCenter.value | Qt.TextFlag.TextWordWrap.value
            painter.drawText(area.adjusted(8, 8, -8, -8), flags, said)
        self._strokes(painter, area)

    def _lines(self, painter: QPainter, area: QRectF, lines: int, pad: float) -> None:
        step = pad * (1.0 - (self.stage.overlap or 0.0))
        pad = min(pad, area.height())
        first = area.top() + pad / 2
        last = max(area.bottom() - pad / 2, first)
        gap = (last - first) / (lines - 1) if lines > 1 else 0.0
        gap = min(gap, step) if lines > 1 else 0.0
        reach = min(pad / 2, area.width() / 2)
        painter.save()
        painter.setClipRect(area)
        covered = QColor(look.tape)
        covered.setAlpha(70)
        both = QColor(look.tape)
        both.setAlpha(200 if self.at == "overlap" else 110)
        left = area.left() + reach
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(covered)
        for i in range(min(lines, 2)):
            painter.drawEllipse(QPointF(left, first + i * gap), pad / 2, pad / 2)
        if lines > 1 and gap < pad:
            painter.fillRect(
                QRectF(area.left(), first + gap - pad / 2, area.width(), pad - gap), both
            )
        pen = QPen(look.on_panel, 2.4 if self.at == "arm_mm_s" else 1.3)
        painter.setPen(pen)
        right = area.right() - reach
        for i in range(lines):
            y = first + i * gap
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            if i + 1 < lines:
                x = right if i % 2 == 0 else left
                painter.drawLine(QPointF(x, y), QPointF(x, y + gap))
        if right > left + 12:
            _head(painter, QPointF((left + right) / 2 + 6, first), 0.0, look.on_panel, 8.0)
        if self.stage.line_shift:
            pen.setStyle(Qt.PenStyle.DotLine)
            painter.setPen(pen)
            for i in range(lines):
                y = first + (i + 0.5) * gap
                if y < area.bottom():
                    painter.drawLine(QPointF(left, y), QPointF(right, y))
        painter.restore()

    def _strokes(self, painter: QPainter, area: QRectF) -> None:
        """Draw a stroke for each section pass below the section; across ones lie down."""
        passes = min(self.stage.passes, 24)
        pen = self._pen("passes", wide=1.8)
        painter.setPen(pen)
        room = area.width() / max(passes, 8)
        y = area.bottom() + 11
        for i in range(passes):
            x = area.left() + (i + 0.5) * room
            if i % 2:
                painter.drawLine(QPointF(x - 5, y), QPointF(x + 5, y))
            else:
                painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))


def _head(painter: QPainter, tip: QPointF, degrees: float, ink: QColor, size: float) -> None:
    """Draw the head of an arrow that points to the right when turned by 0 degrees."""
    painter.save()
    painter.translate(tip)
    painter.rotate(degrees)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    painter.drawPolygon(
        QPolygonF([QPointF(0, 0), QPointF(-size, -size * 0.55), QPointF(-size, size * 0.55)])
    )
    painter.restore()
