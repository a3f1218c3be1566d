"""Random keys at the bench, on a clock that leaps: what is noted stays possible."""

import random
from collections import Counter

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from helpers.bench import CTRL, MOTIONS, NONE, PLANNED, K, start

KEYS = [
    *(K.Key_Space,) * 10,
    *(K.Key_Return,) * 3,
    *(getattr(K, f"Key_{n}") for n in range(10)),
    K.Key_P,
    K.Key_C,
    K.Key_S,
    K.Key_S,
    K.Key_T,
    K.Key_W,
    K.Key_B,
    K.Key_R,
    K.Key_A,
    K.Key_PageDown,
    K.Key_PageUp,
    K.Key_Escape,
    K.Key_Return,
    K.Key_F6,
]


def check(bench):
    """What was noted is possible: whoever looks at the file later must be able to believe it."""
    session = bench.window.session
    stages = {c.id: len(c.stages) for c in session.combinations()}
    cells = {c.id: c for c in session.cells()}
    worked = Counter((w.cell_id, w.stage) for w in bench.noted if w.what == "worked")
    assert all(n == 1 for n in worked.values()), "a stage is worked once"
    for w in bench.noted:
        assert w.cell_id in cells
        if w.what == "pass":
            assert cells[w.cell_id].combination_id is not None, "what was worked keeps what it got"
            assert 1 <= w.stage <= stages[cells[w.cell_id].combination_id]
            assert w.facts["seconds"] >= 0.0
    states = [b.state for b in bench.runner.benches if b.state is not None]
    assert len({s.cell.id for s in states}) == len(states), "two benches at one cell"
    orders = [c.run_order for c in cells.values() if c.run_order is not None]
    assert len(set(orders)) == len(orders)


@pytest.mark.parametrize("seed", range(4))
def test_random_keys_at_the_bench(open_window, wait_for, seed):
    bench = start(open_window, wait_for, PLANNED if seed % 2 else MOTIONS)
    rng = random.Random(seed)
    for step in range(450):
        focus = QApplication.focusWidget() or bench.window
        lot = rng.random()
        if lot < 0.25:
            bench.later(rng.choice([0.5, 3.0, 20.0, 90.0]))
        elif lot < 0.31:
            QTest.keyClick(focus, rng.choice([K.Key_Z, K.Key_Y]), CTRL)
        elif isinstance(focus, QLineEdit) and lot < 0.6:
            QTest.keyClicks(focus, rng.choice(["7", "46", "dust", "9,5 3", "-4"]))
            QTest.keyClick(focus, K.Key_Return)
        else:
            QTest.keyClick(focus, rng.choice(KEYS), NONE)
        if bench.window.view is not bench.view:
            wait_for(bench.window)
            bench.window.go("work")
            bench.window.go("work")
        if step % 15 == 0:
            wait_for(bench.window)
            check(bench)
    wait_for(bench.window)
    check(bench)
    db = bench.window.session.workshop.connection
    assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    assert db.execute("PRAGMA foreign_key_check").fetchall() == []
