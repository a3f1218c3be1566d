"""Keys and clicks at random: nothing may fail, and no reading may ever vanish."""

import random

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.ui.theme import look

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
NONE = Qt.KeyboardModifier.NoModifier
KEYS = [
    *(
        (key, NONE)
        for key in (
            K.Key_F1,
            K.Key_F2,
            K.Key_F3,
            K.Key_F4,
            K.Key_F5,
            K.Key_F6,
            K.Key_F7,
            K.Key_F8,
            K.Key_Space,
            K.Key_Up,
            K.Key_Down,
            K.Key_Left,
            K.Key_Right,
            K.Key_Return,
            K.Key_Return,
            K.Key_Escape,
            K.Key_Tab,
            K.Key_Delete,
            K.Key_PageUp,
            K.Key_PageDown,
            K.Key_A,
            K.Key_B,
            K.Key_M,
            K.Key_X,
            K.Key_8,
            K.Key_4,
            K.Key_Period,
            K.Key_Space,
            K.Key_Backspace,
        )
    ),
    *(
        (key, CTRL)
        for key in (
            K.Key_N,
            K.Key_G,
            K.Key_B,
            K.Key_D,
            K.Key_Delete,
            K.Key_R,
            K.Key_X,
            K.Key_M,
            K.Key_Z,
            K.Key_I,
            K.Key_E,
        )
    ),
    (K.Key_Z, CTRL | SHIFT),
    (K.Key_F12, NONE),
]


@pytest.mark.parametrize("seed", [1, 2, 3, 4])
def test_random_keys_and_clicks_never_fail(open_window, wait_for, tmp_path, seed):
    window = open_window(demo=True, size=(1024, 640) if seed % 2 else (1280, 800))
    window.session.remember("folder", str(tmp_path))
    db = window.session.workshop.connection
    rng = random.Random(seed)
    count = db.execute("SELECT count(*) FROM reading").fetchone()[0]
    for step in range(350):
        if rng.random() < 0.15:
            at = QPoint(rng.randrange(window.width()), rng.randrange(window.height()))
            target = window.childAt(at)
            if target is not None:
                where = target.mapFrom(window, at)
                QTest.mouseClick(target, Qt.MouseButton.LeftButton, NONE, where)
        else:
            key, modifier = rng.choice(KEYS)
            QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()
        if step % 25 == 0:
            QApplication.processEvents()
            now = db.execute("SELECT count(*) FROM reading").fetchone()[0]
            assert now >= count
            count = now
    wait_for(window)
    assert window.isVisible()
    assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    assert db.execute("PRAGMA foreign_key_check").fetchall() == []
    if look.lights_out:
        window.turn_lights()
