"""A card for each thing to check: what it is, what shows it, what to do, a picture, a switch."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from loam.app.doubting import DoubtSaid
from loam.core.doubts.values import MASKING, SLIP, START
from loam.ui.paint.words import MIDDLE
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL, tip
from loam.ui.views.judge.doubts.figures import DoubtFigure, Shown
from loam.ui.widgets.fields import unbroken, words
from loam.ui.widgets.tape import paint_tape

WIDE = 400


def states_of(said: DoubtSaid) -> tuple[str, ...]:
    """Return what a doubt's switch shows: as it is, and once it is taken into account."""
    if said.doubt.kind == MASKING:
        return ("ranked on what stays",)
    if said.doubt.kind == START:
        return ("levelled to one start",)
    if said.doubt.kind == SLIP:
        return ("it counts", "struck")
    return ("as read", "corrected") if said.doubt.slope else ("they count", "left out")


class Switch(QAbstractButton):
    """Its states side by side, tape over the one that holds; pressed, it turns."""

    def __init__(self, number: int, states: tuple[str, ...], at: int) -> None:
        super().__init__()
        self.number, self.states, self.at = number, states, at
        self.setObjectName(f"doubt_{number}")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        other = f"; {number} turns to: {states[1 - at]}" if len(states) > 1 else ""
        self.setAccessibleName(f"{states[at]}{other}")
        self.setToolTip(tip(self.accessibleName()))
        look.changed.connect(self.update)

    @property
    def words(self) -> str:
        """The state that holds."""
        return self.states[self.at]

    def _wide(self) -> list[float]:
        return [look.width(s, BODY, bold=True) + 26.0 for s in self.states]

    def sizeHint(self) -> QSize:
        cap = look.width(str(self.number), SMALL, bold=True) + 24 if len(self.states) > 1 else 0
        return QSize(int(cap + sum(self._wide()) + 8 * len(self.states)), look.px(30))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        high, x = float(self.height() - 2), 0.0
        if len(self.states) > 1:
            cap = look.width(str(self.number), SMALL, bold=True) + 16.0
            p.setPen(look.quiet)
            p.setFont(look.words(SMALL, bold=True))
            p.drawText(QRectF(0, 0, cap, high), MIDDLE, str(self.number))
            x = cap + 4
        for i, (state, wide) in enumerate(zip(self.states, self._wide(), strict=True)):
            box = QRectF(x, 1, wide, high - 1)
            holds = i == self.at
            if holds:
                paint_tape(p, box, seed=3 + i, torn="right", depth=4)
            else:
                p.setPen(QPen(look.line, 1))
                p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
            p.setPen(look.on_tape if holds else look.quiet)
            p.setFont(look.words(BODY, bold=holds))
            p.drawText(box, MIDDLE, state)
            x += wide + 6


class CheckCard(QWidget):
    """One thing to check; ``pressed`` turns its switch, ``chosen`` takes the cursor to it."""

    pressed = pyqtSignal()
    chosen = pyqtSignal()

    def __init__(self, told: tuple[str, str, str], key: Switch, figure: QWidget) -> None:
        """``told``: what it is, what shows it, what to do."""
        super().__init__()
        self.current = False
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 10, 14, 10)
        row.setSpacing(20)
        told_in = QWidget()
        told_in.setFixedWidth(look.wide(WIDE))
        text = QVBoxLayout(told_in)
        text.setContentsMargins(0, 0, 0, 0)
        text.setSpacing(3)
        for said, role in zip(told, ("head", "small", ""), strict=True):
            text.addWidget(words(unbroken(said), role, wrap=True))
        text.addStretch(1)
        self.key, self.figure = key, figure
        self.key.clicked.connect(self.pressed.emit)
        text.addWidget(self.key)
        row.addWidget(told_in)
        row.addWidget(self.figure, 1)
        self.setMinimumHeight(look.px(168))
        self.setMaximumHeight(look.px(230))
        self.setAccessibleName(" ".join(told))

    def set_current(self, current: bool) -> None:
        """Frame the card that the cursor is on."""
        self.current = current
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.chosen.emit()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), look.sheet)
        if self.current:
            p.setPen(QPen(look.strong, 2))
            p.drawRect(self.rect().adjusted(1, 1, -1, -1))


def doubt_card(number: int, shown: Shown, at: int) -> CheckCard:
    """Make the card of a doubt about the readings."""
    said = shown.said
    todo = " ".join(filter(None, (said.effect, said.advice)))
    if said.doubt.kind in (MASKING, START):
        todo = said.advice
    key = Switch(number, states_of(said), at)
    return CheckCard((said.head, said.evidence, todo), key, DoubtFigure(shown))
