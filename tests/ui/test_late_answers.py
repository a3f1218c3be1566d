"""Answers that come late: the views were built anew meanwhile, and nothing is told to the old."""

import threading

import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtWidgets import QApplication

from helpers.hands import press
from loam.app.presenters.path import STEPS

K = Qt.Key


def deleted_now():
    """Let widgets that are to be deleted go, as the event loop does once it is back."""
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()


class Held:
    """Keeps the worker busy until it is let go."""

    def __init__(self, window):
        self.free, self.window = threading.Event(), window
        window.jobs.start("held", self.free.wait, lambda _done: None, window.refuse)

    def let_go(self, wait_for):
        self.free.set()
        wait_for(self.window)
        deleted_now()


def ask_all(window):
    """Ask the view at hand for whatever it has on the worker."""
    for key in (K.Key_D, K.Key_R, K.Key_L, K.Key_W, K.Key_X, K.Key_P, K.Key_G, K.Key_O, K.Key_E):
        press(window, key)
        QApplication.processEvents()


@pytest.mark.parametrize("step", [s for s, _ in STEPS])
@pytest.mark.parametrize("asked", [False, True])
def test_text_changed_beside_a_busy_worker(open_window, wait_for, step, asked):
    window = open_window(demo=True)
    window.go(step)
    wait_for(window)
    held = Held(window)
    if asked:
        ask_all(window)
    else:
        window.turn_to(window.session.trials()[0].id)
    window.set_text(125)
    deleted_now()
    window.session.choose_unit("film", "mil")
    window.build_again()
    deleted_now()
    held.let_go(wait_for)
    window.set_text(100)
    window.go("judge")
    wait_for(window)
    window.close()


def test_what_does_not_hang_on_a_view_is_answered_all_the_same(open_window, wait_for, tmp_path):
    window = open_window(demo=True)
    held = Held(window)
    wanted = window.session.trials()[2]
    window.turn_to(wanted.id)
    window.set_text(125)
    deleted_now()
    held.let_go(wait_for)
    assert window.session.trial_id == wanted.id


def test_the_new_view_asks_for_itself(judging, wait_for):
    window = judging()
    held = Held(window)
    window.set_text(125)
    deleted_now()
    assert window.view.step == "judge"
    held.let_go(wait_for)
    assert window.view.rankings
