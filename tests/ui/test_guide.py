"""A guided first trial: seven notes, each where it belongs, each leaving when it is done."""

from PyQt6.QtCore import Qt

from helpers.hands import press, type_in, type_over
from loam.app.presenters.guide import guide_note
from loam.app.presenters.path import STEPS

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


def test_an_empty_workshop_offers_it_and_the_notes_lead_along_the_path(open_window, wait_for):
    window = open_window(size=(1024, 640))
    view, bar = window.view, window.guide
    assert view.guided.isVisible()
    assert not bar.isVisible(), "nobody asked for it yet"
    press(window, K.Key_G, CTRL)
    assert window.session.trial is not None
    assert bar.isVisible()
    assert bar.number.number == 1
    assert "Say what you want to know" in bar.said.text()
    type_in(window, "Which is best?")
    press(window, K.Key_Return)
    assert bar.number.number == 2
    assert bar.said.text().startswith("Go on with F3, Kit.")
    press(window, K.Key_F3)
    assert "Type two combinations" in bar.said.text()
    for pad in ("Fen medium", "Down"):
        press(window, K.Key_N, CTRL)
        type_over(window, window.view.form.pad, pad)
    assert bar.number.number == 3
    press(window, K.Key_F4)
    press(window, K.Key_N, CTRL)
    type_in(window, "Heron")
    press(window, K.Key_Return)
    assert bar.number.number == 4
    press(window, K.Key_F5)
    assert "Ctrl+R deals" in bar.said.text()
    press(window, K.Key_R, CTRL)
    wait_for(window)
    assert bar.number.number in (4, 5)
    press(window, K.Key_Period, CTRL)
    assert not bar.isVisible()
    window.go("ask")
    assert not bar.isVisible(), "off for good"
    press(window, K.Key_Period, CTRL)
    assert bar.isVisible()


def test_every_step_has_its_note_and_fits(open_window, wait_for):
    window = open_window(demo=True, size=(1024, 640))
    window.turn_guide()
    for step, _ in STEPS:
        window.go(step)
        wait_for(window)
        note = guide_note(window.session, step)
        assert note is not None
        assert window.guide.said.text() == note.words
        assert window.guide.height() >= window.guide.said.heightForWidth(window.guide.said.width())
        assert all(len(s.split()) <= 25 for s in note.words.split(". "))
