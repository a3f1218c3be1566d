"""A word that is pointed at explains itself: what the glossary says of the words of a label."""

from __future__ import annotations

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QLabel, QToolTip

from loam.core.words.plain import explained
from loam.ui.theme.look import tip


class Words(QLabel):
    """A label that says what the glossary has of its words, where it has nothing else to show."""

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            said = words_of(self.text()) if not self.toolTip() else ""
            if said:
                QToolTip.showText(event.globalPos(), tip(*said.split("\n")), self)
                return True
        return super().event(event)


def words_of(text: str) -> str:
    """Return what the glossary says of the words of a text, a line each; "" for none."""
    return "\n".join(
        f"{w.plain[:1].upper()}{w.plain[1:]} ({w.term}): {w.means}"
        if w.term != w.plain
        else f"{w.plain[:1].upper()}{w.plain[1:]}: {w.means}"
        for w in explained(text.replace("\u00a0", " "))
    )
