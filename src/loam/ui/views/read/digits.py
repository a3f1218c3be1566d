"""The box for digits, which always has the keyboard."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QApplication

from loam.app.presenters.reading import pasted
from loam.ui.widgets.fields import TypedLine

_ARROWS = {
    int(Qt.Key.Key_Left): (0, -1),
    int(Qt.Key.Key_Right): (0, 1),
    int(Qt.Key.Key_Up): (-1, 0),
    int(Qt.Key.Key_Down): (1, 0),
}
_CONTROL = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
MOST = 12


class Reader(Protocol):
    """What the box asks of the view."""

    def keep(self) -> None:
        """Keep what was typed."""
        ...

    def clear(self) -> None:
        """Leave what was typed or pasted."""
        ...

    def go_over(self, down: int, across: int) -> None:
        """Turn to the cell beside."""
        ...

    def begin(self) -> None:
        """A figure is being typed: a cell that is done makes room for the next."""
        ...

    def letter(self, letter: str) -> None:
        """Do what a letter stands for; figures are typed without any."""
        ...

    def offer(self, figures: list[str]) -> None:
        """Several figures were pasted."""
        ...

    def hold(self) -> None:
        """Say that a half-typed figure stays where it is."""
        ...


class Digits(TypedLine):
    """Arrows move over the panel while it is empty; a half-typed figure never travels."""

    def __init__(self, reader: Reader) -> None:
        super().__init__()
        self._reader = reader
        self.setObjectName("digits")
        self.setAccessibleName("the reading that the meter shows")
        self.setFrame(False)
        self.setMaxLength(MOST)

    def leaves(self, event: QKeyEvent) -> bool:
        """An empty box leaves undo and copy to the window."""
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        return control and not self.text() and event.key() in (Qt.Key.Key_Z, Qt.Key.Key_C)

    def event(self, event: QEvent | None) -> bool:
        tabs = (Qt.Key.Key_Tab, Qt.Key.Key_Backtab)
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
            and event.key() in tabs
            and self.text()
        ):
            self._reader.hold()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key, typed = event.key(), self.text()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._reader.keep()
        elif key == Qt.Key.Key_Escape:
            self._reader.clear()
        elif key in _ARROWS and not typed:
            self._reader.go_over(*_ARROWS[key])
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._reader.hold()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self._paste(event)
        elif event.text().isalpha() and not event.modifiers() & _CONTROL and not typed:
            self._reader.letter(event.text().upper())
        else:
            if event.text().isprintable() and event.text():
                self._reader.begin()
            super().keyPressEvent(event)

    def _paste(self, event: QKeyEvent) -> None:
        clipboard = QApplication.clipboard()
        figures = pasted(clipboard.text()[:100_000]) if clipboard is not None else []
        if len(figures) > 1:
            self._reader.offer(figures)
        elif figures:
            self._reader.begin()
            self.insert(figures[0][:MOST])
