"""What a trial will tell apart: one ruler, with tape over the differences that stay hidden."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from loam.app.drawings import Rect
from loam.app.drawings.outlook import Ruler, lay_ruler, ruler_height
from loam.app.presenters.outlook import Ahead
from loam.core.words.outlook import BEFORE, NOTE, ahead_words, short_amount
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT
from loam.ui.theme import look
from loam.ui.theme.look import SMALL, tip
from loam.ui.widgets.tape import paint_tape


class OutlookRuler(Drawing):
    """Shows an outlook; says it all as its accessible description too."""

    called = "what the trial will tell apart"
    grows = (True, False)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ahead: Ahead | None = None
        self.tight = False
        self.setObjectName("outlook_ruler")

    def show_ahead(self, ahead: Ahead | None) -> None:
        """Show an outlook."""
        self.ahead = ahead
        if ahead is not None:
            self.setAccessibleDescription(" ".join([ahead.sentence, *ahead.notes]))
            rows = [
                f"{o.hardness}: {o.cells} cells on {o.panels} panels"
                + (f", {ahead_words(ahead.kind, o)}" if o.ahead is not None else "")
                + (
                    f" ({short_amount(ahead.kind, o.worst)} for the hardest pair)"
                    if o.worst is not None and o.ahead is not None and o.worst > 1.05 * o.ahead
                    else ""
                )
                for o in ahead.outlook
            ]
            self.setToolTip(tip(*rows, NOTE, *([BEFORE] if ahead.before else [])))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        rows = len(self.ahead.outlook) if self.ahead is not None else 1
        return QSize(320, round(ruler_height(rows, look.scale, tight=self.tight)))

    def minimumSizeHint(self) -> QSize:
        return QSize(220, self.sizeHint().height())

    def drawn(self) -> Ruler | None:
        """Return where everything lies."""
        if self.ahead is None or not self.ahead.outlook:
            return None
        label = max(look.width(o.hardness, SMALL) for o in self.ahead.outlook) + 10
        return lay_ruler(self.ahead, self.width(), label, look.scale, tight=self.tight)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        ruler, ahead = self.drawn(), self.ahead
        if ruler is None or ahead is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(_rect(ruler.meter), look.band)
        self._paint_axis(painter, ruler)
        high = (ruler.base - ruler.rows[0].y) / len(ruler.rows)
        for i, row in enumerate(ruler.rows):
            line = QRectF(0, row.y, ruler.left - 8, high)
            painter.setPen(look.ink)
            painter.setFont(look.words(SMALL))
            painter.drawText(line, LEFT, row.hardness)
            said = QRectF(ruler.left + 7, row.y, self.width() - ruler.left, line.height())
            painter.setFont(look.words(SMALL, bold=True))
            if row.tape is not None:
                paint_tape(painter, _rect(row.tape), seed=i + 3)
                room = row.tape.width - 14
                painter.setPen(look.on_tape)
                if look.width(row.text, SMALL, bold=True) > room:
                    said.moveLeft(row.tape.right + 6)
                    painter.setPen(look.ink)
            painter.drawText(said, LEFT, row.text)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.ink)
            for x in row.before:  # what the last trial found, as marks on the row's foot
                foot = row.y + high - 1
                painter.drawPolygon(
                    QPolygonF([QPointF(x - 4, foot), QPointF(x + 4, foot), QPointF(x, foot - 6)])
                )
        self._paint_matters(painter, ruler, ahead)
        painter.end()

    def _paint_axis(self, painter: QPainter, ruler: Ruler) -> None:
        painter.setPen(QPen(look.ink, 1))
        painter.drawLine(QPointF(ruler.left, ruler.base), QPointF(ruler.right, ruler.base))
        painter.setFont(look.figures(SMALL - 1))
        for x, said in ruler.marks:
            painter.setPen(QPen(look.quiet, 1))
            painter.drawLine(QPointF(x, ruler.base), QPointF(x, ruler.base + 4))
            width = painter.fontMetrics().horizontalAdvance(said)
            at = min(max(x - width / 2, ruler.left - 4), self.width() - width - 1)
            painter.drawText(QRectF(at, ruler.base + 4, width + 2, look.px(18)), LEFT, said)

    def _paint_matters(self, painter: QPainter, ruler: Ruler, ahead: Ahead) -> None:
        painter.setFont(look.words(SMALL))
        top = QRectF(ruler.left + 2, 0, self.width() - ruler.left, look.px(20))
        meter = "meter"
        painter.setPen(look.quiet)
        meter_right = ruler.left + 2 + look.width(meter, SMALL)
        if ruler.matters is None:
            painter.drawText(top, LEFT, meter)
            return
        said = f"{short_amount(ahead.kind, ahead.matters.on_scale)} matters"
        width = look.width(said, SMALL, bold=True)
        at = ruler.matters + 5
        if at + width > self.width() - 2:
            at = max(ruler.matters - 7 - width, 0.0)
        if at > meter_right + 6:
            painter.drawText(top, LEFT, meter)
        painter.setPen(QPen(look.strong, 2))
        painter.drawLine(QPointF(ruler.matters, 4), QPointF(ruler.matters, ruler.base))
        painter.setFont(look.words(SMALL, bold=True))
        painter.drawText(QRectF(at, 0, width + 4, look.px(20)), LEFT, said)


def _rect(rect: Rect) -> QRectF:
    return QRectF(rect.x, rect.y, rect.width, rect.height)
