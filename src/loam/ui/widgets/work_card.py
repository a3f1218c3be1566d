"""What a cell gets, to be read from two metres: what changed since the last stands out."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.app.presenters.working import Working
from loam.ui.theme import look
from loam.ui.widgets.big import fitted
from loam.ui.widgets.mark import mark_size, paint_mark
from loam.ui.widgets.tape import paint_tape


class WorkCard(QWidget):
    """Cell, stage and set-up lines, large."""

    def __init__(self) -> None:
        super().__init__()
        self.state: Working | None = None
        self.blind = False
        self.setObjectName("work_card")
        self.setAccessibleName("what this cell gets")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(300, 240)
        look.changed.connect(self._fit)

    def sizeHint(self) -> QSize:
        return QSize(430, 430)

    def show_state(self, state: Working | None, *, blind: bool = False) -> None:
        """Show what is worked now; blind it says what is to be done, and not what it is for."""
        self.state, self.blind = state, blind
        if state is not None:
            said = [f"cell {state.cell.code}, stage {state.stage}"]
            said += [f"{x.what} {x.value}{', new' if x.new else ''}" for x in state.lines]
            self.setAccessibleDescription("; ".join([*said, *state.marks]))
        self._fit()

    def _fit(self) -> None:
        """Ask for as much height as its lines need to be read."""
        rows = len(self.state.lines) if self.state is not None else 0
        self.setMinimumHeight(max(240, look.px(82 + 22 * rows)))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        state = self.state
        if state is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        high = look.px(74)
        head = QRectF(0, 0, self.width(), high)
        painter.setPen(look.ink)
        painter.setFont(look.figures(look.px(64), bold=True, exact=True))
        painter.drawText(head, left, state.cell.code)
        used = painter.fontMetrics().horizontalAdvance(state.cell.code) + 18
        painter.setPen(look.quiet)
        of = len(state.combination.stages)
        said = f"on {state.panel.name}" + (f", stage {state.stage} of {of}" if of > 1 else "")
        room, size = int(self.width() - used - 100), 24
        while size > 15 and look.width(said, size) > room:
            size -= 1
        painter.setFont(look.words(size))
        cut = painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, room)
        painter.drawText(head.adjusted(used, 0, 0, 0), left, cut)
        if not self.blind:
            row = 24.0 if of < 3 else 16.0
            wide, _ = mark_size(state.combination, row)
            corner = QPointF(self.width() - wide - 2, 8)
            paint_mark(painter, corner, state.combination, row, look.ink)
        rows = max(len(state.lines), 1)
        each = min(look.px(58), (self.height() - high - 8) / rows)
        for i, line in enumerate(state.lines):
            box = QRectF(0, high + 6 + i * each, self.width(), each)
            if line.new:
                paint_tape(painter, QRectF(0, box.top() + 5, 10, each - 10), seed=i + 2)
            painter.setFont(look.words(fitted(17, each, 0.34)))
            painter.setPen(look.quiet)
            painter.drawText(box.adjusted(20, 0, 0, 0), left, line.what)
            painter.setFont(look.words(fitted(34, each, 0.62, 16), bold=line.new))
            painter.setPen(look.ink if line.new else look.quiet)
            beside = box.adjusted(look.px(118), 0, 0, 0)
            value = painter.fontMetrics().elidedText(
                line.value, Qt.TextElideMode.ElideRight, int(beside.width())
            )
            painter.drawText(beside, left, value)
