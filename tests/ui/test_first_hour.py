"""A new user, the keyboard and nothing else: twelve cells from nothing to a printed ranking."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.store.take_out import read_draft

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
LEVEL = {"A": 84.0, "B": 88.0, "C": 81.0}


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier, times=1):
    for _ in range(times):
        QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
        QApplication.processEvents()


def type_in(window, text):
    for letter in text:
        QTest.keyClick(QApplication.focusWidget(), letter)
    QApplication.processEvents()


def name_combination(window, pad, compound, machine, passes):
    press(window, K.Key_N, CTRL)
    for text in (pad, compound, machine):
        type_in(window, text)
        press(window, K.Key_Tab)
    while QApplication.focusWidget().objectName() != "passes":
        press(window, K.Key_Tab)
    type_in(window, passes)
    press(window, K.Key_Return)


def test_twelve_cells_from_nothing_to_a_printed_ranking(open_window, wait_for, tmp_path):
    window = open_window(size=(1016, 560))
    session = window.session
    session.remember("folder", str(tmp_path))
    press(window, K.Key_N, CTRL)
    type_in(window, "one-step")
    press(window, K.Key_Return)
    press(window, K.Key_Tab, times=3)
    assert QApplication.focusWidget().objectName() == "slot_times"
    press(window, K.Key_Return)
    type_in(window, "3")
    press(window, K.Key_Return)
    press(window, K.Key_F3)
    for pad, compound in (("Fen firm", "Loess 4"), ("Fen medium", "Loess 3"), ("Down", "Silt 2")):
        name_combination(window, pad, compound, "Dipper 15", "6")
    assert [(c.code, c.stages[0].passes) for c in session.combinations()] == [
        ("A", 6),
        ("B", 6),
        ("C", 6),
    ]
    press(window, K.Key_F4)
    press(window, K.Key_N, CTRL)
    type_in(window, "Heron")
    press(window, K.Key_Tab)
    press(window, K.Key_Left)
    press(window, K.Key_Space)
    (panel,) = session.panels()
    assert (panel.name, panel.hardness) == ("Heron", "soft")
    for name, number in (("rows", "3"), ("columns", "4")):
        while QApplication.focusWidget().objectName() != name:
            press(window, K.Key_Tab)
        press(window, K.Key_A, CTRL)
        type_in(window, number)
        press(window, K.Key_Return)
    press(window, K.Key_F5)
    press(window, K.Key_R, CTRL)
    wait_for(window)
    assert len(session.places()) == len(session.order()) == 12
    press(window, K.Key_F7)
    codes = {c.id: c.code for c in session.combinations()}
    seen = []
    for number in range(12):
        cell = window.view.state.cell
        seen.append(cell.id)
        for k in range(3):
            level = LEVEL[codes[cell.combination_id]] + 0.2 * (number % 4) + 0.1 * k
            type_in(window, f"{level:.1f}".replace(".", ","))
            press(window, K.Key_Return)
            if number == k == 0:  # asked once, before the first figure is kept
                assert "who worked it, who reads, which meter" in window.view.error.text()
                for name in ("Tam", "Ivo", "Glim"):
                    type_in(window, name)
                    press(window, K.Key_Return)
            assert window.view.error.text() == ""
        assert window.view.state.cell.id == cell.id
        assert window.view.form.verdict.text() == "enough"
        press(window, K.Key_Return)
    assert sorted(seen) == sorted(session.order())
    assert session.tally.taken == 36
    taken = read_draft(session.workshop.connection, session.trial_id).readings
    assert {(r.operator, r.reader, r.meter) for r in taken} == {("Tam", "Ivo", "Glim")}
    press(window, K.Key_F8)
    wait_for(window)
    assert window.view.sentence.text().startswith("Soft: B is best (")
    press(window, K.Key_P, CTRL)
    press(window, K.Key_Return)
    (written,) = tmp_path.glob("*.pdf")
    assert written.read_bytes().startswith(b"%PDF")
    assert f"Written: {written}" in window.note.text()
