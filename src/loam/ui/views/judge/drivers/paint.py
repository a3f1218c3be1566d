"""What drives a result, drawn: a panel a hardness, a lever a factor, its levels along the axis."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from loam.app.questions.drivers.find import DriversOf, DriversPicture
from loam.core.levers import Level
from loam.core.units import percent
from loam.ui.paint.axis import (
    Axis,
    around,
    draw_figures,
    draw_lines,
    draw_whisker,
    measured,
)
from loam.ui.paint.words import LEFT, MIDDLE, fitted
from loam.ui.theme import look
from loam.ui.widgets.drawn import Figure, Target
from loam.ui.widgets.tape import paint_tape

_NAMES = 0.54
MOST_CODES = 4
"""Combinations that are named behind a level."""


def draw_drivers(painter: QPainter, area: QRectF, found: DriversPicture) -> list[Target]:
    """Draw what drives a result; a spot is a part, a level or what was not tried."""
    spots: list[Target] = []
    count = max(len(found.classes), 1)
    gap = 14.0
    wide = (area.width() - gap * (count - 1)) / count
    most = max((_rows(own) for own in found.classes), default=1.0)
    each = min((area.height() - look.px(24 + 30)) / most, float(look.px(26)))
    window = _window(found)
    for i, own in enumerate(found.classes):
        left = area.left() + i * (wide + gap)
        box = QRectF(left, area.top(), wide, look.px(24) + most * each + look.px(28))
        spots += _panel(painter, box, own, found, each, window)
    return spots


def _rows(own: DriversOf) -> float:
    """Lines that a hardness needs."""
    levels = sum(1.1 + len(lever.levels) for lever in own.levers)
    return levels + (1.1 + len(own.untried) if own.untried else 0.0)


def _window(found: DriversPicture) -> tuple[float, float]:
    """Return the places on the scale that are shown."""
    places = [
        v
        for own in found.classes
        for lever in own.levers
        for level in lever.levels
        for v in (level.low, level.high, level.place if level.alone is None else level.alone)
    ]
    places += [v for own in found.classes for u in own.untried for v in (u.low, u.high)]
    places += [own.leader[1] for own in found.classes]
    return around(places, 0.04) if places else (0.0, 1.0)


def _panel(
    painter: QPainter,
    box: QRectF,
    own: DriversOf,
    found: DriversPicture,
    each: float,
    window: tuple[float, float],
) -> list[Target]:
    kind, scale = found.judgement.kind, found.judgement.scale
    painter.setFont(look.words(17, bold=True))
    painter.setPen(look.ink)
    head = QRectF(box.left(), box.top(), box.width(), look.px(24))
    painter.drawText(head, LEFT, own.ground.capitalize())
    panel = QRectF(box.left(), head.bottom(), box.width(), box.bottom() - head.bottom())
    painter.fillRect(panel, look.panel)
    names = panel.left() + 10.0
    split = panel.left() + _NAMES * panel.width()
    flip = not found.judgement.higher_is_better
    axis = Axis(split + 8.0, panel.right() - 14.0, *window, flip=flip)
    foot = panel.bottom() - look.px(24)
    marks = measured(axis, scale, kind, 52)
    draw_lines(painter, axis, marks, panel.top(), foot)
    draw_figures(painter, axis, marks, foot, panel.bottom())
    painter.setPen(look.quiet_on_panel)
    painter.setFont(look.words(12))
    painter.drawText(QRectF(names, foot, split - names, panel.bottom() - foot), LEFT, kind.unit)
    y = panel.top() + 0.2 * each
    spots: list[Target] = []
    big, small = _sizes(each)
    for seed, lever in enumerate(own.levers):
        row = QRectF(names, y, split - names - 8, each)
        spots.append(
            Target(
                row, f"{own.hardness}:{seed}", f"{lever.label}, of the difference: {lever.amount}"
            )
        )
        long = lever.share * (split - names - 8)
        bar = QRectF(names, y + 0.86 * each, max(long, 2.0), max(0.16 * each, 3.0))
        paint_tape(painter, bar, seed=seed + 2, depth=2)
        painter.setFont(look.words(big, bold=True))
        painter.setPen(look.on_panel)
        head = QRectF(row.left(), y, axis.right - row.left(), each)
        _headed(painter, row, head, lever.label, lever.briefly, big)
        y += 1.1 * each
        for k, level in enumerate(lever.levels):
            if level.alone is not None:
                _apart(painter, axis, y + each / 2, level.alone, level.place, seed=k)
            draw_whisker(painter, axis, y + each / 2, (level.low, level.place, level.high))
            painter.setFont(look.words(small))
            painter.setPen(look.quiet_on_panel)
            row = QRectF(names + 12, y, split - names - 16, each)
            fitted(painter, row, level.words, "" if lever.together else _codes(level))
            line = QRectF(names, y, axis.right - names, each)
            spots.append(
                Target(line, f"{own.hardness}:{seed}:{k}", f"{lever.label}: {level.words}")
            )
            y += each
    return spots + _untried(painter, own, found, axis, QRectF(names, y, split - names, each))


def _untried(
    painter: QPainter, own: DriversOf, found: DriversPicture, axis: Axis, row: QRectF
) -> list[Target]:
    """Draw what was not tried: hollow, dashed, with the key that makes it."""
    if not own.untried:
        return []
    spots = []
    big, small = _sizes(row.height())
    painter.setFont(look.words(big, bold=True))
    painter.setPen(look.on_panel)
    fitted(painter, row, "not tried, predicted")
    first = row.top()
    y, each = row.top() + 1.1 * row.height(), row.height()
    for number, u in enumerate(own.untried, 1):
        draw_whisker(painter, axis, y + each / 2, (u.low, u.place, u.high), hollow=True)
        painter.setFont(look.words(small))
        painter.setPen(look.quiet_on_panel)
        key = found.number_of(own.hardness, u)
        painter.setFont(look.words(small, bold=True))
        painter.drawText(QRectF(row.left(), y, 12, each), LEFT, str(key) if key else "")
        painter.setFont(look.words(small))
        line = QRectF(row.left() + 12, y, row.width() - 16, each)
        fitted(painter, line, u.short, percent(u.p_ahead))
        spots.append(
            Target(
                QRectF(row.left(), y, axis.right - row.left(), each),
                f"{own.hardness}:+{number}",
                own.told(u, found.judgement),
            )
        )
        y += each
    x = axis.x(own.leader[1])
    painter.setPen(QPen(look.edge, 1.6, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(x, first + each), QPointF(x, y))
    painter.setFont(look.words(12, bold=True))
    painter.setPen(look.on_panel)
    painter.drawText(QRectF(x - 20, first, 40, each), MIDDLE, own.leader[0])
    return spots


def _sizes(each: float) -> tuple[int, int]:
    """Return the sizes of heads and levels that a line of this height has room for."""
    most = max(int(each / look.scale * 0.82), 8)
    return min(14, most), min(13, most)


def _headed(
    painter: QPainter, row: QRectF, whole: QRectF, text: str, right: str, size: int
) -> None:
    """Write the head of a part; a long one goes on above the bars, its figure after it."""
    metrics = painter.fontMetrics()
    wide = metrics.horizontalAdvance(text)
    if wide + 10 + metrics.horizontalAdvance(right) <= row.width():
        fitted(painter, row, text, right)
        return
    most = min(wide + 12.0 + metrics.horizontalAdvance(right), whole.width())
    fitted(painter, QRectF(whole.left(), whole.top(), most, whole.height()), text, right)


def _codes(level: Level) -> str:
    """Return the combinations that have a level, as many as there is room for."""
    more = " …" if len(level.codes) > MOST_CODES else ""
    return " ".join(level.codes[:MOST_CODES]) + more


def _apart(
    painter: QPainter, axis: Axis, y: float, alone: float, place: float, *, seed: int
) -> None:
    """Tape from where each level alone would put two to where they are together."""
    start, end = sorted((axis.x(alone), axis.x(place)))
    paint_tape(painter, QRectF(start, y - 3, max(end - start, 1.0), 6), seed=seed + 3, depth=2)
    painter.setPen(QPen(look.on_panel, 1.6))
    painter.drawLine(QPointF(axis.x(alone), y - 7), QPointF(axis.x(alone), y + 7))


def figures(found: DriversPicture) -> list[Figure]:
    """Return the pictures of its part of the report: how high, and what draws it."""
    return [(520.0, lambda p, a: draw_drivers(p, a, found))]
