"""Reading through the real window: what is said is seen, what is typed never travels."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel

from loam.app.commands import EditTrial
from loam.core.readings.slip import MARK
from loam.store.readings import readings_of_cells

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def reading(open_window):
    """The half-worked trial of the demo, at its first cell that wants readings."""
    window = open_window(demo=True)
    window.session.choose(window.session.trials()[2].id)
    window.go("read")
    return window


def type_figure(view, text, enters=1):
    QTest.keyClicks(view.digits, text)
    for _ in range(enters):
        QTest.keyClick(view.digits, K.Key_Return)


def values(window, cell, measurand="gloss20"):
    found = readings_of_cells(window.session.workshop.connection, [cell], measurand)
    return [r.value for r in found if r.struck is None]


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
    QApplication.processEvents()


def test_what_is_said_of_a_cell_stays_until_the_next_figure(reading):
    view = reading.view
    cell = view.state.cell
    for text in ("84.6", "84.8", "84.7", "84.6", "84.7"):
        type_figure(view, text)
    assert view.state.cell == cell
    assert view.findChild(QLabel, "verdict").text() == "enough"
    assert "goes to M3" in view.form.advice.text()
    QTest.keyClicks(view.digits, "8")
    assert view.state.cell.code == "M3"
    assert view.digits.text() == "8"
    assert view.form.last.text().startswith("M2, gloss 20°: 84.7 ± 0.2")
    assert view.form.last.text().endswith("GU, enough")
    type_figure(view, "1.2")
    assert values(reading, cell.id) == [84.6, 84.8, 84.7, 84.6, 84.7]
    assert values(reading, view.state.cell.id) == [81.2]


def test_three_agreeing_readings_are_enough_and_never_called_scattered(reading):
    trial = reading.session.trial
    from dataclasses import replace

    reading.session.run(EditTrial(trial, replace(trial, readings_per_cell=3)))
    view = reading.view
    for _ in range(3):
        type_figure(view, "80.3")
    assert view.form.verdict.text() == "enough"
    assert "scatter" not in view.form.advice.text()


@pytest.mark.parametrize("key", [K.Key_Up, K.Key_Down, K.Key_Tab])
def test_a_half_typed_figure_never_travels(reading, key):
    view = reading.view
    cell = view.state.cell
    QTest.keyClicks(view.digits, "84.")
    QTest.keyClick(view.digits, key)
    assert view.state.cell == cell
    assert view.digits.text() == "84."
    assert view.digits.hasFocus()
    assert "84. is not kept yet" in view.error.text()


def test_arrows_within_a_figure_move_the_caret(reading):
    view = reading.view
    QTest.keyClicks(view.digits, "86")
    QTest.keyClick(view.digits, K.Key_Left)
    QTest.keyClicks(view.digits, "4.")
    assert view.digits.text() == "84.6"


@pytest.mark.parametrize("way", ["step", "trial-step", "close", "click", "chip"])
def test_leaving_with_a_half_typed_figure_asks_once(reading, qtbot, way):
    view = reading.view
    QTest.keyClicks(view.digits, "84.")
    act = {
        "step": lambda: press(reading, K.Key_F8),
        "trial-step": lambda: press(reading, K.Key_F2),
        "close": lambda: press(reading, K.Key_Q, CTRL),
        "click": lambda: view.choose(reading.session.cells()[-1].id),
        "chip": lambda: view.turn_phase("before"),
    }[way]
    act()
    assert reading.view is view
    assert reading.isVisible()
    assert view.digits.text() == "84."
    said = view.error.text() if way in ("click", "chip") else reading.note.text()
    assert "84." in said
    assert "Enter keeps it" in said
    if way in ("step", "trial-step"):
        act()
        assert reading.view is not view
    elif way == "close":
        act()
        assert not reading.isVisible()


def test_a_slip_is_asked_back_once_then_kept_and_marked(reading):
    view = reading.view
    cell = view.state.cell.id
    type_figure(view, "846")
    assert values(reading, cell) == []
    assert "846 is unlike the rest" in view.error.text()
    assert "Was it 84.6?" in view.error.text()
    QTest.keyClick(view.digits, K.Key_Return)
    assert values(reading, cell) == [846.0]
    found = readings_of_cells(reading.session.workshop.connection, [cell], "gloss20")
    assert found[0].mark == MARK
    assert MARK in view.form.taken.accessibleName()


def test_a_changed_figure_is_asked_back_anew(reading):
    view = reading.view
    cell = view.state.cell.id
    type_figure(view, "846")
    QTest.keyClick(view.digits, K.Key_Backspace)
    QTest.keyClicks(view.digits, "9")
    QTest.keyClick(view.digits, K.Key_Return)
    assert values(reading, cell) == []
    QTest.keyClick(view.digits, K.Key_Escape)
    assert view.digits.text() == ""
    assert view.error.text() == ""


def test_editing_keys_mean_what_they_mean_everywhere(reading):
    view = reading.view
    cell = view.state.cell.id
    QTest.keyClicks(view.digits, "84.6")
    for key in (K.Key_A, K.Key_C, K.Key_X):
        QTest.keyClick(view.digits, key, CTRL)
    assert view.digits.text() == ""
    QTest.keyClick(view.digits, K.Key_V, CTRL)
    assert view.digits.text() == "84.6"
    assert values(reading, cell) == []


def test_the_chosen_reading_is_struck_with_its_reason_on_screen(reading):
    view = reading.view
    cell = view.state.cell.id
    for text in ("84.6", "80.1", "84.7"):
        type_figure(view, text)
    view.choose(cell)
    QTest.keyClick(view.digits, K.Key_X)
    bar = view.strike_bar
    assert bar.do.text() == "strike 84.7"
    QTest.keyClick(bar.reason.line, K.Key_Up)
    assert bar.do.text() == "strike 80.1"
    QTest.keyClicks(bar.reason.line, "hair on the glass")
    QTest.keyClick(bar.reason.line, K.Key_Return)
    assert values(reading, cell) == [84.6, 84.7]
    assert "80.1 struck, hair on the glass" in view.form.taken.accessibleName()
    assert view.digits.hasFocus()
    QTest.keyClick(view.digits, K.Key_X)
    QTest.keyClick(bar.reason.line, K.Key_Escape)
    assert values(reading, cell) == [84.6, 84.7]


def test_a_column_is_pasted_into_the_cells_that_want_it(reading):
    view = reading.view
    first = view.state.cell
    figures = [f"{81 + 0.1 * (i % 5):.1f}".replace(".", ",") for i in range(12)]
    QApplication.clipboard().setText("\n".join(figures) + "\n")
    QTest.keyClick(view.digits, K.Key_V, CTRL)
    assert view.error.text().startswith("12 figures: M2 5, M3 5, M4 2.")
    assert values(reading, first.id) == []
    QTest.keyClick(view.digits, K.Key_Return)
    codes = {c.code: c.id for c in reading.session.cells_of(first.panel_id)}
    assert values(reading, codes["M2"]) == pytest.approx([81.0, 81.1, 81.2, 81.3, 81.4])
    assert len(values(reading, codes["M4"])) == 2
    press(reading, K.Key_Z, CTRL)
    assert [values(reading, codes[c]) for c in ("M2", "M3", "M4")] == [[], [], []]
    assert "take 12 readings" in reading.note.text()


@pytest.mark.parametrize(
    ("column", "said"),
    [
        ("84.6\nx\n84", "Figure 2 of 3: 'x' is not a number"),
        ("84.6\n-3", "Figure 2 of 2"),
        ("80 " * 200, "200 figures, but from M2 on only"),
    ],
)
def test_a_column_is_pasted_whole_or_not_at_all(reading, column, said):
    view = reading.view
    count = sum(n for n, _ in reading.session.counts().values())
    QApplication.clipboard().setText(column)
    QTest.keyClick(view.digits, K.Key_V, CTRL)
    assert said in view.error.text()
    QTest.keyClick(view.digits, K.Key_Escape)
    assert sum(n for n, _ in reading.session.counts().values()) == count


def test_arrows_go_over_the_panel_as_it_lies(reading):
    view = reading.view
    assert view.state.cell.code == "M2"
    for key, code in (
        (K.Key_Right, "M3"),
        (K.Key_Up, "L3"),
        (K.Key_Left, "L2"),
        (K.Key_Down, "M2"),
        (K.Key_Down, "N2"),
        (K.Key_Down, "N2"),
    ):
        QTest.keyClick(view.digits, key)
        assert view.state.cell.code == code


def test_the_next_meter_starts_at_its_first_unread_cell(reading):
    from dataclasses import replace

    trial = reading.session.trial
    reading.session.run(EditTrial(trial, replace(trial, measurands=("gloss20", "haze"))))
    view = reading.view
    assert view.state.cell.code == "M2"
    press(reading, K.Key_M, CTRL)
    assert (view.measurand, view.state.cell.code) == ("haze", "K1")


def test_all_meters_of_a_cell_in_one_go(reading):
    from dataclasses import replace

    trial = reading.session.trial
    reading.session.run(
        EditTrial(trial, replace(trial, measurands=("gloss20", "haze"), readings_per_cell=2))
    )
    view = reading.view
    cell = view.state.cell
    press(reading, K.Key_T, CTRL)
    typed = []
    for text in ("84.6", "11.2", "84.8", "11.0"):
        typed.append(view.measurand)
        type_figure(view, text)
    assert typed == ["gloss20", "haze", "gloss20", "haze"]
    assert view.state.cell == cell
    assert values(reading, cell.id) == [84.6, 84.8]
    assert values(reading, cell.id, "haze") == [11.2, 11.0]
    QTest.keyClick(view.digits, K.Key_Return)
    assert view.state.cell.id != cell.id
    press(reading, K.Key_T, CTRL)
    assert not view.together


def test_every_panel_of_fifteen_is_counted_and_reached(open_window):
    window = open_window()
    from loam.app.commands import TakeInTrial
    from loam.demo.scenario import motions

    draft = motions()
    from dataclasses import replace

    panels = [replace(draft.panels[0], id=i, name=f"Panel {i}") for i in range(1, 16)]
    cells = [
        replace(c, id=i * 20 + k, panel_id=i + 1)
        for i in range(15)
        for k, c in enumerate([c for c in draft.cells if c.panel_id == 1], 1)
    ]
    window.session.run(
        TakeInTrial(replace(draft, panels=tuple(panels), cells=tuple(cells), readings=()))
    )
    window.go("read")
    view, seen = window.view, set()
    for _ in range(15):
        seen.add(view.state.panel.name)
        assert f"Panel {len(seen)} of 15" in view.which.text()
        press(window, K.Key_PageDown)
    assert len(seen) == 15


def test_one_enter_shows_the_view_once_and_asks_the_file_nothing_twice(reading, monkeypatch):
    window = reading
    view, db = window.view, window.session.workshop.connection
    shown = []
    monkeypatch.setattr(view.side, "show_state", lambda *_: shown.append(1))
    for value in ("84.1", "84.3"):
        type_figure(view, value)
    said = []
    db.set_trace_callback(said.append)
    shown.clear()
    type_figure(view, "84.2")
    db.set_trace_callback(None)
    assert len(shown) == 1
    asked = [s for s in said if s.startswith("SELECT r.") or "FROM setting" in s or "noted" in s]
    assert len(asked) == len(set(asked)), asked
    assert len(said) < 20, said
