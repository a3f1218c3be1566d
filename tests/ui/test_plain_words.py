"""Plain words on the screen: short sentences on Judge, and words that explain themselves."""

import re

import pytest
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QApplication, QLabel, QToolTip

from helpers.hands import press
from loam.core.words.plain import GLOSSARY, explained, plain
from loam.ui.widgets.explains import words_of

K = Qt.Key
WORDS = 25


def sentences(text):
    return re.split(r"(?<=[.?!])\s+(?=[A-Z0-9])|\n", text.replace("\u00a0", " "))


@pytest.mark.parametrize("trial", [1, 2, 3, 7, 9])
def test_no_sentence_on_judge_is_longer_than_25_words(judging, wait_for, trial):
    window = judging(trial)
    view = window.view
    view.doubts.start()
    wait_for(window)
    long = []
    for letter in ("", *view.questions.offers):
        if letter:
            view.open_question(letter)
            wait_for(window)
        for label in window.findChildren(QLabel):
            if label.isVisible():
                long += [s for s in sentences(label.text()) if len(s.split()) > WORDS]
        view.to_ranking()
    assert not long


def test_a_word_that_is_pointed_at_explains_itself(judging):
    window = judging()
    label = window.view.sentence
    assert "too close to call" in label.text()
    at = QPoint(5, 5)
    QApplication.sendEvent(label, QHelpEvent(QEvent.Type.ToolTip, at, label.mapToGlobal(at)))
    assert "not settled" in QToolTip.text() or "neither chance reaches" in QToolTip.text()
    assert words_of("nothing of that kind") == ""


def test_f1_twice_shows_the_words(open_window):
    window = open_window(demo=True)
    press(window, K.Key_F1)
    assert window.overlay.isVisible()
    press(window, K.Key_F1)
    assert window.overlay.isVisible()
    said = window.overlay.accessibleDescription()
    assert all(w.plain in said for w in GLOSSARY)
    window.overlay.grab()
    press(window, K.Key_F1)
    assert not window.overlay.isVisible()


def test_plain_words_leave_what_they_do_not_know():
    assert plain("Soft: not settled between A and B; whether C gives more is not settled") == (
        "Soft: too close to call between A and B; whether C gives more is too close to call"
    )
    assert plain("A leads.") == "A leads."
    assert [w.plain for w in explained("96 % sure; likely range 3 to 4")] == [
        "sure",
        "likely range",
    ]
