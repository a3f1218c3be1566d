"""Who works and reads, and with which meter: asked by name where it is first needed, made there."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from helpers.bench import PLANNED, K, press, start
from loam.app.commands import PutThingAway
from loam.core.kit.facts import PERSON
from loam.store import kit, noted
from loam.ui.views.read.modes import TileMode


@pytest.fixture
def bench(open_window, wait_for):
    return start(open_window, wait_for, PLANNED)


def test_who_works_is_asked_once_and_named_there(bench):
    session, view = bench.window.session, bench.view
    for person in kit.things(session.workshop.connection, PERSON):
        session.run(PutThingAway(PERSON, person.item_id))
    bench.prepare()
    press(K.Key_Space)
    assert view.words.isVisible()
    assert "Who works?" in view.words.label.text()
    assert not view.pacer.running
    QTest.keyClicks(QApplication.focusWidget(), "Wren")
    press(K.Key_Return)
    assert (view.worker, session.people()) == ("Wren", ["Wren"])
    press(K.Key_Space)
    assert view.pacer.running
    press(K.Key_Space)
    press(K.Key_P, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClicks(QApplication.focusWidget(), "wren")
    press(K.Key_Return)
    assert session.people() == ["Wren"]
    press(K.Key_P, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClicks(QApplication.focusWidget(), "Pip")
    press(K.Key_Return)
    assert (view.worker, session.people()) == ("Pip", ["Pip", "Wren"])


def test_who_works_may_stay_open_and_is_not_asked_again(bench):
    session, view = bench.window.session, bench.view
    for person in kit.things(session.workshop.connection, PERSON):
        session.run(PutThingAway(PERSON, person.item_id))
    panel = session.panels()[1]
    view.choose(session.cells_of(panel.id)[0].id)
    press(K.Key_Return)
    assert "Who works?" in view.words.label.text()
    press(K.Key_Return)
    assert not view.words.isVisible()
    head = view.board_page.board.head
    press(K.Key_Return)
    assert view.board_page.board.head != head
    assert view.worker == ""


def test_a_tile_is_checked_of_a_meter_that_is_named_and_by_what_is_printed_on_it(
    open_window, wait_for
):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[PLANNED].id)
    window.go("read")
    wait_for(window)
    view, db = window.view, window.session.workshop.connection
    assert view.meter_name == ""
    press(K.Key_T)
    assert view.mode is None
    assert "Which meter is checked?" in view.error.text()
    QTest.keyClicks(QApplication.focusWidget(), "Sedge 20")
    press(K.Key_Return)
    assert isinstance(view.mode, TileMode)
    board = view.board.board
    assert "Sedge 20" in board.sentence
    assert "which value is printed" in board.sentence
    assert "92" not in board.sentence, "nobody said what the tile is"
    press(K.Key_Return)
    assert "printed beside" in view.board.error.text()
    for text in ("91,4", "91,3", "91,5", "91,4"):
        QTest.keyClicks(QApplication.focusWidget(), text)
        press(K.Key_Return)
    (check,) = noted.tiles(db, "Sedge 20", view.measurand)
    assert (check.facts["named"], check.facts["read"]) == (91.4, [91.3, 91.5, 91.4])
    press(K.Key_Escape)
    press(K.Key_T)  # now both are known
    assert any(piece.value.startswith("91.4") for piece in view.board.board.pieces)
