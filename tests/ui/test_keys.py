"""Keys are declared once: what is listed is what is done, and the page lists what is declared."""

import re
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent, QShortcut

from loam.app.presenters.path import STEPS
from loam.ui.keys import LIGHTS_KEY, name_of, perform
from loam.ui.keys_page import keys_page

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
HEARD = {"Ctrl+Enter"}
"""Heard by the view itself."""
SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def pressed(key, text="", held=NONE):
    return QKeyEvent(QEvent.Type.KeyPress, int(key), held, text)


@pytest.mark.parametrize(
    ("event", "name"),
    [
        (pressed(K.Key_X, "x"), "X"),
        (pressed(K.Key_P, "P", SHIFT), "Shift+P"),
        (pressed(K.Key_Escape), "Esc"),
        (pressed(K.Key_Enter), "Enter"),
        (pressed(K.Key_Minus, "-"), "−"),
        (pressed(K.Key_7, "7"), "7"),
        (pressed(K.Key_X, "\x18", CTRL), ""),
    ],
)
def test_a_key_is_called_as_it_is_shown(event, name):
    assert name_of(event) == name


def test_what_is_declared_is_done_and_nothing_else():
    done = []
    keys = [
        ("Esc H", "back", lambda: done.append("back")),
        ("P", "who", lambda: done.append("who")),
        ("Shift+P", "by name", lambda: done.append("name")),
        ("arrows", "move", None),
    ]
    assert perform(pressed(K.Key_H, "h"), keys)
    assert perform(pressed(K.Key_P, "p"), keys)
    assert perform(pressed(K.Key_P, "P", SHIFT), keys)
    assert perform(pressed(K.Key_H, "H", SHIFT), keys)  # a capital letter is the letter
    assert done == ["back", "who", "name", "back"]
    assert not perform(pressed(K.Key_Left), keys)
    assert not perform(pressed(K.Key_H, "\x08", CTRL), keys)
    assert not perform(pressed(K.Key_Q, "q"), keys)
    assert not perform(None, keys)


def test_the_page_of_keys_lists_what_the_views_declare(open_window, wait_for):
    window = open_window(demo=True)
    page = Path(__file__).parents[2] / "docs" / "keys.md"
    assert page.read_text() == keys_page(window, lambda: wait_for(window)), "run ./run keys"


def test_no_key_is_declared_twice_in_a_view_and_two_more_steps_have_room(open_window, wait_for):
    window = open_window(demo=True)
    everywhere = [key for key, _, _ in window.always()]
    steps = {f"F{i + 2}" for i in range(len(STEPS) + 2)}
    assert not steps & set(everywhere)
    assert LIGHTS_KEY in everywhere
    for step, _ in STEPS:
        window.go(step)
        wait_for(window)
        shown = [
            (k, said)
            for k, said, act in [*window.view.keys(), *window.view.more_keys()]
            if act is not None
        ]
        names = [name for keys, _ in shown for name in keys.split()]
        assert len(names) == len(set(names)), (step, shown)


def test_every_key_with_ctrl_that_is_listed_is_bound(open_window):
    """A view declares what a key does; the window must hear it."""
    window = open_window(demo=True)
    bound = {s.key().toString() for s in window.findChildren(QShortcut)}
    page = Path(__file__).parents[2] / "docs" / "keys.md"
    listed = {m for m in re.findall(r"\| (Ctrl\+[^ |]+) \|", page.read_text())}
    assert listed - {k.replace("PgDown", "PgDn") for k in bound} <= HEARD
