"""The workshop's shelf in the real window: things stood, changed, pasted, brought in, used."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.core.kit.facts import COMPOUND, DISC, MACHINE, PAD, PAD_KIND
from loam.store import kit

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier


def press(key, modifier=NONE):
    QTest.keyClick(QApplication.focusWidget(), key, modifier)
    QApplication.processEvents()


def type_in(text):
    QTest.keyClicks(QApplication.focusWidget(), text)
    press(K.Key_Return)


@pytest.fixture
def shelf(open_window):
    window = open_window()
    window.go("kit")
    press(K.Key_T, CTRL)
    return window


@pytest.fixture
def stocked(open_window, wait_for):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[3].id)
    window.go("kit")
    press(K.Key_T, CTRL)
    wait_for(window)
    return window


def standing(window, sort):
    return [(t.name, t.facts) for t in kit.things(window.session.workshop.connection, sort)]


def test_a_shelf_is_filled_by_keyboard_before_there_is_a_trial(shelf):
    page = shelf.view.stock
    assert "Name a kind of pad" in page.empty.text()
    press(K.Key_N, CTRL)
    type_in("Fen firm")
    page.sheet.chips["material"].buttons["foam-firm"].click()
    page.sheet.fields["diameter_mm"].line.setFocus()
    type_in("150")
    assert standing(shelf, PAD_KIND) == [
        ("Fen firm", {"diameter_mm": 150.0, "material": "foam-firm"})
    ]
    press(K.Key_G, CTRL)
    press(K.Key_G, CTRL)
    assert [n for n, _ in standing(shelf, PAD)] == ["Fen firm 1", "Fen firm 2"]
    assert page.board.thing.below.endswith("2 of 2 clean")
    press(K.Key_S)
    press(K.Key_S)
    assert page.board.thing.below.endswith("1 of 2 clean")
    assert dict(standing(shelf, PAD))["Fen firm 2"]["sets"] == 2
    press(K.Key_W)
    assert dict(standing(shelf, PAD))["Fen firm 2"]["state"] == "clean"
    told = page.sheet.lives.toolTip()
    assert told.count("worked a set") == 2
    assert told.index("came to the shelf") < told.index("worked a set") < told.index("washed")
    press(K.Key_Up)
    press(K.Key_R)
    assert page.sheet.lives.pad.name == "Fen firm 1"
    assert page.board.thing.below.endswith("1 of 1 clean")
    press(K.Key_Z, CTRL)
    assert "note of Fen firm 1: retire it" in shelf.note.text()
    assert page.board.thing.below.endswith("2 of 2 clean")


def test_what_cannot_be_is_said_where_it_stands(shelf):
    page = shelf.view.stock
    page.turn_to(MACHINE)
    press(K.Key_N, CTRL)
    type_in("Mill")
    page.sheet.fields["dial"].line.setFocus()
    type_in("fast")
    assert "is no step" in page.sheet.fields["dial"].error.text()
    assert "“fast” is not kept" in shelf.view.pending()
    page.sheet.fields["dial"].line.selectAll()
    type_in("1=900; 2=1200")
    assert dict(standing(shelf, MACHINE))["Mill"]["dial"] == [["1", 900.0], ["2", 1200.0]]
    press(K.Key_N, CTRL)
    type_in("mill")
    assert "There is a machine mill already" in page.sheet.name.error.text()


def test_rows_of_a_spreadsheet_are_pasted_and_taken_back(shelf):
    page = shelf.view.stock
    page.turn_to(DISC)
    QApplication.clipboard().setText("name\tGrit\tUsed damp\nP1500\t1500\tyes\nP3000\t3000\tyes\n")
    press(K.Key_V, CTRL)
    assert [n for n, _ in standing(shelf, DISC)] == ["P1500", "P3000"]
    QApplication.clipboard().setText("P1500\tmany\n")
    press(K.Key_V, CTRL)
    assert "Row 1: 'many' is not a number" in shelf.note.text()
    press(K.Key_C, CTRL)
    assert QApplication.clipboard().text().startswith("name\tGrit")
    press(K.Key_V, CTRL)
    assert standing(shelf, DISC)[0] == ("P1500", {"grit": 1500.0, "damp": True})
    press(K.Key_Z, CTRL)
    press(K.Key_Z, CTRL)
    assert standing(shelf, DISC) == []


def test_a_shelf_is_written_out_and_brought_into_another_workshop(
    stocked, open_window, wait_for, tmp_path
):
    stocked.write_out()
    asked = stocked.asking
    asked.path.line.setText(str(tmp_path / "shelf.csv"))
    asked.keep()
    there = (tmp_path / "shelf.csv").read_text()
    assert "compound,Grist 9" in there
    other = open_window(path=tmp_path / "other.loam")
    other.bring_in_file(tmp_path / "shelf.csv")
    wait_for(other)
    assert other.view.step == "kit", other.view.problems.text()
    assert other.view.on_shelf
    for sort in (PAD_KIND, PAD, COMPOUND, MACHINE, DISC):
        assert standing(other, sort) == standing(stocked, sort)
    (tmp_path / "bad.csv").write_text("sort,name,grit\ndisc,P1,fine\n")
    other.bring_in_file(tmp_path / "bad.csv")
    wait_for(other)
    assert "'fine' is not a number" in other.view.problems.text()


def test_arrows_go_over_the_boards_and_a_thing_is_put_away(stocked):
    page = stocked.view.stock
    board = page.board
    assert board.hasFocus()
    assert board.thing.name == "Bracken"
    press(K.Key_Right)
    assert (board.thing.name, page.sheet.name.text()) == ("Down", "Down")
    press(K.Key_Down)
    press(K.Key_Left)
    names = [t.name for t in board.things]
    assert board.thing.name == names[board.boards.across]
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=board.place_of(2).toPoint())
    assert page.sheet.name.text() == names[2]
    board.setFocus()
    QTest.keyClicks(board, "tu")
    assert board.thing.name == "Tussock"
    board._forget()
    QTest.keyClicks(board, "fe")
    assert board.thing.name == "Fen firm"
    board._turn(2)
    press(K.Key_Delete, CTRL)
    assert names[2] not in [t.name for t in board.things]
    press(K.Key_H, CTRL)
    assert [t.name for t in board.things] == [names[2]]
    press(K.Key_Delete, CTRL)
    press(K.Key_H, CTRL)
    assert [t.name for t in board.things] == names
    press(K.Key_PageDown)
    assert page.sort == COMPOUND


def test_a_stage_takes_what_the_shelf_knows(stocked, wait_for):
    press(K.Key_T, CTRL)
    view = stocked.view
    view.add()
    form = view.form
    form.machine.line.setFocus()
    press(K.Key_Down)
    press(K.Key_Down)
    press(K.Key_Up)
    assert form.machine.line.text() == "Dipper 15"
    form.machine.line.clear()
    QTest.keyClicks(form.machine.line, "kil")
    assert form.machine.line.hint == "↓ Kiln 8"
    press(K.Key_Down)
    press(K.Key_Return)
    assert (form.stage.machine, form.stage.machine_kind, form.stage.orbit_mm) == (
        "Kiln 8",
        "forced-orbital",
        8.0,
    )
    form.figures["dial"].line.setFocus()
    type_in("4")
    assert (form.stage.dial, form.stage.speed) == ("4", 4200.0)
    wait_for(stocked)
