"""The ranking on screen: choose a row by click or arrow keys, open it with Enter."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.app.drawings.ranking import RankingPlaces
from loam.app.presenters.judging import RankingPicture, spoken
from loam.core.trial import Combination
from loam.ui.theme import look
from loam.ui.theme.look import LEAD
from loam.ui.widgets.ranking_painter import draw_ranking


class RankingChart(QWidget):
    """Shows a `RankingPicture`.

    ``row_chosen`` carries hardness and combination; ``row_opened`` too, on Enter or double click.
    """

    row_chosen = pyqtSignal(str, str)
    row_opened = pyqtSignal(str, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("ranking")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("ranking by hardness")
        self.setMouseTracking(True)
        self.picture: RankingPicture | None = None
        self.combinations: dict[str, Combination] = {}
        self.chosen: tuple[str, str] | None = None
        self.waiting = ""
        self.paints: dict[str, str] = {}
        self.layout_drawn = RankingPlaces()
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(900, 420)

    def minimumSizeHint(self) -> QSize:
        return QSize(420, 180)

    def show_ranking(
        self,
        picture: RankingPicture | None,
        combinations: dict[str, Combination],
        waiting: str = "",
        paints: dict[str, str] | None = None,
    ) -> None:
        """Show a ranking, or what is waited for."""
        self.picture, self.combinations, self.waiting = picture, combinations, waiting
        self.paints = paints or {}
        if picture is not None:
            keys = self.keys()
            if self.chosen not in keys:
                self.chosen = keys[-1] if keys else None
                last = picture.columns[-1]
                self.chosen = (last.hardness, last.rows[0].combination)
            self.setAccessibleDescription(spoken(picture))
        self.update()

    def keys(self) -> list[tuple[str, str]]:
        """Return every row, column by column."""
        if self.picture is None:
            return []
        return [(c.hardness, r.combination) for c in self.picture.columns for r in c.rows]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        area = QRectF(0, 0, self.width(), self.height())
        if self.picture is None:
            painter.setPen(look.quiet)
            painter.setFont(look.words(LEAD))
            painter.drawText(
                area, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.waiting
            )
            return
        self.layout_drawn = draw_ranking(
            painter,
            area,
            self.picture,
            self.combinations,
            self.chosen,
            focus=self.hasFocus(),
            paints=self.paints,
        )

    def choose(self, hardness: str, combination: str) -> None:
        """Choose a row."""
        self.chosen = (hardness, combination)
        self.update()
        self.row_chosen.emit(hardness, combination)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        key = self._at(event)
        if key is None or event is None:
            return
        self.choose(*key)
        if self.layout_drawn.figure_at(event.position().x(), event.position().y()) == key:
            self.row_opened.emit(*key)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        where = event.position() if event is not None else None
        over = where is not None and self.layout_drawn.figure_at(where.x(), where.y()) is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        key = self._at(event)
        if key is not None:
            self.row_opened.emit(*key)

    def _at(self, event: QMouseEvent | None) -> tuple[str, str] | None:
        if event is None:
            return None
        return self.layout_drawn.at(event.position().x(), event.position().y())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        keys = self.keys()
        if not keys or self.picture is None:
            super().keyPressEvent(event)
            return
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen:
            self.row_opened.emit(*self.chosen)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._along(-1 if key == Qt.Key.Key_Up else 1)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._across(-1 if key == Qt.Key.Key_Left else 1)
        else:
            super().keyPressEvent(event)

    def _place(self) -> tuple[int, int]:
        assert self.picture is not None
        for i, column in enumerate(self.picture.columns):
            for j, row in enumerate(column.rows):
                if (column.hardness, row.combination) == self.chosen:
                    return i, j
        return 0, 0

    def _along(self, step: int) -> None:
        assert self.picture is not None
        i, j = self._place()
        rows = self.picture.columns[i].rows
        j = min(max(j + step, 0), len(rows) - 1)
        self.choose(self.picture.columns[i].hardness, rows[j].combination)

    def _across(self, step: int) -> None:
        assert self.picture is not None
        i, j = self._place()
        i = min(max(i + step, 0), len(self.picture.columns) - 1)
        column = self.picture.columns[i]
        names = [r.combination for r in column.rows]
        same = self.chosen[1] if self.chosen else ""
        name = same if same in names else names[min(j, len(names) - 1)]
        self.choose(column.hardness, name)
