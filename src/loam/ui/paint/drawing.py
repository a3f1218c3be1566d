"""A widget that is drawn: it follows the look, and says what it is to whoever cannot see it."""

from __future__ import annotations

from typing import ClassVar

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.ui.theme import look


class Drawing(QWidget):
    """Drawn anew whenever the look changes.

    Attributes
    ----------
    called : str
        What it is, for a reader of screens.
    likes : (int, int)
        The size that it would like, px.
    grows : (bool, bool)
        Whether it takes what room there is, across and down.
    """

    called: ClassVar[str] = ""
    likes: ClassVar[tuple[int, int]] = (-1, -1)
    grows: ClassVar[tuple[bool, bool]] = (True, True)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        across, down = (
            QSizePolicy.Policy.Expanding if each else QSizePolicy.Policy.Fixed
            for each in self.grows
        )
        self.setSizePolicy(across, down)
        if self.called:
            self.setAccessibleName(self.called)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(*self.likes)
