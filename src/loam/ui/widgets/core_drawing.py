"""A panel's film, handled: layers whose borders are dragged, each with its figure beside it."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent

from loam.app.drawings.core import Band, bands, border_at, dragged
from loam.app.presenters.film import FilmState
from loam.core.film import CLEAR
from loam.core.readings.kind import ReadingKind
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.fields import Field

_FACTS = {"clear": "clear_um", "base": "base_um", "colour": "colour_um", "primer": "primer_um"}
_SPREADS = {"clear": "clear_spread_um", "colour": "colour_spread_um"}
_METAL = 58.0


class CoreDrawing(Drawing):
    """``moved`` carries the name of a layer's fact and the thickness that it was dragged to, µm."""

    called = "the film, layer by layer"
    likes = (560, 480)

    moved = pyqtSignal(str, float)

    def __init__(self, fields: Mapping[str, Field]) -> None:
        super().__init__()
        self.fields = fields
        for field in fields.values():
            field.setParent(self)
        self.state: FilmState | None = None
        self.kind: ReadingKind | None = None
        self.substrate = ""
        self._held: tuple[Band, float] | None = None
        self._by = 0.0
        self.setObjectName("core_drawing")
        self.setMouseTracking(True)
        self.setMinimumSize(300, 240)

    def show_film(self, state: FilmState, kind: ReadingKind, substrate: str) -> None:
        """Show a film."""
        self.state, self.kind, self.substrate = state, kind, substrate or "what it is built on"
        parts = [f"{x.name} {kind.write(x.thickness)} {kind.unit}" for x in state.layers]
        self.setAccessibleDescription(", ".join(parts))
        self._place()

    def bands(self) -> list[Band]:
        """Return where the layers lie, top down."""
        if self.state is None:
            return []
        layers = [(x.name, x.thickness) for x in reversed(self.state.layers)]
        return bands(layers, 30.0, max(self.height() - _METAL - 34.0, 60.0))

    def _width(self) -> float:
        return float(max(160, self.width() - look.px(230)))

    def _place(self) -> None:
        """Put every figure beside its layer."""
        shown = set()
        for band in self.bands():
            field = self.fields[_FACTS[band.name]]
            size = field.sizeHint()
            y = band.top + (band.height - size.height()) / 2
            field.setGeometry(int(self._width()) + 16, max(0, int(y)), look.px(120), size.height())
            shown.add(_FACTS[band.name])
            if band.name in _SPREADS:
                spread = self.fields[_SPREADS[band.name]]
                spread.setGeometry(field.geometry().translated(look.px(108), 0))
                shown.add(_SPREADS[band.name])
        for name, field in self.fields.items():
            field.setVisible(name in shown)
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.state is None:
            return
        band = border_at(self.bands(), event.position().y())
        if band is not None and event.position().x() <= self._width():
            self._held, self._by = (band, event.position().y()), 0.0

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._held is not None:
            self._by = event.position().y() - self._held[1]
            self.update()
            return
        over = border_at(self.bands(), event.position().y()) is not None
        over = over and event.position().x() <= self._width()
        self.setCursor(Qt.CursorShape.SizeVerCursor if over else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        held, self._held = self._held, None
        if held is None or abs(self._by) < 2:
            self.update()
            return
        self.moved.emit(_FACTS[held[0].name], round(self._thickness(held[0]), 1))

    def _thickness(self, band: Band) -> float:
        """Return what a layer would have, as far as it is dragged."""
        assert self.state is not None
        now = next(x.thickness for x in self.state.layers if x.name == band.name)
        return dragged(band, self._by, now)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        state, kind = self.state, self.kind
        if state is None or kind is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = self._width()
        found = self.bands()
        fills = {
            "primer": look.primer,
            "base": look.panel,
            "colour": look.panel,
            "clear": look.clear,
        }
        inks = {
            "primer": look.ink,
            "base": look.on_panel,
            "colour": look.on_panel,
            "clear": look.ink,
        }
        assumed = {x.name: x.assumed for x in state.layers}
        for band in found:
            area = QRectF(0, band.top, width, band.height)
            painter.fillRect(area, fills[band.name])
            if look.lights_out:
                painter.setPen(QPen(look.edge, 1))
                painter.drawLine(area.topLeft(), area.topRight())
            said = f"{band.name}, assumed" if assumed[band.name] else band.name
            ink = look.ink if look.lights_out else inks[band.name]
            self._say(painter, area, said, ink)
        foot = found[-1].bottom if found else 30.0
        metal = QRectF(0, foot, width, _METAL)
        painter.fillRect(metal, look.metal)
        self._say(painter, metal, self.substrate, look.ink)
        if found:
            self._budget(painter, found[0], width)
        if self._held is not None:
            self._drag(painter, width)

    def _say(self, painter: QPainter, area: QRectF, said: str, ink: QColor) -> None:
        painter.setFont(look.words(BODY, bold=True))
        painter.setPen(ink)
        middle = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(area.adjusted(14, 0, -8, 0), middle, said)

    def _budget(self, painter: QPainter, coat: Band, width: float) -> None:
        """Hatch what may go of the coat, and draw the floor."""
        assert self.state is not None
        assert self.kind is not None
        b = self.state.budget
        area = QRectF(width * 0.45, coat.top, width * 0.55, b.may_go * coat.scale)
        painter.save()
        painter.setOpacity(0.5)
        painter.setPen(Qt.PenStyle.NoPen)
        brush = painter.brush()
        brush.setColor(look.care if b.coat == CLEAR else look.on_panel)
        brush.setStyle(Qt.BrushStyle.BDiagPattern)
        painter.setBrush(brush)
        painter.drawRect(area)
        painter.restore()
        ink = look.care if b.coat == CLEAR else look.on_panel  # the colour is dark
        floor = coat.top + max(b.thick - b.floor, 0.0) * coat.scale
        painter.setPen(QPen(ink, 1.8))
        painter.drawLine(QPointF(0, floor), QPointF(width, floor))
        painter.setFont(look.words(SMALL, bold=True))
        may_go = f"{self.kind.write_span(b.may_go)} {self.kind.unit}"
        may_go = may_go if b.may_go > 0.0 else "nothing"
        lines = (
            (f"{may_go} may go", area.bottom() - 20 if b.may_go > 0.0 else coat.top + 4),
            (f"never below {self.kind.write(b.floor)} {self.kind.unit}", floor - 20),
        )
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for said, y in lines:
            if y >= coat.top:
                painter.drawText(QRectF(0, y, width - 8, 18), right, said)

    def _drag(self, painter: QPainter, width: float) -> None:
        """Say what the layer would have while its border is dragged."""
        assert self._held is not None
        assert self.kind is not None
        band, start = self._held
        y = start + self._by
        painter.setPen(QPen(look.strong, 2))
        painter.drawLine(QPointF(0, y), QPointF(width, y))
        said = f"{band.name} {self.kind.write(self._thickness(band))} {self.kind.unit}"
        painter.setFont(look.words(BODY, bold=True))
        box = QRectF(8, y - 26, painter.fontMetrics().horizontalAdvance(said) + 16, 22)
        painter.fillRect(box, look.tape)
        painter.setPen(look.on_tape)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, said)
