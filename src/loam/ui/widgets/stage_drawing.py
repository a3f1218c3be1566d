"""A stage as one drawing: machine, pad and grains at work, and their path over a section.

Each figure of the stage is typed here, beside what it is of; a press on that goes to the figure,
and what the typed figure is of stands out.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QWidget

from loam.core.dose.force import kilos_words
from loam.core.trial import Stage
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import SMALL
from loam.ui.widgets.stage_layout import Parts, StageLayout
from loam.ui.widgets.things import Thing

FULL_FORCE_N = 80.0
"""A force that is drawn as long as an arrow can be."""
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
    likes = (554, 340)
    pressed = pyqtSignal(str)

    def __init__(self, things: dict[str, Thing], figures: dict[str, QWidget]) -> None:
        super().__init__()
        self.setObjectName("stage_drawing")
        self.stage = Stage("", "", "")
        self.seen = Seen()
        self.at = ""
        self.things = things
        for thing in things.values():
            thing.setParent(self)
            thing.setMinimumSize(40, 30)
        self.stands = StageLayout()
        for name, figure in figures.items():
            self.stands.add(name, figure)
        self.setLayout(self.stands)
        self.parts = Parts({}, {}, {}, 0.0)

    def show_stage(self, stage: Stage, seen: Seen) -> None:
        """Show a stage."""
        self.stage, self.seen = stage, seen
        self.stands.section_mm, self.stands.pad_mm = seen.section_mm, stage.pad_mm
        self.stands.sands = bool(stage.disc)
        self.stands.invalidate()
        self.arrange()

    def point_at(self, figure: str) -> None:
        """Let what a figure is of stand out; "" for nothing."""
        if figure != self.at:
            self.at = figure
            self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.arrange()

    def arrange(self) -> None:
        """Put the things where they belong: the machine's motion over the pad, grains beside."""
        self.setMinimumHeight(self.stands.minimumSize().height())  # in a scrolled column too
        self.parts = self.stands.parts(self.width(), self.height())
        for name, box in self.parts.things.items():
            self.things[name].setGeometry(box.toRect())
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for name, box in self.parts.drawn.items():
            if name in self.stands.names and box.contains(event.position()):
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
        box = self.parts.drawn["pad_mm"]
        painter.fillRect(self.parts.drawn["film"], look.panel)
        if not self.stage.pad_mm:
            return
        area, middle, y = self.parts.pad_px, box.center().x(), box.top() + 11
        painter.setPen(self._pen("pad_mm", wide=1.1))
        painter.drawLine(QPointF(middle - area / 2, y), QPointF(middle + area / 2, y))
        for end in (-1, 1):
            x = middle + end * area / 2
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))

    def _force(self, painter: QPainter) -> None:
        """Draw the force as an arrow that is as long as it is strong."""
        box = self.parts.drawn["force_n"]
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
        said = "its weight" if self.stage.by_weight else kilos_words(force) if force else ""
        painter.setPen(look.quiet)
        wide = painter.fontMetrics().horizontalAdvance(said)
        high = look.px(18)
        left = QRectF(max(x - wide - 10, 0), box.center().y() - high, wide + 2, high)
        painter.drawText(left, Qt.AlignmentFlag.AlignRight, said)

    def _dial(self, painter: QPainter) -> None:
        """Draw the speed dial, its marks, and where it stands."""
        box = self.parts.drawn["dial"]
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

    def _orbit(self, painter: QPainter) -> None:
        """Draw how far the pad swings, as large as it is, or how a rotary is held."""
        stage, box = self.stage, self.parts.drawn["orbit_mm"]
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
        radius = max(3.0, stage.orbit_mm * self.parts.pad_px / stage.pad_mm / 2)
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
        area, stage = self.parts.drawn["section"], self.stage
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
