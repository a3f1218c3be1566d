"""The readings of a cell in a line: what counts, what is struck and why, what was kept."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen

from loam.app.presenters.reading import EntryState
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import SMALL, TITLE

MOST = 8


class Taken(Drawing):
    """Figures side by side; below a struck one stands why."""

    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.state: EntryState | None = None

    def sizeHint(self) -> QSize:
        return QSize(300, look.px(54))

    def show_state(self, state: EntryState) -> None:
        """Show the readings of a cell."""
        self.state = state
        self.setAccessibleName("readings of this cell: " + "; ".join(self._spoken(state)))
        self.update()

    @staticmethod
    def _spoken(state: EntryState) -> list[str]:
        said = []
        for r in state.readings:
            why = f" struck, {r.struck}" if r.struck is not None else f" {r.mark}".rstrip()
            said.append(state.kind.write(r.value) + why)
        return said

    def paintEvent(self, event: QPaintEvent | None) -> None:
        state = self.state
        if state is None:
            return
        p = QPainter(self)
        face, small = look.figures(TITLE - 2), look.words(SMALL)
        shown = state.readings[-MOST:]
        notes = [r.struck if r.struck is not None else r.mark for r in shown]
        counted = [r.id for r in state.counted]
        odd = {counted[i] for i in state.summary.odd} if state.summary else set()
        x, high = 0.0, QFontMetricsF(face).height()
        for reading, note in zip(shown, notes, strict=True):
            text = state.kind.write(reading.value)
            wide = QFontMetricsF(face).horizontalAdvance(text)
            font = look.figures(TITLE - 2)
            font.setStrikeOut(reading.struck is not None)
            colour = look.care if reading.id in odd or reading.mark else look.ink
            p.setPen(look.quiet if reading.struck is not None else colour)
            p.setFont(font)
            p.drawText(QRectF(x, 0, wide + 4, high), Qt.AlignmentFlag.AlignLeft, text)
            room = max(wide, look.px(64))
            if note:
                p.setPen(look.quiet)
                p.setFont(small)
                room = max(wide, min(look.px(150), QFontMetricsF(small).horizontalAdvance(note)))
                cut = QFontMetricsF(small).elidedText(note, Qt.TextElideMode.ElideRight, room)
                below = QRectF(x, high, room + 2, look.px(18))
                p.drawText(below, Qt.AlignmentFlag.AlignLeft, cut)
            x += (room if note else wide) + look.px(18)
            if x > self.width() - look.px(40):
                return
        p.setPen(QPen(look.quiet, 2))
        for _ in range(max(0, min(MOST - len(shown), state.wanted - len(counted)))):
            p.drawLine(int(x), int(high * 0.62), int(x) + look.px(14), int(high * 0.62))
            x += look.px(32)
