"""The side sheet: one combination on one hardness, in detail."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from loam.app.presenters.judging import chance_words, figures, kp_words, reflected, standing_lines
from loam.app.presenters.ranking import RankingPicture
from loam.app.reflection import Light
from loam.core.trial import Combination
from loam.ui.theme import look
from loam.ui.theme.look import SMALL
from loam.ui.widgets.fields import FigureButton, words
from loam.ui.widgets.mark_picture import MarkPicture
from loam.ui.widgets.ranking_painter import draw_reflection
from loam.ui.widgets.tape import TapeKey

_LINE, _TAKEN = 20, 430


class LampPicture(QWidget):
    """What the cell reflects, drawn from its readings."""

    def __init__(self) -> None:
        super().__init__()
        self.light = Light()
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("what the cell reflects, drawn from its readings")
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(88, 88)

    def show_light(self, light: Light) -> None:
        """Show another."""
        self.light = light
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        draw_reflection(QPainter(self), QRectF(0, 0, self.width(), self.height()), self.light)


class DetailSheet(QWidget):
    """Shows how a combination stands; ``open_figure`` is called with a measurand's key."""

    def __init__(self, open_figure: Callable[[str], None], open_origin: Callable[[], None]) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(look.wide(310))
        self._open_figure = open_figure
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 12, 18, 12)
        box.setSpacing(5)
        self.title = words("", "head", wrap=True)
        box.addWidget(self.title)
        self.what = words("", "quiet", wrap=True)
        box.addWidget(self.what)
        seen = QHBoxLayout()
        seen.setSpacing(12)
        self.lamp = LampPicture()
        seen.addWidget(self.lamp)
        beside = QVBoxLayout()
        self.mark = MarkPicture(19, told=False)
        beside.addWidget(self.mark)
        self.drawn = words("drawn, not a photograph", "small", wrap=True)
        beside.addWidget(self.drawn)
        beside.addStretch(1)
        seen.addLayout(beside, 1)
        box.addLayout(seen)
        self.figure_grid = QGridLayout()
        self.figure_grid.setHorizontalSpacing(8)
        self.figure_grid.setVerticalSpacing(3)
        box.addLayout(self.figure_grid)
        self.chance = words("", "quiet", wrap=True)
        box.addWidget(self.chance)
        self.against = QGridLayout()
        self.against.setHorizontalSpacing(8)
        self.against.setVerticalSpacing(1)
        box.addLayout(self.against)
        box.addStretch(1)
        self.behind = TapeKey("Enter", "readings behind it", main=True)
        self.behind.setObjectName("readings_behind")
        self.behind.clicked.connect(open_origin)
        box.addWidget(self.behind)

    def show_standing(
        self,
        rankings: Mapping[str, RankingPicture],
        keys: list[str],
        measurand: str,
        chosen: tuple[str, str],
        combination: Combination | None,
    ) -> None:
        """Show a combination on a hardness, ranked by ``measurand``."""
        hardness, code = chosen
        self.title.setText(f"{code} on {hardness} clear")
        self.what.setText(combination.words() if combination else "")
        self.mark.show_combination(combination)
        self.mark.setVisible(combination is not None)
        self.lamp.show_light(reflected(dict(rankings), hardness, code))
        self._figures(rankings, keys, hardness, code)
        ranking = rankings[measurand]
        said = chance_words(ranking, hardness, code)
        said = f"By {ranking.label}: {said[:1].lower()}{said[1:]}" if said else ""
        self.chance.setText(f"{said} {kp_words(ranking, hardness, code)}".strip())
        _clear(self.against)
        fit = max(2, (self.height() - _TAKEN) // _LINE)
        for i, (other, gap, verdict) in enumerate(standing_lines(ranking, hardness, code, fit)):
            if not other:
                self.against.addWidget(words(verdict, "small"), i, 0, 1, 3)
                continue
            self.against.addWidget(words(f"to {other}", "small"), i, 0)
            value = words(gap)
            value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            value.setFont(look.words(SMALL))
            self.against.addWidget(value, i, 1)
            self.against.addWidget(words(verdict, "small", wrap=True), i, 2)
        self.against.setColumnStretch(2, 1)

    def _figures(
        self, rankings: Mapping[str, RankingPicture], keys: list[str], hardness: str, code: str
    ) -> None:
        _clear(self.figure_grid)
        row = 0
        for key in keys:
            for f in figures(rankings[key], hardness, code) if key in rankings else []:
                self.figure_grid.addWidget(words(f.label, "quiet"), row, 0)
                value = FigureButton(f.value, f"{f.label} {f.value} {f.unit}: readings behind it")
                value.setObjectName(f"figure_{key}")
                value.clicked.connect(lambda _c=False, k=key: self._open_figure(k))
                self.figure_grid.addWidget(value, row, 1)
                self.figure_grid.addWidget(words(f.unit, "quiet"), row, 2)
                self.figure_grid.setRowMinimumHeight(row, look.px(25))
                row += 1
        self.figure_grid.setColumnStretch(1, 1)


def _clear(grid: QGridLayout) -> None:
    while grid.count():
        item = grid.takeAt(0)
        widget = item.widget() if item else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()
