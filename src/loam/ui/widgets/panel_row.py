"""All panels of a trial side by side, small: the trial at a glance."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen

from loam.app.drawings.tiles import Tiles, tile
from loam.app.presenters.picture import PanelPicture
from loam.core.trial import Panel
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import SMALL
from loam.ui.widgets.panel_painter import draw_panel

ASPECT = 1.18
MOST_CELLS = 600
"""So many cells are drawn at once; more panels are turned to."""


class PanelRow(Drawing):
    """Small panels, each with its name and class; pages of them when they are many.

    ``panel_chosen`` carries the number of a panel that was clicked, from 0.
    """

    called = "panels of this trial"
    likes = (400, 150)

    panel_chosen = pyqtSignal(int)

    def __init__(self, least: int = 112) -> None:
        super().__init__()
        self._least = least
        self._panels: Sequence[Panel] = ()
        self._face: Callable[[Panel], PanelPicture] | None = None
        self._drawn: dict[int, PanelPicture] = {}
        self.first = 0

    def minimumSizeHint(self) -> QSize:
        return QSize(200, look.px(self._least))

    def show_panels(self, panels: Sequence[Panel], face: Callable[[Panel], PanelPicture]) -> None:
        """Show panels; ``face`` draws up the picture of one when it comes into sight."""
        self._panels, self._face = panels, face
        self._drawn = {}
        self.setAccessibleDescription(", ".join(f"{p.name} {p.hardness}" for p in panels[:200]))
        self.update()

    def turn(self, step: int) -> None:
        """Turn to the page of panels before or after."""
        tiles = self.tiles()
        page = max(len(tiles.boxes), 1)
        if 0 <= tiles.first + step * page < len(self._panels):
            self.first = tiles.first + step * page
            self.update()

    def tiles(self) -> Tiles:
        """Return where the panels lie."""
        foot = look.px(18) if len(self._panels) > 1 else 0
        per = max((p.taping.rows * p.taping.columns for p in self._panels[:50]), default=1)
        most = max(4, MOST_CELLS // per)
        return tile(self.width(), self.height() - foot, len(self._panels), ASPECT, self.first, most)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if not self._panels or self._face is None:
            self._ghost(painter)
            return
        tiles = self.tiles()
        caption = look.px(20)
        for i, box in enumerate(tiles.boxes):
            panel_at = tiles.first + i
            if panel_at not in self._drawn:
                self._drawn[panel_at] = self._face(self._panels[panel_at])
            picture = self._drawn[panel_at]
            area = QRectF(box.x, box.y, box.width, box.height - caption)
            panel = draw_panel(painter, area, picture)
            painter.setPen(look.quiet)
            painter.setFont(look.words(SMALL))
            below = QRectF(box.x, panel.bottom() + 1, box.width, caption)
            said = f"{picture.name}, {picture.hardness}"
            metrics = painter.fontMetrics()
            if metrics.horizontalAdvance(said) > below.width():
                said = metrics.elidedText(
                    picture.name, Qt.TextElideMode.ElideMiddle, int(below.width())
                )
            left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(below.adjusted(max(0.0, panel.left() - box.x), 0, 0, 0), left, said)
        if 0 < len(tiles.boxes) < tiles.count:
            last = tiles.first + len(tiles.boxes)
            said = f"panels {tiles.first + 1} to {last} of {tiles.count}, PgUp and PgDn turn"
            painter.setPen(look.quiet)
            painter.setFont(look.words(SMALL))
            foot = QRectF(0, self.height() - look.px(18), self.width(), look.px(18))
            painter.drawText(foot, Qt.AlignmentFlag.AlignRight, said)

    def _ghost(self, painter: QPainter) -> None:
        """Draw where the first panel will lie."""
        wide = min(260.0, self.width() - 4.0, (self.height() - 4.0) * 1.3)
        if wide < 60:
            return
        area = QRectF(1, 1, wide, wide / 1.3)
        painter.setPen(QPen(look.quiet, 1, Qt.PenStyle.DashLine))
        painter.drawRect(area)
        painter.setFont(look.words(SMALL))
        painter.drawText(
            area,
            int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap),
            "the first panel\n(F4 tapes it)",
        )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            at = self.tiles().at(event.position().x(), event.position().y())
            if at is not None:
                self.panel_chosen.emit(at)
