"""What is asked back is selected, so that figures never run together, and heard."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from helpers.hands import press
from loam.ui import sounds

K = Qt.Key


@pytest.fixture
def beeps(monkeypatch):
    heard = []
    monkeypatch.setattr(QApplication, "beep", lambda: heard.append(1))
    return heard


@pytest.fixture
def reading(open_window, wait_for):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[2].id)
    window.go("read")
    wait_for(window)
    return window


def stored(window):
    db = window.session.workshop.connection
    return db.execute("SELECT count(*) FROM reading").fetchone()[0]


def test_what_is_typed_next_replaces_a_figure_that_was_asked_back(reading, beeps, qtbot):
    view = reading.view
    count = stored(reading)
    QTest.keyClicks(view.digits, "625")
    press(reading, K.Key_Return)
    assert view.digits.selectedText() == "625", view.error.text()
    qtbot.waitUntil(lambda: len(beeps) == sounds.TIMES)
    QTest.keyClicks(view.digits, "84,5")
    assert view.digits.text() == "84,5"
    beeps.clear()
    press(reading, K.Key_Return)
    assert stored(reading) == count + 1
    assert len(beeps) == 1, "kept is one sound"


def test_sounds_can_be_off(reading, beeps):
    reading.session.remember(sounds.KEY, sounds.OFF)
    QTest.keyClicks(reading.view.digits, "625")
    press(reading, K.Key_Return)
    assert not beeps
