"""All panels of a trial side by side, small: the trial at a glance."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.app.presenters.picture import PanelPicture
from loam.ui.theme import look
from loam.ui.theme.look import SMALL
from loam.ui.widgets.panel_painter import draw_panel


class PanelRow(QWidget):
    """Up to eight small panels in a row, each with its name and class."""

    MOST = 8

    def __init__(self) -> None:
        super().__init__()
        self.pictures: list[PanelPicture] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("panels of this trial")
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(400, 150)

    def minimumSizeHint(self) -> QSize:
        return QSize(200, 0)

    def show_pictures(self, pictures: list[PanelPicture]) -> None:
        """Show panels."""
        self.pictures = pictures[: self.MOST]
        said = ", ".join(f"{p.name} {p.hardness}" for p in pictures)
        self.setAccessibleDescription(said)
        self.update()

    def _grid(self, lines: int, count: int) -> tuple[int, float, float]:
        """Return columns, and width and height of one place, for so many lines."""
        columns = -(-count // lines)
        height = self.height() / lines
        return columns, min((self.width() + 12.0) / columns, (height - 28) * 1.4 + 12), height

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self.pictures or self.height() < 70:
            return
        painter = QPainter(self)
        count = len(self.pictures)
        columns, width, height = max(
            (self._grid(lines, count) for lines in (1, 2)), key=lambda grid: grid[1]
        )
        for i, picture in enumerate(self.pictures):
            x, y = (i % columns) * width, (i // columns) * height
            area = QRectF(x, y, width - 12, height - 28)
            panel = draw_panel(painter, area, picture)
            painter.setPen(look.quiet)
            painter.setFont(look.words(SMALL))
            below = QRectF(panel.left(), panel.bottom() + 2, panel.width(), 18)
            said = f"{picture.name}, {picture.hardness}"
            metrics = painter.fontMetrics()
            if metrics.horizontalAdvance(said) > below.width():
                said = metrics.elidedText(
                    picture.name, Qt.TextElideMode.ElideRight, int(below.width())
                )
            painter.drawText(
                below, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, said
            )
