"""A sanding ladder with three compounds, stage by stage, typed and worked in the real window."""

import pytest
from PyQt6.QtCore import Qt

from helpers.bench import Bench
from helpers.hands import press, type_in, type_over
from loam.app.presenters.run_sheet import work_steps
from loam.store import work
from loam.ui.views.work.modes import After, Gates, Grit

K = Qt.Key
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
COMPOUNDS = (("Bracken", "Grist 9"), ("Fen medium", "Loess 4"), ("Down", "Silt 1"))


def ladder(window, grits):
    """Type a combination that sands by some grits, and polishes with three compounds."""
    view = window.view
    press(window, K.Key_N, CTRL)
    press(window, K.Key_B, CTRL)  # it begins with a disc
    for i, grit in enumerate(grits):
        press(window, K.Key_G, CTRL | SHIFT)
        type_over(window, view.form.disc, f"P{grit}")
        if not i:
            type_over(window, view.form.machine, "Dipper 15")
            type_over(window, view.form.figures["pad_mm"], "50")
            type_over(window, view.form.passes, "2")
    for pad, compound in COMPOUNDS:
        press(window, K.Key_G, CTRL)
        type_over(window, view.form.pad, pad)
        type_over(window, view.form.compound, compound)
        type_over(window, view.form.machine, "Dipper 15")
        type_over(window, view.form.figures["pad_mm"], "50")
        type_over(window, view.form.passes, "2")


@pytest.fixture
def laid(open_window, wait_for):
    window = open_window()
    press(window, K.Key_N, CTRL)
    type_in(window, "Ladders")
    press(window, K.Key_Return)
    press(window, K.Key_F3)
    ladder(window, (400, 1200, 3000, 5000))
    ladder(window, (1200, 3000))
    press(window, K.Key_F4)
    press(window, K.Key_N, CTRL)
    type_in(window, "Rot")
    press(window, K.Key_Tab)
    view = window.view
    for name, count in (("rows", "2"), ("columns", "2")):
        type_over(window, view.findChild(type(view.tape.fields[name]), f"field_{name}"), count)
    press(window, K.Key_F5)
    press(window, K.Key_R, CTRL)
    wait_for(window)
    return window


def test_seven_stages_are_typed_and_laid_out_by_stage(laid):
    long, short = laid.session.combinations()
    assert [s.disc for s in long.stages] == ["P400", "P1200", "P3000", "P5000", "", "", ""]
    assert [s.grit for s in long.stages[:4]] == [400.0, 1200.0, 3000.0, 5000.0]
    assert len(short.stages) == 5
    assert "stage by stage" in [
        chip.text() for chip in laid.view.bar.chips.buttons.values() if chip.isChecked()
    ]
    titles = [title for title, _ in work_steps(laid.session)]
    assert titles == [
        f"Rot: {what}"
        for what in ("P400", "P1200", "P3000", "P5000", "Grist 9", "Loess 4", "Silt 1")
    ]


def test_the_whole_ladder_is_worked_step_by_step(laid, wait_for):
    window, session = laid, laid.session
    window.go("work")
    wait_for(window)
    bench = Bench(window)
    view, said, asked, told = bench.view, [], [], []
    assert "Damage alike" not in view.board_page.strip.accessibleDescription()
    bench.prepare()
    for _ in range(60):
        if view.state is None or isinstance(view.mode, Gates):
            break
        said.append(
            (view.state.stage, view.state.cell.id, view.state.now.disc or view.state.now.compound)
        )
        if len(said) == 1:
            assert "Step 1 of 7 on Rot, P400: 1 of" in view.lead.text()
        bench.work_through()
        if isinstance(view.mode, Grit):
            asked.append(view.board_page.board.head)
            press(window, K.Key_L if len(asked) == 3 else K.Key_Space)
        assert isinstance(view.mode, After)
        told.append(view.board_page.board.sentence)
        press(window, K.Key_Space)
    codes = {c.id: c.code for c in session.cells()}
    for sentence, (stage, cell, _) in zip(told, said[1:], strict=False):
        assert f"Next: {codes[cell]} on Rot, stage {stage} of" in sentence
    assert sum("This step is through: wipe the panel" in s for s in told) == 6
    names = [what for _, _, what in said]
    order = ["P400", "P1200", "P3000", "P5000", "Grist 9", "Loess 4", "Silt 1"]
    assert names == sorted(names, key=order.index), "one step is through before the next begins"
    cells = [c for c in session.cells() if c.combination_id]
    stages = {c.id: len(c.stages) for c in session.combinations()}
    assert len(said) == sum(stages[c.combination_id] for c in cells)
    assert asked[0] == "Are the former marks gone?"
    assert "Are the P400 marks gone?" in asked
    assert any("P5000" in a or "P3000" in a for a in asked[-3:]), "again after the first compound"
    worked = [
        w for w in work.paced(session.workshop.connection, session.trial_id) if w.what == "worked"
    ]
    gone = [w.facts["gone"] for w in worked if "gone" in w.facts]
    assert len(gone) == len(asked)
    assert gone.count(False) == 1
    assert view.lead.text().startswith("Every cell is worked")


def test_no_compound_is_said_to_dry_on_a_disc(laid, wait_for):
    laid.go("kit")
    laid.view.stage = 0
    laid.view._show()
    type_over(laid, laid.view.form.figures["arm_mm_s"], "5")
    wait_for(laid)
    assert "outlasts" not in laid.view.dose.care.text()
    laid.view.stage = 6
    laid.view._show()
    type_over(laid, laid.view.form.figures["arm_mm_s"], "5")
    wait_for(laid)
    assert "outlasts most compounds" in laid.view.dose.care.text()


def test_a_stage_that_sands_is_not_scrolled_sideways_in_a_small_window(laid, wait_for):
    laid.resize(1024, 640)
    laid.go("kit")
    wait_for(laid)
    laid.view.stage = 1
    laid.view._show()
    wait_for(laid)
    assert laid.view.form.disc.isVisible()
    assert laid.view.minimumSizeHint().width() <= laid.room.viewport().width()
