"""The first lesson of a course, in the real window: what each wipe leaves of what was hidden."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt

from helpers.hands import press, type_in, type_over
from loam.app.commands import take_reading
from loam.core.trial import AFTER, UNWIPED, Reading
from loam.core.wipes import read_wipes

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
WIPES = ("alcohol mix", "tar remover", "panel wipe", "panel wipe x2")
TAKES = {"alcohol mix": 0.45, "tar remover": 0.9, "panel wipe": 0.8, "panel wipe x2": 1.0}
HIDES = {"Silt 2": 4.5, "Loess 4": 2.2, "Grist 9": 0.0}


@pytest.fixture
def lesson(open_window, wait_for):
    """Three products, four wipes each, and an untouched control, on four panels."""
    window = open_window()
    press(window, K.Key_N, CTRL)
    type_in(window, "Which wipe")
    press(window, K.Key_Return)
    press(window, K.Key_F3)
    view = window.view
    for product in HIDES:
        for i, wipe in enumerate(WIPES):
            press(window, K.Key_D if i else K.Key_N, CTRL)
            if not i:
                type_over(window, view.form.pad, "Fen medium")
                type_over(window, view.form.compound, product)
                type_over(window, view.form.machine, "Dipper 15")
            type_over(window, view.form.figures["wipes"], wipe)
    view.add_control("untouched")
    press(window, K.Key_F4)
    for name in ("Rot", "Blau", "Gelb", "Weiss"):
        press(window, K.Key_N, CTRL)
        type_in(window, name)
        press(window, K.Key_Tab)
    press(window, K.Key_F5)
    press(window, K.Key_R, CTRL)
    wait_for(window)
    return window


def read_all(session, rng):
    """Read every cell before the wipe, after the first of two, and after the last."""
    trial = session.trial_id
    combinations = {c.id: c for c in session.combinations()}
    for cell in session.cells():
        own = combinations.get(cell.combination_id or 0)
        if own is None:
            continue
        clean = 84.0 + rng.normal(0, 0.5)
        product = own.stages[-1].compound if own.stages else ""
        hid = HIDES.get(product, 0.0)
        phases = [(UNWIPED, clean + hid)]
        if own.stages:
            (wipe,) = own.stages[-1].wipes
            full = f"{wipe.name} x{wipe.times}" if wipe.times > 1 else wipe.name
            if wipe.times > 1:
                phases.append(("wipe1", clean + hid * (1.0 - TAKES[wipe.name])))
            phases.append((AFTER, clean + hid * (1.0 - TAKES[full])))
        else:
            phases.append((AFTER, clean))
        for phase, level in phases:
            for k in range(3):
                value = round(level + rng.normal(0, 0.2), 1)
                session.run(
                    take_reading(trial, Reading(0, cell.id, "gloss20", value, phase, k + 1))
                )


def test_wipes_are_typed_for_each_combination_and_copied(lesson):
    found = [c for c in lesson.session.combinations() if c.stages]
    assert len(found) == 12
    assert [c.stages[-1].wipes for c in found[:4]] == [read_wipes(w) for w in WIPES]
    assert {c.stages[-1].compound for c in found} == set(HIDES)


def test_read_asks_wipe_by_wipe_and_says_which_cell_gets_which(lesson, wait_for):
    window = lesson
    window.go("read")
    wait_for(window)
    phases = [key for key, _ in window.view.state.phases]
    assert "wipe1" in phases
    assert "wipe2" not in phases
    press(window, K.Key_W)
    board = window.view.board
    shown = window.view.mode.shown()
    assert board is not None
    assert shown.pieces[1].value == "as planned"
    assert "panel wipe twice: " in shown.sentence
    assert "alcohol mix: " in shown.sentence
    flash = next(p for p in shown.pieces if p.label == "flash")
    assert flash.value == "5 min", "the longest of what is planned: tar remover"
    assert shown.pieces[0].value == "wipe 1 of several"
    press(window, K.Key_Return)
    assert window.view.phase == "wipe1"


def test_the_lesson_is_judged_and_said(lesson, wait_for):
    window = lesson
    read_all(window.session, np.random.default_rng(4))
    window.go("judge")
    wait_for(window)
    ranking = window.view.ranking
    said = ranking.trap
    assert "Silt 2 hid 4." in said
    assert "alcohol mix leaves 2." in said
    left = {(f.product, f.wipe): f for f in ranking.masked.left}
    assert {p for p, _ in left} == {"Silt 2", "Loess 4"}
    one = left["Silt 2", "alcohol mix"]
    assert one.low < 4.5 * 0.55 < one.high
    both = left["Silt 2", "panel wipe"]
    assert both.cells > left["Silt 2", "panel wipe twice"].cells, "read after the first of two, too"
    assert "leads with filler on it" in ranking.trap
