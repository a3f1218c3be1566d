"""Laying out, the outlook, kit as things and the plan on paper, in the real window."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.app.commands import NoteWork, SetMatters
from loam.app.planning import rules_of
from loam.app.presenters.run_sheet import reading_order, rulers, work_order
from loam.ui.picture_out import as_image, save_picture
from loam.ui.theme import BENCH, look

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
PLANNED, CLAIM = 3, 4


def press(key, modifier=NONE):
    QTest.keyClick(QApplication.focusWidget(), key, modifier)
    QApplication.processEvents()


@pytest.fixture
def planned(open_window, wait_for):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[PLANNED].id)
    window.go("layout")
    wait_for(window)
    return window


def codes(window):
    names = {c.id: c.code for c in window.session.combinations()}
    return [names.get(c.combination_id) for c in window.session.cells()]


def rules(window):
    return rules_of(window.session.workshop.connection, window.session.trial_id)


def lay_out(window, wait_for):
    press(K.Key_R, CTRL)
    press(K.Key_R, CTRL)
    wait_for(window)


def test_laying_out_changes_the_cells_but_keeps_its_rules(planned, wait_for):
    before = codes(planned)
    lay_out(planned, wait_for)
    after = codes(planned)
    assert after != before
    assert after.count("X") == before.count("X") == 4
    assert sorted(after.count(c) for c in "ABC") == [6, 7, 7]
    assert rules(planned).turn == 1
    assert "certainty" in planned.view.said.text() or "lost" in planned.view.said.text()
    press(K.Key_Z, CTRL)
    assert codes(planned) == before
    assert rules(planned).turn == 0


def test_a_cell_that_is_kept_stays_and_is_drawn_so(planned, wait_for):
    view = planned.view
    cells = planned.session.cells()
    view.drawing.setFocus()
    view.choose(cells[4].id)
    had = cells[4].combination_id
    press(K.Key_Space)
    assert rules(planned).locked == {cells[4].id}
    face = view.drawing.picture.face(cells[4].id)
    assert face.pinned
    assert face.spoken.endswith("stays")
    press(K.Key_Delete)
    assert "keeps what it has" in planned.note.text()
    assert planned.session.cell(cells[4].id).combination_id == had
    for _ in range(3):
        lay_out(planned, wait_for)
        assert planned.session.cell(cells[4].id).combination_id == had
    press(K.Key_Space)
    assert rules(planned).locked == frozenset()


def test_cells_are_swapped_by_shift_and_arrow_and_by_dragging(planned):
    view, session = planned.view, planned.session
    first, second = session.cells()[:2]
    view.drawing.setFocus()
    view.choose(first.id)
    press(K.Key_Right, SHIFT)
    assert session.cell(second.id).combination_id == first.combination_id
    assert session.cell(second.id).run_order == first.run_order
    assert session.cell(first.id).combination_id == second.combination_id
    assert view.chosen == second.id
    a, b = (QPoint(*view.drawing.centre_of(c.id)) for c in (first, second))
    QTest.mousePress(view.drawing, Qt.MouseButton.LeftButton, NONE, a)
    QTest.mouseMove(view.drawing, b)
    QTest.mouseRelease(view.drawing, Qt.MouseButton.LeftButton, NONE, b)
    assert session.cell(first.id).combination_id == first.combination_id
    assert session.undo() == "swap two cells"
    QTest.mousePress(view.drawing, Qt.MouseButton.LeftButton, NONE, a)
    QTest.mouseRelease(view.drawing, Qt.MouseButton.LeftButton, NONE, a)
    assert session.undo_name == "swap two cells"  # a click alone swaps nothing


def test_rules_are_pressed_and_taken_back(planned, wait_for):
    view = planned.view
    view.bar.chips.buttons["by_machine"].click()
    assert rules(planned).by_machine
    view.bar.counts["damaged"].buttons["2"].click()
    lay_out(planned, wait_for)
    assert codes(planned).count("X") == 8
    assert "untouched" not in [w for w, line in view.bar.lines.items() if line.isVisible()]
    press(K.Key_Z, CTRL)
    press(K.Key_Z, CTRL)
    assert rules(planned).damaged == 1
    assert view.bar.counts["damaged"].value() == ["1"]


def test_people_are_pressed_and_share_the_panels(planned, wait_for):
    people = planned.view.hands.chips
    assert people.value() == ["Ivo", "Lise", "Tam"]
    assert list(people.buttons) == ["Emil", "Ivo", "Lise", "Maren", "Nils", "Ruth", "Tam"]
    for name in ("Lise", "Tam", "Maren"):
        QTest.mouseClick(people.buttons[name], Qt.MouseButton.LeftButton)
    kept = rules(planned)
    assert kept.people == ("Ivo", "Maren")
    panels = planned.session.panels()
    assert sorted(kept.worker(p.id) for p in panels) == ["Ivo", "Ivo", "Maren", "Maren"]
    assert f"{kept.worker(panels[0].id)} works this panel" in planned.view.lead.text()
    assert {j.worker for j in work_order(planned.session)} == {"Ivo", "Maren"}
    for name in ("Ivo", "Maren"):
        QTest.mouseClick(people.buttons[name], Qt.MouseButton.LeftButton)
    assert "works this panel" not in planned.view.lead.text()
    press(K.Key_Z, CTRL)
    assert rules(planned).people == ("Maren",)


def test_what_is_left_is_dealt_anew_after_some_cells_are_done(planned, wait_for):
    session = planned.session
    first = min((c for c in session.cells() if c.run_order), key=lambda c: c.run_order)
    facts = {"seconds": 30.0, "number": 1}
    session.run(NoteWork(session.trial_id, first.id, 1, "worked", facts))
    before = codes(planned)
    press(K.Key_R, CTRL)
    assert "1 is done and stays as it was worked" in planned.note.text()
    press(K.Key_R, CTRL)
    wait_for(planned)
    after = {c.id: c for c in session.cells()}
    assert after[first.id] == first
    assert codes(planned) != before


def test_a_layout_of_cells_that_changed_meanwhile_is_not_taken(planned, wait_for):
    view, session = planned.view, planned.session
    view.drawing.setFocus()
    press(K.Key_R, CTRL)
    press(K.Key_R, CTRL)
    assert planned.jobs.is_busy("layout")
    assert view.deal_key.words == "that will do"
    cell = session.cells()[0]
    view.choose(cell.id)
    press(K.Key_Delete)
    before = codes(planned)
    wait_for(planned)
    assert codes(planned) == before
    assert "changed meanwhile" in planned.note.text()
    assert view.deal_key.words == "lay it out"


def test_impossible_wishes_are_explained(planned, wait_for):
    view = planned.view
    view.bar.counts["damaged"].buttons["3"].click()
    for panel in planned.session.panels()[1:]:
        view.act(_put_away(planned, panel))
    view.bar.changed.emit(replace(rules(planned), damaged=6))
    wait_for(planned)
    assert "medium has 0 free cells for 3 combinations" in view.outlook.sentence.text()
    lay_out(planned, wait_for)
    assert "Add a panel or cells" in planned.note.text()


def _put_away(window, panel):
    from loam.app.commands import PutPanelAway

    return PutPanelAway(window.session.trial_id, id=panel.id)


def test_what_a_choice_says_is_what_pressing_it_does(open_window, wait_for):
    window = open_window(demo=True)
    session = window.session
    window.turn_to(session.trials()[PLANNED].id)
    session.run(SetMatters(session.trial_id, session.trial_id, "gloss20", None, 0.4))
    window.go("ask")
    wait_for(window)
    box = window.view.outlook
    assert box.sentence.text().startswith("It cannot answer for gloss 20° yet")
    said = box.buttons["panel:medium"].text()
    panels = len(window.session.panels())
    box.buttons["panel:medium"].click()
    wait_for(window)
    assert len(window.session.panels()) == panels + 1
    assert said.split(": ")[1] in box.sentence.text().replace("it finds", "finds")
    box.buttons["readings"].click()
    wait_for(window)
    assert window.session.trial.readings_per_cell == 6
    times = [value for what, value, _ in window.view.costs.lines if what == "time"]
    window.session.undo()
    wait_for(window)
    assert [v for w, v, _ in window.view.costs.lines if w == "time"] != times


def test_the_outlook_follows_what_matters_and_the_measurand(planned, wait_for):
    session, box = planned.session, planned.view.outlook
    session.run(SetMatters(session.trial_id, session.trial_id, "gloss20", None, 5.0))
    wait_for(planned)
    assert box.sentence.text().startswith("It can answer for gloss 20°")
    assert box.ruler.accessibleDescription().startswith(box.sentence.text())
    press(K.Key_M)
    wait_for(planned)
    assert box.kind.text() == "haze"
    assert "of haze" in box.sentence.text()


def test_the_plan_goes_on_paper_whole(planned, tmp_path):
    picture = planned.view.picture()
    titles = [p.title for p in picture.pages()]
    assert any("Order of work" in t for t in titles)
    assert any("Readings" in t for t in titles)
    save_picture(picture, tmp_path / "plan.pdf")
    document = QPdfDocument(None)
    document.load(str(tmp_path / "plan.pdf"))
    assert document.pageCount() == len(titles)
    assert document.pagePointSize(0).width() == pytest.approx(595, abs=1)  # A4
    text = "\n".join(document.getAllText(i).text() for i in range(document.pageCount()))
    for said in ("Bracken", "100 mm", "Curlew K3", "Silt 1", "20 sets", "safety data sheets"):
        assert said in text
    session = planned.session
    for i, sheet in enumerate(picture.pages(), 1):
        foot = document.getAllText(i - 1).text()
        assert f"sheet {i} of {len(titles)}" in foot
        assert sheet.foot.startswith(session.trial.name), "a sheet says what it belongs to"
        assert session.workshop.clock().date().isoformat() in sheet.foot
    document.close()
    told = {j.combination.code: j.settings for j in work_order(session)}
    for combination in session.combinations():
        for stage in combination.stages:
            for value, words in (
                (stage.dial, f"dial {stage.dial}"),
                (stage.force_n, f"{stage.force_n:.3g} N" if stage.force_n else ""),
                (stage.arm_mm_s, f"arm {stage.arm_mm_s:.3g} mm/s" if stage.arm_mm_s else ""),
            ):
                assert not value or words in told[combination.code]
    drawn = as_image(picture, 0.5)
    dark = sum(
        drawn.pixelColor(x, y).lightness() < 128
        for x in range(0, drawn.width(), 3)
        for y in range(0, drawn.height(), 3)
    )
    assert dark < 0.15 * (drawn.width() / 3) * (drawn.height() / 3), "a panel spares ink"
    assert look.tokens is BENCH, "the screen keeps its colours"
    assert [j.number for j in work_order(session)] == list(range(1, 21))
    assert len(reading_order(session)) == 24
    width = rulers(session)[0]
    assert width.length_mm == 1040
    assert width.cells[0][0] == 40
    assert width.cells[-1][1] == pytest.approx(1000)
    assert len(width.panels) == 4


def test_a_file_without_sheets_holds_the_panels(planned, tmp_path):
    picture = planned.view.picture()
    save_picture(picture, tmp_path / "plan.png")
    image = QImage(str(tmp_path / "plan.png"))
    assert image.width() > image.height() / 2
    assert image.width() >= 2 * picture.single.width
    assert picture.single.title.endswith("what goes where")
