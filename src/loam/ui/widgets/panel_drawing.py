"""The panel on screen: one widget wherever a panel is looked at, chosen from, worked on."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from loam.app.drawings import Rect
from loam.app.drawings.panel import (
    face_at,
    face_beside,
    face_box,
    panel_box,
    place_on,
    zone_between,
)
from loam.app.presenters.picture import PanelPicture
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.panel_painter import draw_panel

LEAST_ZONE_MM = 8.0
_ARROWS = {
    Qt.Key.Key_Left: (0, -1),
    Qt.Key.Key_Right: (0, 1),
    Qt.Key.Key_Up: (-1, 0),
    Qt.Key.Key_Down: (1, 0),
}


class PanelDrawing(Drawing):
    """A panel to scale; ``cell_chosen`` carries the id of a cell that was clicked or moved to.

    ``swapped`` carries two cells: one was dragged onto the other, or moved there by Shift and an
    arrow; only where ``swaps`` is set. ``spot_chosen`` carries the place on the panel, mm, that was
    clicked; only where ``surveys`` is set. Where ``zones`` is set, ``zone_drawn`` carries a
    rectangle that was dragged (left, top, width, height, mm) and ``zone_clicked`` the number of
    one that is kept free.
    """

    called = "panel"
    likes = (560, 420)

    cell_chosen = pyqtSignal(int)
    swapped = pyqtSignal(int, int)
    spot_chosen = pyqtSignal(float, float)
    zone_drawn = pyqtSignal(float, float, float, float)
    zone_clicked = pyqtSignal(int)

    def __init__(self, parent: QWidget | None = None, *, caption: bool = True) -> None:
        super().__init__(parent)
        self.picture: PanelPicture | None = None
        self.chosen: int | None = None
        self.aperture = self.swaps = self.surveys = self.zones = False
        self._corners: tuple[tuple[float, float], tuple[float, float]] | None = None
        self.photo: QImage | None = None
        self._held: int | None = None
        self.caption = caption
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(150, 110)

    def show_picture(self, picture: PanelPicture | None, chosen: int | None = None) -> None:
        """Show a panel and the cell that is looked at."""
        self.picture, self.chosen = picture, chosen
        if picture is not None:
            face = picture.face(chosen)
            said = f"panel {picture.name}, {picture.ground}"
            self.setAccessibleName(said)
            self.setAccessibleDescription(face.spoken if face else "")
        self.update()

    def _area(self) -> QRectF:
        return QRectF(0, 0, self.width(), self.height() - (24 if self.caption else 0))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.picture is None:
            return
        painter = QPainter(self)
        panel = draw_panel(
            painter,
            self._area().adjusted(1, 1, -1, -1),
            self.picture,
            self.chosen,
            focus=self.hasFocus(),
            aperture=self.aperture,
            photo=self.photo,
        )
        if self._corners is not None:
            self._draw_zone(painter)
        if not self.caption:
            return
        below = QRectF(panel.left(), panel.bottom() + 4, panel.width(), 20)
        painter.setPen(look.ink)
        painter.setFont(look.words(BODY, bold=True))
        flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(below, flags, self.picture.name)
        used = painter.fontMetrics().horizontalAdvance(self.picture.name) + 8
        painter.setPen(look.quiet)
        painter.setFont(look.words(SMALL))
        t = self.picture.taping
        words = f"{self.picture.ground} · {t.width_mm:g} × {t.height_mm:g} mm"
        if self.picture.paint:
            words = f"{self.picture.paint}, {words}"
        rest = below.adjusted(used, 0, 0, 0)
        words = painter.fontMetrics().elidedText(
            words, Qt.TextElideMode.ElideRight, int(rest.width())
        )
        painter.drawText(rest, flags, words)

    def _panel(self) -> Rect:
        area = self._area().adjusted(1, 1, -1, -1)
        assert self.picture is not None
        return panel_box(Rect(area.x(), area.y(), area.width(), area.height()), self.picture)

    def cell_at(self, x: float, y: float) -> int | None:
        """Return the id of the cell under a point of the widget."""
        if self.picture is None:
            return None
        face = face_at(self._panel(), self.picture, x, y)
        return face.cell_id if face is not None else None

    def centre_of(self, cell_id: int) -> tuple[int, int]:
        """Return the middle of a cell in the widget, for pointing at it."""
        assert self.picture is not None
        face = self.picture.face(cell_id)
        assert face is not None
        x, y = face_box(self._panel(), self.picture, face).middle
        return round(x), round(y)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        x, y = event.position().x(), event.position().y()
        if self.surveys and self.picture is not None:
            if self._panel().holds(x, y):
                self.spot_chosen.emit(*place_on(self._panel(), self.picture, x, y))
            return
        if self.zones and self.picture is not None:
            if self._panel().holds(x, y):
                start = place_on(self._panel(), self.picture, x, y)
                self._corners = (start, start)
            return
        cell = self.cell_at(event.position().x(), event.position().y())
        if cell is not None and cell > 0:
            self._held = cell if self.swaps else None
            self.cell_chosen.emit(cell)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._corners is not None and self.picture is not None:
            at = event.position()
            now = place_on(self._panel(), self.picture, at.x(), at.y())
            self._corners = (self._corners[0], now)
            self.update()
            return
        if event is None or self._held is None:
            return
        over = self.cell_at(event.position().x(), event.position().y())
        dragged = over is not None and over != self._held
        self.setCursor(Qt.CursorShape.ClosedHandCursor if dragged else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        held, self._held = self._held, None
        corners, self._corners = self._corners, None
        if corners is not None:
            self._zone(*corners)
        self.unsetCursor()
        if event is None or held is None:
            return
        over = self.cell_at(event.position().x(), event.position().y())
        if over is not None and over > 0 and over != held:
            self.swapped.emit(held, over)

    def _zone(self, a: tuple[float, float], b: tuple[float, float]) -> None:
        """Tell of a rectangle that was dragged, or of a click on one that is kept free."""
        self.update()
        assert self.picture is not None
        x, y, width, height = zone_between(a, b)
        if min(width, height) >= LEAST_ZONE_MM:
            self.zone_drawn.emit(x, y, width, height)
            return
        for number, zone in enumerate(self.picture.outline.keep_out):
            if zone.holds(*a):
                self.zone_clicked.emit(number)
                return

    def _draw_zone(self, painter: QPainter) -> None:
        """Draw the rectangle that is being dragged."""
        assert self.picture is not None
        assert self._corners is not None
        panel = self._panel()
        scale = panel.width / self.picture.taping.width_mm
        x, y, width, height = zone_between(*self._corners)
        painter.setPen(QPen(look.strong, 2, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(
            QRectF(panel.x + x * scale, panel.y + y * scale, width * scale, height * scale)
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        move = _ARROWS.get(Qt.Key(event.key()))
        plain = event.modifiers() in (
            Qt.KeyboardModifier.NoModifier,
            Qt.KeyboardModifier.KeypadModifier,
        )
        shift = self.swaps and event.modifiers() == Qt.KeyboardModifier.ShiftModifier
        if move is None or self.picture is None or not (plain or shift):
            super().keyPressEvent(event)
            return
        face = self.picture.face(self.chosen)
        if face is None:
            self.cell_chosen.emit(self.picture.faces[0].cell_id)
            return
        beside = face_beside(self.picture, face, *move)
        if beside is not None and shift:
            self.swapped.emit(face.cell_id, beside.cell_id)
        elif beside is not None:
            self.cell_chosen.emit(beside.cell_id)
