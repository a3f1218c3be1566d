"""Things of the shelf that no stage draws: discs, wipes, lights, meters and people."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from loam.app.presenters.shelf import OnShelf
from loam.core.kit import PadLife
from loam.core.kit.facts import (
    COMPOUND,
    DISC,
    LIGHT,
    LOADED,
    MACHINE,
    METER,
    PAD_KIND,
    PERSON,
    RETIRED,
    WIPE,
)
from loam.core.kit.grit import USUAL
from loam.core.trial import Stage
from loam.ui.theme import look
from loam.ui.widgets.things import (
    LARGEST_MM,
    draw_disc,
    draw_grain,
    draw_pad,
    draw_path,
    pad_size,
)

Facts = Mapping[str, Any]


def _square(area: QRectF, share: float = 0.8) -> QRectF:
    """Return a square that stands on the foot of an area."""
    side = min(area.width(), area.height()) * share
    return QRectF(area.center().x() - side / 2, area.bottom() - side, side, side)


def _disc(painter: QPainter, area: QRectF, facts: Facts) -> None:
    """A disc from below: the coarser its grit, the fewer and larger the grains."""
    grit = float(facts.get("grit") or USUAL)
    draw_disc(painter, _square(area), Stage("", "", "", disc="disc", grit=grit, pad_mm=LARGEST_MM))


def _wipe(painter: QPainter, area: QRectF, facts: Facts) -> None:
    """A cloth, folded twice, its fresh side up."""
    box = _square(area, 0.74)
    lift = box.height() / 7
    for i in range(4):
        fold = QRectF(box.left() + 3 * i, box.bottom() - (i + 1) * lift, box.width() - 6 * i, lift)
        painter.setPen(QPen(look.ink, 1.3))
        painter.setBrush(look.sheet)
        painter.drawRoundedRect(fold, lift / 2, lift / 2)
    if facts.get("made") in ("alcohol", "panel"):
        painter.setBrush(look.ink)
        painter.setPen(Qt.PenStyle.NoPen)
        for k in (-1, 0, 1):
            at = QPointF(box.center().x() + 12 * k, box.bottom() - 4 * lift - 8 - 4 * (k == 0))
            painter.drawEllipse(at, 2.0, 2.8)


def _light(painter: QPainter, area: QRectF, facts: Facts) -> None:
    """A light above what it throws on the board: a spot, a strip, or all of it."""
    box = _square(area, 0.9)
    sort = facts.get("shape")
    top, foot = box.top() + box.height() * 0.2, box.bottom() - 2
    painter.setPen(QPen(look.ink, 1.4))
    painter.setBrush(look.sheet)
    middle = box.center().x()
    if sort == "strip":
        painter.drawRect(QRectF(box.left() + 6, top - 6, box.width() - 12, 9))
        starts = [box.left() + 10 + k * (box.width() - 20) / 5 for k in range(6)]
        rays = [(QPointF(x, top + 4), QPointF(x, foot)) for x in starts]
    elif sort == "sun":
        painter.drawEllipse(QPointF(middle, top), 10, 10)
        rays = [
            (
                QPointF(middle + 15 * math.cos(a), top + 15 * math.sin(a)),
                QPointF(middle + 24 * math.cos(a), top + 24 * math.sin(a)),
            )
            for a in (k * math.pi / 6 for k in range(12))
        ]
    else:
        painter.drawEllipse(QPointF(middle, top), 5, 5)
        rays = [
            (
                QPointF(middle + 0.12 * k * box.width(), top + 8),
                QPointF(middle + 0.2 * k * box.width(), foot),
            )
            for k in (-1, -0.33, 0.33, 1)
        ]
    painter.setPen(QPen(look.quiet, 1.1))
    for a, b in rays:
        painter.drawLine(a, b)


def _meter(painter: QPainter, area: QRectF, facts: Facts) -> None:
    """A meter as it reads: a beam thrown back at its angle, or a probe on the layers."""
    box = _square(area, 0.9)
    reads = [str(r) for r in facts.get("reads", [])]
    foot = box.bottom() - 3
    painter.setPen(QPen(look.ink, 1.4))
    painter.setBrush(look.sheet)
    if "film" in reads:
        for i in range(3):
            painter.drawLine(QPointF(box.left(), foot - 6 * i), QPointF(box.right(), foot - 6 * i))
        painter.drawRect(QRectF(box.center().x() - 5, foot - 34, 10, 22))
        painter.drawRect(QRectF(box.center().x() - 14, box.top(), 28, foot - 34 - box.top()))
        return
    painter.drawRect(QRectF(box.left() + 3, box.top() + 4, box.width() - 6, box.height() - 9))
    angles = [float(r[5:]) for r in reads if r.startswith("gloss") and r[5:].isdigit()]
    painter.setPen(QPen(look.quiet, 1.2))
    for angle in angles or ([0.0] if "temperature" in reads else []):
        reach = (box.height() - 16) / max(math.cos(math.radians(angle)), 0.34)
        for side in (-1, 1):
            across = side * min(reach * math.sin(math.radians(angle)), box.width() / 2 - 6)
            high = min(reach * math.cos(math.radians(angle)), box.height() - 12)
            painter.drawLine(
                QPointF(box.center().x(), foot - 5), QPointF(box.center().x() + across, foot - high)
            )
    painter.setBrush(look.ink)
    painter.drawEllipse(QPointF(box.center().x(), foot - 5), 2, 2)


def _person(painter: QPainter, area: QRectF, facts: Facts) -> None:
    """A piece of tape, as one marks a place with a name."""
    width, height = min(area.width() * 0.72, 110.0), 26.0
    left, top = area.center().x() - width / 2, area.bottom() - height - 4
    tape = QPolygonF([QPointF(left, top), QPointF(left + width, top)])
    for k in range(6):
        tape.append(QPointF(left + width - (4 if k % 2 else 0), top + (k + 1) * height / 7))
    tape.append(QPointF(left + width, top + height))
    tape.append(QPointF(left, top + height))
    painter.setPen(QPen(look.edge, 1))
    painter.setBrush(look.tape)
    painter.drawPolygon(tape)


_DRAW: dict[str, Callable[[QPainter, QRectF, Facts], None]] = {
    DISC: _disc,
    WIPE: _wipe,
    LIGHT: _light,
    METER: _meter,
    PERSON: _person,
}
_STAGE = {PAD_KIND: draw_pad, COMPOUND: draw_grain, MACHINE: draw_path}


def draw_standing(painter: QPainter, area: QRectF, thing: OnShelf) -> None:
    """Draw a thing in an area; it stands on the foot of it."""
    if thing.sort in _STAGE:
        if thing.sort == PAD_KIND:
            area = _for_pad(area, thing.stage.pad_mm)
        _STAGE[thing.sort](painter, area, thing.stage)
        return
    _DRAW[thing.sort](painter, area, thing.facts)


def _for_pad(area: QRectF, diameter_mm: float | None) -> QRectF:
    """Return an area in whose middle a pad stands on the foot of another."""
    _, high = pad_size(area.width(), area.height(), diameter_mm)
    return QRectF(
        area.left(), area.bottom() - high / 2 - area.height() / 2, area.width(), area.height()
    )


def draw_single(painter: QPainter, box: QRectF, life: PadLife) -> None:
    """Draw a single pad small: clean empty, loaded filled below, retired struck through."""
    painter.setPen(QPen(look.ink, 1.2))
    painter.setBrush(look.sheet)
    body = QPolygonF(
        [
            QPointF(box.left() + box.width() * 0.12, box.top()),
            QPointF(box.right() - box.width() * 0.12, box.top()),
            box.bottomRight(),
            box.bottomLeft(),
        ]
    )
    painter.drawPolygon(body)
    if life.state == LOADED:
        painter.fillRect(box.adjusted(1, box.height() * 0.55, -1, 0), look.ink)
    elif life.state == RETIRED:
        painter.drawLine(box.topLeft() + QPointF(-2, -2), box.bottomRight() + QPointF(2, 2))
