"""The right half of Read when something else than a reading is asked: tape to press, a line."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.ui.theme import look
from loam.ui.theme.look import FIGURES
from loam.ui.views.base import Key
from loam.ui.widgets.big import BigBoard, Shown
from loam.ui.widgets.drift_line import Drift, DriftLine
from loam.ui.widgets.fields import TypedLine, words
from loam.ui.widgets.share_patches import Remains
from loam.ui.widgets.squares import Squares

_ARROWS = {
    int(Qt.Key.Key_Left): (0, -1),
    int(Qt.Key.Key_Right): (0, 1),
    int(Qt.Key.Key_Up): (-1, 0),
    int(Qt.Key.Key_Down): (1, 0),
}
_NAMED = {(0, -1): "left", (0, 1): "right", (-1, 0): "up", (1, 0): "down"}
_FIGURE = "0123456789.,-"
LOW = 470
"""Below this height there is no room for pictures."""


class Mode(Protocol):
    """What the board asks, and what keys do there.

    Attributes
    ----------
    types : bool
        Figures are typed: they go to the line.
    """

    @property
    def types(self) -> bool:
        """Whether figures are typed."""
        ...

    @property
    def squares(self) -> tuple[int, list[bool | None], set[int]] | None:
        """Squares of an overlay: which is next, and which show a mark."""
        ...

    @property
    def estimates(self) -> bool:
        """How much remains is estimated: patches to hold it against are shown."""
        ...

    @property
    def drift(self) -> Drift | None:
        """Checks of a tile in the order of time."""
        ...

    def shown(self) -> Shown:
        """Return what the board shows."""
        ...

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        ...

    def key(self, key: str) -> None:
        """A letter, a digit that is not typed, a space, or an arrow's name."""
        ...

    def enter(self, text: str) -> bool:
        """Take what was typed, or go on; False leaves it standing."""
        ...

    def back(self) -> None:
        """Take the last of what is asked back."""
        ...


class Owner(Protocol):
    """What the board asks of the view."""

    def leave_mode(self) -> None:
        """Go back to reading."""
        ...

    def go_over(self, down: int, across: int) -> None:
        """Turn to the cell beside."""
        ...


class BoardLine(TypedLine):
    """Where figures are typed; every other key is the mode's."""

    def __init__(self, board: Board) -> None:
        super().__init__()
        self._board = board
        self.setObjectName("board_line")
        self.setAccessibleName("what is asked")
        self.setMaxLength(12)

    def leaves(self, event: QKeyEvent) -> bool:
        """An empty line leaves undo and copy to the window."""
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        return control and not self.text() and event.key() in (Qt.Key.Key_Z, Qt.Key.Key_C)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self._board.mode is None:
            return
        key, text, mode = event.key(), event.text(), self._board.mode
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            event.ignore()
        elif key == Qt.Key.Key_Escape:
            self._board.escape()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._board.enter()
        elif key in _ARROWS and not self.text():
            self._board.arrow(*_ARROWS[key])
        elif key == Qt.Key.Key_Backspace and not self.text():
            mode.back()
            self._board.show_mode()
        elif text and text in _FIGURE and mode.types:
            super().keyPressEvent(event)
        elif text and text.isprintable():
            self._board.press(text.upper())
        elif not text.isprintable() or not text:
            super().keyPressEvent(event)


class Board(QWidget):
    """Shows a mode; the keyboard stays on its line."""

    def __init__(self, owner: Owner) -> None:
        super().__init__()
        self._owner = owner
        self.mode: Mode | None = None
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 4, 0, 0)
        box.setSpacing(8)
        self.board = BigBoard("read_board")
        self.board.pressed.connect(lambda key: self.press(key.upper()))
        box.addWidget(self.board, 1)
        self.squares = Squares()
        self.squares.chosen.connect(self._square)
        box.addWidget(self.squares, 2)
        self.remains, self.drift = Remains(), DriftLine()
        box.addWidget(self.remains, 2)
        box.addWidget(self.drift, 1)
        self.line = BoardLine(self)
        box.addWidget(self.line)
        self.error = words("", "care", wrap=True)
        self.error.setObjectName("board_error")
        box.addWidget(self.error)
        look.changed.connect(self.restyle)
        self.restyle()

    def restyle(self) -> None:
        """Follow the theme."""
        t = look.tokens
        self.line.setStyleSheet(
            f'font-family: "{FIGURES}"; font-size: {look.px(46)}px; background: transparent;'
            f" border: none; border-bottom: 2px solid {t.line}; padding: 0; color: {t.ink};"
        )

    def show_mode(self, mode: Mode | None = None) -> None:
        """Show what a mode asks."""
        self.mode = mode or self.mode
        if self.mode is None:
            return
        shown = self.mode.shown()
        self.board.show_words(
            shown.head, shown.sentence, shown.pieces, shown.foot, care=shown.care, most=40
        )
        squares = self.mode.squares
        self.squares.setVisible(squares is not None)
        if squares is not None:
            self.squares.show_squares(*squares)
        low = self.height() < look.px(LOW)
        self.remains.setVisible(self.mode.estimates and not low)
        drift = self.mode.drift
        self.drift.setVisible(drift is not None and bool(drift.checks) and not low)
        if drift is not None:
            self.drift.show_drift(drift)
        # hidden, the line could not keep the keyboard: it only shows nothing
        self.line.setMaximumHeight(16_777_215 if self.mode.types else 1)
        self.line.setReadOnly(not self.mode.types)
        self.line.setFocus()

    def complain(self, said: str) -> None:
        """Say what is wrong, in place."""
        self.error.setText(said)

    def press(self, key: str) -> None:
        """Press a piece of tape."""
        mode = self.mode
        if mode is not None:
            self.complain("")
            mode.key(key)
            self._go_on(mode)

    def _go_on(self, mode: Mode) -> None:
        """Show a mode again, unless it has ended."""
        if self.mode is mode:
            self.show_mode()

    def enter(self) -> None:
        """Take what was typed, or go on."""
        mode = self.mode
        if mode is not None:
            self.complain("")
            if mode.enter(self.line.text().strip()):
                self.line.clear()
            self._go_on(mode)

    def escape(self) -> None:
        """Clear what is typed, or go back to reading."""
        if self.line.text():
            self.line.clear()
            self.complain("")
        else:
            self._owner.leave_mode()

    def arrow(self, down: int, across: int) -> None:
        """Move in the squares, or to the cell beside."""
        if self.mode is not None and self.mode.squares is not None:
            self.press(_NAMED[down, across])
        else:
            self._owner.go_over(down, across)

    def _square(self, number: int) -> None:
        self.press(f"square {number}")
