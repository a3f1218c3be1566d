"""What stands in place of a step while a blind round is open: who knows the combination leans."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QVBoxLayout

from loam.app.changes import Changes
from loam.app.commands import Note
from loam.app.peeking import peek_note
from loam.app.presenters.path import STEPS
from loam.app.presenters.rounds import open_round
from loam.store import noted
from loam.ui.views.base import Key, Shell, View
from loam.ui.widgets.big import BigBoard, Piece


class CoverView(View):
    """A blind round is open: read on, close it, or peek, which is noted."""

    step = "cover"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.wanted = "judge"
        box = QVBoxLayout(self)
        box.setContentsMargins(60, 50, 60, 30)
        self.board = BigBoard("cover")
        self.board.pressed.connect(self._press)
        box.addWidget(self.board)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def entered(self) -> None:
        self.setFocus()

    def refresh(self, changes: Changes) -> None:
        opened = open_round(self.session)
        if opened is None:
            return
        label = dict(STEPS).get(self.wanted, self.wanted)
        peeked = "" if not opened.peeks else f" It was peeked {opened.peeks} times so far."
        self.board.show_words(
            "Covered",
            f"{opened.words()} is open. {label} shows which combination is where, or how it came"
            f" out, and who knows that leans when reading.{peeked}",
            [
                Piece("Esc", "", "read on"),
                Piece("C", "", "close the round: everything is uncovered"),
                Piece("P", "", f"peek into {label}: noted, and told beside the result"),
            ],
        )
        self.shell.keys_changed()

    def keys(self) -> list[Key]:
        return [
            ("Esc", "read on", lambda: self.shell.go("read")),
            ("C", "close the round", self.close_round),
            ("P", "peek, noted", self.peek),
        ]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        named = "ESC" if event.key() == Qt.Key.Key_Escape else event.text().upper()
        if named in ("ESC", "C", "P"):
            self._press(named)
        else:
            super().keyPressEvent(event)

    def _press(self, key: str) -> None:
        act = {"ESC": lambda: self.shell.go("read"), "C": self.close_round, "P": self.peek}
        act[key.upper()]()

    def _note(self, sort: str, facts: dict[str, object]) -> bool:
        day = self.session.workshop.now()[:10]
        who = str(self.session.recall("reader", ""))
        return self.act(Note(self.session.trial_id or 0, sort, facts, None, who, day))

    def close_round(self) -> None:
        """Close the round, and go where it was wanted."""
        opened = open_round(self.session)
        if opened is not None and self._note(noted.CLOSED, {"of": opened.id}):
            self.shell.go(self.wanted)

    def peek(self) -> None:
        """Look all the same."""
        note = peek_note(self.session, self.wanted)
        if note is not None and self.act(note):
            self.shell.uncover(self.wanted)
