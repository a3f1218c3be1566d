"""Random keys while reading: rounds, wipes, tiles, inspections, histories; nothing is ever lost."""

import random
from datetime import datetime, timedelta

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from loam.app.presenters.inspecting import inspections
from loam.app.presenters.rounds import open_round, reading_order
from loam.app.presenters.story import story

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier
KEYS = [
    *(K.Key_Return,) * 8,
    *(getattr(K, f"Key_{c}") for c in "NWTIHXCDLAGVEPB"),
    K.Key_Escape,
    K.Key_Escape,
    K.Key_Escape,
    *(getattr(K, f"Key_{n}") for n in range(10)),
    K.Key_Up,
    K.Key_Down,
    K.Key_Left,
    K.Key_Right,
    K.Key_Backspace,
    K.Key_Tab,
    K.Key_Space,
    K.Key_F8,
    K.Key_F2,
    K.Key_F12,
]
FIGURES = ["84.6", "84,9", "8", "846", "92.4", "93.9", "15", "-3", "1e5", "0", "99.", "45.1"]


def rows(db, table):
    return db.execute(f"SELECT * FROM {table} ORDER BY id").fetchall()


def check(window, before):
    """Rows are only ever added; what is worked out from them can be worked out."""
    session = window.session
    db = session.workshop.connection
    for table, kept in before.items():
        now = rows(db, table)
        assert now[: len(kept)] == kept, f"{table} was changed"
        before[table] = now
    order = reading_order(session)
    assert sorted(order) == sorted(session.order())
    open_round(session)
    inspections(session)
    for cell in [c for c in session.cells() if c.combination_id][:3]:
        assert all(e.title for e in story(session, cell))
    view = window.views["read"]
    if window.view is view and view.state is not None:
        assert view.chosen in order
        assert view.drawing.picture is not None


@pytest.mark.parametrize("seed", range(1, 5))
def test_random_keys_while_reading(open_window, wait_for, seed):
    window = open_window(demo=True)
    rng = random.Random(seed)
    now = [datetime(2026, 9, 26, 14, 0, 0)]
    window.session.workshop.clock = lambda: now[0]
    window.turn_to(window.session.trials()[(2, 0, 5, 4)[seed % 4]].id)
    window.go("read")
    wait_for(window)
    db = window.session.workshop.connection
    before = {t: rows(db, t) for t in ("reading", "strike", "noted", "noted_strike")}
    for step in range(250):
        now[0] += timedelta(seconds=rng.choice([1, 20, 900]))
        focus = QApplication.focusWidget() or window
        lot = rng.random()
        if lot < 0.08:
            QTest.keyClick(focus, rng.choice([K.Key_Z, K.Key_Y, K.Key_M, K.Key_T]), CTRL)
        elif lot < 0.35 and isinstance(focus, QLineEdit):
            QTest.keyClicks(focus, rng.choice(FIGURES))
            QTest.keyClick(focus, K.Key_Return)
        else:
            QTest.keyClick(focus, rng.choice(KEYS), NONE)
        QApplication.processEvents()
        if window.view.step not in ("read", "cover") and rng.random() < 0.5:
            window.go("read")
            window.go("read")
        if step % 20 == 0:
            wait_for(window)
            check(window, before)
    wait_for(window)
    check(window, before)
    assert before["noted"], "no round, wipe, tile or inspection came about"
    assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    assert db.execute("PRAGMA foreign_key_check").fetchall() == []
