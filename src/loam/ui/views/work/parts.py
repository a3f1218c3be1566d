"""The two pages of Work: the card with the pacer, and the board that asks between the cells."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.commands.work import MARKS
from loam.app.presenters.picture import lit
from loam.app.session import Session
from loam.core.pacer import Pacer
from loam.core.trial import Panel
from loam.ui.theme import look
from loam.ui.widgets.big import BigBoard, GateStrip, Piece, Shown
from loam.ui.widgets.pace_drawing import PaceDrawing
from loam.ui.widgets.panel_drawing import PanelDrawing
from loam.ui.widgets.work_card import WorkCard

LOW = 560
"""Below this height the board needs all of it."""


def _panel(choose: Callable[[int], None]) -> PanelDrawing:
    drawing = PanelDrawing(caption=False)
    drawing.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    drawing.cell_chosen.connect(choose)
    return drawing


class PacePage(QWidget):
    """Where and with what on the left, the pacer on the right."""

    def __init__(self, choose: Callable[[int], None]) -> None:
        super().__init__()
        self.setObjectName("ground")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(26)
        left = QVBoxLayout()
        left.setSpacing(10)
        self.card = WorkCard()
        left.addWidget(self.card, 3)
        self.where = _panel(choose)
        left.addWidget(self.where, 2)
        row.addLayout(left, 4)
        self.pace = PaceDrawing()
        row.addWidget(self.pace, 5)

    def show_moment(self, pacer: Pacer | None, *, counting: bool) -> None:
        """Show where the pad should be."""
        self.pace.counting = counting
        self.pace.show_moment(
            pacer.track if pacer is not None else None,
            pacer.moment() if pacer is not None else None,
        )


class BoardPage(QWidget):
    """What is asked, large, on the left; the panel, and how far it is prepared, on the right."""

    def __init__(self, choose: Callable[[int], None]) -> None:
        super().__init__()
        self.setObjectName("ground")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 6, 0, 0)
        row.setSpacing(34)
        left, right = QVBoxLayout(), QVBoxLayout()
        for column, share in ((left, 5), (right, 4)):
            column.setSpacing(14)
            row.addLayout(column, share)
        self.board = BigBoard("work_board")
        left.addWidget(self.board, 5)
        self.below = _panel(choose)
        left.addWidget(self.below, 2)
        self.strip = GateStrip()
        right.addWidget(self.strip, 1)
        self.beside = _panel(choose)
        right.addWidget(self.beside, 3)
        self.marks = BigBoard("work_marks")
        self.marks.show_words("", "", [Piece(str(i), "", m) for i, (_, m) in enumerate(MARKS, 1)])
        self.marks.setAccessibleName("what can have gone wrong")
        right.addWidget(self.marks, 3)

    def show_shown(self, shown: Shown) -> None:
        """Show what a mode says."""
        self.board.show_words(shown.head, shown.sentence, shown.pieces, shown.foot, care=shown.care)
        gates = bool(shown.lines)
        self.strip.setVisible(gates)
        self.below.setVisible(gates and self.height() >= look.px(LOW))
        self.beside.setVisible(not gates)
        self.marks.setVisible(shown.marks)
        self.strip.show_lines(shown.lines)

    def show_panel(self, session: Session, panel: Panel, cell_id: int, *, blind: bool) -> None:
        """Show the panel with one cell lit."""
        picture = lit(session, panel, cell_id, blind=blind)
        for drawing in (self.below, self.beside):
            drawing.show_picture(picture, cell_id)
