"""The panels of a trial, small, with the cells lit whose results are doubted."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from loam.app.presenters.picture import PanelPicture
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT
from loam.ui.theme import look
from loam.ui.widgets.panel_painter import draw_panel, face_rect, panel_rect

MOST = 12


class DoubtPanels(Drawing):
    """Draws up to twelve panels side by side, the cells of one doubt framed."""

    likes = (900, 300)

    def __init__(self) -> None:
        super().__init__()
        self.pictures: Sequence[PanelPicture] = ()
        self.cells: frozenset[int] = frozenset()
        self.left: Mapping[int, float] = {}
        self.setObjectName("doubt_panels")
        self.setMinimumSize(300, 120)

    def show_cells(
        self,
        pictures: Sequence[PanelPicture],
        cells: frozenset[int],
        left: Mapping[int, float] | None = None,
    ) -> None:
        """Show the panels, those with doubted cells first, and frame these.

        ``left`` is what the model leaves over in each cell: a disc where it is better than its
        combination and its panel say, a ring where it is worse, as large as it is far.
        """
        self.left = left or {}
        ranked = sorted(pictures, key=lambda p: not any(f.cell_id in cells for f in p.faces))
        self.pictures, self.cells = ranked[:MOST], cells
        count = sum(f.cell_id in cells for p in pictures for f in p.faces)
        self.setAccessibleName(f"{count} cells are concerned")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self.pictures:
            return
        self.paint(QPainter(self), QRectF(0, 0, self.width(), self.height()))

    def paint(self, painter: QPainter, room: QRectF) -> None:
        """Draw the panels."""
        columns = min(len(self.pictures), 4)
        rows = math.ceil(len(self.pictures) / columns)
        wide, high = room.width() / columns, room.height() / rows
        for i, picture in enumerate(self.pictures):
            left, top = room.left() + i % columns * wide, room.top() + i // columns * high
            box = QRectF(left, top, wide - 16, high - 10)
            name = QRectF(box.left(), box.top(), box.width(), look.px(20))
            painter.setPen(look.ink)
            painter.setFont(look.words(13, bold=True))
            painter.drawText(name, LEFT, f"{picture.name}, {picture.hardness}")
            area = box.adjusted(0, look.px(22), 0, 0)
            quiet = tuple(
                replace(f, quiet=f.cell_id not in self.cells, combination=None)
                for f in picture.faces
            )
            shown = replace(picture, faces=quiet)
            draw_panel(painter, area, shown)
            panel = panel_rect(area, shown)
            painter.setPen(QPen(look.edge, 3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for face in shown.faces:
                place = face_rect(panel, shown, face)
                if face.cell_id in self.left:
                    _residual(painter, place, self.left[face.cell_id])
                if face.cell_id in self.cells:
                    painter.setPen(QPen(look.edge, 3))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawRect(place.adjusted(1, 1, -1, -1))


def _residual(painter: QPainter, place: QRectF, left: float) -> None:
    size = min(place.width(), place.height()) * 0.5 * min(abs(left) / 3.0, 1.0)
    painter.setPen(QPen(look.on_panel, 1.6))
    painter.setBrush(look.on_panel if left > 0 else Qt.BrushStyle.NoBrush)
    painter.drawEllipse(place.center(), size * 0.9, size * 0.9)
