"""A bench in the real window, on a clock that the test turns."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.store import work
from loam.ui.views.work.modes import After, Gates

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier
MOTIONS, PLANNED = 2, 3


def press(key, modifier=NONE):
    QTest.keyClick(QApplication.focusWidget(), key, modifier)
    QApplication.processEvents()


class Bench:
    def __init__(self, window):
        self.window, self.view, self.now = window, window.view, 5000.0
        self.runner = self.view.runner
        self.runner.clock = lambda: self.now
        self.view.bench.set_up(self.runner.clock)
        self.runner.take_up(self.view.bench)
        self.view.show_all()

    def later(self, seconds):
        self.now += seconds
        self.runner.tick()
        QApplication.processEvents()

    @property
    def pace(self):
        return self.view.pace_page.pace

    def prepare(self):
        """Pass every gate of the panel at hand with Enter, the last for a reason."""
        while isinstance(self.view.mode, Gates):
            if self.view.mode.found.gate.key == "baseline":
                press(K.Key_0)
                press(K.Key_1)
            else:
                press(K.Key_Return)

    @property
    def noted(self):
        session = self.window.session
        return work.paced(session.workshop.connection, session.trial_id)

    def work_through(self):
        """Work one stage to its end with the space bar."""
        self.prepare()
        press(K.Key_Space)
        for _ in range(400):
            if self.view.pacer is None or not self.view.pacer.running:
                break
            self.later(7.0)

    def work_on(self):
        """Work one stage, and go on to the next."""
        self.work_through()
        assert isinstance(self.view.mode, After)
        press(K.Key_Space)


def start(open_window, wait_for, trial, path=None):
    window = open_window(demo=path is None, path=path)
    window.turn_to(window.session.trials()[trial].id)
    window.go("work")
    wait_for(window)
    return Bench(window)
