"""The side sheet: one combination on one hardness, in detail."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from loam.app.questions.ranking.find import (
    chance_words,
    figures,
    kp_words,
    reflected,
    standing_lines,
)
from loam.app.questions.ranking.picture import RankingPicture
from loam.app.reflection import Light
from loam.core.trial import Combination
from loam.core.words.plain import plain
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.lamp import draw_reflection
from loam.ui.theme import look
from loam.ui.theme.look import SMALL
from loam.ui.widgets.fields import FigureButton, words
from loam.ui.widgets.mark_picture import MarkPicture
from loam.ui.widgets.tape import TapeKey

_LINE, _TAKEN = 20, 430


class LampPicture(Drawing):
    """What the cell reflects, drawn from its readings."""

    called = "what the cell reflects, drawn from its readings"
    likes = (88, 88)
    grows = (False, False)

    def __init__(self) -> None:
        super().__init__()
        self.light = Light()

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
        self.set_width()
        self._open_figure = open_figure
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 8, 18, 8)
        box.setSpacing(5)
        self.title = words("", "head", wrap=True)
        box.addWidget(self.title)
        self.what = words("", "quiet", wrap=True)
        box.addWidget(self.what)
        box.addLayout(self._pictures())
        self.figure_grid = QGridLayout()
        self.figure_grid.setHorizontalSpacing(8)
        self.figure_grid.setVerticalSpacing(3)
        self.figure_grid.setColumnStretch(1, 1)
        self._figure_rows: dict[str, tuple[QLabel, FigureButton, QLabel]] = {}
        box.addLayout(self.figure_grid)
        self.chance = words("", "quiet", wrap=True)
        box.addWidget(self.chance)
        self.against = QGridLayout()
        self.against.setHorizontalSpacing(8)
        self.against.setVerticalSpacing(1)
        self.against.setColumnStretch(2, 1)
        box.addLayout(self.against)
        self._against: list[tuple[QLabel, QLabel, QLabel]] = []
        self.rest = words("", "small")
        box.addWidget(self.rest)
        self.notes = words("", "small", wrap=True)
        self.notes.setObjectName("rests_on")
        box.addStretch(1)
        self.verdict = words("", "small", wrap=True)
        self.verdict.setObjectName("sentence")
        box.addWidget(self.verdict)
        box.addWidget(self.notes)
        self.behind = TapeKey("Enter", "readings behind it", main=True)
        self.behind.setObjectName("readings_behind")
        self.behind.clicked.connect(open_origin)
        box.addWidget(self.behind)

    def _pictures(self) -> QHBoxLayout:
        """Make the lamp, and beside it the mark."""
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
        return seen

    def set_width(self) -> None:
        """Stand beside the drawing, no wider than the words need."""
        self.setFixedWidth(look.wide(310))

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
        self.title.setText(f"{code} on {rankings[measurand].judgement.ground(hardness)}")
        self.what.setText(combination.words().replace(", then ", ",\nthen ") if combination else "")
        self.mark.show_combination(combination)
        self.mark.setVisible(combination is not None)
        self.lamp.show_light(reflected(dict(rankings), hardness, code))
        self._figures(rankings, keys, hardness, code)
        ranking = rankings[measurand]
        said = chance_words(ranking, hardness, code)
        said = f"By {ranking.label}: {said[:1].lower()}{said[1:]}" if said else ""
        self.chance.setText(f"{said} {kp_words(ranking, hardness, code)}".strip())
        fit = max(2, (self.height() - _TAKEN) // _LINE)
        lines = standing_lines(ranking, hardness, code, fit)
        self.rest.setText(lines.pop()[2] if lines and not lines[-1][0] else "")
        self.rest.setVisible(bool(self.rest.text()))
        for i in range(len(self._against), len(lines)):
            self._against.append(self._line(i))
        for i, row in enumerate(self._against):
            for label in row:
                label.setVisible(i < len(lines))
        for row, (other, gap, verdict) in zip(self._against, lines, strict=False):
            row[1].setFont(look.words(SMALL))
            for label, text in zip(row, (f"to {other}", gap, verdict), strict=True):
                label.setText(plain(text))

    def _line(self, row: int) -> tuple[QLabel, QLabel, QLabel]:
        """Make the labels of one more line: to whom, by how much, the verdict."""
        line = (words("", "small"), words(""), words("", "small", wrap=True))
        line[1].setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        for column, label in enumerate(line):
            self.against.addWidget(label, row, column)
        return line

    def _figures(
        self, rankings: Mapping[str, RankingPicture], keys: list[str], hardness: str, code: str
    ) -> None:
        if list(self._figure_rows) != keys:
            _clear(self.figure_grid)
            self._figure_rows = {key: self._figure(row, key) for row, key in enumerate(keys)}
        for row, (key, widgets) in enumerate(self._figure_rows.items()):
            found = figures(rankings[key], hardness, code) if key in rankings else []
            for widget in widgets:
                widget.setVisible(bool(found))
            self.figure_grid.setRowMinimumHeight(row, look.px(25) if found else 0)
            for f in found:
                label, value, unit = widgets
                label.setText(f.label)
                value.show_figure(f.value, f"{f.label} {f.value} {f.unit}: readings behind it")
                unit.setText(f.unit)

    def _figure(self, row: int, key: str) -> tuple[QLabel, FigureButton, QLabel]:
        """Make the widgets of a measurand's figure: its name, the figure, its unit."""
        value = FigureButton("", "")
        value.setObjectName(f"figure_{key}")
        value.clicked.connect(lambda: self._open_figure(key))
        made = (words("", "quiet"), value, words("", "quiet"))
        for column, widget in enumerate(made):
            self.figure_grid.addWidget(widget, row, column)
        return made


def _clear(grid: QGridLayout) -> None:
    while grid.count():
        item = grid.takeAt(0)
        widget = item.widget() if item else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()
