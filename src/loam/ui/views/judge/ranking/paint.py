"""The ranking as drawn: each hardness a panel, each combination a swatch that reflects a lamp.

``draw_ranking(painter, rect, picture)`` serves the screen, PNG, SVG and PDF alike.
"""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen, QPolygonF

from loam.app.drawings import Rect
from loam.app.drawings.ranking import FOOT, GAP, RankingPlaces, StripPlace, strip_places
from loam.app.questions.ranking.picture import RankingPicture, Swatch, floor_words
from loam.app.reflection import Light
from loam.core.advice import Advice
from loam.core.trial import Combination
from loam.core.verdicts import ASSUMED, BETTER, CLEARLY_BETTER, EQUAL, OPEN
from loam.core.words.plain import plain
from loam.core.words.verdict import RELATION_WORDS
from loam.ui.paint.lamp import faded, lamp, lit
from loam.ui.paint.words import LEFT, MIDDLE, RIGHT, wrapped
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL, TITLE
from loam.ui.widgets.mark import ROW_ASPECT, mark_size, paint_mark
from loam.ui.widgets.panel_painter import short_code
from loam.ui.widgets.tape import paint_tape

Key = tuple[str, str]
LEAST_LETTER = 16.0
LEAST_SMALL = 13.0
NAMED = 54.0
"""A swatch from this size on says where it comes from."""


def draw_ranking(
    painter: QPainter,
    area: QRectF,
    picture: RankingPicture,
    combinations: Mapping[str, Combination],
    chosen: Key | None = None,
    *,
    focus: bool = False,
    paints: Mapping[str, str] | None = None,
    lights: Mapping[Key, Light] | None = None,
    advice: Mapping[str, Advice] | None = None,
    origins: Mapping[str, str] | None = None,
) -> RankingPlaces:
    """Draw the ranking and return where its swatches lie.

    Parameters
    ----------
    chosen : (str, str), optional
        Hardness and combination that are looked at.
    focus : bool
        Whether the keyboard is here.
    paints : mapping, optional
        Name of the paint of a hardness, where its panels share one.
    lights : mapping, optional
        What each combination reflects, by hardness and combination.
    advice : mapping, optional
        What to use on each hardness; None where nothing is advised, {} while it is weighed.
    origins : mapping, optional
        Where a combination comes from, in words, where several trials are one ranking.
    """
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    places = RankingPlaces()
    box = Rect(area.x(), area.y(), area.width(), area.height())
    for place in strip_places(box, picture, advised=advice is not None):
        places.add(place)
        hardness = place.strip.hardness
        own = None if advice is None else advice.get(hardness)
        panel = _Panel(painter, picture, place, combinations, lights or {}, own)
        panel.advised = advice is not None
        panel.origins = origins or {}
        panel.draw(chosen, (paints or {}).get(hardness, ""), focus=focus)
    if chosen is not None:
        _follow(painter, places, chosen[1])
    if places.strips:
        _axis(painter, area, picture, places.strips[-1])
    painter.restore()
    return places


class _Panel:
    """One hardness class as a panel seen wide."""

    def __init__(
        self,
        painter: QPainter,
        picture: RankingPicture,
        place: StripPlace,
        combinations: Mapping[str, Combination],
        lights: Mapping[Key, Light],
        advice: Advice | None = None,
    ) -> None:
        self.advice, self.advised = advice, advice is not None
        self.origins: Mapping[str, str] = {}
        self.p, self.picture, self.place = painter, picture, place
        self.combinations, self.lights = combinations, lights

    def draw(self, chosen: Key | None, paint: str, *, focus: bool) -> None:
        """Draw the panel with its swatches."""
        p, place = self.p, self.place
        panel = QRectF(*place.panel)
        p.fillRect(panel, look.panel)
        p.setPen(QPen(faded(look.on_panel, 0.13), 1))
        for at, _ in self.picture.marks:
            x = place.x(at)
            if place.plot.x <= x:
                p.drawLine(QPointF(x, panel.top()), QPointF(x, panel.bottom()))
        self._ends()
        self._band()
        self._controls()
        self._words(paint)
        own = None
        for swatch in place.strip.swatches:
            key = (place.strip.hardness, swatch.combination)
            if key == chosen:
                own = swatch
            self._swatch(swatch, same=chosen is not None and swatch.combination == chosen[1])
        if own is not None:
            box = QRectF(*place.swatches[own.combination])
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(look.on_panel, 2))
            p.drawRect(box.adjusted(-3, -3, 3, 3))
            if focus:
                p.setPen(QPen(look.on_panel, 1, Qt.PenStyle.DotLine))
                p.drawRect(box.adjusted(-6, -6, 6, 6))

    def _ends(self) -> None:
        """A wall where the measurand ends: nothing can lie beyond."""
        for end in self.picture.ends:
            if end is None:
                continue
            x = self.place.x(end)
            self.p.setPen(QPen(look.quiet_on_panel, 2))
            panel = self.place.panel
            self.p.drawLine(QPointF(x, panel.y), QPointF(x, panel.bottom))

    def _controls(self) -> None:
        """A line for what each control reads; one beyond the axis stands at its edge."""
        p, place = self.p, self.place
        low, high = self.picture.window
        for i, line in enumerate(self.picture.controls.get(place.strip.hardness, ())):
            x = place.x(min(max(line.place, low), high))
            top, bottom = place.panel.y, place.panel.bottom
            p.setPen(QPen(look.quiet_on_panel, 1.4, Qt.PenStyle.DotLine))
            p.drawLine(QPointF(x, top), QPointF(x, bottom))
            beyond = "‹ " if line.place < low else ""
            words = f"{beyond}{line.words}{' ›' if line.place > high else ''}"
            p.setFont(look.words(SMALL))
            p.setPen(look.quiet_on_panel)
            wide = p.fontMetrics().horizontalAdvance(words)
            left = x + 4 if x + wide + 8 < place.panel.right else x - wide - 4
            p.drawText(QRectF(left, bottom - 20 - 16 * i, wide + 2, 18), LEFT, words)

    def _band(self) -> None:
        p, band = self.p, QRectF(*self.place.band)
        if len(self.place.strip.swatches) < 2:
            return
        p.fillRect(band, faded(look.tape, 0.30 if not look.lights_out else 0.75))
        edge = QPen(look.edge, 1.6, Qt.PenStyle.DashLine)
        p.setPen(edge)
        p.drawLine(band.topLeft(), band.bottomLeft())
        grip = QRectF(band.left() - 6, band.bottom(), 12, GAP - 1)
        paint_tape(p, grip, seed=3, torn="bottom", depth=3)

    def _advice(self, paint: str) -> None:
        """Say what to use, as sure as that is, why, at which price, and what would change it."""
        p, place, advice = self.p, self.place, self.advice
        panel = place.panel
        room = QRectF(panel.x + 14, panel.y + 7, place.plot.x - panel.x - 30, panel.height - 12)
        p.setPen(QPen(faded(look.on_panel, 0.35), 1))
        right = room.right() + 8
        p.drawLine(QPointF(right, room.top()), QPointF(right, room.bottom()))
        head = ", ".join(filter(None, (place.strip.hardness.capitalize(), paint)))
        small, body = look.words(SMALL), look.words(BODY)
        lines = [(head, small, look.quiet_on_panel, 1)]
        if advice is not None:
            big = look.words(TITLE - 3 if panel.height > look.px(116) else LEAD, bold=True)
            lines += [
                (advice.headline, big, look.on_panel, 2),
                (
                    advice.surely,
                    look.words(BODY, bold=True),
                    look.on_panel if look.lights_out else look.tape,
                    2,
                ),
                (advice.because, body, look.on_panel, 3),
                (advice.change, small, look.quiet_on_panel, 2),
            ]
        else:
            lines.append(("Weighing what was read …", body, look.quiet_on_panel, 1))
        y = room.top()
        for text, font, colour, most in lines:
            p.setFont(font)
            metrics = p.fontMetrics()
            left = int((room.bottom() - y) // metrics.height())
            if not text or left < 1:
                continue
            p.setPen(colour)
            if advice is not None and text == advice.surely:
                self._paid(QRectF(room.left(), y, room.width(), metrics.height()), text)
            area = QRectF(room.left(), y, room.width(), min(most, left) * metrics.height() + 2)
            y += wrapped(p, area, text, min(most, left)) + 2

    def _paid(self, row: QRectF, beside: str) -> None:
        """Write the price at the right of a line, where there is room."""
        p, paid = self.p, self.advice.paid if self.advice is not None else ""
        colour, font = p.pen(), p.font()
        taken = p.fontMetrics().horizontalAdvance(beside)
        p.setFont(look.words(SMALL))
        if taken + p.fontMetrics().horizontalAdvance(paid) + 12 < row.width():
            p.setPen(look.quiet_on_panel)
            p.drawText(row, RIGHT, paid)
        p.setPen(colour)
        p.setFont(font)

    def _words(self, paint: str) -> None:
        if self.advised:
            self._advice(paint)
            return
        p, place = self.p, self.place
        panel = place.panel
        room = QRectF(panel.x + 12, panel.y + 6, place.plot.x - panel.x - 16, panel.height - 10)
        lines = [
            (place.strip.hardness.capitalize(), look.words(LEAD, bold=True), look.on_panel),
            (self._lead(room.width()), look.figures(LEAD - 1, bold=True), look.on_panel),
        ]
        panels = f"{place.strip.panels} panel{'' if place.strip.panels == 1 else 's'}"
        from_ = self.origins.get(place.strip.swatches[0].combination, "")
        for said in (from_, paint, panels, *self._untested()):
            if said:
                lines.append((said, look.words(SMALL), look.quiet_on_panel))
        y = room.top()
        for text, font, colour in lines:
            p.setFont(font)
            height = p.fontMetrics().height()
            if y + height > room.bottom():
                break
            p.setPen(colour)
            cut = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room.width()))
            p.drawText(QRectF(room.left(), y, room.width(), height), LEFT, cut)
            y += height

    def _lead(self, room: float) -> str:
        """Say who leads, in as many words as there is room for."""
        said = self.place.strip.lead
        wide = (look.width(s, LEAD - 1, bold=True, figures=True) for s in said)
        return next((s for s, w in zip(said, wide, strict=True) if w <= room), said[-1])

    def _untested(self) -> list[str]:
        names = self.place.strip.untested
        if not names:
            return []
        return [f"{', '.join(names[:4])}{' …' if len(names) > 4 else ''} not tested"]

    def _swatch(self, swatch: Swatch, *, same: bool) -> None:
        p, place = self.p, self.place
        box = QRectF(*place.swatches[swatch.combination])
        size = box.width()
        behind = swatch.relation == CLEARLY_BETTER
        if size < LEAST_LETTER:
            self._bar(swatch, box, behind=behind)
            p.fillRect(box, look.on_panel if not behind else look.quiet_on_panel)
            if size >= LEAST_SMALL:
                p.setFont(look.figures(max(9, int(0.72 * size)), bold=True, exact=True))
                p.setPen(look.panel)
                room = box.adjusted(-1, -1, 1, 1)
                code = short_code(p, swatch.combination, room.width())
                p.drawText(room, Qt.AlignmentFlag.AlignCenter, code)
            return
        light = self.lights.get((place.strip.hardness, swatch.combination), Light())
        device = p.device()
        ratio = device.devicePixelRatioF() if device is not None else 1.0
        pixels = int(min(max(size * ratio, 24), 160))
        p.drawImage(box, lit(light, pixels, look.panel_cell.rgb(), lamp().rgb()))
        if behind:
            p.fillRect(box, faded(look.panel, 0.5))
        if swatch.relation == ASSUMED:
            p.fillRect(box, _hatch())
        p.setBrush(Qt.BrushStyle.NoBrush)
        line = look.on_panel if not behind else look.quiet_on_panel
        p.setPen(QPen(line, 2.0 if swatch.relation == "" else 1.0))
        p.drawRect(box)
        if self.advice is not None and self.advice.among == (swatch.combination,):
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(look.edge, 4))
            p.drawRect(box)
        self._code(swatch, box)
        if size >= 34:
            self._figure(swatch, box, behind=behind)
        if size >= NAMED and self.origins:
            self._origin(swatch, box, behind=behind)
        self._mark(swatch, box, behind=behind)
        self._bar(swatch, box, behind=behind and not same)

    def _code(self, swatch: Swatch, box: QRectF) -> None:
        """The letter on its tape: how much tape says how it stands to the leader."""
        p, size = self.p, box.width()
        high = min(max(0.29 * size, min(14.0, 0.55 * size)), 19.0)
        font = look.figures(max(9, int(high * 0.82)), bold=True, exact=True)
        head = QRectF(box.left() - 3, box.top() - 3, box.width() + 6, high)
        p.setFont(font)
        letters = swatch.combination
        wide = p.fontMetrics().horizontalAdvance(letters) + 8.0
        ink = look.on_tape
        if swatch.relation in ("", EQUAL):
            paint_tape(p, head, seed=len(letters) + 4, torn="right", depth=4)
        elif swatch.relation == OPEN:
            first = QRectF(head.left(), head.top(), max(0.36 * head.width(), wide), high)
            paint_tape(p, first, seed=5, torn="right", depth=4)
            left, piece = first.right() + 4, max(5.0, 0.13 * head.width())
            while left + piece <= head.right() + 1:
                paint_tape(p, QRectF(left, head.top(), piece, high), seed=6, torn="right", depth=3)
                left += piece + 4
        elif swatch.relation == BETTER:
            side = min(max(wide + 10, high * 2.0), size + 4)
            corner = QPolygonF(
                [
                    head.topLeft(),
                    head.topLeft() + QPointF(side, 0),
                    head.topLeft() + QPointF(0, side),
                ]
            )
            p.setPen(QPen(look.edge, 1) if look.lights_out else Qt.PenStyle.NoPen)
            p.setBrush(look.tape)
            p.drawPolygon(corner)
            p.setBrush(Qt.BrushStyle.NoBrush)
        else:
            ink = look.on_panel if swatch.relation != CLEARLY_BETTER else look.quiet_on_panel
            head.translate(2.5, 4.0)  # no tape covers the frame: the letter stands within
        p.setPen(ink)
        room = QRectF(head.left() + 4, head.top(), head.width() - 6, high)
        code = short_code(p, letters, room.width())
        p.drawText(room, LEFT, code)
        if swatch.relation == "" and size >= 50 and len(self.place.strip.swatches) > 1:
            p.setFont(look.figures(max(9, int(high * 0.62)), exact=True))
            left = room.width() - p.fontMetrics().horizontalAdvance(swatch.chance)
            if left > wide + 2 and len(swatch.chance) < 6:
                p.drawText(room.adjusted(0, 0, -3, 0), RIGHT, swatch.chance)

    def _origin(self, swatch: Swatch, box: QRectF, *, behind: bool) -> None:
        p = self.p
        p.setFont(look.words(11))
        p.setPen(look.quiet_on_panel if behind else look.on_panel)
        room = box.adjusted(4, 0.32 * box.height(), -3, -0.3 * box.height())
        wrapped(p, room, self.origins.get(swatch.combination, ""), 2)

    def _figure(self, swatch: Swatch, box: QRectF, *, behind: bool) -> None:
        p = self.p
        p.setFont(look.figures(max(9, int(min(box.width() * 0.22, 14))), exact=True))
        p.setPen(look.quiet_on_panel if behind else look.on_panel)
        text = f"‹ {swatch.text}" if swatch.parked else swatch.text
        p.drawText(
            box.adjusted(2, 0, -4, -1),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom,
            text,
        )

    def _mark(self, swatch: Swatch, box: QRectF, *, behind: bool) -> None:
        combination = self.combinations.get(swatch.combination)
        if combination is None or box.width() < 64:
            return
        row = min(7.0, (box.width() - 8) / ROW_ASPECT)
        _, height = mark_size(combination, row)
        at = QPointF(box.left() + 4, box.bottom() - 17 - height)
        paint_mark(self.p, at, combination, row, faded(look.on_panel, 0.5 if behind else 0.8))

    def _bar(self, swatch: Swatch, box: QRectF, *, behind: bool) -> None:
        """The 90 % interval for comparing, below the swatch; a tick where the mean lies."""
        p, bar = self.p, QRectF(*self.place.bars[swatch.combination])
        colour = look.quiet_on_panel if behind else look.on_panel
        if swatch.parked:
            y = bar.center().y()
            p.setPen(QPen(colour, 1.4))
            p.drawLine(QPointF(box.left() + 6, y), QPointF(box.right(), y))
            p.drawLine(QPointF(box.left() + 6, y), QPointF(box.left() + 11, y - 3))
            p.drawLine(QPointF(box.left() + 6, y), QPointF(box.left() + 11, y + 3))
            return
        p.fillRect(QRectF(bar.left(), bar.center().y() - 1.5, bar.width(), 3), colour)
        x = self.place.x(swatch.place)
        p.setPen(QPen(colour, 2))
        p.drawLine(QPointF(x, bar.top() - 1), QPointF(x, bar.bottom() + 1))
        if abs(x - box.center().x()) > 4:  # the swatch was moved aside: a hair leads to its place
            p.setPen(QPen(colour, 1))
            p.drawLine(QPointF(box.center().x(), box.bottom()), QPointF(x, bar.top()))
        if swatch.plain is not None:
            p.setPen(QPen(colour, 1))
            to = self.place.x(swatch.plain)
            p.drawLine(QPointF(to, bar.top() - 4), QPointF(to, bar.bottom() + 4))


def _follow(painter: QPainter, places: RankingPlaces, combination: str) -> None:
    """Follow a combination from hardness to hardness: where the line slopes, hardness decides."""
    boxes = [QRectF(*box) for (_, name), box in places.swatches.items() if name == combination]
    painter.setPen(QPen(look.edge, 2))
    for upper, lower in pairwise(boxes):
        painter.drawLine(
            QPointF(upper.center().x(), upper.bottom() + 3),
            QPointF(lower.center().x(), lower.top() - 4),
        )


def _axis(painter: QPainter, area: QRectF, picture: RankingPicture, place: StripPlace) -> None:
    p, y = painter, place.panel.bottom
    p.setFont(look.figures(SMALL))
    last = -1e9
    for at, text in sorted(picture.marks):
        x, wide = place.x(at), p.fontMetrics().horizontalAdvance(text)
        if x < place.plot.x - 4 or x - wide / 2 < last + 8:
            continue
        p.setPen(QPen(look.quiet, 1))
        p.drawLine(QPointF(x, y), QPointF(x, y + 4))
        p.drawText(QRectF(x - 50, y + 4, 100, 18), MIDDLE, text)
        last = x + wide / 2
    if picture.ends[0] is None:  # the scale goes on to the left: two strokes through the axis
        x = place.plot.x - 8
        p.setPen(QPen(look.quiet, 1.4))
        for shift in (0.0, 5.0):
            p.drawLine(QPointF(x + shift - 3, y + 10), QPointF(x + shift + 3, y + 2))
    p.setFont(look.words(SMALL))
    p.setPen(look.quiet)
    row = QRectF(area.left(), y + FOOT - 22, area.width() - 4, 20)
    named = ", ".join(filter(None, (picture.label, picture.unit)))
    p.drawText(row, RIGHT, f"{named} · further right is better")
    if picture.floor > 0.0:
        _floor(p, row, picture, place)


def _floor(p: QPainter, row: QRectF, picture: RankingPicture, place: StripPlace) -> None:
    """The meter's floor as a caliper: what lies closer than this no cell's mean can show."""
    wide = max(picture.floor * place.scale, 3.0)
    x, y = row.left() + 12, row.center().y()
    if wide > 0.3 * row.width():
        return
    p.setPen(QPen(look.quiet, 1.4))
    p.drawLine(QPointF(x, y), QPointF(x + wide, y))
    for end in (x, x + wide):
        p.drawLine(QPointF(end, y - 5), QPointF(end, y + 5))
    p.drawText(QRectF(x + wide + 8, row.top(), 300, row.height()), LEFT, floor_words(picture))


def draw_legend(painter: QPainter, area: QRectF) -> None:
    """Draw the five relations beside their words, and what else a swatch shows."""
    samples = list({**RELATION_WORDS, "": "the leader, with its chance to be best"}.items())
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    across = 3 if area.width() > 620 else 2
    each, high = area.width() / across, area.height() / -(-len(samples) // across)
    size = min(40.0, high - 14)
    for i, (relation, said) in enumerate(samples):
        x, y = area.left() + (i % across) * each, area.top() + (i // across) * high
        ground = QRectF(x, y, size + 18, high - 4)
        painter.fillRect(ground, look.panel)
        box = QRectF(x + 9, y + (high - 4 - size) / 2 + 1, size, size)
        _sample(painter, box, relation)
        painter.setPen(look.ink)
        painter.setFont(look.words(BODY))
        room = QRectF(ground.right() + 8, y, each - ground.width() - 14, high - 4)
        painter.drawText(room, LEFT | Qt.TextFlag.TextWordWrap, plain(said))
    painter.restore()


def _sample(painter: QPainter, box: QRectF, relation: str) -> None:
    from loam.app.questions.ranking.picture import Strip

    swatch = Swatch("A", 0.0, 0.0, 0.0, None, "", relation, "90 %", False, "")
    strip = Strip("", 1, (swatch,), (), 0.0, ("",))
    at = Rect(box.x(), box.y(), box.width(), box.height())
    bar = Rect(box.x() + 6, box.bottom() + 2, box.width() - 12, 4.0)
    place = StripPlace(strip, at, at, box.width(), 0.0, 1.0, {"A": at}, {"A": bar})
    panel = _Panel(painter, None, place, {}, {})  # type: ignore[arg-type]
    behind = relation == CLEARLY_BETTER
    painter.drawImage(box, lit(Light(), 48, look.panel_cell.rgb(), lamp().rgb()))
    if behind:
        painter.fillRect(box, faded(look.panel, 0.5))
    if relation == ASSUMED:
        painter.fillRect(box, _hatch())
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(
        QPen(look.quiet_on_panel if behind else look.on_panel, 2.0 if not relation else 1)
    )
    painter.drawRect(box)
    panel._code(swatch, box)


def _hatch() -> QBrush:
    return QBrush(look.quiet_on_panel, Qt.BrushStyle.BDiagPattern)
