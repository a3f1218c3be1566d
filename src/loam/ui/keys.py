"""Keys are declared once, with their words and what they do; whoever takes a key looks there."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

Key = tuple[str, str, Callable[[], object] | None]
"""Keys as they are shown (several with a space between), words, and what they do; None where
something else sees to it: a list that takes arrows, a field that takes figures."""

LIGHTS_KEY = "F12"
"""Room lights on or off; the steps of the path have the keys from F2 on."""
_HELD = (
    Qt.KeyboardModifier.ControlModifier
    | Qt.KeyboardModifier.AltModifier
    | Qt.KeyboardModifier.MetaModifier
)
_NAMES: dict[int, str] = {
    int(Qt.Key.Key_Escape): "Esc",
    int(Qt.Key.Key_Return): "Enter",
    int(Qt.Key.Key_Enter): "Enter",
    int(Qt.Key.Key_Space): "Space",
    int(Qt.Key.Key_Delete): "Del",
    int(Qt.Key.Key_Backspace): "Del",
    int(Qt.Key.Key_Minus): "−",
}


def name_of(event: QKeyEvent) -> str:
    """Return a key as it is shown: a letter, a figure, Esc, Shift+P; "" with Ctrl or Alt held."""
    if event.modifiers() & _HELD:
        return ""
    known = _NAMES.get(event.key())
    if known is not None:
        return known
    letter = event.text().upper()
    shift = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
    return f"Shift+{letter}" if shift and letter.isalpha() else letter


def perform(event: QKeyEvent | None, keys: Sequence[Key]) -> bool:
    """Do what a key is declared to do; tell whether it is declared."""
    name = "" if event is None else name_of(event)
    plain = name.removeprefix("Shift+")
    for wanted in dict.fromkeys((name, plain)):  # a capital letter is the letter
        for shown, _, act in keys:
            if wanted and act is not None and wanted in shown.split():
                act()
                return True
    return False
