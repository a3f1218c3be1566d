"""Kit drawn and typed, panels with their film, outlines and photographs: in the real window."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from loam.app.commands import EditCombination
from loam.core.trial import Stage
from loam.ui.widgets.stage_drawing import Seen, StageDrawing, dial_angle, line_count
from loam.ui.widgets.things import COMPOUND, DISC, GRIT, MACHINE, PAD, Thing

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
ONE_STEPS, PLANNED, CLAIM, LADDERS = 0, 3, 4, 9


def press(key, modifier=NONE):
    QTest.keyClick(QApplication.focusWidget(), key, modifier)
    QApplication.processEvents()


def test_kit_is_drawn_and_says_what_it_does(open_window, wait_for):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[PLANNED].id)
    window.go("kit")
    wait_for(window)
    view = window.view
    dose = view.dose
    assert dose.map.view.circle is not None
    assert "Evenly worked: a circle of" in dose.facts.text()
    assert "taken off by both stages: " in dose.facts.text()
    assert "measured on" in dose.facts.text()
    ripple = dose.facts.text()
    view.form.shift.buttons["0"].click()
    wait_for(window)
    assert dose.facts.text() != ripple
    assert window.session.combinations()[0].stages[0].line_shift == 0.0
    view.form.figures["pad_mm"].line.setText("400")
    view.form.figures["pad_mm"].line.editingFinished.emit()
    wait_for(window)
    assert "no way to go" in dose.care.text()
    assert "Take a smaller pad" in dose.care.text()
    view.form.figures["pad_mm"].line.setText("4000")
    view.form.figures["pad_mm"].line.editingFinished.emit()
    assert "cannot be: 10 to 400" in view.form.figures["pad_mm"].error.text()
    assert window.session.combinations()[0].stages[0].pad_mm == 400.0


def test_a_thing_opens_what_it_is(open_window, wait_for):
    window = open_window(demo=True)
    window.go("kit")
    form = window.view.form
    for what, chips in (("machine", form.motion), ("compound", form.grade), ("pad", form.material)):
        thing = form.things[what]
        assert isinstance(thing, Thing)
        thing.setFocus()
        QTest.keyClick(thing, K.Key_Space)
        assert chips.isVisibleTo(form)
        assert thing.open
    form.motion.buttons["rotary"].click()
    wait_for(window)
    assert window.session.combinations()[0].stages[0].machine_kind == "rotary"
    assert not form.figures["orbit_mm"].isVisibleTo(form)
    assert form.figures["speed"].label.text() == "Turns"


def test_a_press_on_the_drawing_goes_to_the_figure_of_that_place(open_window):
    window = open_window(demo=True)
    window.go("kit")
    form = window.view.form
    for figure, box in form.drawing.parts.drawn.items():
        if figure not in form.figures or figure == "tilt_deg":
            continue  # a rotary's, in the place of the orbit
        QTest.mouseClick(
            form.drawing, Qt.MouseButton.LeftButton, pos=box.center().toPoint(), delay=-1
        )
        assert window.focusWidget() is form.figures[figure].line, figure
        assert form.drawing.at == figure
    form.pad.line.setFocus()
    assert form.drawing.at == ""


@pytest.mark.parametrize(
    ("wide", "high", "text"),
    [(1280, 800, 100), (1024, 640, 100), (1024, 640, 150), (1280, 800, 200)],
)
def test_figures_stand_in_the_drawing_and_none_on_another(open_window, wide, high, text):
    window = open_window(demo=True)
    window.resize(wide, high)
    window.set_text(text)
    for trial in (ONE_STEPS, LADDERS):  # pads and compounds; discs and grit
        window.turn_to(window.session.trials()[trial].id)
        window.go("kit")
        QApplication.processEvents()
        drawing = window.view.form.drawing
        shown = [f for f in window.view.form.figures.values() if f.isVisibleTo(drawing)]
        assert len(shown) == 10
        boxes = [f.geometry() for f in shown] + [
            t.geometry() for t in drawing.things.values() if t.isVisibleTo(drawing)
        ]
        for i, box in enumerate(boxes):
            assert drawing.rect().contains(box)
            assert not any(box.intersects(other) for other in boxes[i + 1 :])
        assert drawing.parts.drawn["dial"].width() >= 50
        assert not window.room.horizontalScrollBar().isVisible()


def test_a_setting_that_the_drawing_has_no_place_for_stands_below_it(qtbot):
    figures = {}
    names = ("force_n", "dial", "speed", "orbit_mm", "tilt_deg", "pad_mm", "arm_mm_s", "overlap")
    for name in (*names, "passes", "burst_s", "pad", "wipes", *(f"new {i}" for i in range(8))):
        figures[name] = QWidget()
        figures[name].setMinimumSize(100, 40)
    drawing = StageDrawing({w: Thing(w, w) for w in (PAD, COMPOUND, MACHINE, DISC, GRIT)}, figures)
    qtbot.addWidget(drawing)
    drawing.resize(drawing.stands.minimumSize())
    drawing.show()
    drawing.show_stage(Stage("", "", ""), Seen())
    QApplication.processEvents()
    shown = [f for n, f in figures.items() if n not in ("tilt_deg", "pad")]  # in others' places
    for i, one in enumerate(shown):
        assert drawing.rect().contains(one.geometry())
        assert not any(one.geometry().intersects(o.geometry()) for o in shown[i + 1 :])
    lowest = max(figures[n].geometry().bottom() for n in names)
    assert all(figures[f"new {i}"].y() > lowest for i in range(8))


def test_a_figure_that_is_refused_says_so_below_and_moves_nothing(open_window, wait_for):
    window = open_window(demo=True)
    window.go("kit")
    wait_for(window)
    form = window.view.form
    before = {n: f.geometry() for n, f in form.figures.items()}
    field = form.figures["pad_mm"]
    field.line.setText("4000")
    field.line.editingFinished.emit()
    QApplication.processEvents()
    assert field.error.isVisibleTo(form)
    assert field.error.mapTo(form, QPoint(0, 0)).y() >= form.drawing.geometry().bottom()
    for name, box in before.items():
        assert (form.figures[name].x(), form.figures[name].width()) == (box.x(), box.width())


def test_a_dial_and_the_lines_of_a_section_are_drawn_as_they_are_set():
    assert [dial_angle(("1", "2", "3"), mark) for mark in ("1", "2", "3")] == [0.0, 135.0, 270.0]
    assert dial_angle((), "6") == 270.0
    assert dial_angle((), "high") is None
    assert dial_angle(("low", "high"), "HIGH") == 270.0
    stage = Stage("", "", "", pad_mm=100.0, overlap=0.5)
    assert line_count(stage, 300.0) == 5  # 50, 100, 150, 200 and 250 mm
    assert line_count(stage, 90.0) == 1
    assert line_count(replace(stage, overlap=None), 300.0) == 0


def test_every_thing_looks_different(open_window):
    window = open_window(demo=True)
    window.go("kit")
    trial_id, found = window.session.trial_id, window.session.combinations()[0]
    stage = found.stages[0]
    form = window.view.form

    def seen(what, **change):
        after = replace(found, stages=(replace(stage, **change),))
        before = next(c for c in window.session.combinations() if c.id == found.id)
        if after != before:
            window.session.run(EditCombination(trial_id, before, after))
        QApplication.processEvents()
        image = form.things[what].grab().toImage()
        return bytes(image.constBits().asarray(image.sizeInBytes()))

    pads = [
        seen("pad", pad_material=m)
        for m in ("foam-firm", "foam", "foam-soft", "microfibre", "wool", "wool-foam")
    ]
    grains = [seen("compound", compound_class=c) for c in ("fine", "polish", "coarse")]
    ways = [seen("machine", machine_kind=m) for m in ("free-orbital", "forced-orbital", "rotary")]
    sizes = [seen("pad", pad_mm=mm) for mm in (50.0, 100.0, 150.0)]
    discs = [seen("pad", disc=name) for name in ("", "P1500")]
    for pictures in (pads, grains, ways, sizes, discs):
        assert len(set(pictures)) == len(pictures)


def test_a_survey_is_typed_spot_by_spot(open_window):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[CLAIM].id)
    window.go("panels")
    view = window.view
    press(K.Key_T, CTRL)
    assert view.film.figure.line.hasFocus()
    ring = view.drawing.picture.next_spot
    for text in ("118,4", "117.2", "121"):
        QTest.keyClicks(view.film.figure.line, text)
        press(K.Key_Return)
        assert view.drawing.picture.next_spot != ring
        ring = view.drawing.picture.next_spot
    assert [s.text for s in view.drawing.picture.spots] == ["118.4", "117.2", "121.0"]
    assert view.film.survey.text().startswith("3 spots: 118.9 ± 1.9 µm, thinnest 117.2.")
    QTest.keyClicks(view.film.figure.line, "99999")
    press(K.Key_Return)
    assert "impossible" in view.film.figure.error.text()
    view.film.figure.line.clear()
    press(K.Key_B, CTRL)
    assert len(view.drawing.picture.spots) == 2
    window.session.undo()
    assert len(view.drawing.picture.spots) == 3
    panel = view.drawing._panel()
    at = QPoint(round(panel.x + panel.width * 0.25), round(panel.y + panel.height * 0.5))
    QTest.mouseClick(view.drawing, Qt.MouseButton.LeftButton, NONE, at)
    x, y = view.drawing.picture.next_spot
    t = view.panel.taping
    assert (x, y) == pytest.approx((0.25 * t.width_mm, 0.5 * t.height_mm), abs=4)
    QTest.keyClicks(view.film.figure.line, "90")
    press(K.Key_Return)
    assert view.drawing.picture.spots[-1].low


def test_a_build_record_is_kept_and_says_what_it_asks_for(open_window):
    window = open_window(demo=True)
    window.go("panels")
    view = window.view
    press(K.Key_T, CTRL)
    assert "assumed" in view.film.budget.text()
    assert "lead" in view.film.care.text()
    press(K.Key_T, CTRL)
    view.film.substrate.buttons["plastic"].click()
    assert "only ultrasound" in view.film.record_care.text()
    layer = view.film.layers["clear_um"]
    layer.line.setText("52")
    layer.line.editingFinished.emit()
    assert window.session.panels()[0].build.clear_um == 52.0
    core = view.film.core
    assert core.isVisible()
    assert not view.drawing.isVisible()
    clear = core.bands()[0]
    top = QPoint(40, round(clear.top))
    drag(core, top, top - QPoint(0, round(6 * clear.scale)))
    assert window.session.panels()[0].build.clear_um == pytest.approx(58.0, abs=0.6)
    window.session.undo()
    view.film.cured.line.setText("soon")
    view.film.cured.line.editingFinished.emit()
    assert "is no date" in view.film.cured.error.text()
    view.film.cured.line.setText("2026-09-20")
    view.film.cured.line.editingFinished.emit()
    assert "Cured 6 days ago" in view.film.record_care.text()
    press(K.Key_T, CTRL)
    assert view.name.line.hasFocus()
    for _ in range(3):
        window.session.undo()
    assert window.session.panels()[0].build == type(window.session.panels()[0].build)()


def test_what_the_workshop_knows_of_a_thing_is_filled_in(open_window):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[CLAIM].id)
    window.go("kit")
    press(K.Key_N, CTRL)
    form = window.view.form
    for field, text in (
        (form.pad, "fen firm"),
        (form.machine, "Kiln 8"),
        (form.compound, "Silt 2"),
    ):
        field.line.setText(text)
        field.line.editingFinished.emit()
    stage = window.session.combinations()[-1].stages[0]
    assert (stage.pad_material, stage.pad_mm) == ("foam-firm", 75.0)
    assert (stage.machine_kind, stage.orbit_mm) == ("forced-orbital", 8.0)
    assert stage.compound_class == "polish"
    form.figures["orbit_mm"].line.setText("9")
    form.figures["orbit_mm"].line.editingFinished.emit()
    form.machine.line.setText("Dipper 21")
    form.machine.line.editingFinished.emit()
    assert window.session.combinations()[-1].stages[0].orbit_mm == 21.0  # 9 was Kiln 8's


def open_panels(window, wait_for, trial):
    window.turn_to(window.session.trials()[trial].id)
    window.go("panels")
    wait_for(window)
    return window.view


def drag(drawing, a, b):
    mouse = Qt.MouseButton.LeftButton
    QTest.mousePress(drawing, mouse, pos=a)
    QTest.mouseMove(drawing, b)
    QTest.mouseRelease(drawing, mouse, pos=b)
    QApplication.processEvents()


def test_a_panel_gets_an_outline_and_what_is_kept_free_is_drawn_on_it(open_window, wait_for):
    window = open_window(demo=True)
    view = open_panels(window, wait_for, PLANNED)
    view.fields["rows"].line.setFocus()
    QTest.keyClicks(view.fields["rows"].line, "4")
    before = len(window.session.cells_of(view.panel.id))
    view.fields["rows"].line.clear()
    view.fields["rows"].set_text("2")
    centre = QPoint(*view.drawing.centre_of(window.session.cells_of(view.panel.id)[0].id))
    drag(view.drawing, centre, centre + QPoint(40, 30))
    assert len(window.session.cells_of(view.panel.id)) == before - 1
    (zone,) = view.panel.outline.keep_out
    assert zone.width_mm > 40
    QTest.mouseClick(view.drawing, Qt.MouseButton.LeftButton, pos=centre + QPoint(10, 10))
    assert view.panel.outline.keep_out == ()
    view.tape.free.line.setFocus()
    QTest.keyClicks(view.tape.free.line, "60 60 80 40")
    press(K.Key_Return)
    assert len(window.session.cells_of(view.panel.id)) == before - 1
    assert "1 of the grid fall" in view.tape.said.text()
    QTest.keyClicks(view.tape.free.line, "60 60 80")
    press(K.Key_Return)
    assert "Four numbers" in view.tape.free.error.text()
    view.tape.free.line.clear()
    view.list.setFocus()
    press(K.Key_B, CTRL)
    assert len(window.session.cells_of(view.panel.id)) == before
    view.tape.shape.buttons["door"].click()
    assert view.panel.outline.shape == "door"
    press(K.Key_Z, CTRL)
    assert view.panel.outline.shape == ""


def test_a_panel_that_answers_unlike_its_class_is_said(open_window, wait_for):
    window = open_window(demo=True)
    view = open_panels(window, wait_for, 0)
    names = {p.name: p.id for p in window.session.panels()}
    view._choose(names["Teal"])
    assert "answers unlike its class, soft" in view.tape.answer.text()
    assert "medium" in view.tape.answer.text()
    view._choose(names["Plover"])
    assert view.tape.answer.text().startswith("Answers like: soft")
    view._choose(names["Teal"])
    view.hardness.buttons["medium"].click()
    wait_for(window)
    assert view.tape.answer.text().startswith("Answers like:")


def test_a_name_that_is_being_typed_outlasts_the_workers_answer(open_window, wait_for):
    window = open_window(demo=True)
    view = open_panels(window, wait_for, 3)
    press(K.Key_N, CTRL)
    assert window.jobs.is_busy("answers")
    QTest.keyClicks(view.name.line, "Dot")
    wait_for(window)
    assert view.name.line.text() == "Dot", "how the panels answer came meanwhile"
    QTest.keyClicks(view.name.line, "terel")
    press(K.Key_Tab)
    assert view.panel.name == "Dotterel"


def test_a_photograph_lies_under_a_panel(open_window, wait_for, tmp_path):
    window = open_window(demo=True)
    window.go("panels")
    view = window.view
    picture = QImage(2400, 1200, QImage.Format.Format_RGB888)
    picture.fill(Qt.GlobalColor.red)
    picture.save(str(tmp_path / "bonnet.png"))
    plain = view.drawing.grab().toImage()
    window.take_dropped(tmp_path / "bonnet.png")
    wait_for(window)
    assert (view.drawing.photo.width(), view.drawing.photo.height()) == (1600, 800)
    shown = view.drawing.grab().toImage()
    corner = QPoint(shown.width() // 2, 8)
    assert shown.pixelColor(corner).red() > plain.pixelColor(corner).red() + 80
    press(K.Key_M, CTRL)
    assert view.drawing.photo is None
    press(K.Key_Z, CTRL)
    assert view.drawing.photo is not None
    press(K.Key_Z, CTRL)
    press(K.Key_Z, CTRL)
    assert view.drawing.photo is None
    (tmp_path / "broken.png").write_bytes(b"no picture")
    window.take_dropped(tmp_path / "broken.png")
    wait_for(window)
    assert "cannot be read as a picture" in window.note.text()
    QApplication.clipboard().setText(str(tmp_path / "bonnet.png"))
    view.list.setFocus()
    press(K.Key_V, CTRL)
    wait_for(window)
    assert view.drawing.photo is not None
    QApplication.clipboard().setText("words")
    press(K.Key_V, CTRL)
    assert "Copy a picture first" in window.note.text()
    QApplication.clipboard().setImage(picture)
    press(K.Key_V, CTRL)
    assert view.drawing.photo.width() == 1600
