"""What makes the difference, drawn: a strip of tape a hardness, cut by share; a piece opens.

The piece at hand (or the largest) opens to its levels on the measurement's axis. Where there is no
room for all hardnesses, the one at hand opens.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from loam.app.questions.drivers.find import DriversOf, DriversPicture
from loam.core.levers import Level, Lever
from loam.core.units import percent
from loam.core.verdicts import SURE
from loam.ui.paint.axis import Axis, around, draw_figures, draw_lines, draw_whisker, measured
from loam.ui.paint.lamp import faded
from loam.ui.paint.words import LEFT, fitted, that_fits
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL
from loam.ui.widgets.drawn import Figure, Target
from loam.ui.widgets.tape import paint_tape

MOST_CODES = 4
"""Combinations that are named behind a level."""
HEAD, TAPE, ROW, FOOT, TRY, GAP, PAD = 26, 46, 19, 20, 24, 10, 12
LEAST_PIECE = 34.0
_NAMES = 0.42


def draw_drivers(
    painter: QPainter, area: QRectF, found: DriversPicture, chosen: str = ""
) -> list[Target]:
    """Draw what drives a result; a spot is a part, a level or what was not tried.

    ``chosen`` is the spot at hand: its part is open.
    """
    spots: list[Target] = []
    at = chosen.partition(":")[0]
    needs = [_need(own, _open(own, chosen)) for own in found.classes]
    every = sum(needs) + look.px(GAP) * max(len(needs) - 1, 0) <= area.height()
    if at not in {own.hardness for own in found.classes}:
        at = found.classes[-1].hardness if found.classes else ""
    window = _window(found)
    y = area.top()
    for own, need in zip(found.classes, needs, strict=True):
        open_ = every or own.hardness == at
        high = need if open_ else _least(own)
        panel = QRectF(area.left(), y, area.width(), min(high, max(area.bottom() - y, 40.0)))
        opened = _open(own, chosen) if open_ else None
        spots += _Band(painter, panel, own, found, window).draw(opened)
        y += high + look.px(GAP)
    return spots


def _open(own: DriversOf, chosen: str) -> int:
    """Return the part that is open: that of the spot at hand, or the largest."""
    hardness, _, rest = chosen.partition(":")
    part = rest.partition(":")[0]
    if hardness == own.hardness and part.isdigit() and int(part) < len(own.levers):
        return int(part)
    return 0


def _least(own: DriversOf) -> float:
    return float(look.px(HEAD + TAPE + PAD + (16 if own.cares else 0)))


def _need(own: DriversOf, part: int) -> float:
    levels = len(own.levers[part].levels) if own.levers else 0
    offer = TRY if own.untried else 0
    return _least(own) + look.px(ROW) * levels + look.px((FOOT if levels else 0) + offer + 6)


def least_height(found: DriversPicture) -> int:
    """Return the height, px, in which all hardnesses stand with the one at hand open."""
    least = [_least(own) for own in found.classes]
    open_ = [
        _need(own, part) - _least(own)
        for own in found.classes
        for part in range(max(len(own.levers), 1))
    ]
    return int(sum(least) + max(open_, default=0.0) + look.px(GAP) * len(least))


def _window(found: DriversPicture) -> tuple[float, float]:
    """Return the places on the scale that are shown."""
    places = [
        v
        for own in found.classes
        for lever in own.levers
        for level in lever.levels
        for v in (level.low, level.high, level.place if level.alone is None else level.alone)
    ]
    places += [v for own in found.classes for u in own.untried[:1] for v in (u.low, u.high)]
    places += [own.leader[1] for own in found.classes]
    return around(places, 0.04) if places else (0.0, 1.0)


class _Band:
    """One hardness."""

    def __init__(
        self,
        painter: QPainter,
        panel: QRectF,
        own: DriversOf,
        found: DriversPicture,
        window: tuple[float, float],
    ) -> None:
        self.p, self.panel, self.own, self.found = painter, panel, own, found
        self.left, self.right = panel.left() + 16.0, panel.right() - 16.0
        start = self.left + _NAMES * (self.right - self.left)
        flip = not found.judgement.higher_is_better
        self.axis = Axis(start, self.right - 8.0, *window, flip=flip)
        self.spots: list[Target] = []

    def draw(self, opened: int | None) -> list[Target]:
        """Draw the band with its open part, if any."""
        p, panel = self.p, self.panel
        p.fillRect(panel, look.panel)
        y = panel.top() + 4
        head = QRectF(self.left, y, self.right - self.left, look.px(HEAD) - 2)
        p.setFont(look.words(LEAD, bold=True))
        p.setPen(look.on_panel)
        name = self.own.hardness.capitalize()
        p.drawText(head, LEFT, name)
        after = p.fontMetrics().horizontalAdvance(name) + 22.0
        p.setFont(look.words(LEAD))
        fitted(p, head.adjusted(max(after, 96.0), 0, 0, 0), self.own.briefly)
        y += look.px(HEAD)
        self._tape(y, opened)
        y += look.px(TAPE) + 4
        if self.own.cares:
            p.setFont(look.words(SMALL))
            p.setPen(look.quiet_on_panel)
            row = QRectF(self.left, y, self.right - self.left, look.px(16))
            cares = "; ".join(self.own.cares)
            fitted(p, row, f"{cares[:1].upper()}{cares[1:]}.")
            y += look.px(16)
        if opened is not None and self.own.levers:
            y = self._levels(y, opened)
            self._try(y)
        return self.spots

    def _tape(self, y: float, opened: int | None) -> None:
        """The strip, cut by share: whole where surely the largest, pale where it may be."""
        p, levers = self.p, self.own.levers
        shares = [max(lever.share, 0.0) for lever in levers]
        room = self.right - self.left - 4.0 * max(len(levers) - 1, 0) - LEAST_PIECE * len(levers)
        total = max(sum(shares), 1e-9)
        x = self.left
        for i, lever in enumerate(levers):
            wide = LEAST_PIECE + max(room, 0.0) * shares[i] / total
            box = QRectF(x, y, wide, look.px(TAPE))
            whole, may = lever.first >= SURE, lever.first >= 1.0 - SURE
            ink = look.on_tape
            if whole:
                paint_tape(p, box, seed=i + 2, depth=5)
            elif may and not lever.noise:
                paint_tape(p, box, seed=i + 2, depth=5, fill=faded(look.tape, 0.62))
                ink = look.on_tape if not look.lights_out else look.on_panel
            else:
                p.setPen(QPen(look.quiet_on_panel, 1, Qt.PenStyle.DashLine))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(box.adjusted(0.5, 0.5, -3.5, -0.5))
                ink = look.quiet_on_panel
            self._piece(box, lever, ink)
            if i == opened:
                p.setPen(QPen(look.on_panel, 2))
                at = box.left() + min(24.0, wide / 2)
                p.drawLine(QPointF(at - 6, box.bottom() + 2), QPointF(at + 6, box.bottom() + 2))
            told = f"{lever.label}, of the difference: {lever.amount}"
            self.spots.append(Target(box, f"{self.own.hardness}:{i}", told))
            x += wide + 4.0

    def _piece(self, box: QRectF, lever: Lever, ink: object) -> None:
        p, half = self.p, box.height() / 2
        room = box.adjusted(8, 2, -8, 0)
        p.setPen(ink)  # type: ignore[call-overload]
        p.setFont(look.words(SMALL, bold=True))
        fitted(p, QRectF(room.left(), box.top() + 2, room.width(), half), lever.label)
        p.setFont(look.figures(BODY, bold=True))
        amount = that_fits(p, lever.briefly, room.width() - 2) or lever.briefly[-1]
        fitted(p, QRectF(room.left(), box.top() + half - 2, room.width(), half), amount)

    def _levels(self, y: float, opened: int) -> float:
        """The levels of the open part along the measurement's axis."""
        p, axis, lever = self.p, self.axis, self.own.levers[opened]
        kind, scale = self.found.judgement.kind, self.found.judgement.scale
        if not lever.levels:
            return y
        offer = look.px(TRY) if self.own.untried else 0
        room = self.panel.bottom() - y - look.px(FOOT) - offer - 4
        each = min(float(look.px(ROW)), max(room / len(lever.levels), 12.0))
        foot = y + each * len(lever.levels) + 2
        marks = measured(axis, scale, kind, 70)
        draw_lines(p, axis, marks, y, foot)
        for k, level in enumerate(lever.levels):
            if level.alone is not None:
                _apart(p, axis, y + each / 2, level.alone, level.place, seed=k)
            draw_whisker(p, axis, y + each / 2, (level.low, level.place, level.high))
            row = QRectF(self.left + 8, y, axis.left - self.left - 24, each)
            p.setFont(look.words(SMALL))
            p.setPen(look.on_panel)
            fitted(p, row, level.words, "" if lever.together else _codes(level))
            line = QRectF(self.left, y, self.right - self.left, each)
            key = f"{self.own.hardness}:{opened}:{k}"
            self.spots.append(Target(line, key, f"{lever.label}: {level.words}"))
            y += each
        draw_figures(p, axis, marks, foot, foot + look.px(FOOT) - 4)
        p.setFont(look.words(SMALL))
        p.setPen(look.quiet_on_panel)
        named = f"{lever.label}: what the usual combination with it reads, {kind.unit}".rstrip(", ")
        row = QRectF(self.left + 8, foot, axis.left - self.left - 24, look.px(FOOT) - 4)
        fitted(p, row, named)
        return foot + look.px(FOOT)

    def _try(self, y: float) -> None:
        """The one thing to try next, with its key and what is predicted of it."""
        if not self.own.untried:
            return
        p, u = self.p, self.own.untried[0]
        number = self.found.number_of(self.own.hardness, u)
        row = QRectF(self.left, y, self.right - self.left, look.px(TRY) - 4)
        x = row.left()
        p.setFont(look.words(SMALL, bold=True))
        if number:
            cap = QRectF(x, row.top() + 1, look.px(24), row.height() - 2)
            paint_tape(p, cap, seed=number + 20, depth=3)
            p.setPen(look.on_tape)
            p.drawText(cap.adjusted(-2, 0, -2, 0), Qt.AlignmentFlag.AlignCenter, str(number))
            x = cap.right() + 8
        p.setPen(look.on_panel)
        p.setFont(look.words(BODY))
        chance = f"{percent(u.p_ahead)} sure to be ahead of {self.own.leader[0]}"
        fitted(
            p,
            QRectF(x, row.top(), self.axis.left - x - 16, row.height()),
            f"try {u.short}: {chance}",
        )
        draw_whisker(p, self.axis, row.center().y(), (u.low, u.place, u.high), hollow=True)
        at = self.axis.x(self.own.leader[1])
        p.setPen(QPen(look.edge, 1.6, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(at, row.top()), QPointF(at, row.bottom()))
        told = self.own.told(u, self.found.judgement)
        self.spots.append(Target(row, f"{self.own.hardness}:+1", told))


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
    high = sum(_need(own, 0) + GAP for own in found.classes)
    return [(max(high, 160.0), lambda p, a: draw_drivers(p, a, found))]
