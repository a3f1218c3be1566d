"""What is heard while a cell is worked: the eyes are on the pad, so the turns are told to the ear.

The sounds are short files of our own. They are played by whatever player of the system is there;
where there is none, the system's bell stands for them.
"""

from __future__ import annotations

import shutil
from pathlib import Path

from PyQt6.QtCore import QObject, QProcess
from PyQt6.QtWidgets import QApplication

from loam.app.session import Session
from loam.core.pacer import DONE, READY, SPREAD, Moment
from loam.ui.sounds import KEY, OFF, ON

LINE, PASS, LAST, END = "line", "pass", "last", "end"
PLACE = Path(__file__).parent / "ear"
PLAYERS = (("pw-play", ()), ("paplay", ()), ("aplay", ("-q",)))
"""Programs that play a file, the first that is there."""


def told(before: Moment | None, now: Moment) -> str:
    """Return what is to be heard when one moment follows another; "" for nothing.

    The end before the last pass, that before a pass, a pass before a line.
    """
    if before is None or now.phase == READY:
        return ""
    if now.phase == DONE:
        return END if before.phase != DONE else ""
    if now.done_passes > before.done_passes:
        return LAST if now.done_passes + 1 == now.of and now.of > 1 else PASS
    if now.line > before.line and before.phase != SPREAD:
        return LINE
    return ""


class Ear(QObject):
    """Plays the sounds of the pacer, as long as sounds are wanted."""

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._last: dict[int, Moment] = {}
        self.player = next(
            ((path, args) for name, args in PLAYERS if (path := shutil.which(name))), None
        )

    def follow(self, bench: int, moment: Moment | None) -> str:
        """Hear what has changed at a bench; return what was to be heard."""
        before = self._last.pop(bench, None)
        if moment is None:
            return ""
        self._last[bench] = moment
        name = told(before, moment)
        if name and self._session.recall(KEY, ON) != OFF:
            self.play(name)
        return name

    def play(self, name: str) -> None:
        """Play a sound, and wait for nothing."""
        if self.player is None:
            QApplication.beep()
            return
        path, args = self.player
        started = QProcess.startDetached(path, [*args, str(PLACE / f"{name}.wav")])
        if not started[0]:
            self.player = None
            QApplication.beep()
