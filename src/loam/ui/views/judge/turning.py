"""A page of Judge that shows one of several classes; the arrows turn to another."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

from loam.ui.views.judge.aside import Aside
from loam.ui.views.judge.owner import Owner


class Turning(Aside):
    """Keeps which of what was found (its ``classes``) is shown."""

    def __init__(self, owner: Owner) -> None:
        super().__init__(owner)
        self.at = 0

    def turn(self, step: int = 1) -> None:
        """Turn to another of what was found."""
        if self.found is not None and self.found.classes:
            self.at = (self.at + step) % len(self.found.classes)
            self._present()

    def typed(self, event: QKeyEvent) -> bool:
        """Turn by the arrows."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event.key() not in steps:
            return False
        self.turn(steps[Qt.Key(event.key())])
        return True
