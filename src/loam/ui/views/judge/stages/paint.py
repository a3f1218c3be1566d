"""What each stage adds, drawn: a row a combination, under the lamp after each of its stages."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from loam.app.questions.stages.find import EARNS_IT, Box, Link, Row, StagesOf, StagesPicture
from loam.core.stages import BELOW, LOST, SEEN, UNSETTLED
from loam.ui.paint.lamp import draw_reflection
from loam.ui.paint.words import LEFT, fitted
from loam.ui.theme import look
from loam.ui.theme.look import LEAD
from loam.ui.widgets.drawn import Figure, Target
from loam.ui.widgets.tape import paint_tape

_NAMES = 190
TAPE = 22
TOLD = {BELOW: "too small for the meter", LOST: "it loses", UNSETTLED: "may be nothing"}


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
    each = min(each, patch + look.px(430))
    gains = [link.size for row in rows for link in row.links]
    most_gain = max(gains, default=0.0)
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
                    most_gain,
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


def _link(painter: QPainter, box: QRectF, link: Link, most: float, *, seed: int) -> None:
    """A strip from one state to the next: tape as long as the gain, and whether it earns it."""
    y, thick = box.center().y(), float(look.px(TAPE))
    word = link.earns
    painter.setPen(QPen(look.line, 1.4))
    painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
    painter.setFont(look.words(13, bold=True))
    least = painter.fontMetrics().horizontalAdvance(word) + 22.0
    long = min(max(box.width() * link.size / max(most, 1e-12), least), box.width())
    bar = QRectF(box.left(), y - thick / 2, long, thick)
    if word == EARNS_IT:
        paint_tape(painter, bar, seed=seed, depth=4)
        painter.setPen(look.on_tape)
    elif word:
        painter.fillRect(bar, look.ground)
        ink = look.care if link.verdict == LOST else look.quiet
        painter.setPen(QPen(ink, 1.4, Qt.PenStyle.DashLine))
        painter.drawRect(bar)
        painter.setPen(ink)
    if word:
        painter.drawText(bar.adjusted(8, 0, -6, 0), LEFT, word)
    words = look.px(17)
    painter.setPen(look.ink)
    head = QRectF(box.left(), bar.top() - words - 1, box.width(), words)
    gain = link.gain if link.verdict in ("", SEEN) else f"{link.gain}, {TOLD.get(link.verdict, '')}"
    fitted(painter, head, gain.rstrip(", "))
    painter.setFont(look.words(13))
    painter.setPen(look.quiet)
    painter.drawText(QRectF(box.left(), bar.bottom() + 1, box.width(), words), LEFT, link.price)


HEADED = 26.0


def figures(found: StagesPicture) -> list[Figure]:
    """Return the pictures of its part of the report: how high, and what draws it."""
    return [
        (HEADED + 130.0 * len(own.rows), partial(_of_class, own=own))
        for own in found.classes
        if own.rows
    ]


def _of_class(painter: QPainter, area: QRectF, own: StagesOf) -> list[Target]:
    """Draw one hardness under its name: the page has a lead for that, the report has not."""
    painter.setFont(look.words(LEAD, bold=True))
    painter.setPen(look.ink)
    head = QRectF(area.left(), area.top(), area.width(), HEADED)
    painter.drawText(head, LEFT, own.ground.capitalize())
    return draw_stages(painter, area.adjusted(0, HEADED, 0, 0), own)
