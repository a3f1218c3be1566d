"""Keys, as a hand presses them: where the keyboard is."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    """Press a key where the keyboard is, and let the window answer."""
    QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
    QApplication.processEvents()


def type_in(window, text):
    """Type where the keyboard is."""
    QTest.keyClicks(QApplication.focusWidget() or window, text)


def type_over(window, field, text):
    """Type something else into a field, and leave it."""
    field.line.setFocus()
    field.line.selectAll()
    type_in(window, text)
    press(window, Qt.Key.Key_Tab)
