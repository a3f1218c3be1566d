"""What each stage adds, drawn: a row a combination, under the lamp after each of its stages."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from loam.app.questions.stages.find import Box, Link, Row, StagesOf, StagesPicture
from loam.core.stages import BELOW, LOST, SEEN
from loam.ui.paint.lamp import draw_reflection
from loam.ui.paint.words import LEFT, MIDDLE
from loam.ui.theme import look
from loam.ui.widgets.drawn import Figure, Target
from loam.ui.widgets.tape import paint_tape

_NAMES = 190


def draw_stages(painter: QPainter, area: QRectF, own: StagesOf) -> list[Target]:
    """Draw one hardness and return a spot a state."""
    rows = own.rows
    if not rows:
        return []
    high = min(area.height() / len(rows), float(look.px(132)))
    most = max(len(row.boxes) for row in rows)
    left = area.left() + look.wide(_NAMES)
    words = look.px(17)
    patch = min(
        high - 2 * words - (6 if high > look.px(80) else 0),
        (area.right() - left) / max(most, 1) * 0.5,
    )
    each = (area.right() - left - max(patch, look.px(92))) / max(most - 1, 1)
    each = min(each, patch + look.px(210))
    spots: list[Target] = []
    for i, row in enumerate(rows):
        top = area.top() + i * high
        _name(painter, QRectF(area.left(), top, left - area.left() - 12, high), row)
        for k, box in enumerate(row.boxes):
            x = left + k * each
            place = QRectF(x, top + words, patch, patch)
            _patch(painter, place, box, words, each)
            spots.append(
                Target(
                    place, f"{row.code}:{k}", f"{row.code}, {box.name}: {box.value or 'not read'}"
                )
            )
            if k < len(row.links):
                _link(
                    painter,
                    QRectF(x + patch + 4, top + words, each - patch - 8, patch),
                    row.links[k],
                    seed=i * 7 + k,
                )
    return spots


def _name(painter: QPainter, box: QRectF, row: Row) -> None:
    painter.setFont(look.figures(20, bold=True))
    painter.setPen(look.ink)
    letter = QRectF(box.left(), box.top(), look.px(40), box.height())
    painter.drawText(letter, LEFT, row.code[:3])
    painter.setFont(look.words(14))
    painter.setPen(look.quiet)
    words = box.adjusted(look.px(40), 0, 0, 0)
    flags = int(LEFT | Qt.TextFlag.TextWordWrap)
    painter.drawText(words, flags, row.words[:80])


def _patch(painter: QPainter, place: QRectF, box: Box, words: int, each: float) -> None:
    if box.read:
        draw_reflection(painter, place, box.light)
    else:
        painter.setPen(QPen(look.line, 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(place)
    painter.setFont(look.words(12))
    painter.setPen(look.quiet)
    over = QRectF(place.left(), place.top() - words, max(each - 8, place.width()), words)
    painter.drawText(over, LEFT, box.name)
    painter.setFont(look.figures(13, bold=True))
    painter.setPen(look.ink)
    under = QRectF(place.left(), place.bottom(), max(each - 8, place.width()), words)
    painter.drawText(under, LEFT, box.value)


def _link(painter: QPainter, box: QRectF, link: Link, *, seed: int) -> None:
    """A strip from one state to the next: tape where the gain is seen, dashed where it is open."""
    y = box.center().y()
    bar = QRectF(box.left(), y - 4, box.width(), 8)
    if link.verdict == SEEN:
        paint_tape(painter, bar, seed=seed, depth=4)
    elif link.verdict == BELOW:
        painter.setPen(QPen(look.faint, 1.4))
        painter.drawLine(QPointF(bar.left(), y), QPointF(bar.right(), y))
    elif link.gain:
        ink = look.care if link.verdict == LOST else look.quiet
        painter.setPen(QPen(ink, 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(bar.left(), y), QPointF(bar.right(), y))
    words = look.px(17)
    tight = box.height() < look.px(46)
    lines = 1 if tight else 2
    painter.setFont(look.words(13, bold=True))
    painter.setPen(look.ink)
    head = QRectF(box.left(), y - 6 - lines * words, box.width(), words)
    gain = ", ".join(filter(None, (link.gain, link.verdict))) if tight else link.gain
    painter.drawText(head, MIDDLE, gain)
    painter.setFont(look.words(13))
    painter.setPen(look.quiet)
    if not tight:
        painter.drawText(head.translated(0, words), MIDDLE, link.verdict)
    painter.drawText(QRectF(box.left(), y + 7, box.width(), words), MIDDLE, link.price)


def figures(found: StagesPicture) -> list[Figure]:
    """Return the pictures of its part of the report: how high, and what draws it."""
    return [
        (130.0 * len(own.rows), partial(_of_class, own=own)) for own in found.classes if own.rows
    ]


def _of_class(painter: QPainter, area: QRectF, own: StagesOf) -> list[Target]:
    return draw_stages(painter, area, own)
