"""What is wanted, as a piece of tape in a sentence: for daily work, and what that weighs."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from loam.ui.widgets.fields import words
from loam.ui.widgets.slot import Slot


class AimBar(QWidget):
    """``pressed`` asks for the next aim."""

    pressed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("aim_bar")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        self.before = words("for", "quiet")
        self.slot = Slot("aim")
        self.weighs = words("", "quiet", wrap=True)
        self.weighs.setObjectName("aim_weighs")
        row.addWidget(self.before)
        row.addWidget(self.slot)
        row.addWidget(self.weighs, 1)
        self.slot.clicked.connect(self.pressed)

    def show_aim(self, name: str, weighs: str, *, carried: bool) -> None:
        """Show an aim and what it weighs; where none is carried, only what it takes."""
        for part in (self.before, self.slot):
            part.setVisible(carried)
        self.slot.show_part(name, empty=False, open_=False)
        self.slot.setAccessibleName(f"what is wanted: {name}; press for another aim")
        self.weighs.setText(weighs)
