"""From nothing to a result, by hand and with the keyboard alone."""

from PyQt6.QtCore import QEventLoop, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit

from loam.store.database import reading_apart
from loam.store.readings import readings_of_cells

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


def type_into(widget, text, enter=True):
    widget.setFocus()
    widget.selectAll()
    QTest.keyClicks(widget, text)
    if enter:
        QTest.keyClick(widget, K.Key_Return)


def field(window, name):
    return window.view.findChild(QLineEdit, name)


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
    QApplication.processEvents()


def build(window):
    """Ask, two combinations, one panel of 2 by 4 cells, dealt at random."""
    window.session.remember("reader_asked", True)
    press(window, K.Key_N, CTRL)
    question = window.view.question
    assert question.hasFocus()
    QTest.keyClicks(question, "Which is it?")
    QTest.keyClick(question, K.Key_Return)
    type_into(field(window, "readings_per_cell"), "2")
    press(window, K.Key_F3)
    for pad, compound, machine in (
        ("Fen firm", "Grist 6 cutting", "Dipper orbital"),
        ("Tussock wool", "Silt finish", "Mill rotary"),
    ):
        press(window, K.Key_N, CTRL)
        assert field(window, "pad").hasFocus()
        type_into(field(window, "pad"), pad)
        type_into(field(window, "compound"), compound)
        type_into(field(window, "machine"), machine)
        type_into(field(window, "passes"), "6")
    press(window, K.Key_F4)
    press(window, K.Key_N, CTRL)
    assert field(window, "panel_name").hasFocus()
    type_into(field(window, "panel_name"), "Heron")
    type_into(field(window, "columns"), "4")
    type_into(field(window, "rows"), "2")
    window.view.hardness.buttons["hard"].click()
    press(window, K.Key_F5)
    press(window, K.Key_R, CTRL)
    while window.jobs.busy:
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)


def test_from_nothing_to_a_ranking(open_window, wait_for):
    window = open_window()
    session = window.session
    assert "Start a trial" in window.path.accessibleDescription()
    build(window)
    assert session.trial.question == "Which is it?"
    codes = {c.id: c.code for c in session.combinations()}
    assert [c.stages[0].pad_material for c in session.combinations()] == ["foam-firm", "wool"]
    assert session.panels()[0].hardness == "hard"
    laid = [codes[c.combination_id] for c in session.cells()]
    assert sorted(laid) == list("AAAABBBB")
    press(window, K.Key_F7)
    digits = window.view.digits
    assert digits.hasFocus()
    truth = {"A": 80.0, "B": 86.0}
    typed = 0
    while window.view.state is not None and typed < 16:
        cell = window.view.state.cell
        level = truth[codes[cell.combination_id]] + 0.3 * cell.row + 0.1 * (typed % 3)
        QTest.keyClicks(digits, f"{level:.1f}".replace(".", ","))
        QTest.keyClick(digits, K.Key_Return)
        typed += 1
        if typed % 2 == 0:
            assert "goes to" in window.view.form.advice.text() or typed == 16
            QTest.keyClick(digits, K.Key_Return)
        assert digits.hasFocus()
        assert digits.text() == ""
    assert sum(n for n, _ in session.counts().values()) == 16
    press(window, K.Key_F8)
    wait_for(window)
    said = window.view.findChild(QLabel, "sentence").text()
    assert said.startswith("Hard: B is best (")
    assert window.view.chart.picture.strips[0].swatches[0].combination == "B"
    assert window.session.safe_at == "14:02:11"


def test_each_typed_reading_is_on_disk_after_its_enter(open_window):
    window = open_window()
    build(window)
    press(window, K.Key_F7)
    QTest.keyClicks(window.view.digits, "84.6")
    QTest.keyClick(window.view.digits, K.Key_Return)
    with reading_apart(window.session.workshop.path) as db:
        assert db.execute("SELECT value, phase FROM reading").fetchall() == [(84.6, "after")]


def test_wrong_digits_are_refused_in_place_and_kept_for_mending(open_window):
    window = open_window()
    build(window)
    press(window, K.Key_F7)
    view = window.view
    for text, said in (("8bc", "not a number"), ("-5", "impossible"), ("84.6.1", "decimal mark")):
        view.digits.clear()
        QTest.keyClicks(view.digits, text)
        QTest.keyClick(view.digits, K.Key_Return)
        assert said in view.error.text()
        assert view.digits.text() == text
        assert window.session.counts() == {}
    QTest.keyClick(view.digits, K.Key_7)
    assert view.error.text() == ""


def test_undo_and_strike_while_reading(open_window):
    window = open_window()
    build(window)
    press(window, K.Key_F7)
    view = window.view
    cell = view.state.cell
    QTest.keyClicks(view.digits, "84.6")
    QTest.keyClick(view.digits, K.Key_Return)
    press(window, K.Key_Z, CTRL)
    assert [r.struck for r in view.state.readings] == ["taken back"]
    press(window, K.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert [r.struck for r in view.state.readings] == [None]
    QTest.keyClick(view.digits, K.Key_X)
    assert view.strike_bar.do.text() == "strike 84.6"
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    assert "Say why" in view.strike_bar.reason.error.text()
    QTest.keyClicks(QApplication.focusWidget(), "2")
    found = readings_of_cells(window.session.workshop.connection, [cell.id])
    assert [r.struck for r in found] == ["meter tilted or lifted"]
    assert view.digits.hasFocus()


def test_arrows_and_enter_turn_to_other_cells(open_window):
    window = open_window()
    build(window)
    press(window, K.Key_F7)
    view = window.view
    first = view.state.cell.code
    QTest.keyClick(view.digits, K.Key_Down)
    assert view.state.cell.code != first
    QTest.keyClick(view.digits, K.Key_Up)
    assert view.state.cell.code == first
    QTest.keyClick(view.digits, K.Key_Return)
    assert view.state.cell.code != first


def test_a_letter_lays_out_the_chosen_cell_and_steps_on(open_window):
    window = open_window()
    build(window)
    press(window, K.Key_F5)
    view = window.view
    view.choose(window.session.cells()[0].id)
    QTest.keyClicks(view.drawing, "bba")
    codes = {c.id: c.code for c in window.session.combinations()}
    assert [codes[c.combination_id] for c in window.session.cells()[:3]] == ["B", "B", "A"]
    QTest.keyClick(view.drawing, K.Key_Delete)
    assert window.session.cells()[3].combination_id is None
    QTest.keyClick(view.drawing, K.Key_Left)
    assert view.cell.code == "K3"


def test_a_click_chooses_a_cell_of_the_drawing(open_window, qtbot):
    window = open_window()
    build(window)
    press(window, K.Key_F5)
    from PyQt6.QtCore import QPoint

    drawing, target = window.view.drawing, window.session.cells()[5]
    with qtbot.waitSignal(drawing.cell_chosen) as told:
        qtbot.mouseClick(
            drawing, Qt.MouseButton.LeftButton, pos=QPoint(*drawing.centre_of(target.id))
        )
    assert told.args == [target.id]
    assert window.view.cell == target


def test_impossible_panels_are_refused_at_their_field(open_window):
    window = open_window()
    build(window)
    press(window, K.Key_F4)
    type_into(field(window, "columns"), "90")
    assert "1 to 60" in window.view.fields["columns"].error.text()
    type_into(field(window, "columns"), "60")
    assert "20 mm is the least" in window.view.fields["columns"].error.text()
    type_into(field(window, "width_mm"), "wide")
    assert "not a number" in window.view.fields["width_mm"].error.text()
    assert window.session.panels()[0].taping.columns == 4


def test_a_combination_in_use_is_not_removed(open_window):
    window = open_window()
    build(window)
    press(window, K.Key_F3)
    window.view.remove()
    assert "is laid out on 4 cells" in window.note.text()
    assert len(window.session.combinations()) == 2
