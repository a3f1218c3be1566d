"""Keys, as a hand presses them: where the keyboard is."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    """Press a key where the keyboard is, and let the window answer."""
    QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
    QApplication.processEvents()
