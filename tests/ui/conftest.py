"""The real window on a temporary workshop, with a fixed clock, built by the program's factory."""

import hashlib
import shutil
from datetime import datetime

import pytest
from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QApplication

from loam.core.judging import judge_readings
from loam.store.workshop import Workshop
from loam.ui.start import make_window
from loam.ui.views.judge.doubts import page as doubts_page


def fixed_clock():
    return datetime(2026, 9, 26, 14, 2, 11)


@pytest.fixture(autouse=True)
def doubts_when_asked(monkeypatch):
    """Doubts are looked for when a test asks, not in every window that stands for a while."""
    monkeypatch.setattr(doubts_page, "LATER_MS", 600_000)


_JUDGED = {}
"""What was judged of the same readings before, in this process: hundreds of windows open on it."""


def _known(data, **given):
    """Judge readings once: a judgement is a value, and the same readings give the same one."""
    print_ = hashlib.sha256()
    for part in (data.y, data.baseline, data.rows):
        print_.update(b"-" if part is None else part.tobytes())
    for column in (data.hardness, data.combination, *data.factors.values()):
        print_.update(column.codes.tobytes() + repr(column.names).encode())
    told = (data.measurand, data.higher_is_better, data.scale, data.looked, list(data.factors))
    print_.update(repr((told, sorted(given.items(), key=str))).encode())
    key = print_.digest()
    if key not in _JUDGED:
        _JUDGED[key] = judge_readings(data, **given)
    return _JUDGED[key]


@pytest.fixture(autouse=True)
def judged_once(monkeypatch):
    """Let windows take what was judged of the same readings; the engine's own tests do not."""
    monkeypatch.setattr("loam.core.verdict.judge_readings", _known)


@pytest.fixture
def open_window(qtbot, tmp_path, demo_file):
    """Open a window on a new workshop, or on the demo."""
    opened = []

    def make(*, demo=False, path=None, size=(1280, 800)):
        path = path or tmp_path / "bench.loam"
        if demo:
            shutil.copy(demo_file, path)
        window = make_window(QApplication.instance(), Workshop(path, clock=fixed_clock))
        opened.append(window)
        window.resize(*size)
        window.show()
        qtbot.waitExposed(window)
        settle(qtbot, window)
        return window

    yield make
    for window in opened:
        window.close()
        window.session.close()
        window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def settle(qtbot, window):
    """Wait until every answer from the worker is in."""
    qtbot.waitUntil(lambda: not window.jobs.busy, timeout=30_000)
    QApplication.processEvents()


@pytest.fixture
def wait_for(qtbot):
    return lambda window: settle(qtbot, window)


@pytest.fixture
def judging(open_window, wait_for):
    """Open Judge on one of the demo's trials, by its number."""

    def at(trial=2):
        window = open_window(demo=True)
        window.turn_to(window.session.trials()[trial - 1].id)
        window.go("judge")
        wait_for(window)
        return window

    return at
