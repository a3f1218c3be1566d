"""What is worth nothing and all, drawn on the data: tape from one to the other, a strip each."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from loam.app.questions.priorities.find import TIME, PrioritiesPicture
from loam.ui.paint.axis import Axis, around
from loam.ui.paint.words import LEFT, MIDDLE, RIGHT
from loam.ui.theme import look
from loam.ui.widgets.drawn import Target
from loam.ui.widgets.tape import paint_tape


def draw_limits(
    painter: QPainter, area: QRectF, found: PrioritiesPicture, chosen: str
) -> list[Target]:
    """Draw the criteria; a spot's key is a criterion."""
    keys = list(found.criteria)
    each = min(area.height() / max(len(keys), 1), float(look.px(104)))
    spots = []
    for i, key in enumerate(keys):
        box = QRectF(area.left(), area.top() + i * each, area.width(), each - 10)
        _strip(painter, box, found, key, chosen=key == chosen)
        spots.append(Target(box, key, found.limit(key)))
    return spots


def places_of(found: PrioritiesPicture, key: str) -> list[tuple[str, str, float]]:
    """Return hardness, combination and place on the scale of what was measured."""
    places = []
    for hardness, own in found.maps.items():
        for k, name in enumerate(own.names):
            if key == TIME:
                worth = float(found.worths[hardness][0, k, 3])
                c = found.criteria[key]
                places.append((hardness, name, c.nothing + worth * (c.full - c.nothing)))
                continue
            on = found.judged[key].on(hardness)
            standing = on.standing(name) if on is not None else None
            if standing is not None:
                at = found.judged[key].scale.to(np.array([standing.figures.estimate]))
                places.append((hardness, name, float(at[0])))
    return places


def _strip(
    painter: QPainter, box: QRectF, found: PrioritiesPicture, key: str, *, chosen: bool
) -> None:
    c = found.criteria[key]
    places = places_of(found, key)
    values = [p for *_, p in places] + [c.nothing, c.full]
    left, right = box.left() + look.px(170), box.right() - look.px(20)
    axis = Axis(left, right, *around(values, 0.06), flip=c.full < c.nothing)

    painter.fillRect(box, look.panel)
    if chosen:
        painter.setPen(QPen(look.edge, 3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(1.5, 1.5, -1.5, -1.5))
    painter.setFont(look.words(14, bold=True))
    painter.setPen(look.on_panel)
    name = TIME if key == TIME else found.judged[key].kind.label
    painter.drawText(box.adjusted(12, 0, 0, 0), LEFT, name)
    tight = box.height() < look.px(64)
    middle = box.bottom() - look.px(17) if tight else box.center().y() + look.px(6)
    tape = QRectF(axis.x(c.nothing), middle, axis.x(c.full) - axis.x(c.nothing), look.px(14))
    paint_tape(painter, tape, seed=len(key), depth=5)
    painter.setFont(look.figures(12))
    said = found.limit(key).split(" (nothing) to ")
    painter.setPen(look.on_panel)
    nothing, full = said[0].split(" ")[-1], said[1].removesuffix(" (all)")
    under = tape.bottom() + 2
    if tight:  # no room under the tape: on it
        painter.setPen(look.on_tape)
        painter.drawText(tape.adjusted(6, 0, -8, 0), LEFT, nothing)
        painter.drawText(tape.adjusted(6, 0, -8, 0), RIGHT, full)
    else:
        painter.drawText(QRectF(tape.left() - 60, under, 120, look.px(16)), MIDDLE, nothing)
        painter.drawText(QRectF(tape.right() - 80, under, 160, look.px(16)), MIDDLE, full)
    ends: list[float] = [-1e9, -1e9, -1e9]
    for letter, at in _letters(found, places, axis.x):
        wide = look.width(letter, 12, bold=True, figures=True)
        lane = next((i for i, end in enumerate(ends) if at - wide / 2 > end), 2)
        ends[lane] = at + wide / 2 + 3
        y = middle - look.px(13 + (10 if tight else 15) * lane)
        painter.setFont(look.figures(12, bold=True))
        painter.setPen(look.on_panel)
        painter.drawText(QRectF(at - 60, y, 120, look.px(14)), MIDDLE, letter)
        painter.setPen(QPen(look.quiet_on_panel, 1))
        painter.drawLine(QPointF(at, middle - 2), QPointF(at, middle + 3))


def _letters(
    found: PrioritiesPicture, places: list[tuple[str, str, float]], x: Callable[[float], float]
) -> list[tuple[str, float]]:
    """Join what stands at one place; a letter carries its hardness unless it is all of them."""
    by_place: dict[int, dict[str, list[str]]] = {}
    for hardness, letter, place in places:
        by_place.setdefault(round(x(place)), {}).setdefault(letter, []).append(hardness[0])
    joined = []
    for at in sorted(by_place):
        names = [
            letter if len(own) == len(found.maps) else letter + "".join(own)
            for letter, own in by_place[at].items()
        ]
        joined.append((" ".join(names), float(at)))
    return joined
