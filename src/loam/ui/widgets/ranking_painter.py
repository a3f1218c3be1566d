"""The ranking as drawn: a column a hardness, a row a combination, one axis for all.

``draw_ranking(painter, rect, picture)`` serves the screen, PNG, SVG and PDF alike.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from loam.app.drawings import Rect
from loam.app.drawings.ranking import HEAD, RankingPlaces, columns, place_column
from loam.app.presenters.judging import Column, RankingPicture, Row
from loam.core.trial import Combination
from loam.core.units import fixed
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL
from loam.ui.widgets.mark import ROW_ASPECT, mark_size, paint_mark
from loam.ui.widgets.panel_painter import short_code
from loam.ui.widgets.tape import paint_tape

TAPE = 9.0
LEAST_PITCH = 11.0


def draw_ranking(
    painter: QPainter,
    area: QRectF,
    picture: RankingPicture,
    combinations: dict[str, Combination],
    chosen: tuple[str, str] | None = None,
    *,
    focus: bool = False,
    paints: dict[str, str] | None = None,
) -> RankingPlaces:
    """Draw the ranking and return where its rows lie.

    Parameters
    ----------
    chosen : (str, str), optional
        Hardness and combination that are looked at.
    focus : bool
        Whether the keyboard is here.
    paints : dict, optional
        Name of the paint of a hardness, where its panels share one.
    """
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    places = RankingPlaces()
    box = Rect(area.x(), area.y(), area.width(), area.height())
    for column, sheet, pitch in columns(box, picture):
        drawn = _Column(painter, sheet, picture, column, combinations, pitch)
        drawn.paint = (paints or {}).get(column.hardness, "")
        places.add(drawn.place)
        drawn.draw(chosen, focus=focus)
    painter.restore()
    return places


class _Column:
    """One hardness class on its sheet."""

    def __init__(
        self,
        painter: QPainter,
        sheet: Rect,
        picture: RankingPicture,
        column: Column,
        combinations: dict[str, Combination],
        pitch: float,
    ) -> None:
        self.p, self.picture, self.column = painter, picture, column
        self.combinations, self.pitch = combinations, pitch
        self.paint = ""
        names = [r.combination for c in picture.columns for r in c.rows]
        wide = QFontMetricsF(look.figures(LEAD, bold=True))
        most = max(60.0, 0.3 * sheet.width)
        self.code_width = min(max(wide.horizontalAdvance(n) for n in names), most) + 8
        stages = max((len(c.stages) for c in combinations.values()), default=1)
        self.mark_row = max(
            0.0, min(17.0, 13.0 if pitch < 90 else 17.0, (pitch - 14) / max(stages * 1.18, 1))
        )
        room = sheet.width * 0.37 - self.code_width - 20
        self.mark_row = min(self.mark_row, room / ROW_ASPECT)
        if self.mark_row < 6:
            self.mark_row = 0.0
        marks = self.mark_row * ROW_ASPECT + 8 if self.mark_row else 0.0
        self.place = place_column(column, sheet, pitch, self.code_width + marks, picture)
        self.sheet, self.plot = QRectF(*sheet), QRectF(*self.place.plot)
        self.x = self.place.x

    def draw(self, chosen: tuple[str, str] | None, *, focus: bool) -> None:
        """Draw the column."""
        p, sheet, column = self.p, self.sheet, self.column
        p.fillRect(sheet, look.sheet)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        p.setPen(look.ink)
        p.setFont(look.words(LEAD, bold=True))
        head = QRectF(sheet.left() + 14, sheet.top() + 4, sheet.width() - 28, HEAD - 8)
        p.drawText(head, left, column.hardness.capitalize())
        used = p.fontMetrics().horizontalAdvance(column.hardness.capitalize()) + 8
        p.setPen(look.quiet)
        p.setFont(look.words(SMALL))
        panels = f"{column.panels} panel{'' if column.panels == 1 else 's'}"
        words = f"{self.paint} · {panels}" if self.paint else panels
        if used + p.fontMetrics().horizontalAdvance(words) > head.width():
            words = panels
        p.drawText(head.adjusted(used, 1, 0, 0), left, words)
        self._grid()
        self._tie()
        for i, row in enumerate(column.rows):
            area = QRectF(*self.place.row(i))
            key = (column.hardness, row.combination)
            self._row(row, area, key == chosen, chosen is not None and row.combination == chosen[1])
            if key == chosen and focus:
                p.setPen(QPen(look.strong, 2))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(area.adjusted(1, 1, -1, -1))
        self._untested()

    def _grid(self) -> None:
        p = self.p
        low, high, step = self.picture.axis
        bottom = self.plot.bottom()
        near, far = self.column.band
        band = QRectF(self.x(near), self.plot.top(), self.x(far) - self.x(near), self.plot.height())
        p.fillRect(band, look.band)
        if look.lights_out:
            p.setPen(QPen(look.edge, 1, Qt.PenStyle.DashLine))
            for x in (band.left(), band.right()):
                p.drawLine(QPointF(x, band.top()), QPointF(x, band.bottom()))
        p.setFont(look.figures(SMALL - 1))
        decimals = next((d for d in range(7) if round(step, d) == round(step, 9)), 6)
        count = round((high - low) / step)
        skip = 2 if self.plot.width() / max(count, 1) < 30 else 1
        for i in range(count + 1):
            value = low + i * step
            x = self.x(value)
            p.setPen(QPen(look.line, 1))
            p.drawLine(QPointF(x, self.plot.top()), QPointF(x, bottom))
            if i % skip == 0:
                p.setPen(look.quiet)
                label = QRectF(x - 30, bottom + 2, 60, 16)
                p.drawText(label, Qt.AlignmentFlag.AlignCenter, fixed(value, decimals))
        p.setFont(look.words(SMALL))
        p.setPen(look.quiet)
        unit = QRectF(self.sheet.left(), bottom + 18, self.sheet.width() - 14, 18)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        p.drawText(unit, right, f"{self.picture.label}, {self.picture.unit}")

    def _tie(self) -> None:
        """Bind what cannot be told apart: whole tape when equal, a dashed strip when open."""
        best = sum(r.in_best for r in self.column.rows)
        if best < 2:
            return
        strip = QRectF(self.sheet.left() + 3, self.plot.top() + 6, TAPE, best * self.pitch - 12)
        if self.column.tie == "equal":
            paint_tape(self.p, strip, seed=7, torn="bottom", depth=4)
            return
        y, piece = strip.top(), 9.0
        while y < strip.bottom():
            height = min(piece, strip.bottom() - y)
            piece_of = QRectF(strip.left(), y, TAPE, height)
            self.p.fillRect(piece_of, look.tape)
            self.p.setPen(QPen(look.edge, 1))
            self.p.drawRect(piece_of.adjusted(0, 0, -1, -1))
            y += piece + 5
        self.p.setBrush(Qt.BrushStyle.NoBrush)

    def _row(self, row: Row, area: QRectF, chosen: bool, same: bool) -> None:
        p = self.p
        if self.pitch < LEAST_PITCH and not same:  # no room for words: the bar alone
            y = area.center().y()
            p.setPen(QPen(look.ink if row.in_best else look.quiet, 1))
            p.drawLine(QPointF(self.x(row.low), y), QPointF(self.x(row.high), y))
            return
        ink = look.ink if row.in_best else look.quiet
        if same:
            p.setOpacity(1.0 if chosen else 0.55)
            p.fillRect(area.adjusted(0, 2, 0, -2), look.band)
            p.setOpacity(1.0)
            self._band_again(area)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        p.setPen(look.strong if same else ink)
        p.setFont(look.figures(LEAD, bold=True))
        p.drawText(
            QRectF(area.left() + 8, area.top(), self.code_width, area.height()),
            left,
            short_code(p, row.combination, self.code_width - 6),
        )
        combination = self.combinations.get(row.combination)
        if combination is not None and self.mark_row:
            _, height = mark_size(combination, self.mark_row)
            at = QPointF(area.left() + 8 + self.code_width, area.center().y() - height / 2 + 1)
            paint_mark(p, at, combination, self.mark_row, ink)
        self._bar(row, area)

    def _band_again(self, area: QRectF) -> None:
        near, far = self.column.band
        p = self.p
        p.setPen(QPen(look.line, 1, Qt.PenStyle.DotLine))
        for value in (near, far):
            p.drawLine(
                QPointF(self.x(value), area.top() + 2), QPointF(self.x(value), area.bottom() - 2)
            )

    def _bar(self, row: Row, area: QRectF) -> None:
        p = self.p
        ink = look.strong if row.in_best else look.quiet
        roomy = self.pitch >= 34
        y = area.center().y() + (9 if roomy else 0)
        p.setPen(QPen(ink, 1.6))
        low, high = self.x(row.low), self.x(row.high)
        p.drawLine(QPointF(low, y), QPointF(high, y))
        for end in (low, high):
            p.drawLine(QPointF(end, y - 3), QPointF(end, y + 3))
        box = QRectF(self.x(row.low50), y - 5, self.x(row.high50) - self.x(row.low50), 10)
        p.fillRect(box, ink)
        p.setPen(QPen(look.sheet if box.width() > 5 else look.ink, 1.4))
        p.drawLine(QPointF(self.x(row.estimate), y - 5), QPointF(self.x(row.estimate), y + 5))
        if not roomy:
            return
        p.setPen(look.ink)
        p.setFont(look.figures(BODY))
        width = p.fontMetrics().horizontalAdvance(row.text)
        x = min(max(self.x(row.estimate) - width / 2, self.plot.left() - 14),
                self.plot.right() + 14 - width)  # fmt: skip
        p.drawText(QPointF(x, y - 13), row.text)

    def _untested(self) -> None:
        p = self.p
        p.setPen(look.quiet)
        p.setFont(look.words(BODY, italic=True))
        for i, name in enumerate(self.column.untested):
            top = self.plot.top() + (len(self.column.rows) + i) * self.pitch
            area = QRectF(self.sheet.left() + 22, top, self.sheet.width() - 30, self.pitch)
            flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
            said = f"{name} not tested on {self.column.hardness}"
            height = p.fontMetrics().height()
            ground = QRectF(area.left(), area.center().y() - height / 2, 8, height)
            ground.setWidth(p.fontMetrics().horizontalAdvance(said) + 8.0)
            p.fillRect(ground, look.sheet)
            p.drawText(area, flags, said)
