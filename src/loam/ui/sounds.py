"""What is heard while reading blind: one short sound for kept, three for asked back."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QApplication

from loam.app.session import Session

KEY = "reading_sounds"
ON, OFF = "on", "off"
TIMES, APART_MS = 3, 140


class Sounds(QObject):
    """Sounds of the system's bell, as long as they are wanted."""

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._left = 0
        self._again = QTimer(self)
        self._again.setInterval(APART_MS)
        self._again.timeout.connect(self._beat)

    @property
    def on(self) -> bool:
        """Whether sounds are wanted."""
        return bool(self._session.recall(KEY, ON) != OFF)

    def kept(self) -> None:
        """A figure is on disk."""
        if self.on:
            self._again.stop()
            QApplication.beep()

    def asked_back(self) -> None:
        """A figure is asked back, or refused: it waits for another look."""
        if self.on:
            self._left = TIMES
            self._beat()
            self._again.start()

    def _beat(self) -> None:
        self._left -= 1
        QApplication.beep()
        if self._left <= 0:
            self._again.stop()
