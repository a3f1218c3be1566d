"""What a result costs, drawn into the clear: as deep as a combination cuts, where its result lies.

The surface of the clear is a line; each combination cuts a notch below it, as deep as the clear
that it takes, at the place of what it gives. In minutes the notches are strips of tape that hang.
"""

from __future__ import annotations

import itertools

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen

from loam.app.presenters.axis import ticks
from loam.app.questions.price.find import CLEAR, PriceOf, PricePicture, sets_words
from loam.core.price import Priced
from loam.core.units import fixed, percent
from loam.core.words.plain import plain
from loam.ui.paint.axis import Axis, around, draw_figures, measured
from loam.ui.paint.lamp import faded
from loam.ui.paint.words import LEFT, MIDDLE, RIGHT, wrapped
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.drawn import Figure, Target
from loam.ui.widgets.tape import paint_tape

_NOTCH = 14.0
LINE, NARROW = 18, 400
SHOWN = 16.0
"""The line that may not be crossed is drawn to scale unless it lies so many times deeper."""


def draw_price(painter: QPainter, area: QRectF, found: PricePicture) -> list[Target]:
    """Draw what each hardness costs; spots tell of each combination."""
    spots: list[Target] = []
    count = max(len(found.classes), 1)
    gap = 18.0
    wide = (area.width() - gap * (count - 1)) / count
    deep = max((p.cost[2] for own in found.classes for p in own.priced), default=0.0)
    deep = deep if deep > 0.0 else 1.0  # nothing was lost, as far as the gauge shows
    for i, own in enumerate(found.classes):
        box = QRectF(area.left() + i * (wide + gap), area.top(), wide, area.height())
        spots += _Section(painter, box, own, found, deep).draw()
    return spots


class _Section:
    """One hardness: air above, clear below."""

    def __init__(
        self, painter: QPainter, box: QRectF, own: PriceOf, found: PricePicture, deep: float
    ) -> None:
        self.p, self.own, self.found = painter, own, found
        lines = 3 if box.width() >= look.px(NARROW) else 4
        self.lines = lines
        head, foot = look.px(24 + lines * LINE + 6), look.px(22)
        self.head = QRectF(box.left(), box.top(), box.width(), head)
        self.air = QRectF(box.left(), self.head.bottom(), box.width(), look.px(76))
        self.ground = QRectF(
            box.left(), self.air.bottom(), box.width(), box.bottom() - foot - self.air.bottom()
        )
        self.foot = QRectF(box.left(), self.ground.bottom(), box.width(), foot)
        self.limit = own.budget.may_go if own.budget is not None and found.of == CLEAR else None
        if self.limit is not None and self.limit <= SHOWN * deep:
            deep = max(deep, 1.12 * self.limit)
        _, self.most, self.step = ticks(0.0, deep, 5)
        low, high = around((v for p in own.priced for v in p.gain), 0.10)
        self.left, self.right = box.left() + look.px(56), box.right() - look.px(26)
        self.sign = 1.0 if found.judgement.higher_is_better else -1.0
        low, high = sorted((self.sign * low, self.sign * high))
        self.axis = Axis(self.left, self.right, low, high, flip=self.sign < 0.0)
        self.at = self._apart()

    def x(self, gain: float) -> float:
        return self.axis.x(self.sign * gain)

    def y(self, cost: float) -> float:
        return self.ground.top() + cost / self.most * (self.ground.height() - 10.0)

    def draw(self) -> list[Target]:
        """Draw it and return a spot a combination."""
        p, clear = self.p, self.found.of == CLEAR
        p.setFont(look.words(17, bold=True))
        p.setPen(look.ink)
        title = QRectF(self.head.left(), self.head.top(), self.head.width(), look.px(24))
        p.drawText(title, LEFT, self.own.ground.capitalize())
        told = QRectF(
            title.left(), title.bottom(), title.width() - 6, look.px(self.lines * LINE + 4)
        )
        p.setFont(look.words(BODY))
        used = wrapped(p, told, plain(self.own.advice), 2)
        p.setFont(look.words(SMALL))
        p.setPen(look.quiet)
        left = round((told.height() - used) / p.fontMetrics().height())
        if self.own.lasts:
            wrapped(p, told.adjusted(0, used, 0, 0), self.own.lasts, max(left, 1))
        p.fillRect(self.air, look.panel)
        p.fillRect(self.ground, look.clear if clear else look.panel_cell)
        p.setPen(QPen(look.edge, 2))
        p.drawLine(self.ground.topLeft(), self.ground.topRight())
        self._depths(clear)
        self._gains()
        self._frontier()
        spots = []
        names = self._places()
        for priced in sorted(self.own.priced, key=lambda q: -q.cost[0]):
            spots.append(self._notch(priced, names[priced.name]))
        return spots

    def _depths(self, clear: bool) -> None:
        p = self.p
        ink = look.ink if clear else look.quiet_on_panel
        p.setFont(look.figures(11))
        for i in range(round(self.most / self.step) + 1):
            cost = i * self.step
            y = self.y(cost)
            p.setPen(QPen(ink, 0.4, Qt.PenStyle.DotLine))
            if i:
                p.drawLine(QPointF(self.left - 12, y), QPointF(self.ground.right(), y))
            if self.limit is not None and abs(y - self.y(self.limit)) < look.px(9):
                continue  # the line that may not be crossed says its own depth
            p.setPen(ink)
            unit = f" {'µm' if clear else 'min'}" if i == 0 else ""
            text = f"{fixed(cost, 0 if self.step >= 1 else 1)}{unit}"
            box = QRectF(self.ground.left() + 4, y - 8, self.left - self.ground.left() - 20, 16)
            p.drawText(box.translated(0, 9 if i == 0 else 0), RIGHT, text)
        if self.limit is not None and self.limit <= self.most:
            y = self.y(self.limit)
            below = QRectF(self.ground.left(), y, self.ground.width(), self.ground.bottom() - y)
            p.fillRect(below, QBrush(faded(look.ink, 0.35), Qt.BrushStyle.BDiagPattern))
            p.setPen(QPen(look.care, 2))
            p.drawLine(QPointF(self.ground.left(), y), QPointF(self.ground.right(), y))
            p.setFont(look.words(SMALL, bold=True))
            said = f"no deeper: {fixed(self.limit, 0 if self.limit >= 10 else 1)} µm may go"
            wide = p.fontMetrics().horizontalAdvance(said) + 10.0
            tag = QRectF(self.ground.right() - wide - 4, y - look.px(20), wide, look.px(18))
            p.fillRect(tag, look.clear)
            p.drawText(tag, MIDDLE, said)

    def _gains(self) -> None:
        p, found = self.p, self.found
        marks = measured(self.axis, found.judgement.scale, found.kind, 58)
        foot = self.foot
        draw_figures(p, self.axis, marks, foot.top(), foot.bottom(), look.quiet)
        p.setFont(look.words(12))
        p.setPen(look.quiet)
        named = ", ".join(filter(None, (found.kind.short, found.kind.unit)))
        p.drawText(self.foot, LEFT, named)

    def _frontier(self) -> None:
        """A broken line through the bottoms of those whom nobody beats."""
        front = sorted((q for q in self.own.priced if q.frontier), key=lambda q: q.cost[0])
        ink = look.strong if self.found.of == CLEAR else look.edge
        self.p.setPen(QPen(ink, 2, Qt.PenStyle.DashLine))
        for a, b in itertools.pairwise(front):
            self.p.drawLine(
                QPointF(self.at[a.name], self.y(a.cost[0])),
                QPointF(self.at[b.name], self.y(b.cost[0])),
            )

    def _apart(self) -> dict[str, float]:
        """Where each notch is cut: where its result lies, or beside one that is cut there."""
        found: dict[str, float] = {}
        last = -1e9
        for q in sorted(self.own.priced, key=lambda q: self.x(q.gain[0])):
            last = max(self.x(q.gain[0]), last + _NOTCH + 4.0)
            found[q.name] = last
        return found

    def _places(self) -> dict[str, float]:
        """Where each letter stands above the surface; near ones on several heights."""
        found: dict[str, float] = {}
        ends = [-1e9, -1e9, -1e9]
        for q in sorted(self.own.priced, key=lambda q: q.gain[0]):
            x = self.at[q.name]
            wide = max(look.width(q.name, 17, bold=True, figures=True), 18) + 6.0
            level = next((i for i, end in enumerate(ends) if x - wide / 2 >= end), 2)
            ends[level] = x + wide / 2
            found[q.name] = self.air.bottom() - look.px(23) * (level + 1)
        return found

    def _notch(self, q: Priced, top: float) -> Target:
        p = self.p
        x, y = self.at[q.name], self.y(q.cost[0])
        surface = self.ground.top()
        notch = QRectF(x - _NOTCH / 2, surface, _NOTCH, max(y - surface, 1.0))
        if self.found.of == CLEAR:
            p.fillRect(notch, look.panel if not look.lights_out else look.ground)
            p.setPen(QPen(look.edge if look.lights_out else look.panel, 1))
            p.drawRect(notch)
        else:
            paint_tape(p, notch, seed=len(q.name) + ord(q.name[0]), torn="bottom", depth=3)
        ink = look.ink if self.found.of == CLEAR else look.on_panel
        p.setPen(QPen(ink, 1.4))
        for cost in q.cost[1:]:
            if q.cost[1] != q.cost[2]:
                p.drawLine(QPointF(x - 5, self.y(cost)), QPointF(x + 5, self.y(cost)))
        p.drawLine(QPointF(x, self.y(q.cost[1])), QPointF(x, self.y(q.cost[2])))
        p.drawLine(QPointF(self.x(q.gain[1]), y), QPointF(self.x(q.gain[2]), y))
        p.setPen(QPen(look.quiet_on_panel, 1))
        p.drawLine(QPointF(x, top + look.px(20)), QPointF(x, surface))
        name = QRectF(x - 40, top, 80, look.px(20))
        p.setFont(look.figures(17, bold=True))
        p.setPen(look.on_panel if not q.beaten_by else look.quiet_on_panel)
        if q.name == self.own.used:
            wide = max(look.width(q.name[:4], 17, bold=True, figures=True), 18) + 12.0
            paint_tape(
                p, QRectF(x - wide / 2, top, wide, look.px(20)), seed=ord(q.name[0]), depth=3
            )
            p.setPen(look.on_tape)
        p.drawText(name, MIDDLE, q.name[:4])
        if q.beaten_by:
            wide = look.width(q.name[:4], 17, bold=True, figures=True) / 2 + 3
            p.setPen(QPen(look.quiet_on_panel, 1.6))
            middle = name.center()
            p.drawLine(
                QPointF(middle.x() - wide, middle.y()), QPointF(middle.x() + wide, middle.y())
            )
        gain = self.found.kind.write(self.found.measured(q.gain[0]))
        told = f"{q.name}: {gain} {self.found.kind.unit} for {self.found.cost_words(q.cost[0])}"
        told += f", {sets_words(self.own, q)}" if sets_words(self.own, q) else ""
        told += f"; beaten in both by {q.beaten_by} ({percent(q.beaten)})" if q.beaten_by else ""
        box = QRectF(x - 14, top, 28, y - top + 10)
        return Target(box, f"{self.own.hardness}:{q.name}", told)


def figures(found: PricePicture) -> list[Figure]:
    """Return the pictures of its part of the report: how high, and what draws it."""
    return [(420.0, lambda p, a: draw_price(p, a, found))]
