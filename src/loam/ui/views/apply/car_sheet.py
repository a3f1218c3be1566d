"""The sheet beside the car: its stairs, a panel, what is wanted, how hard, spots, the days."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.session import Session
from loam.ui.views.apply.day_page import DayPage
from loam.ui.views.apply.pages import AimPage, HardPage, Page
from loam.ui.views.apply.panel_page import PanelPage
from loam.ui.views.apply.spot_page import LaterPage, SpotPage
from loam.ui.views.apply.stairs_sheet import StairsSheet
from loam.ui.widgets.scroll_stack import Stack

STAIRS, PANEL, AIM, HARD, SPOT = "stairs", "panel", "aim", "hard", "spot"
LATER, DAY = "later", "day"


class CarSheet(QWidget):
    """``note`` carries what a page notes: its sort, its facts, what was done, and the field."""

    note = pyqtSignal(str, object, str, object)

    def __init__(self, session: Session, day: DayPage) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 12, 18, 12)
        self.stack = Stack()
        self.stack.setObjectName("sheet")
        box.addWidget(self.stack)
        self.first = StairsSheet()
        self.panel, self.aim, self.hard = PanelPage(session), AimPage(session), HardPage(session)
        self.spot, self.later = SpotPage(session), LaterPage(session)
        noting: dict[str, Page] = {
            PANEL: self.panel,
            AIM: self.aim,
            HARD: self.hard,
            SPOT: self.spot,
            LATER: self.later,
            DAY: day,
        }
        for page in noting.values():
            page.note.connect(self.note)
        self.pages: dict[str, QWidget] = {STAIRS: self.first, **noting}
        for widget in self.pages.values():
            self.stack.addWidget(widget)

    @property
    def page(self) -> str:
        """Which page is turned to."""
        return next(k for k, w in self.pages.items() if w is self.stack.currentWidget())
