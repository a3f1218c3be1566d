"""The ranking with what stands around it: measurands, what matters, the sheet of a combination."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from loam.core.trial import HARDNESSES
from loam.ui.theme import look
from loam.ui.views.base import TIGHT, WIDEST
from loam.ui.views.judge.ranking.aim_bar import AimBar
from loam.ui.views.judge.ranking.legend import Legend
from loam.ui.views.judge.ranking.looks import Looks
from loam.ui.views.judge.ranking.matters_bar import MattersBar
from loam.ui.views.judge.ranking.sheet import DetailSheet
from loam.ui.widgets.fields import Chips, words

LEAST_STRIP = 64
"""Pixels of a hardness, at the usual size of text, in which its letters can be read."""


class RankingPage(QWidget):
    """The drawing with its keys; the sheet stands beside it, below where text is large.

    Parameters
    ----------
    open_figure, open_origin : callable
        Show the readings behind a figure, and behind the chosen combination.
    """

    def __init__(self, open_figure: Callable[[str], None], open_origin: Callable[[], None]) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._grid = grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(6)
        top = QHBoxLayout()
        top.setSpacing(14)
        self.aim, self.matters = AimBar(), MattersBar()
        top.addWidget(self.aim, 1)
        top.addWidget(self.matters)
        grid.addLayout(top, 0, 0)
        self.kinds = Chips("", "judge_kinds", [], flows=True)
        grid.addWidget(self.kinds, 1, 0)
        self.looks = Looks()
        grid.addWidget(self.looks, 2, 0)
        self.legend = Legend()
        self.legend.hide()
        grid.addWidget(self.legend, 3, 0)
        self.caption = words("", "small", wrap=True)
        grid.addWidget(self.caption, 4, 0)
        self.sheet = DetailSheet(open_figure, open_origin)
        self.notes = self.sheet.notes
        grid.addWidget(self.sheet, 0, 1, 5, 1)
        grid.setColumnStretch(0, 1)
        grid.setRowStretch(2, 1)
        self._tight = False

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        window = self.window()
        tight = window is not None and window.width() < look.px(TIGHT)
        if tight != self._tight:
            self._tight = tight
            self._grid.removeWidget(self.sheet)
            place = (5, 0, 1, 2) if tight else (0, 1, 5, 1)
            self._grid.addWidget(self.sheet, *place)
            self.sheet.setMaximumWidth(WIDEST)
            self.sheet.setMinimumWidth(0)
            if not tight:
                self.sheet.set_width()
        self.looks.setMinimumHeight(look.px(LEAST_STRIP) * len(HARDNESSES) + 60 if tight else 0)
