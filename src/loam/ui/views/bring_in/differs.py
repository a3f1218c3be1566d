"""What both benches have changed: two slips a row, and the one that holds is taped down."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from loam.store.differs import Differs as Asked
from loam.store.merge import MINE, THEIRS
from loam.ui.paint.words import LEFT
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.fields import words
from loam.ui.widgets.tape import paint_tape

ROW, GAP, HEAD = 62, 10, 30


class Differs(QWidget):
    """Asks which of two changes holds, thing by thing."""

    def __init__(self) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        self.title = words("", "title", wrap=True)
        box.addWidget(self.title)
        self.said = words("", "lead", wrap=True)
        box.addWidget(self.said)
        self.rows = TwoSlips()
        holder = QScrollArea()
        holder.setWidgetResizable(True)
        holder.setWidget(self.rows)
        holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.rows.shown_at = holder.ensureVisible
        box.addWidget(holder, 1)

    def ask(self, name: str, conflicts: Sequence[Asked]) -> None:
        """Ask about what both have changed; what stands here holds until another is chosen."""
        count = len(conflicts)
        things = "one thing" if count == 1 else f"{count} things"
        self.title.setText(f"{name}: {things} changed at both benches")
        self.said.setText(
            "All readings and notes of the file come in either way. Choose what holds of these."
        )
        self.rows.show_rows(conflicts)

    def answers(self) -> dict[str, str]:
        """Return what holds, by register."""
        return dict(self.rows.chosen)

    def all(self, side: str) -> None:
        """Let one side hold for all."""
        self.rows.choose_all(side)


class TwoSlips(QWidget):
    """Rows of two slips of paper: here, and in the file; arrows or a click choose."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("two_slips")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.asked: Sequence[Asked] = ()
        self.chosen: dict[str, str] = {}
        self.at = 0
        self.shown_at: Callable[[int, int], None] = lambda _x, _y: None
        look.changed.connect(self._sized)

    def show_rows(self, asked: Sequence[Asked]) -> None:
        """Show what is asked."""
        self.asked, self.at = tuple(asked), 0
        self.chosen = {a.key: MINE for a in asked}
        self._sized()

    def _sized(self) -> None:
        self.setMinimumHeight(self.sizeHint().height())
        self._speak()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, look.px(HEAD) + len(self.asked) * (look.px(ROW) + GAP) + GAP)

    def choose_all(self, side: str) -> None:
        """Let one side hold for all."""
        self.chosen = {a.key: side for a in self.asked}
        self._speak()
        self.update()

    def _choose(self, at: int, side: str) -> None:
        if 0 <= at < len(self.asked):
            self.at = at
            self.chosen[self.asked[at].key] = side
            self._speak()
            self.shown_at(0, int(self._row(at).center().y()))
            self.update()

    def _speak(self) -> None:
        """Tell assistive readers where the choice stands."""
        if not self.asked:
            return
        one = self.asked[self.at]
        side = "here" if self.chosen[one.key] == MINE else "in the file"
        value = one.mine if self.chosen[one.key] == MINE else one.theirs
        self.setAccessibleName(f"{one.what}: as {side}, {value}")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key, side = event.key(), self.chosen.get(self.asked[self.at].key if self.asked else "", "")
        if key == Qt.Key.Key_Left:
            self._choose(self.at, MINE)
        elif key == Qt.Key.Key_Right:
            self._choose(self.at, THEIRS)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 1 if key == Qt.Key.Key_Down else -1
            at = min(max(self.at + step, 0), len(self.asked) - 1)
            self._choose(at, self.chosen.get(self.asked[at].key, side))
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for at in range(len(self.asked)):
            for side in (MINE, THEIRS):
                if self._slip(at, side).contains(event.position()):
                    self.setFocus()
                    self._choose(at, side)

    def _row(self, at: int) -> QRectF:
        top = look.px(HEAD) + at * (look.px(ROW) + GAP)
        return QRectF(0, top, self.width() - 12.0, look.px(ROW))

    def _slip(self, at: int, side: str) -> QRectF:
        row = self._row(at)
        what = 0.28 * row.width()
        half = 0.5 * (row.width() - what - 2 * GAP)
        x = what + GAP if side == MINE else what + 2 * GAP + half
        return QRectF(x, row.top(), half, row.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.asked:
            return
        painter.setFont(look.words(SMALL, bold=True))
        painter.setPen(look.quiet)
        for side, head in ((MINE, "here"), (THEIRS, "in the file")):
            area = self._slip(0, side)
            painter.drawText(QRectF(area.x() + 12, 0, area.width(), look.px(HEAD)), LEFT, head)
        for at, one in enumerate(self.asked):
            row = self._row(at)
            painter.setFont(look.words(BODY, bold=at == self.at))
            painter.setPen(look.ink)
            what = QRectF(0, row.top(), 0.28 * row.width() - 4, row.height())
            flags = LEFT | Qt.TextFlag.TextWordWrap
            painter.drawText(what, flags, one.what[:1].upper() + one.what[1:])
            for side, said in ((MINE, one.mine), (THEIRS, one.theirs)):
                self._paint_slip(painter, at, side, said)

    def _paint_slip(self, painter: QPainter, at: int, side: str, said: str) -> None:
        area, held = self._slip(at, side), self.chosen[self.asked[at].key] == side
        painter.setPen(QPen(look.line, 1))
        painter.setBrush(look.sheet)
        painter.drawRect(area)
        inner = area.adjusted(14, 6, -10, -6)
        font = look.words(BODY, bold=held)
        font.setStrikeOut(not held)
        painter.setFont(font)
        painter.setPen(look.ink if held else look.quiet)
        text = QFontMetrics(painter.font()).elidedText(
            said, Qt.TextElideMode.ElideRight, int(1.8 * inner.width())
        )
        painter.drawText(inner, LEFT | Qt.TextFlag.TextWordWrap, text)
        if held:  # taped down at its upper corners
            for x in (area.left() - 8, area.right() - 34):
                paint_tape(painter, QRectF(x, area.top() - 6, 42, 14), seed=at + int(x))
        if held and at == self.at and self.hasFocus():
            painter.setPen(QPen(look.strong, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(area)
