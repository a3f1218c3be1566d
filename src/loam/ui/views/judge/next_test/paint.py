"""What to test next, drawn: panels with the cells that would be worked, and what they settle."""

from __future__ import annotations

import math

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QBrush, QFontMetricsF, QPainter, QPen

from loam.app.questions.next_test.find import NextPicture, Tile
from loam.core.panel import Taping
from loam.core.units import percent
from loam.core.words.plain import plain
from loam.ui.paint.words import LEFT, MIDDLE, RIGHT, fitted
from loam.ui.theme import look
from loam.ui.widgets.drawn import Figure, Target
from loam.ui.widgets.tape import paint_tape

MOST_PANELS = 8


def draw_next(painter: QPainter, area: QRectF, found: NextPicture, chosen: int) -> list[Target]:
    """Draw every piece of advice; a spot's key is its number."""
    spots: list[Target] = []
    rows = [own for own in found.classes if own.tiles]
    if not rows:
        return _settled(painter, area, found)
    high = min(area.height() / len(rows), float(look.px(330)))
    number, gap = 0, 18.0
    wide = (area.width() - 2 * gap) / 3
    every = [tile for own in rows for tile in own.tiles]
    narrow = any(_head_width(tile) > wide - 24 for tile in every)
    thin = QFontMetricsF(look.words(14))
    told = max(thin.horizontalAdvance(_settles(tile, whole=True)) for tile in every)
    whole = told <= 0.72 * (wide - 24)
    told = told if whole else max(thin.horizontalAdvance(_settles(tile)) for tile in every)
    told = told if narrow else 0.0
    for i, own in enumerate(rows):
        top = area.top() + i * high
        head = QRectF(area.left(), top, area.width(), look.px(24))
        painter.setFont(look.words(17, bold=True))
        painter.setPen(look.ink)
        pair = " or ".join(own.pair or ())
        asked = f"{own.ground.capitalize()}: {pair}?"
        painter.drawText(head, LEFT, asked)
        after = painter.fontMetrics().horizontalAdvance(asked) + 18.0
        painter.setFont(look.words(14))
        painter.setPen(look.quiet)
        fitted(painter, head.adjusted(after, 0, 0, 0), own.brief or _capital(plain(own.sentence)))
        for k, tile in enumerate(own.tiles):
            number += 1
            box = QRectF(
                area.left() + k * (wide + gap), head.bottom(), wide, high - head.height() - 12
            )
            said = _settles(tile, whole=whole)
            _tile(painter, box, tile, (number, said), chosen=number == chosen, told=told)
            if tile is own.best:
                _worth(painter, box)
            spots.append(Target(box, str(number), f"{tile.name}: {tile.words}"))
    return spots


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _worth(painter: QPainter, box: QRectF) -> None:
    """Tape the one that is worth its time most."""
    painter.setFont(look.words(14, bold=True))
    wide = painter.fontMetrics().horizontalAdvance("worth it") + 26.0
    tape = QRectF(box.center().x() - wide / 2, box.top() - look.px(9), wide, look.px(20))
    paint_tape(painter, tape, seed=9, torn="right", depth=4)
    painter.setPen(look.on_tape)
    painter.drawText(tape.adjusted(0, 0, -4, 0), MIDDLE, "worth it")


def _settled(painter: QPainter, area: QRectF, found: NextPicture) -> list[Target]:
    painter.setFont(look.words(24, bold=True))
    painter.setPen(look.quiet)
    painter.drawText(area, MIDDLE, "settled" if found.classes else "")
    return []


def _head_width(tile: Tile) -> float:
    bold, thin = QFontMetricsF(look.words(14, bold=True)), QFontMetricsF(look.words(14))
    ends = (bold.horizontalAdvance(said) for said in (f"9  {tile.name}", f"saves {tile.saves}"))
    # what stands in the middle has as much room as the wider end leaves on both sides
    return 2 * max(ends) + thin.horizontalAdvance(_settles(tile)) + 24


def _settles(tile: Tile, *, whole: bool = False) -> str:
    said = f"{_time(tile.advice.minutes)} · {percent(tile.advice.chance)} likely to settle it"
    equal = tile.advice.equal
    return f"{said}, {percent(equal)} as equals" if whole and equal >= 0.01 else said


def _tile(
    painter: QPainter,
    box: QRectF,
    tile: Tile,
    named: tuple[int, str],
    *,
    chosen: bool,
    told: float,
) -> None:
    """Draw one; ``told`` is the width, px, kept beside the chance for its words, 0: above."""
    number, settles = named
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(look.strong, 3) if chosen else QPen(look.line, 1))
    painter.drawRect(box.adjusted(1.5, 1.5, -1.5, -1.5))
    head = QRectF(box.left() + 12, box.top() + 5, box.width() - 24, look.px(22))
    painter.setFont(look.words(14, bold=True))
    painter.setPen(look.ink)
    painter.drawText(head, LEFT, f"{number}  {tile.name}")
    painter.drawText(head, RIGHT, f"saves {tile.saves}")
    painter.setFont(look.words(14))
    painter.setPen(look.quiet)
    tight = box.height() < look.px(96)
    thick = look.px(5 if tight else 12)
    foot = QRectF(head.left(), box.bottom() - (5 if tight else 8) - thick, head.width(), thick)
    if told:
        line = QRectF(head.left(), box.bottom() - look.px(18) - 3, head.width(), look.px(18))
        painter.drawText(line, RIGHT, settles)
        foot = QRectF(line.left(), line.center().y() - thick / 2, line.width() - told - 10, thick)
    else:
        painter.drawText(head, MIDDLE, settles)
    _chance(painter, foot, tile)
    top = head.bottom() + (0 if told else 3)
    end = box.bottom() - look.px(18) - 5 if told else foot.top() - 8
    room = QRectF(head.left(), top, head.width(), end - top)
    shown = tile.panels[:MOST_PANELS]
    columns = max(min(len(shown), 4), 1)
    lines = math.ceil(len(shown) / columns)
    wide, high = room.width() / columns, room.height() / lines
    for i, (name, taping, what) in enumerate(shown):
        own = QRectF(
            room.left() + i % columns * wide, room.top() + i // columns * high, wide - 8, high - 4
        )
        _panel(painter, own, "" if tight else name, taping, what)
    if len(tile.panels) > MOST_PANELS:
        painter.setPen(look.quiet)
        painter.drawText(
            room,
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom,
            f"and {len(tile.panels) - MOST_PANELS} more",
        )


def _time(minutes: float) -> str:
    hours, rest = divmod(round(minutes), 60)
    return f"{hours} h {rest:02d}" if hours else f"{rest} min"


def _chance(painter: QPainter, bar: QRectF, tile: Tile) -> None:
    """A strip of tape as long as the chance to settle; its part of "as good" is hatched."""
    painter.fillRect(bar, look.band)
    long = bar.width() * tile.advice.chance
    if long >= 1.0:
        paint_tape(painter, QRectF(bar.left(), bar.top(), long, bar.height()), seed=7, depth=4)
    equal = bar.width() * tile.advice.equal
    if equal >= 2.0:
        hatch = QBrush(look.on_tape, Qt.BrushStyle.BDiagPattern)
        painter.fillRect(QRectF(bar.left(), bar.top(), equal, bar.height()), hatch)


def _panel(
    painter: QPainter, box: QRectF, name: str, taping: Taping, what: tuple[str, ...]
) -> None:
    label = look.px(15) if name else 0
    painter.setFont(look.words(12))
    painter.setPen(look.quiet)
    painter.drawText(QRectF(box.left(), box.top(), box.width(), label), LEFT, name)
    room = QRectF(box.left(), box.top() + label, box.width(), box.height() - label)
    scale = min(room.width() / taping.width_mm, room.height() / taping.height_mm)
    rows, across = taping.rows, taping.columns
    wide, high = scale * taping.width_mm / across, scale * taping.height_mm / rows
    if min(wide, high) < 3.0:
        return
    painter.fillRect(QRectF(room.left(), room.top(), wide * across, high * rows), look.panel)
    painter.setFont(look.figures(max(7, int(min(wide, high) * 0.55)), bold=True, exact=True))
    step = 7 if (rows * across) % 7 else 5  # spread the cells: where each goes is drawn by lot
    for i in range(rows * across):
        at = i * step % (rows * across)
        own = QRectF(
            room.left() + at % across * wide + 1,
            room.top() + at // across * high + 1,
            wide - 2,
            high - 2,
        )
        if i < len(what):
            paint_tape(painter, own, seed=i + 3, torn="", depth=1)
            painter.setPen(look.on_tape)
            painter.drawText(own, MIDDLE, what[i][:2])
        else:
            painter.fillRect(own, look.panel_cell)


def figures(found: NextPicture) -> list[Figure]:
    """Return the pictures of its part of the report: how high, and what draws it."""
    high = 170.0 * max(sum(bool(c.tiles) for c in found.classes), 1)
    return [(high, lambda p, a: draw_next(p, a, found, 0))]
