"""Makers' claims, drawn: cells cleared, places on a maker's scale against places measured, masking.

On a scale a line goes from each compound's place by its maker to its place as measured on each
hardness: where the maker is right, lines stay level. A bar across a place is its 90 % interval.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPen

from loam.app.questions.influences.claims import (
    AGAINST,
    AGREES,
    CLEARED,
    NEITHER,
    OPEN,
    Claims,
    MakersScale,
    grit_key,
    masked_key,
    scale_key,
)
from loam.core.units import fixed
from loam.core.words.masking import span
from loam.ui.paint.axis import Axis, draw_figures, draw_lines, draw_whisker, even
from loam.ui.paint.words import MIDDLE, RIGHT, fitted, widest
from loam.ui.theme import look
from loam.ui.widgets.drawn import Target
from loam.ui.widgets.tape import paint_tape

_SAID = {
    AGREES: ("agrees",),
    AGAINST: ("disagrees", "not so"),
    NEITHER: ("no clear order", "no order"),
    OPEN: ("too close to call", "not sure"),
}
"""What was measured against the maker's order, in the words of the screen; shorter ones last."""
MOST_ROWS, LEAST_WIDE, MOST_WIDE = 8, 215, 400
_GAP, _PAD = 14.0, 10.0
Tile = Callable[[QPainter, QRectF], list[Target]]


def heights(claims: Claims, width: float) -> tuple[float, float]:
    """Return how high the pictures stand at least and at most; 0 where there is none."""
    counts = [len(claims.grits), len(claims.masked), *(len(s.figures) for s in claims.scales)]
    lines, rows = min(max(counts), MOST_ROWS), _rows_of(len(_tiles(claims)), width)
    if not rows:
        return 0.0, 0.0
    least, most = (look.px(84 + high * lines) for high in (20, 34))
    return rows * least + _GAP * (rows - 1), rows * most + _GAP * (rows - 1)


def _rows_of(tiles: int, width: float) -> int:
    """Return in how many rows so many pictures stand."""
    columns = max(int((width + _GAP) / (look.wide(LEAST_WIDE) + _GAP)), 1)
    return math.ceil(tiles / columns)


def draw_claims(painter: QPainter, area: QRectF, claims: Claims) -> list[Target]:
    """Draw the pictures side by side, in rows as even as may be; a spot a claim or verdict."""
    tiles = _tiles(claims)
    rows = _rows_of(len(tiles), area.width())
    columns = math.ceil(len(tiles) / max(rows, 1))
    wide = (area.width() - _GAP * (columns - 1)) / max(columns, 1)
    wide = min(wide, float(look.wide(MOST_WIDE)))
    high = (area.height() - _GAP * (rows - 1)) / max(rows, 1)
    spots: list[Target] = []
    for i, (head, foot, tile) in enumerate(tiles):
        at = QPointF(i % columns * (wide + _GAP), i // columns * (high + _GAP))
        box = QRectF(area.left() + at.x(), area.top() + at.y(), wide, high)
        painter.fillRect(box, look.panel)
        line = float(look.px(20))
        painter.setFont(look.words(14, bold=True))
        painter.setPen(look.on_panel)
        fitted(painter, QRectF(box.left() + _PAD, box.top() + 2, wide - 2 * _PAD, line), head)
        painter.setFont(look.words(12))
        painter.setPen(look.quiet_on_panel)
        fitted(painter, QRectF(box.left() + _PAD, box.bottom() - line, wide - 2 * _PAD, line), foot)
        inside = box.adjusted(_PAD, line + 6, -_PAD, -line - 2)
        spots += tile(painter, inside)
    return spots


def _tiles(claims: Claims) -> list[tuple[str, str, Tile]]:
    """Return head, foot and painter of each picture."""
    tiles: list[tuple[str, str, Tile]] = []
    if claims.grits:
        tiles.append(
            (
                "grits that makers claim",
                f"cells with {CLEARED:g} % of the marks gone (assumed)",
                lambda p, box: _grits(p, box, claims),
            )
        )
    for scale in claims.scales:
        against = scale.kind.label
        tiles.append(
            (
                f"{scale.what}, {scale.scale}",
                f"measured by {against}; bars: likely places",
                partial(_places, scale=scale),
            )
        )
    if claims.masked:
        unit = f", {claims.kind.unit}" if claims.kind.unit else ""
        tiles.append(
            (
                "filler, by product",
                f"{claims.kind.label} that falls back at the wipe{unit}",
                lambda p, box: _masked(p, box, claims),
            )
        )
    return tiles


def _rows(box: QRectF, count: int) -> tuple[float, list[float]]:
    """Return the height of each of so many lines, and their middles."""
    each = min(box.height() / max(count, 1), float(look.px(34)))
    return each, [box.top() + (i + 0.5) * each for i in range(count)]


def _grits(painter: QPainter, box: QRectF, claims: Claims) -> list[Target]:
    foot = float(look.px(16))
    shown = claims.grits[:MOST_ROWS]
    each, middles = _rows(box.adjusted(0, 0, 0, -foot), len(shown))
    names = widest((f"{g.compound} P{g.grit:g}" for g in shown), 13) + 12
    told = widest((f"{g.hits} of {g.cells}" for g in shown), 12) + 16
    left, right = box.left() + min(names, 0.5 * box.width()), box.right() - told
    bottom = middles[-1] + each / 2 if middles else box.top()
    axis = Axis(left, right, 0.0, 1.0)
    marks = [(share, f"{100 * share:.0f} %") for share in (0.0, 0.5, 1.0)]
    draw_lines(painter, axis, marks, box.top(), bottom)
    draw_figures(painter, axis, marks, bottom, bottom + foot)
    spots = []
    for g, y in zip(shown, middles, strict=True):
        _name(
            painter,
            QRectF(box.left(), y - each / 2, left - box.left() - 8, each),
            f"{g.compound} P{g.grit:g}",
        )
        draw_whisker(painter, axis, y, (g.low, g.hits / g.cells, g.high))
        painter.setFont(look.figures(11))
        painter.setPen(look.quiet_on_panel)
        painter.drawText(QRectF(right, y - each / 2, told, each), RIGHT, f"{g.hits} of {g.cells}")
        spots.append(
            Target(QRectF(box.left(), y - each / 2, box.width(), each), grit_key(g), g.words())
        )
    return spots


def _masked(painter: QPainter, box: QRectF, claims: Claims) -> list[Target]:
    foot = float(look.px(16))
    shown = claims.masked[:MOST_ROWS]
    each, middles = _rows(box.adjusted(0, 0, 0, -foot), len(shown))
    left = box.left() + min(widest((m.group for m in shown), 13) + 14, 0.5 * box.width())
    right = box.right() - 6
    low, high = min(0.0, *(m.low for m in shown)), max(0.0, *(m.high for m in shown))
    axis = Axis(left, right, low, max(high, low + 1e-9))
    bottom = middles[-1] + each / 2 if middles else box.top()
    kind = claims.kind

    def write(at: float, step: float) -> str:
        return fixed(kind.span(at), 1 if kind.span(step) < 1 else 0)

    marks = even(axis, 3, write)
    draw_lines(painter, axis, marks, box.top(), bottom)
    painter.setPen(QPen(look.on_panel, 1))
    painter.drawLine(QPointF(axis.x(0.0), box.top()), QPointF(axis.x(0.0), bottom))
    draw_figures(painter, axis, marks, bottom, bottom + foot)
    spots = []
    for m, y in zip(shown, middles, strict=True):
        _name(painter, QRectF(box.left(), y - each / 2, left - box.left() - 8, each), m.group)
        if m.seen:
            paint_tape(
                painter,
                QRectF(axis.x(0.0), y - 4, axis.x(m.masked) - axis.x(0.0), 8),
                seed=3,
                depth=2,
            )
        draw_whisker(painter, axis, y, (m.low, m.masked, m.high))
        spots.append(
            Target(
                QRectF(box.left(), y - each / 2, box.width(), each),
                masked_key(m),
                f"{m.group}: {span(m, claims.kind)}",
            )
        )
    return spots


def _places(painter: QPainter, box: QRectF, scale: MakersScale) -> list[Target]:
    """Draw one maker's scale: places by the maker, then as measured on each hardness."""
    head, foot = float(look.px(16)), float(look.px(16))
    shown = list(scale.figures)[:MOST_ROWS]
    each, middles = _rows(box.adjusted(0, head, 0, -foot), len(shown))
    at = dict(zip(shown, middles, strict=True))
    figures = [f"{scale.figures[c]:g}" for c in shown]
    told = widest(figures, 12) + 6
    left = box.left() + min(widest(shown, 13) + told + 16, 0.5 * box.width())
    step = (box.right() - left) / max(len(scale.classes), 1)
    columns = [left + (i + 0.5) * step for i in range(len(scale.classes))]
    bottom = middles[-1] + each / 2 if middles else box.top()
    for c, figure in zip(shown, figures, strict=True):
        row = QRectF(box.left(), at[c] - each / 2, left - box.left() - 8, each)
        _name(painter, row.adjusted(0, 0, -told, 0), c)
        painter.setFont(look.figures(12))
        painter.setPen(look.quiet_on_panel)
        painter.drawText(row, RIGHT, figure)
    painter.setFont(look.words(12))
    painter.setPen(look.quiet_on_panel)
    painter.drawText(QRectF(box.left(), box.top(), left - box.left() - 8, head), RIGHT, "maker")
    fit = all(widest((_SAID[own.verdict][0],), 12) + 8 <= step for own in scale.classes)
    said = {verdict: ways[0 if fit else -1] for verdict, ways in _SAID.items()}
    spots = []
    marks: list[tuple[QPointF, float, float]] = []
    for x, own in zip(columns, scale.classes, strict=True):
        painter.setFont(look.words(12))
        painter.setPen(look.quiet_on_panel)
        painter.drawText(QRectF(x - step / 2, box.top(), step, head), MIDDLE, own.hardness)
        slots = [at[c] for c in shown if c in own.places]  # those that were worked here keep order
        worked = [c for c in shown if c in own.places]
        for c, made in zip(worked, slots, strict=True):
            place, low, high = (slots[min(p, len(slots)) - 1] for p in own.places[c])
            there = QPointF(x, place)
            off = not min(low, high) <= made <= max(low, high)
            if off and own.verdict != AGREES:  # who agrees is quiet
                against = own.verdict == AGAINST
                ink = look.edge if against else look.quiet_on_panel
                painter.setPen(QPen(ink, 2.2 if against else 1.2))
                painter.drawLine(QPointF(x - 0.42 * step, made), there)
            marks.append((there, low, high))
        painter.setFont(look.words(12, bold=own.verdict in (AGREES, AGAINST)))
        painter.setPen(look.on_panel if own.verdict == AGREES else look.quiet_on_panel)
        verdict = QRectF(x - step / 2, bottom, step, foot)
        if own.verdict == AGAINST:
            wide = float(look.width(said[own.verdict], 12, bold=True)) + 10
            paint_tape(painter, QRectF(x - wide / 2, bottom, wide, foot), seed=4, depth=2)
            painter.setPen(look.on_tape)
        painter.drawText(verdict, MIDDLE, said[own.verdict])
        spots.append(
            Target(
                QRectF(x - step / 2, box.top(), step, bottom + foot - box.top()),
                scale_key(scale, own),
                scale.words(own),
            )
        )
    for there, low, high in marks:
        painter.setPen(QPen(look.on_panel, 1.6))
        painter.drawLine(QPointF(there.x(), low), QPointF(there.x(), high))
        painter.fillRect(QRectF(there.x() - 3.5, there.y() - 3.5, 7, 7), look.on_panel)
    return spots


def _name(painter: QPainter, row: QRectF, text: str) -> None:
    painter.setFont(look.words(13))
    painter.setPen(look.on_panel)
    fitted(painter, row, text)
