"""Asking by keyboard alone, and trials, panels and combinations put away and brought back."""

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.app.commands import AddTrial
from loam.core.trial import Trial

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
    QApplication.processEvents()


def typed(text):
    QTest.keyClicks(QApplication.focusWidget(), text)


def said(window):
    return window.view.sentence.accessibleName().removeprefix("question: ")


def test_a_question_is_asked_slot_by_slot_with_the_keyboard(open_window):
    window = open_window()
    press(window, K.Key_N, CTRL)
    typed("cut and finish")
    press(window, K.Key_Return)
    trial = window.session.trial
    assert trial.question == "Which cut and finish is best?"
    slots = window.view.sentence.slots
    assert slots["subject"].hasFocus()
    press(window, K.Key_Tab)
    assert slots["clear"].hasFocus()
    press(window, K.Key_Return)
    press(window, K.Key_Right)
    press(window, K.Key_Right)
    press(window, K.Key_Space)
    assert [p.hardness for p in window.session.panels()] == ["hard"]
    press(window, K.Key_Escape)
    press(window, K.Key_Tab)
    press(window, K.Key_Return)
    chips = window.view.sentence.measurands
    assert chips.buttons["gloss20"].hasFocus()
    for _ in range(3):
        press(window, K.Key_Right)
    assert chips.buttons["haze"].hasFocus()
    press(window, K.Key_Space)
    press(window, K.Key_Escape)
    press(window, K.Key_Tab)
    press(window, K.Key_Return)
    typed("3")
    press(window, K.Key_Return)
    trial = window.session.trial
    assert trial.measurands == ("gloss20", "haze")
    assert trial.readings_per_cell == 3
    assert said(window) == (
        "Which cut and finish is best on hard clear, for gloss 20° and haze"
        " ? Each cell is read 3 times ."
    )


def test_another_way_to_ask_keeps_the_words(open_window):
    window = open_window(demo=True)
    window.go("ask")
    view = window.view
    view.sentence.kinds.buttons["earns"].click()
    assert window.session.trial.question == "Does cut and finish earn its clear?"
    view.sentence.kinds.buttons["own"].click()
    assert window.session.trial.question == "cut and finish"
    view.sentence.kinds.buttons["best"].click()
    assert window.session.trial.question == "Which cut and finish is best?"


def test_a_refused_count_stays_open_and_is_asked_about_when_leaving(open_window):
    window = open_window(demo=True)
    window.go("ask")
    view = window.view
    view.sentence.slots["times"].click()
    typed("2.5")
    press(window, K.Key_Return)
    assert "counted whole" in view.sentence.count.error.text()
    assert view.sentence.open_slot == "times"
    press(window, K.Key_F3)
    assert window.view is view
    assert "“2.5” is not kept" in window.note.text()
    assert window.session.trial.readings_per_cell == 5
    press(window, K.Key_F3)
    assert window.view.step == "kit"


def test_a_trial_is_copied_put_away_and_brought_back(open_window):
    window = open_window(demo=True)
    window.go("ask")
    source, before = window.session.trial, len(window.session.trials())
    cells = [(c.row, c.column, c.combination_id is None) for c in window.session.cells()]
    press(window, K.Key_D, CTRL)
    copy = window.session.trial
    assert copy.name == "Cut and finish, again"
    assert [(c.row, c.column, c.combination_id is None) for c in window.session.cells()] == cells
    assert window.session.counts() == {}
    typed("Round two")
    press(window, K.Key_Return)
    assert window.session.trial.name == "Round two"
    press(window, K.Key_Delete, CTRL)
    assert len(window.session.trials()) == before
    assert window.session.trial_id != copy.id
    press(window, K.Key_H, CTRL)
    assert window.view.list.count() == 1
    press(window, K.Key_Return)
    assert window.session.trial.name == "Round two"
    assert len(window.session.trials()) == before + 1
    assert source in window.session.trials()


def test_undo_brings_a_trial_back_and_turns_to_it(open_window):
    window = open_window(demo=True)
    window.go("ask")
    gone = window.session.trial
    press(window, K.Key_Delete, CTRL)
    assert window.session.trial_id != gone.id
    press(window, K.Key_Z, CTRL)
    assert window.session.trial_id == gone.id
    press(window, K.Key_Y, CTRL)
    assert window.session.trial_id != gone.id


@pytest.mark.parametrize("step", ["panels", "kit"])
def test_panels_and_combinations_are_put_away_and_brought_back(open_window, step):
    window = open_window(demo=True)
    window.session.choose(window.session.trials()[2].id)
    window.go(step)
    things = window.session.panels if step == "panels" else window.session.combinations
    before = things()
    if step == "kit":
        press(window, K.Key_N, CTRL)
        window.view.list.setFocus()
    else:
        window.view.turn(1)
    press(window, K.Key_Delete, CTRL)
    if step == "kit":
        assert things() == before
    else:
        assert things() == before[:1]
    press(window, K.Key_H, CTRL)
    assert window.view.list.count() == 1
    press(window, K.Key_Delete, CTRL)
    assert len(things()) == len(before) + (step == "kit")


def test_forty_trials_are_counted_searched_and_reached(open_window):
    window = open_window()
    for i in range(40):
        window.session.run(AddTrial(Trial(0, f"Evening {i:02}", f"Which pad {i} is best?")))
    window.go("ask")
    assert window.view.shelf.count.text() == "40"
    press(window, K.Key_F, CTRL)
    typed("evening 3")
    assert window.view.shelf.count.text() == "10 of 40"
    press(window, K.Key_Return)
    press(window, K.Key_Down)
    assert window.session.trial.name.startswith("Evening 3")
    window.view.shelf.search.clear()
    window.view.list.setFocus()
    press(window, K.Key_End)
    assert window.session.trial.name == "Evening 39"


def test_a_panel_of_the_workshop_is_taped_again_in_another_trial(open_window):
    window = open_window(demo=True)
    source = window.session.panels()[0]
    window.session.run(AddTrial(Trial(0, "Second evening")))
    window.turn_to(window.session.trials()[-1].id)
    window.go("panels")
    press(window, K.Key_G, CTRL)
    assert window.view.list.count() >= 8
    assert window.view.workshop
    for row in range(window.view.list.count()):
        window.view.list.setCurrentRow(row)
        if window.view.list.marked() == source.physical:
            break
    press(window, K.Key_Return)
    (panel,) = window.session.panels()
    assert (panel.name, panel.physical, panel.hardness) == (
        source.name,
        source.physical,
        source.hardness,
    )
    press(window, K.Key_G, CTRL)
    assert window.view.list.count() >= 7
    press(window, K.Key_Escape)
    assert not window.view.workshop
    assert window.view.list.count() == 1


def test_a_click_on_a_small_panel_opens_its_layout(open_window, qtbot):
    window = open_window(demo=True)
    window.go("ask")
    row = window.view.panels
    x, y = row.tiles().boxes[4].middle
    qtbot.mouseClick(row, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
    assert window.view.step == "layout"
    assert window.view.panel == window.session.panels()[4]
