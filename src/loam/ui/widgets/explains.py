"""A word that is pointed at explains itself: what the glossary says of the words of a label."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QApplication, QLabel, QToolTip

from loam.core.words.plain import explained
from loam.ui.theme.look import tip


class Explains(QObject):
    """Shows the glossary's words of a label that has nothing else to show."""

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if (
            not isinstance(event, QHelpEvent)
            or event.type() != QEvent.Type.ToolTip
            or not isinstance(watched, QLabel)
            or watched.toolTip()
        ):
            return False
        said = words_of(watched.text())
        if not said:
            return False
        QToolTip.showText(event.globalPos(), tip(said), watched)
        return True


def words_of(text: str) -> str:
    """Return what the glossary says of the words of a text, a line each; "" for none."""
    return "\n".join(
        f"{w.plain[:1].upper()}{w.plain[1:]} ({w.term}): {w.means}"
        if w.term != w.plain
        else f"{w.plain[:1].upper()}{w.plain[1:]}: {w.means}"
        for w in explained(text.replace("\u00a0", " "))
    )


def install(application: QApplication) -> Explains:
    """Let the labels of an application explain themselves, once."""
    known = application.findChild(Explains)
    if known is not None:
        return known
    own = Explains(application)
    application.installEventFilter(own)
    return own
