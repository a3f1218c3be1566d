"""A panel's film as a core sample: layers to scale, what may go hatched, the floor a line."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from loam.app.presenters.film import FilmState
from loam.core.film import CLEAR
from loam.core.readings.kind import ReadingKind
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL

METAL = 16.0
HEAD = 34


class CoreSample(Drawing):
    """Strata from the substrate up; words beside each say its thickness and whose figure it is."""

    called = "core sample of the film"
    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.state: FilmState | None = None
        self.kind: ReadingKind | None = None
        self.substrate = ""
        self.setObjectName("core_sample")

    def sizeHint(self) -> QSize:
        return QSize(240, look.px(230))

    def show_film(self, state: FilmState, kind: ReadingKind, substrate: str) -> None:
        """Show a film."""
        self.state, self.kind, self.substrate = state, kind, substrate or "panel"
        parts = [
            f"{layer.name} {kind.write(layer.thickness)} {kind.unit}" for layer in state.layers
        ]
        self.setAccessibleDescription(f"{', '.join(parts)}. {state.budget_said}")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        state, kind = self.state, self.kind
        if state is None or kind is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = self.width() * 0.46
        head = float(look.px(HEAD))
        total = sum(layer.thickness for layer in state.layers) or 1.0
        scale = (self.height() - METAL - 4.0 - head) / total
        y = self.height() - METAL - 1.0
        painter.fillRect(QRectF(0, y, width, METAL), look.metal)
        self._say(painter, width, y, METAL, self.substrate, quiet=True)
        fills = {
            "primer": look.primer,
            "base": look.panel,
            "colour": look.panel,
            "clear": look.clear,
        }
        taken = [y + METAL / 2]
        for layer in state.layers:
            high = layer.thickness * scale
            y -= high
            taken.append(y + high / 2)
            painter.fillRect(QRectF(0, y, width, high), fills[layer.name])
            if look.lights_out:  # the fills alone give too little light to be told apart
                painter.setPen(QPen(look.edge, 1))
                painter.drawLine(QPointF(0, y), QPointF(width, y))
            mark = " assumed" if layer.assumed else ""
            said = f"{layer.name} {kind.write(layer.thickness)} {kind.unit}{mark}"
            self._say(painter, width, y, high, said, quiet=layer.assumed)
        self._paint_budget(painter, width, y, scale, taken)
        self._may_go(painter, head)
        painter.end()

    def _may_go(self, painter: QPainter, head: float) -> None:
        """Write large how much may go: it is what the sample is looked at for."""
        assert self.state is not None
        assert self.kind is not None
        b = self.state.budget
        said = f"{self.kind.write(b.may_go)} {self.kind.unit} may go"
        painter.setPen(look.care if b.may_go <= 0.0 else look.ink)
        painter.setFont(look.figures(LEAD + 2, bold=True))
        row = QRectF(0, 0, self.width(), head - 6)
        if painter.fontMetrics().horizontalAdvance(said) > row.width():
            painter.setFont(look.figures(BODY, bold=True))
        painter.drawText(row, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, said)

    def _paint_budget(
        self, painter: QPainter, width: float, top: float, scale: float, taken: list[float]
    ) -> None:
        """Hatch what may go, and draw the floor that the coat is never taken below.

        Both are named where they stand, unless words of a layer do (``taken``: their middles).
        """
        assert self.state is not None
        assert self.kind is not None
        b = self.state.budget
        painter.setPen(Qt.PenStyle.NoPen)
        ink = look.care if b.coat == CLEAR else look.on_panel  # the colour is dark
        painter.setBrush(ink)
        painter.setOpacity(0.45)
        brush = painter.brush()
        brush.setStyle(Qt.BrushStyle.BDiagPattern)
        painter.setBrush(brush)
        painter.drawRect(QRectF(0, top, width, b.may_go * scale))
        painter.setOpacity(1.0)
        floor = top + max(b.thick - b.floor, 0.0) * scale
        painter.setPen(QPen(ink, 1.6))
        painter.drawLine(QPointF(0, floor), QPointF(width + 8, floor))
        apart = look.px(17)
        if all(abs(floor - at) >= apart for at in taken):
            said = f"never below {self.kind.write(b.floor)} {self.kind.unit}"
            self._say(painter, width, floor - apart / 2, apart, said, quiet=True)
        if b.may_go * scale >= apart:
            painter.setFont(look.words(SMALL, bold=True))
            wide = painter.fontMetrics().horizontalAdvance("may go") + 8.0
            tag = QRectF((width - wide) / 2, top + (b.may_go * scale - apart) / 2, wide, apart)
            painter.fillRect(tag, look.clear if b.coat == CLEAR else look.panel)
            painter.setPen(look.ink if b.coat == CLEAR else look.on_panel)
            painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, "may go")

    def _say(
        self, painter: QPainter, left: float, top: float, high: float, said: str, *, quiet: bool
    ) -> None:
        painter.setPen(look.quiet if quiet else look.ink)
        painter.setFont(look.words(SMALL))
        room = QRectF(left + 12, top + high / 2 - 10, self.width() - left - 12, 20)
        painter.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, said)
