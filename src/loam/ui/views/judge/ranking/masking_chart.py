"""What the wipe took back: a hollow swatch before it, a piece of tape to where it stays."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from loam.app.questions.ranking.masked import MaskedPicture, products_words
from loam.core.masking import Masked
from loam.core.words.masking import span
from loam.ui.paint.axis import Axis, draw_figures, draw_lines, even
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT
from loam.ui.theme import look
from loam.ui.widgets.tape import paint_tape

_SWATCH = 26.0


class MaskingChart(Drawing):
    """One panel a hardness; on it each combination, before the wipe and after it."""

    called = "what the wipe took back"
    likes = (760, 460)

    def __init__(self) -> None:
        super().__init__()
        self.found: MaskedPicture | None = None
        self.setObjectName("masking")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(300, 200)

    def show_masked(self, found: MaskedPicture | None) -> None:
        """Show what fell back."""
        self.found = found
        told = []
        for hardness, own in found.by_class.items() if found is not None else ():
            told += [f"{m.group} on {hardness}: {span(m, found.kind)}" for m in own if found]
        self.setAccessibleDescription("; ".join(told))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        found = self.found
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if found is None or not found.by_class:
            painter.setPen(look.quiet)
            painter.setFont(look.words(17))
            flags = int(Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap)
            painter.drawText(
                QRectF(0, 0, self.width(), 200),
                flags,
                "Here stands what a wipe takes back. Read the cells before the wipe and again"
                " after it (Read, F7).",
            )
            return
        values = [v for own in found.by_class.values() for m in own for v in (m.unwiped, m.later)]
        low, high = min(values), max(values)
        pad = max(0.08 * (high - low), found.kind.matters if found.kind.decimals else 1.0)
        low, high = low - pad, high + pad
        room = self.height() - look.px(84)
        total = sum(len(own) + 0.9 for own in found.by_class.values())
        each = min(room / total, float(look.px(64)))
        left, right = float(look.px(118)), self.width() - float(look.px(290))
        axis = Axis(left, right, low, high, flip=not found.kind.higher_is_better)
        kind = found.kind
        marks = even(axis, 7, lambda at, _: kind.write(at) if kind.decimals else f"{at:g}")
        y = 0.0
        for hardness, own in found.by_class.items():
            tall = each * (len(own) + 0.8)
            box = QRectF(0, y, self.width(), tall)
            painter.fillRect(box, look.panel)
            draw_lines(painter, axis, marks, y, y + tall)
            painter.setPen(look.on_panel)
            painter.setFont(look.words(17, bold=True))
            painter.drawText(QRectF(12, y + 4, left, each * 0.7), LEFT, hardness.capitalize())
            for i, masked in enumerate(own):
                lane = QRectF(0, y + each * (i + 0.6), self.width(), each)
                self._lane(painter, lane, masked, axis)
            y += tall + each * 0.1
        draw_figures(painter, axis, marks, y + 2, y + look.px(20), look.quiet, 14)
        painter.setPen(look.quiet)
        painter.setFont(look.words(13))
        painter.drawText(
            QRectF(0, y + look.px(20), self.width(), look.px(20)),
            LEFT,
            f"{found.kind.label}, {found.kind.unit}, further right is better · hollow: before the"
            " wipe · full: what stays · bar: 90 % of what was taken back",
        )
        painter.setPen(look.ink)
        painter.setFont(look.words(14))
        flags = int(Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap)
        top = y + look.px(42)
        painter.drawText(
            QRectF(0, top, self.width(), max(self.height() - top, 0)), flags, products_words(found)
        )

    def _lane(self, painter: QPainter, lane: QRectF, m: Masked, axis: Axis) -> None:
        assert self.found is not None
        before, after, y = axis.x(m.unwiped), axis.x(m.later), lane.center().y()
        size = min(_SWATCH, lane.height() * 0.5)
        if m.seen and abs(before - after) > size:
            strip = QRectF(min(before, after), y - size * 0.28, abs(before - after), size * 0.56)
            paint_tape(painter, strip, seed=len(m.group) + 7)
        sign = 1.0 if before >= after else -1.0
        unit = abs(before - after) / m.masked if abs(m.masked) > 1e-9 else 0.0
        painter.setPen(QPen(look.on_panel, 1.6))
        ends = [after + sign * unit * v for v in (m.low, m.high)]
        below = y + size * 0.5 + 4
        painter.drawLine(QPointF(ends[0], below), QPointF(ends[1], below))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.on_panel, 1.4, Qt.PenStyle.DashLine))
        painter.drawRect(QRectF(before - size / 2, y - size / 2, size, size))
        painter.fillRect(QRectF(after - size / 2, y - size / 2, size, size), look.tape)
        painter.setPen(look.on_tape)
        painter.setFont(look.figures(14, bold=True))
        painter.drawText(
            QRectF(after - size / 2, y - size / 2, size, size),
            Qt.AlignmentFlag.AlignCenter,
            m.group[:3],
        )
        painter.setPen(look.on_panel if m.seen else look.quiet_on_panel)
        painter.setFont(look.words(14, bold=m.seen))
        said = span(m, self.found.kind) if m.seen else "nothing sure"
        if m.seen and m.share:
            said += f" · {100 * m.share:.0f} % of its gain"
        box = QRectF(axis.right + 12, lane.top(), self.width() - axis.right - 20, lane.height())
        painter.drawText(box, LEFT, said)
