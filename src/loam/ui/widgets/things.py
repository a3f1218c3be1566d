"""Kit as it is seen: a pad in section, a compound as its grain, a machine as the path it draws.

A sanding disc is seen from below, and its grit in section, to scale.
"""

from __future__ import annotations

import math
import random

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy

from loam.core.kit import COMPOUND_BY_KEY, PAD_BY_KEY
from loam.core.kit.grit import grain_um, grit_of
from loam.core.machines import BY_KEY as MACHINES
from loam.core.trial import Stage
from loam.ui.theme import look
from loam.ui.theme.look import SMALL

PAD, COMPOUND, MACHINE, DISC, GRIT = "pad", "compound", "machine", "disc", "grit"
LARGEST_MM = 180.0
"""Pads are drawn to scale against this diameter."""
_TURNS = {"free-orbital": 0.03, "forced-orbital": 1.0 / 9.0}
_GRAINS = {"fine": (150, 1.3), "polish": (80, 2.4), "coarse": (34, 4.6)}


def pad_size(width: float, height: float, diameter_mm: float | None) -> tuple[float, float]:
    """Return how wide and high a pad is drawn in an area; 125 mm where its size is not said."""
    share = min((diameter_mm or 125.0) / LARGEST_MM, 1.0)
    wide = width * (0.35 + 0.6 * share)
    return wide, min(height * 0.62, wide * 0.42)


def draw_pad(painter: QPainter, area: QRectF, stage: Stage) -> None:
    """Draw a pad in section, as wide as it is against the largest: backing, body, face below."""
    width, height = pad_size(area.width(), area.height(), stage.pad_mm)
    left, top = area.center().x() - width / 2, area.center().y() - height / 2
    back = QRectF(left + width * 0.06, top, width * 0.88, height * 0.2)
    body = QPolygonF(
        [
            QPointF(back.left(), back.bottom()),
            QPointF(back.right(), back.bottom()),
            QPointF(left + width, top + height * 0.78),
            QPointF(left + width * 0.95, top + height),
            QPointF(left + width * 0.05, top + height),
            QPointF(left, top + height * 0.78),
        ]
    )
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(look.quiet)
    painter.drawRect(back)
    painter.setBrush(look.sheet)
    painter.setPen(QPen(look.ink, 1.4))
    painter.drawPolygon(body)
    inside = QRectF(left + 4, back.bottom() + 3, width - 8, top + height - back.bottom() - 6)
    painter.save()
    shape = QPainterPath()
    shape.addPolygon(body)
    painter.setClipPath(shape)
    _texture(painter, inside, stage.pad_material)
    painter.restore()
    if stage.disc:
        _teeth(painter, left + width * 0.05, top + height, width * 0.9)


def _teeth(painter: QPainter, left: float, y: float, width: float) -> None:
    """Draw the sanding disc on a pad's face: its grit, as teeth."""
    count = max(int(width / 6), 4)
    points = [
        QPointF(left + width * i / (2 * count), y + (7.0 if i % 2 else 1.0))
        for i in range(2 * count + 1)
    ]
    painter.setPen(QPen(look.ink, 1.8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(QPolygonF(points))


def _texture(painter: QPainter, area: QRectF, material: str) -> None:
    texture = PAD_BY_KEY[material].texture if material in PAD_BY_KEY else ""
    rng = random.Random(7)
    painter.setPen(QPen(look.ink, 1.1))
    if texture in ("dots", "sparse", "mixed"):
        count = {"dots": 120, "sparse": 55, "mixed": 60}[texture]
        painter.setBrush(look.ink)
        painter.setPen(Qt.PenStyle.NoPen)
        low = area.center().y() if texture == "mixed" else area.bottom()
        for _ in range(count):
            at = QPointF(rng.uniform(area.left(), area.right()), rng.uniform(area.top(), low))
            size = rng.uniform(0.6, 1.6)
            painter.drawEllipse(at, size, size)
    painter.setPen(QPen(look.ink, 1.1))
    if texture == "slashes":
        count = int(area.width() / 4.5)
        for i in range(count):
            x = area.left() + (i + 0.5) * area.width() / count
            length = area.height() * rng.uniform(0.35, 0.55)
            painter.drawLine(
                QPointF(x, area.bottom() + 3),
                QPointF(x + rng.uniform(-2, 2), area.bottom() - length),
            )
    if texture in ("waves", "mixed"):
        painter.setBrush(Qt.BrushStyle.NoBrush)
        count = int(area.width() / 9)
        for i in range(count):
            x = area.left() + (i + 0.5) * area.width() / count
            high = area.height() * rng.uniform(0.55, 0.85) * (0.6 if texture == "mixed" else 1.0)
            strand = QPainterPath(QPointF(x, area.bottom() + 3))
            for k in range(4):
                y = area.bottom() - high * (k + 1) / 4
                side = 4.0 if k % 2 else -4.0
                strand.quadTo(QPointF(x + side, y + high / 8), QPointF(x, y))
            painter.drawPath(strand)


def draw_grain(painter: QPainter, area: QRectF, stage: Stage) -> None:
    """Draw a compound as its grain: few large pieces for cutting, many small for finishing."""
    if stage.compound_class not in COMPOUND_BY_KEY:
        _nothing(painter, area)
        return
    count, size = _GRAINS[stage.compound_class]
    rng = random.Random(count)
    radius = min(area.width(), area.height()) * 0.44
    unit = radius / 44.0
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(look.ink)
    for _ in range(count):
        r, t = radius * math.sqrt(rng.random()), rng.uniform(0, 2 * math.pi)
        at = QPointF(area.center().x() + r * math.cos(t), area.center().y() + 0.8 * r * math.sin(t))
        corners = rng.randint(5, 7)
        turn = rng.uniform(0, 2 * math.pi)
        piece = QPolygonF()
        for k in range(corners):
            out = size * unit * rng.uniform(0.7, 1.15)
            angle = turn + 2 * math.pi * k / corners
            piece.append(QPointF(at.x() + out * math.cos(angle), at.y() + out * math.sin(angle)))
        painter.drawPolygon(piece)


def draw_path(painter: QPainter, area: QRectF, stage: Stage) -> None:
    """Draw the way of a point of the pad over one turn of it, to scale with the pad."""
    if stage.machine_kind not in MACHINES:
        _nothing(painter, area)
        return
    radius = 0.5 * (stage.pad_mm or 125.0)
    throw = 0.0
    if stage.machine_kind != "rotary":
        throw = 0.5 * (stage.orbit_mm or (8.0 if stage.machine_kind == "forced-orbital" else 15.0))
    scale = min(area.width(), area.height()) * 0.47 / (radius + throw)
    centre = area.center()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(look.line, 1))
    painter.drawEllipse(centre, radius * scale, radius * scale)
    painter.setPen(QPen(look.ink, 1.1))
    if not throw:
        for share in (0.35, 0.62, 0.88):
            painter.drawEllipse(centre, radius * share * scale, radius * share * scale)
        return
    turns = _TURNS[stage.machine_kind]
    orbits = round(1.0 / turns)
    path = QPainterPath()
    steps = 36 * orbits
    for i in range(steps + 1):
        orbit, turn = 2 * math.pi * orbits * i / steps, 2 * math.pi * i / steps
        x = (throw * math.cos(orbit) + 0.62 * radius * math.cos(turn)) * scale
        y = (throw * math.sin(orbit) + 0.62 * radius * math.sin(turn)) * scale
        at = QPointF(centre.x() + x, centre.y() + y)
        if i:
            path.lineTo(at)
        else:
            path.moveTo(at)
    painter.drawPath(path)


def _nothing(painter: QPainter, area: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(look.quiet, 1.2, Qt.PenStyle.DotLine))
    side = min(area.width(), area.height()) * 0.6
    painter.drawEllipse(area.center(), side / 2, side / 2)


def draw_disc(painter: QPainter, area: QRectF, stage: Stage) -> None:
    """Draw a sanding disc from below, as wide as it is: coarse grit as few large specks."""
    share = min((stage.pad_mm or 125.0) / LARGEST_MM, 1.0)
    radius = 0.5 * min(area.width(), area.height()) * (0.45 + 0.55 * share)
    centre = area.center()
    painter.setPen(QPen(look.ink, 1.4))
    painter.setBrush(look.sheet)
    painter.drawEllipse(centre, radius, radius)
    grain = _grain_of(stage)
    if grain is None:
        return
    size = min(max(0.55 * math.sqrt(grain / 4.0), 0.6), 4.0)
    count = int(min(max(0.16 * (radius / size) ** 2, 30), 900))
    rng = random.Random(11)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(look.ink)
    for _ in range(count):
        r, t = (radius - size - 2) * math.sqrt(rng.random()), rng.uniform(0, 2 * math.pi)
        painter.drawEllipse(
            QPointF(centre.x() + r * math.cos(t), centre.y() + r * math.sin(t)), size, size
        )


ACROSS_UM = 260.0
"""Of a disc's face that its section shows."""


def draw_grit(painter: QPainter, area: QRectF, stage: Stage) -> None:
    """Draw a disc's face in section: its grains, to scale, on their backing; damp as drops."""
    grain = _grain_of(stage)
    if grain is None:
        _nothing(painter, area)
        return
    unit = area.width() / ACROSS_UM
    high = min(grain * unit, 0.55 * area.height())
    foot = area.center().y() + 0.3 * area.height()
    wide = max(grain * unit, 1.6)
    rng = random.Random(5)
    painter.setPen(QPen(look.ink, 1.0 if wide > 5 else 0.7))
    painter.setBrush(look.sheet)
    x = area.left() + 0.25 * wide
    while x + wide < area.right():
        tall = high * rng.uniform(0.72, 1.0)
        tip = x + wide * rng.uniform(0.3, 0.7)
        painter.drawPolygon(
            QPolygonF(
                [
                    QPointF(x, foot),
                    QPointF(x + 0.16 * wide, foot - 0.6 * tall),
                    QPointF(tip, foot - tall),
                    QPointF(x + 0.9 * wide, foot - 0.5 * tall),
                    QPointF(x + wide, foot),
                ]
            )
        )
        x += wide * rng.uniform(1.05, 1.35)
    painter.fillRect(QRectF(area.left(), foot, area.width(), 5.0), look.quiet)
    if stage.damp:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.quiet, 1.2))
        for share in (0.2, 0.5, 0.8):
            at = QPointF(area.left() + share * area.width(), area.top() + 0.12 * area.height())
            drop = QPainterPath(QPointF(at.x(), at.y() - 6))
            drop.cubicTo(at.x() + 6, at.y() + 4, at.x() + 3, at.y() + 8, at.x(), at.y() + 8)
            drop.cubicTo(at.x() - 3, at.y() + 8, at.x() - 6, at.y() + 4, at.x(), at.y() - 6)
            painter.drawPath(drop)


def _grain_of(stage: Stage) -> float | None:
    grit = grit_of(stage.disc, stage.grit)
    return None if grit is None else grain_um(grit)


_DRAW = {
    PAD: draw_pad,
    COMPOUND: draw_grain,
    MACHINE: draw_path,
    DISC: draw_disc,
    GRIT: draw_grit,
}


def _in_two(metrics: QFontMetrics, said: str, room: int) -> str:
    """Return words on two lines where only that makes room for them; "" where it does not."""
    words = said.split(" ")
    ways = [(" ".join(words[:i]), " ".join(words[i:])) for i in range(1, len(words))]
    widths = [max(metrics.horizontalAdvance(line) for line in way) for way in ways]
    if not ways or min(widths) > room or metrics.horizontalAdvance(said) <= room:
        return ""
    return "\n".join(ways[widths.index(min(widths))])


class Thing(QAbstractButton):
    """A pad, a compound or a machine, drawn; pressed, it opens what kind of thing it is."""

    def __init__(self, what: str, name: str) -> None:
        super().__init__()
        self.what = what
        self.stage: Stage | None = None
        self.open = False
        self.caption = ""
        self.setObjectName(name)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)  # Tab goes through what is typed
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(90, look.px(84))
        look.changed.connect(self.update)

    def show_stage(self, stage: Stage, caption: str) -> None:
        """Draw the thing of a stage; the caption says of what kind it is."""
        self.stage, self.caption = stage, caption
        self.setText(caption)
        self.setAccessibleName(f"{self.what}: {caption}; press to choose what it is")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(150, look.px(130))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.stage is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.words(SMALL))
        room = self.width() - 4
        said = _in_two(painter.fontMetrics(), self.caption, room) if self.what == MACHINE else ""
        said = said or painter.fontMetrics().elidedText(
            self.caption, Qt.TextElideMode.ElideRight, room
        )
        foot = look.px(22) + painter.fontMetrics().height() * said.count("\n")
        area = QRectF(4, 2, self.width() - 8, self.height() - foot - 4)
        _DRAW[self.what](painter, area, self.stage)
        ink: QColor = look.quiet if self.stage else look.ink
        painter.setPen(ink)
        line = QRectF(0, self.height() - foot, self.width(), foot)
        middle = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(line, middle, said)
        if self.open or self.underMouse():
            width = painter.fontMetrics().horizontalAdvance(said.split("\n")[-1])
            y = line.bottom() - 2
            painter.setPen(QPen(look.strong if self.open else look.line, 2))
            painter.drawLine(
                QPointF(line.center().x() - width / 2, y), QPointF(line.center().x() + width / 2, y)
            )
        if self.hasFocus():
            painter.setPen(QPen(look.strong, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(1, 1, self.width() - 2, self.height() - 2))
