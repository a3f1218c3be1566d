"""The trial's path: one strip of tape, unrolled as far as the trial has come."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from loam.app.presenters.path import STEPS, PathState
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL, tip
from loam.ui.widgets.tape import paint_tape


def strip_height() -> int:
    """Return the height of the strip at the size of text that was chosen."""
    return look.px(40)


class _Step(QAbstractButton):
    """One step of the path."""

    def __init__(self, key: str, words: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.key, self.here, self.reached = key, False, False
        self.setText(words)
        self.setAccessibleName(f"{words}, key {key}")
        self.setToolTip(tip(f"{words} ({key})"))
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        words = QFontMetrics(look.words(LEAD, bold=True)).horizontalAdvance(self.text())
        key = QFontMetrics(look.words(SMALL)).horizontalAdvance(self.key)
        return QSize(words + key + 34, strip_height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        ink = look.on_tape if self.reached else look.quiet
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        painter.setPen(ink)
        painter.setFont(look.words(SMALL))
        painter.drawText(QRectF(12, 1, 40, strip_height()), flags, self.key)
        x = 12 + painter.fontMetrics().horizontalAdvance(self.key) + 7
        painter.setFont(look.words(LEAD if self.here else BODY + 1, bold=self.here))
        painter.drawText(QRectF(x, 0, self.width() - x, strip_height()), flags, self.text())
        if self.here:
            width = painter.fontMetrics().horizontalAdvance(self.text())
            painter.fillRect(QRectF(12, strip_height() - 7, x - 12 + width, 3), look.strong)


class PathStrip(QWidget):
    """The strip along the upper edge; ``step_chosen`` carries a step's key."""

    step_chosen = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedHeight(strip_height())
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 24, 0)
        row.setSpacing(look.px(12))
        self.steps: dict[str, _Step] = {}
        for i, (key, words) in enumerate(STEPS):
            step = _Step(f"F{i + 2}", words, self)
            step.setObjectName(f"step_{key}")
            step.clicked.connect(lambda _c=False, k=key: self.step_chosen.emit(k))
            row.addWidget(step)
            self.steps[key] = step
        row.addStretch(1)
        self._facts: list[str] = []
        self._reached = 0
        look.changed.connect(self.update)

    def show_state(self, state: PathState, here: str, facts: list[str]) -> None:
        """Show how far the trial has come and where the trainer stands."""
        self._reached, self._facts = state.reached, facts
        for i, (key, step) in enumerate(self.steps.items()):
            step.here = key == here
            step.reached = i < max(state.reached, 1)
            step.update()
        self.setAccessibleDescription(state.advice)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), look.ground)
        reached = list(self.steps.values())[: max(self._reached, 1)]
        end = reached[-1].geometry().right() + 12 if reached else 80
        paint_tape(painter, QRectF(0, 0, end, strip_height() - 2), seed=3, depth=9)
        painter.setPen(look.quiet)
        painter.setFont(look.words(SMALL))
        last = list(self.steps.values())[-1].geometry().right() + 16
        room = QRectF(last, 0, self.width() - last - 24, strip_height() - 2)
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        parts = [p for p in self._facts if p]
        join = "  ·  ".join
        while (
            len(parts) > 1 and painter.fontMetrics().horizontalAdvance(join(parts)) > room.width()
        ):
            parts.pop(0)
        if painter.fontMetrics().horizontalAdvance(join(parts)) <= room.width():
            painter.drawText(room, flags, join(parts))
