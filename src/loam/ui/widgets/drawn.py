"""A drawing that can be pressed: one painter for the screen, paper and files."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip

from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import tip


@dataclass(frozen=True)
class Target:
    """A place of a drawing that means something."""

    box: QRectF
    key: str
    told: str = ""


Draw = Callable[[QPainter, QRectF], Sequence[Target]]
Figure = tuple[float, Draw]
"""How high a picture of the report is, and what draws it."""


class Drawn(Drawing):
    """Shows what ``draw`` draws; ``pressed`` and ``opened`` (twice) carry the key of the spot.

    The spot whose key is ``chosen`` is framed, on the screen only.
    """

    likes = (900, 420)

    pressed = pyqtSignal(str)
    opened = pyqtSignal(str)

    def __init__(self, name: str, told: str) -> None:
        super().__init__()
        self.chosen = ""
        self.draw: Draw | None = None
        self.spots: Sequence[Target] = ()
        self.setObjectName(name)
        self.setAccessibleName(told)
        self.setMinimumSize(320, 160)

    def show_drawing(self, draw: Draw | None, told: str = "") -> None:
        """Show another drawing."""
        self.draw = draw
        self.setAccessibleDescription(told)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        self.spots = ()
        if self.draw is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.spots = self.draw(painter, QRectF(0, 0, self.width(), self.height()))
        for spot in self.spots:
            if self.chosen and spot.key == self.chosen:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(look.edge, 3))
                painter.drawRect(spot.box.adjusted(-3, -1, 3, 1))
        painter.end()

    def choose(self, key: str) -> None:
        """Frame the spot with a key; "" frames none."""
        self.chosen = key
        self.update()

    def _at(self, event: QMouseEvent | QHelpEvent) -> Target | None:
        place = event.position() if isinstance(event, QMouseEvent) else event.pos().toPointF()
        return next((s for s in reversed(self.spots) if s.box.contains(place)), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        spot = self._at(event) if event is not None else None
        if (
            spot is not None
            and spot.key
            and event is not None
            and event.button() == Qt.MouseButton.LeftButton
        ):
            self.pressed.emit(spot.key)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        spot = self._at(event) if event is not None else None
        if spot is not None and spot.key:
            self.opened.emit(spot.key)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            spot = self._at(event)
            QToolTip.showText(event.globalPos(), tip(spot.told) if spot else "", self)
            return True
        return super().event(event)
