"""What else the readings carry, drawn: strands on a panel around the band of what matters."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from loam.app.questions.influences.find import CarriedPicture, Strand
from loam.core.units import fixed, signed
from loam.ui.paint.axis import Axis, draw_figures, even
from loam.ui.paint.words import LEFT, WRAPPED
from loam.ui.theme import look
from loam.ui.views.judge.influences.claims_paint import draw_claims, heights
from loam.ui.widgets.drawn import Figure, Target
from loam.ui.widgets.tape import paint_tape

HEAD = 17
"""For what the band is, above the strands, px."""


def draw_carried(painter: QPainter, area: QRectF, found: CarriedPicture) -> list[Target]:
    """Draw the strands above, the claims below, and say what is not carried.

    Claims that have no room side by side are said in words instead.
    """
    own = [s for s in found.strands if s.trend is not None]
    bare = [(s.label, s.words) for s in found.strands if s.trend is None]
    foot, claims = float(look.px(24)), found.claims
    lines = [*claims.missing, *bare]
    below = sum(_heights(painter, lines, area.width()))
    least, most = heights(claims, area.width())
    foot += look.px(HEAD)
    strands = look.px(18) * len(own) + foot if own else 0.0
    drawn = 0.0 < least <= area.height() - below - strands - 28
    if not drawn:
        lines = [*claims.lines(), *bare]
        below = min(sum(_heights(painter, lines, area.width())), 0.6 * area.height())
    each = 0.0
    spots: list[Target] = []
    if own:
        room = area.height() - below - (least + 14 if drawn else 0.0) - foot - 16
        each = min(max(room / len(own), look.px(18)), float(look.px(30 if drawn else 38)))
        panel = QRectF(area.left(), area.top(), area.width(), each * len(own) + foot)
        spots = _strands(painter, panel, own, found, each)
    top = area.top() + (each * len(own) + foot + 14 if own else 0.0)
    if drawn:
        high = min(max(area.bottom() - top - below - 14, least), most)
        spots += draw_claims(painter, QRectF(area.left(), top, area.width(), high), claims)
        top += high + 14
    return spots + _lines(
        painter, QRectF(area.left(), top, area.width(), area.bottom() - top), lines
    )


def _heights(painter: QPainter, lines: list[tuple[str, str]], width: float) -> list[float]:
    """Return how high each line stands when its words wrap."""
    painter.setFont(look.words(14))
    room = QRectF(0, 0, width - look.px(160), 10_000)
    least = float(look.px(19))
    return [
        max(painter.boundingRect(room, WRAPPED, words).height(), least) + 1 for _, words in lines
    ]


def _strands(
    painter: QPainter, panel: QRectF, own: list[Strand], found: CarriedPicture, each: float
) -> list[Target]:
    painter.fillRect(panel, look.panel)
    reach = max(*(abs(v) for s in own for v in (s.low, s.high)), 1.4 * abs(found.matters), 1e-9)
    split, right = panel.left() + look.px(150), panel.right() - look.px(230)
    axis = Axis(split, right, -reach, reach)
    x, middle = axis.x, axis.x(0.0)
    foot = panel.bottom() - look.px(24)
    first = panel.top() + look.px(HEAD)
    band = QRectF(
        x(-abs(found.matters)),
        panel.top(),
        2 * (x(abs(found.matters)) - middle),
        foot - panel.top(),
    )
    painter.fillRect(band, look.panel_cell)
    painter.setPen(QPen(look.edge, 1.2, Qt.PenStyle.DashLine))
    for end in (band.left(), band.right()):
        painter.drawLine(QPointF(end, panel.top()), QPointF(end, foot))
    marks = even(axis, 8, lambda at, step: signed(at, 1 if step < 1 else 0))
    draw_figures(painter, axis, marks, foot, panel.bottom())
    painter.setFont(look.words(12))
    painter.drawText(
        QRectF(panel.left() + 10, foot, split, panel.bottom() - foot),
        LEFT,
        f"{found.kind.label}, {found.kind.unit}",
    )
    told_in = "within this it does not matter"
    painter.setFont(look.words(12))
    if band.width() > painter.fontMetrics().horizontalAdvance(told_in) + 8:
        over = QRectF(band.left() + 4, panel.top(), band.width(), look.px(HEAD))
        painter.drawText(over, LEFT, told_in)
    spots = []
    for i, s in enumerate(own):
        y = first + (i + 0.5) * each
        sure = s.sure
        painter.setFont(look.words(14, bold=sure))
        painter.setPen(look.on_panel if sure else look.quiet_on_panel)
        painter.drawText(QRectF(panel.left() + 10, y - each / 2, split, each), LEFT, s.label)
        if sure:
            start, end = sorted((x(0.0), x(s.middle)))
            paint_tape(
                painter, QRectF(start, y - 5, max(end - start, 2.0), 10), seed=i + 2, depth=3
            )
        painter.setPen(QPen(look.on_panel if sure else look.quiet_on_panel, 1.6))
        painter.drawLine(QPointF(x(s.low), y), QPointF(x(s.high), y))
        painter.drawLine(QPointF(x(s.middle), y - 6), QPointF(x(s.middle), y + 6))
        painter.setFont(look.words(13, bold=sure))
        digits = max(found.kind.decimals, 1)
        ends = f"({fixed(s.low, digits)} to {fixed(s.high, digits)})"
        told = f"surely {signed(s.middle, digits)} {ends}" if sure else f"may be nothing {ends}"
        painter.drawText(
            QRectF(right + 14, y - each / 2, panel.right() - right - 18, each), LEFT, told
        )
        spots.append(
            Target(QRectF(panel.left(), y - each / 2, panel.width(), each), s.label, s.words)
        )
    painter.setPen(QPen(look.on_panel, 1))
    painter.drawLine(QPointF(middle, first), QPointF(middle, foot))
    return spots


def _lines(painter: QPainter, area: QRectF, lines: list[tuple[str, str]]) -> list[Target]:
    """Write claims and what is not carried; where there is no room, a line each with its start."""
    y, head, line = area.top(), look.px(160), look.px(19)
    heights = _heights(painter, lines, area.width())
    cut = sum(heights) > area.height() + 1
    spots = []
    for (name, words), high in zip(lines, heights, strict=True):
        painter.setFont(look.words(14, bold=True))
        painter.setPen(look.ink)
        painter.drawText(QRectF(area.left(), y, head, line), LEFT, name)
        painter.setFont(look.words(14))
        painter.setPen(look.quiet)
        room = QRectF(area.left() + head, y, area.width() - head, area.bottom() - y)
        taken = float(line) + 1 if cut else high
        if cut:
            text = painter.fontMetrics().elidedText(
                words, Qt.TextElideMode.ElideRight, int(room.width())
            )
            painter.drawText(QRectF(room.left(), y, room.width(), line), LEFT, text)
        else:
            painter.drawText(room, WRAPPED, words)
        spots.append(Target(QRectF(area.left(), y, area.width(), taken), "", words))
        y += taken
    return spots


def figures(found: CarriedPicture) -> list[Figure]:
    """Return the pictures of its part of the report: how high, and what draws it."""
    return [(620.0, lambda p, a: draw_carried(p, a, found))]
