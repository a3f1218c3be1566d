"""What the eye still sees, drawn: a field of squares a combination, those with a mark filled."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from loam.app.questions.seen.find import SeenPicture, head_of
from loam.core.inspection import GRID_SIDE
from loam.core.seen import Seen, SeenClass, share_words
from loam.ui.paint.words import LEFT, MIDDLE, fitted
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.drawn import Figure, Target
from loam.ui.widgets.tape import paint_tape

_SIDE, _HEAD, _FOOT, _GAP = 360, 26, 40, 26


def draw_seen(painter: QPainter, area: QRectF, found: SeenClass) -> list[Target]:
    """Draw one kind of inspection on one hardness: who leaves least first; return a spot each."""
    fields = max(len(found.seen), 1)
    side = float(look.px(_SIDE))
    each = min(side + look.px(_GAP), area.width() / fields)
    side = min(side, each - 8.0, max(area.height() - look.px(_HEAD + _FOOT), 24.0))
    targets = []
    for i, seen in enumerate(found.seen):
        box = QRectF(area.left() + i * each, area.top() + look.px(_HEAD), side, side)
        _field(painter, box, seen, leads=not i)
        said = f"{seen.combination}: {share_words(seen)} of the squares, {seen.cells} cells"
        targets.append(Target(box, seen.combination, said))
    return targets


def _field(painter: QPainter, box: QRectF, seen: Seen, *, leads: bool) -> None:
    """Draw a combination's squares: filled as far as marks remain, hatched to where they may."""
    name = QRectF(box.left(), box.top() - look.px(_HEAD), box.width(), look.px(_HEAD))
    if leads:
        paint_tape(painter, name.adjusted(-2, 2, 2, -3), seed=5)
    painter.setFont(look.figures(BODY, bold=True))
    painter.setPen(look.on_tape if leads else look.ink)
    painter.drawText(name.adjusted(6, 0, 0, 0), LEFT, seen.combination)
    squares = GRID_SIDE * GRID_SIDE
    step = box.width() / GRID_SIDE
    sure, may = round(seen.low * squares), round(seen.high * squares)
    middle = round(seen.share * squares)
    for i in range(squares):
        row, column = divmod(i, GRID_SIDE)
        one = QRectF(box.left() + column * step, box.top() + row * step, step, step)
        one.adjust(0.8, 0.8, -0.8, -0.8)
        painter.setPen(QPen(look.line, 0.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(one)
        if i < middle:
            painter.fillRect(one, look.ink if i < sure else look.quiet)
        elif i < may:
            painter.setPen(QPen(look.quiet, 1.0))
            painter.drawLine(QPointF(one.left(), one.bottom()), QPointF(one.right(), one.top()))
    painter.setPen(look.ink)
    painter.setFont(look.figures(SMALL, bold=leads))
    foot = QRectF(box.left() - 6, box.bottom() + 2, box.width() + 12, look.px(18))
    painter.drawText(foot, MIDDLE, share_words(seen))
    painter.setPen(look.quiet)
    painter.setFont(look.words(SMALL))
    cells = f"{seen.cells} cell{'' if seen.cells == 1 else 's'}"
    state = "surely more" if seen.behind else "" if leads else "too close to call"
    fitted(painter, foot.translated(0, look.px(18)), state or cells, at=MIDDLE)


def figures(found: SeenPicture) -> list[Figure]:
    """Return the pictures of the report: one a kind and hardness."""

    def drawn(painter: QPainter, area: QRectF, own: SeenClass) -> list[Target]:
        painter.setPen(look.ink)
        painter.setFont(look.words(BODY, bold=True))
        painter.drawText(QRectF(area.left(), area.top(), area.width(), 24), LEFT, head_of(own))
        return draw_seen(painter, area.adjusted(0, 28, 0, 0), own)

    return [(250.0, partial(drawn, own=c)) for c in found.classes]
