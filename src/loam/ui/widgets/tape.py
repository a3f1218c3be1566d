"""Masking tape: it marks where you are, what belongs together, and what you can press."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL, tip


def _wobble(seed: int, i: int) -> float:
    """Return a repeatable number in -1..1 for the shape of a tear."""
    x = math.sin((seed * 131 + i * 71 + 17) * 12.9898) * 43758.5453
    return 2.0 * (x - math.floor(x)) - 1.0


def tape_shape(
    rect: QRectF, *, seed: int = 1, torn: str = "right", depth: float = 5.0
) -> QPolygonF:
    """Return the outline of a piece of tape whose ``torn`` side is ragged."""
    cut = _cut(rect.width(), rect.height(), seed, torn, depth)
    return cut.translated(rect.topLeft())


@lru_cache(512)
def _cut(width: float, height: float, seed: int, torn: str, depth: float) -> QPolygonF:
    rect = QRectF(0.0, 0.0, width, height)
    points = [rect.topLeft()]
    steps = max(4, int((rect.height() if torn in ("left", "right") else rect.width()) / 5))
    if torn == "right":
        for i in range(steps + 1):
            y = rect.top() + rect.height() * i / steps
            points.append(QPointF(rect.right() - depth * (1 + _wobble(seed, i)) / 2, y))
        points.append(rect.bottomLeft())
    elif torn == "bottom":
        points.append(rect.topRight())
        for i in range(steps + 1):
            x = rect.right() - rect.width() * i / steps
            points.append(QPointF(x, rect.bottom() - depth * (1 + _wobble(seed, i)) / 2))
    else:
        points += [rect.topRight(), rect.bottomRight(), rect.bottomLeft()]
    return QPolygonF(points)


def paint_tape(
    painter: QPainter,
    rect: QRectF,
    *,
    seed: int = 1,
    torn: str = "right",
    depth: float = 5.0,
    fill: QColor | None = None,
) -> None:
    """Paint a piece of tape with its paper grain."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    shape = tape_shape(rect, seed=seed, torn=torn, depth=depth)
    outline = QPen(look.edge, 1) if look.lights_out and fill is None else Qt.PenStyle.NoPen
    painter.setPen(outline)
    painter.setBrush(fill or look.tape)
    painter.drawPolygon(shape)
    painter.setPen(QPen(look.tape_grain, 1))
    count = int(rect.width() * rect.height() / 900)
    for i in range(min(count, 160)):
        x = rect.left() + (0.5 + 0.5 * _wobble(seed + 5, i)) * max(0.0, rect.width() - 24)
        y = rect.top() + (0.5 + 0.5 * _wobble(seed + 9, i)) * rect.height()
        length = 5 + 4 * _wobble(seed + 13, i)
        if rect.top() + 1 < y < rect.bottom() - 2:
            painter.drawLine(QPointF(x, y), QPointF(x + length, y))
    painter.restore()


class TapeKey(QAbstractButton):
    """A piece of tape that can be pressed: a key, and what it does."""

    def __init__(self, key: str, words: str, parent: QWidget | None = None, *, main: bool = False):
        super().__init__(parent)
        self.key, self.words, self.main = key, words, main
        self.setText(words)
        self.setAccessibleName(f"{words}, key {key}" if key else words)
        self.setToolTip(tip(f"{words} ({key})" if key else words))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus if main else Qt.FocusPolicy.NoFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.update)

    def set_words(self, words: str) -> None:
        """Change what it says."""
        self.words = words
        self.setText(words)
        self.setAccessibleName(f"{words}, key {self.key}" if self.key else words)
        self.updateGeometry()
        self.update()

    def _widths(self) -> tuple[int, int]:
        from PyQt6.QtGui import QFontMetrics

        key = QFontMetrics(look.words(SMALL, bold=True)).horizontalAdvance(self.key)
        words = QFontMetrics(look.words(BODY, bold=self.main)).horizontalAdvance(self.words)
        return key, words

    def sizeHint(self) -> QSize:
        key, words = self._widths()
        if self.main:
            return QSize(key + words + (44 if self.key else 34), look.px(34))
        return QSize(key + 22 + words + 8, look.px(28))

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        key, _ = self._widths()
        left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        enabled = self.isEnabled()
        if self.main:
            area = QRectF(0, 0, self.width(), self.height())
            paint_tape(painter, area, seed=len(self.words), fill=None if enabled else look.band)
            painter.setPen(look.on_tape if enabled else look.quiet)
            x = 12.0
            if self.key:
                painter.setFont(look.words(SMALL, bold=True))
                painter.drawText(QRectF(x, 0, key + 2, self.height()), left, self.key)
                x += key + 10
            painter.setFont(look.words(BODY, bold=True))
            painter.drawText(QRectF(x, 0, self.width() - x, self.height()), left, self.words)
        else:
            tape = QRectF(0, 2, key + 18, self.height() - 4)
            paint_tape(painter, tape, seed=len(self.words) + len(self.key))
            painter.setPen(look.on_tape)
            painter.setFont(look.words(SMALL, bold=True))
            painter.drawText(tape.adjusted(7, 0, 0, 0), left, self.key)
            painter.setPen(look.ink if enabled else look.quiet)
            painter.setFont(look.words(BODY))
            painter.drawText(
                QRectF(tape.right() + 4, 0, self.width(), self.height()), left, self.words
            )
        if self.hasFocus():
            painter.setPen(QPen(look.strong, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(1, 1, self.width() - 2, self.height() - 2))


class KeyStrip(QWidget):
    """The keys that work in the view at hand, along the lower edge."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("ground")
        self.setFixedHeight(look.px(28) + 16)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(24, 4, 24, 8)
        self._row.setSpacing(20)
        self.buttons: list[TapeKey] = []
        self._acts: list[object] = []

    def show_keys(self, keys: Sequence[tuple[str, str, object]]) -> None:
        """Show (key, words, slot) each; the slot may be None where the key works by itself."""
        self._acts = [slot for _, _, slot in keys]
        if [b.key for b in self.buttons] == [key for key, _, _ in keys]:
            changed = [
                (b, w) for b, (_, w, _) in zip(self.buttons, keys, strict=True) if b.words != w
            ]
            for button, words in changed:
                button.set_words(words)
            if changed:
                self._fit()
            return
        while self._row.count():
            item = self._row.takeAt(0)
            widget = item.widget() if item else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.buttons = []
        for i, (key, words, _) in enumerate(keys):
            button = TapeKey(key, words, self)
            button.clicked.connect(lambda _checked=False, at=i: self._press(at))
            self._row.addWidget(button)
            self.buttons.append(button)
        self._row.addStretch(1)
        self._fit()

    def _press(self, at: int) -> None:
        act = self._acts[at]
        if callable(act):
            act()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """Show as many keys as fit uncut; the last, which lists them all, always."""
        if not self.buttons:
            return
        margins = self._row.contentsMargins()
        room = self.width() - margins.left() - margins.right()
        room -= self.buttons[-1].sizeHint().width()
        for button in self.buttons[:-1]:
            room -= button.sizeHint().width() + self._row.spacing()
            button.setVisible(room >= 0)
