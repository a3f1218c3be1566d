"""Apply in the real window, by keyboard alone: from a surveyed car to its day, cards and sheets."""

import json
import os
import random
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit, QPushButton

from helpers.odd_trials import odd_trial
from loam.app.applying.aims import PRESETS
from loam.app.applying.at_hand import all_jobs, job_at_hand, prices_of
from loam.core.vehicle.places import usual_places
from loam.demo.cars import ALLOTMENTS, LIFEBOAT, NORTH
from loam.simulated.camera import Scene, photograph
from loam.store import jobs as job_store
from loam.store.datapackage import read_package, write_package
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
from loam.ui.views.apply.photos import image_of
from loam.ui.views.apply.view import DAY, PANEL, SPOT, STAIRS

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier


def press(window, key, modifier=NONE):
    QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
    QApplication.processEvents()


def type_in(text):
    QTest.keyClicks(QApplication.focusWidget(), text)


def type_in_field(field, text):
    field.line.setFocus()
    field.line.selectAll()
    type_in(text)


@pytest.fixture
def at_car(open_window, wait_for):
    window = open_window(demo=True)
    press(window, K.Key_F9)
    wait_for(window)
    return window


def open_car(window, wait_for, name):
    window.view.open_job(next(r.id for r, _ in all_jobs(window.session) if r.name == name))
    wait_for(window)
    return window.view


def read_spot(window, wait_for, readings):
    view = window.view
    assert view.page == SPOT
    view.spot_page.wipe.click()
    wait_for(window)
    for m, values in readings.items():
        view.spot_page.fields[m].line.setFocus()
        for value in values:
            type_in(f"{value}")
            press(window, K.Key_Return)
            wait_for(window)
    press(window, K.Key_Escape)
    wait_for(window)


def test_a_surveyed_car_comes_to_its_day_its_cards_and_its_sheet(at_car, wait_for):
    view = open_car(at_car, wait_for, ALLOTMENTS)
    assert view.stairs.decision == ("try", "A")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert "Spot 1: A on the bonnet" in view.spot_page.title.text()
    assert "Fen medium" in view.spot_page.recipe.text()
    read_spot(at_car, wait_for, {"defects": [62, 60], "haze": [15.2, 15.8]})
    assert view.page == STAIRS
    what, code = view.stairs.decision
    assert what == "try"
    assert code != "A"
    press(at_car, K.Key_Return)
    wait_for(at_car)
    read_spot(at_car, wait_for, {"defects": [95, 96], "haze": [10.5, 10.9]})
    assert view.stairs.decision == ("take", code), view.stairs.advice
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert view.job.taken == code
    first = view.day.plan.day.turns[0].part
    assert view.advice.text().startswith(f"{code} is taken. Next: {first}, then 12 more.")
    assert view.day.isVisible()
    assert "Roof waits for a morning" in view.advice.text(), "it was taken in the afternoon"
    press(at_car, K.Key_2)
    wait_for(at_car)
    assert len(view.day.plan.day.a8) == 2
    view.choose_part("roof")
    press(at_car, K.Key_X)
    wait_for(at_car)
    assert view.job.part("roof").done == code
    assert view.at == "bonnet", "the next one is at hand"
    press(at_car, K.Key_C)
    wait_for(at_car)
    assert {"customer", "setup", "medium", "record"} <= set(view.cards.sheets)
    seen = []
    for _ in view.cards.sheets:
        seen.append(view.cards.at)
        assert view.picture() is not None
        press(at_car, K.Key_Right)
    assert sorted(seen) == sorted(view.cards.sheets)
    press(at_car, K.Key_Escape)
    assert not view.on_cards


def test_what_is_advised_shown_and_written_is_one(at_car, wait_for):
    for name in (LIFEBOAT, ALLOTMENTS, NORTH):
        view = open_car(at_car, wait_for, name)
        what, code = view.stairs.decision
        if not view.job.taken:
            assert f"{what} {code}" in view.act_key.words
            assert view.advice.text() == view.stairs.advice
        else:
            assert view.act_key.isHidden()
        assert (
            view.drawn.accessibleDescription()
            .split(": ")[1]
            .startswith(view.stairs.schools[0].stairs[0].code)
        )
        table = view.table()
        assert len(table) == 1 + len(view.job.working)


def test_film_has_its_place_and_marks_stand_on_the_panel(at_car, wait_for):
    """What is read stands where it was read; the ring goes on, or where the panel is pressed."""
    view = open_car(at_car, wait_for, ALLOTMENTS)
    page = view.panel_page
    view.choose_part("front bumper")
    press(at_car, K.Key_F)
    assert page.ring is None, "no gauge reads plastic"
    assert not page.film.isEnabled()
    view.note("part", {"part": "hatch", "own": 1}, "", None)
    wait_for(at_car)
    view.choose_part("hatch")
    usual = usual_places(view.part.outline)
    page.film.line.setFocus()
    type_in("101")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert page.ring == usual[1], "the ring goes on by itself"
    press(at_car, K.Key_PageDown)
    assert page.ring == usual[2]
    page.edge.buttons["edge"].click()
    assert page.ring.edge
    type_in("98")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    box = page.drawn.shape().boundingRect()
    at = QPoint(round(box.left() + 0.4 * box.width()), round(box.top() + 0.6 * box.height()))
    QTest.mouseClick(page.drawn, Qt.MouseButton.LeftButton, NONE, at)
    assert abs(page.ring.x - 0.4) < 0.02
    assert not page.ring.edge
    type_in("92")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert [(s.um, s.edge, s.x) for s in view.part.survey[:2]] == [
        (101.0, False, usual[0].x),
        (98.0, True, usual[5].x),
    ]
    assert abs(view.part.survey[2].x - 0.4) < 0.02
    page.light.buttons["strip"].click()
    for _ in range(2):
        page.kind.buttons["swirls"].click()
        wait_for(at_car)
    assert view.part.damage == {"swirls": "middle"}
    assert view.part.lights == {"swirls": "strip"}
    assert "swirls middle" in page.drawn.accessibleDescription()
    marked = page.drawn.grab().toImage()
    for _ in range(2):
        page.kind.buttons["swirls"].click()
        wait_for(at_car)
    assert not view.part.damage
    assert page.drawn.grab().toImage() != marked, "they are drawn"
    page.scratch.click()
    wait_for(at_car)
    assert (view.part.nails[-1].x, view.part.nails[-1].y) == (page.ring.x, page.ring.y)


def test_the_days_say_who_works_how_it_shakes_and_what_is_still_to_be_read(at_car, wait_for):
    """On their page (D), by keyboard; a spot check that is pressed goes to its panel."""
    view = open_car(at_car, wait_for, LIFEBOAT)
    press(at_car, K.Key_D)
    assert view.page == DAY
    assert "no day yet" in view.days.page.said.text(), "before something is taken"
    press(at_car, K.Key_Escape)
    press(at_car, K.Key_Return)
    wait_for(at_car)
    press(at_car, K.Key_D)
    page = view.days.page
    assert view.page == DAY
    alone = view.day.plan.day
    assert alone.days > 1
    assert max(alone.a8) <= 5.0
    assert f"on day {alone.days}" in page.said.text()
    assert "above the action value 2.5" in page.shaken.text()
    type_in_field(page.start, "25:70")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert "no time of day" in page.start.error.text()
    assert view.job.start == "09:00", "and nothing is changed"
    type_in_field(page.start, "07:30")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    type_in_field(page.hours, "8")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    page.people.buttons["3"].click()
    wait_for(at_car)
    assert (view.job.start, view.job.hours, view.job.people) == ("07:30", 8.0, 3)
    assert view.day.plan.begins == 7.5
    assert len(page.hands.a8) == 3
    shown = [k.words for k in page.checks if not k.isHidden()]
    assert shown
    assert all(said.endswith("once it is done") for said in shown)
    first = page.checks[0].words.split(":")[0]
    view.choose_part(first)
    press(at_car, K.Key_Escape)
    press(at_car, K.Key_X)
    wait_for(at_car)
    press(at_car, K.Key_D)
    assert page.checks[0].words == f"{first}: defect removal and haze, now"
    page.checks[0].click()
    assert view.page == "later"
    assert view.part.key == first
    for m, value in (("defects", "81"), ("haze", "12")):
        type_in_field(view.later_page.fields[m], value)
        press(at_car, K.Key_Return)
        wait_for(at_car)
    press(at_car, K.Key_Escape)
    press(at_car, K.Key_D)
    assert not page.checks[0].words.startswith(first), "it is read"
    assert first not in view.day.plan.lacking
    lane = next(box for box, part in view.day._boxes if part == "roof")
    QTest.mouseClick(view.day, Qt.MouseButton.LeftButton, NONE, lane.center().toPoint())
    assert view.at == "roof", "a panel is turned to on the strip"


def test_a_day_that_is_none_stops_nothing(at_car, wait_for):
    """Notes of a file from elsewhere may say any time: the days are planned all the same."""
    view = open_car(at_car, wait_for, LIFEBOAT)
    job = replace(view.job, decided=("take", "D", ""), day="2026-13-77", taken_at="2026-13-77T9x")
    plan = view.days.plan_of(job)
    assert plan.now is None
    assert len(plan.day.turns) == 13
    assert view.days.plan_of(replace(job, start="soon")).begins == 9.0


def test_film_is_typed_spot_by_spot_and_taken_back(at_car, wait_for):
    view = open_car(at_car, wait_for, ALLOTMENTS)
    view.choose_part("tailgate")
    before = len(view.part.survey)
    press(at_car, K.Key_F)
    assert view.page == PANEL
    for value in ("93", "94,5", "thick"):
        type_in(value)
        press(at_car, K.Key_Return)
        wait_for(at_car)
    assert [s.um for s in view.part.survey[before:]] == [93.0, 94.5]
    assert "thick" in view.panel_page.film.text()
    assert view.panel_page.film.error.text(), "what is no number is said in place"
    assert view.pending(), "and would be lost"
    view.panel_page.film.set_text("")
    at_car.undo()
    wait_for(at_car)
    assert [s.um for s in view.part.survey[before:]] == [93.0]
    press(at_car, K.Key_Escape)
    assert view.page == STAIRS


def test_a_finished_car_is_read_again_and_what_cars_showed_is_said(at_car, wait_for):
    view = open_car(at_car, wait_for, NORTH)
    count, inside = view.stairs.covered
    view.choose_part("roof")
    press(at_car, K.Key_L)
    assert f"Panels to cars: {inside} of {count}" in view.later_page.said.text()
    view.later_page.when.buttons["1"].click()
    view.later_page.fields["haze"].line.setFocus()
    type_in("12.1")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert view.part.later[-1].value == 12.1
    assert view.stairs.covered[0] == count + 1
    assert f"of {count + 1} readings" in view.later_page.said.text()
    for word in ("By measurement:", "By combination:"):
        assert word in view.later_page.said.text()


def test_a_spot_is_measured_from_two_photographs(at_car, wait_for, tmp_path):
    view = open_car(at_car, wait_for, ALLOTMENTS)
    view.spot_acts.new("D")
    wait_for(at_car)
    view.spot_page.camera.click()
    assert view.at_photos
    pair = photograph(Scene(5, "black", 700, cut_um=0.5, tape=True))
    for name, values in (("before", pair.before), ("after", pair.after)):
        path = tmp_path / f"{name}.png"
        Image.fromarray(np.rint(values * 255).astype(np.uint8)).save(path)
        assert view.take_picture(path)
        wait_for(at_car)
    assert "The tape was found" in view.photos.said.text()
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert view.photos.result is not None
    assert not view.photos.result.refused
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert view.page == SPOT
    removed, error = view.job.spots[-1].measured
    assert removed == pytest.approx(view.photos.result.removed_pct, abs=0.06)
    assert error is None or error >= 0.0
    assert "by photographs" in view.spot_page.list.text()
    assert not view.job.spots[-1].after, "it is no reading of the eye's scale"
    press(at_car, K.Key_Escape)
    row = view.stairs.spots[-1].rows[-1]
    assert (row.label, row.low, row.value) == ("by photographs", None, removed)
    assert "nothing was promised" in view.first.spotted.accessibleDescription()
    assert view.first.spotted.isVisible(), "it stands where the promise stands"
    assert view.slots["hard"].words == "not known", "and tells nothing of the class"
    view.read_spot()
    at_car.undo()
    wait_for(at_car)
    assert view.job.spots[-1].measured is None
    view.spot_page.camera.click()
    press(at_car, K.Key_Escape)
    assert view.page == SPOT


def test_a_photograph_is_kept_with_its_panel_and_travels(at_car, wait_for, tmp_path):
    view = open_car(at_car, wait_for, ALLOTMENTS)
    view.choose_part("roof")
    picture = QImage(3000, 2000, QImage.Format.Format_RGB32)
    picture.fill(0x334455)
    path = tmp_path / "swirls on the roof.png"
    picture.save(str(path))
    assert view.take_picture(path)
    wait_for(at_car)
    ((image, said),) = view.part.photos
    assert said == "swirls on the roof"
    assert image_of(image).width() == 900, "small enough to be kept"
    assert view.panel_page.photos.isVisible()
    bad = tmp_path / "no.jpg"
    bad.write_bytes(b"not a picture")
    view.take_picture(bad)
    assert "no.jpg" in at_car.note.text()
    assert len(view.part.photos) == 1
    os.mkfifo(tmp_path / "pipe.jpg")
    assert view.take_picture(tmp_path / "pipe.jpg"), "what never ends is refused, not waited for"
    assert len(view.part.photos) == 1
    draft = read_draft(at_car.session.workshop.connection, at_car.session.trials()[1].id)
    out = tmp_path / "t.zip"
    write_package(draft, out)
    back = [r for r in read_package(out).rest["job_note"] if r["sort"] == "photo"]
    assert json.loads(back[0]["facts"])["image"] == image
    at_car.undo()
    wait_for(at_car)
    assert view.part.photos == ()


def test_a_car_comes_again_and_the_ranking_behind_it_is_one_key_away(at_car, wait_for):
    view = open_car(at_car, wait_for, NORTH)
    taken = view.stairs.removed["D"][0]
    press(at_car, K.Key_D, Qt.KeyboardModifier.ControlModifier)
    wait_for(at_car)
    assert view.job.name == f"{NORTH}, again"
    assert view.job.part("roof").worked_um == pytest.approx(taken, abs=0.06)
    assert "Survey its film first" in view.advice.text()
    press(at_car, K.Key_F)
    view.panel_page.more_key.click()
    view.panel_page.more.line.setFocus()
    type_in("spoiler")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert view.job.part("spoiler").own
    press(at_car, K.Key_Escape)
    press(at_car, K.Key_H)
    view.hard_page.paint.line.setFocus()
    type_in("Fleet green")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert view.job.paint == "Fleet green"
    assert view.hard_page.take_key.isHidden(), "no earlier car of that line"
    press(at_car, K.Key_Escape)
    at_car.session.choose(at_car.session.trials()[0].id)
    press(at_car, K.Key_B)
    wait_for(at_car)
    assert at_car.view.step == "judge"
    assert at_car.session.trial.name == "Cut and finish"


def test_a_panel_that_cannot_bear_it_gets_another_or_is_left_out(at_car, wait_for):
    view = open_car(at_car, wait_for, ALLOTMENTS)
    view.choose_part("tailgate")
    view.car.setFocus()
    press(at_car, K.Key_I)
    wait_for(at_car)
    assert view.part.rung == view.codes[0]
    press(at_car, K.Key_O)
    wait_for(at_car)
    assert view.part.out
    assert "tailgate" not in [p.key for p in view.job.working]
    press(at_car, K.Key_N)
    wait_for(at_car)
    assert view.part.nails


def test_aims_are_presets_or_typed_and_the_stairs_follow(at_car, wait_for):
    view = open_car(at_car, wait_for, ALLOTMENTS)
    assert view.job.assumed_aim
    press(at_car, K.Key_G)
    view.aim_page.presets.buttons["show"].click()
    wait_for(at_car)
    show = next(p for p in PRESETS if p[0] == "show")
    assert {w.measurand: (w.at_least, w.at_most) for w in view.job.aim} == show[2]
    before = view.stairs.schools[0].reach
    field = view.aim_page.fields["defects", "at_least"]
    field.line.setFocus()
    field.line.selectAll()
    type_in("50")
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert view.job.preset == "as said"
    assert view.stairs.schools[0].reach > before
    assert "50 % of the marks gone" in view.slots["aim"].words
    worth = view.aim_page.worth["hour_um"]
    for text, kept in (("600", "0.3"), ("6", "6")):
        worth.line.setFocus()
        worth.line.selectAll()
        type_in(text)
        press(at_car, K.Key_Return)
        wait_for(at_car)
        assert prices_of(at_car.session).clear_per_minute * 60 == pytest.approx(float(kept))
    assert "hours (6.0 µm each)" in " ".join(view.stairs.notes)
    assert view.stairs.decision[0] == "stop", "at that price no car is worth its hours"
    at_car.session.remember("car_worth", {})
    press(at_car, K.Key_Escape)
    press(at_car, K.Key_H)
    view.hard_page.likely.buttons["hard"].click()
    wait_for(at_car)
    assert view.stairs.classes["hard"] == pytest.approx(0.8)


def test_arrows_go_from_panel_to_panel_and_the_mouse_does_too(at_car, wait_for):
    view = open_car(at_car, wait_for, ALLOTMENTS)
    assert view.at == "bonnet"
    seen = {view.at}
    for key in (K.Key_Right, K.Key_Right, K.Key_Up, K.Key_Left, K.Key_Down, K.Key_Down):
        press(at_car, key)
        seen.add(view.at)
    assert len(seen) >= 4
    shape = view.car.shape_of(view.job.part("roof")).boundingRect()
    QTest.mouseClick(view.car, Qt.MouseButton.LeftButton, pos=shape.center().toPoint())
    assert view.at == "roof"
    assert "roof" in view.car.accessibleDescription()


def test_a_new_car_is_chosen_by_its_shape_and_put_away(at_car, wait_for):
    press(at_car, K.Key_J)
    view = at_car.view
    jobs = len(all_jobs(at_car.session))
    assert view.in_garage
    for _ in range(jobs + 1):
        press(at_car, K.Key_Right)
    press(at_car, K.Key_Return)
    wait_for(at_car)
    assert len(all_jobs(at_car.session)) == jobs + 1
    assert view.job.shape.key == "saloon"
    assert "Survey its film first" in view.advice.text()
    view.car_acts.put_away()
    assert len(all_jobs(at_car.session)) == jobs
    at_car.undo()
    assert len(all_jobs(at_car.session)) == jobs + 1


def test_a_spot_is_worked_with_the_pacer_stage_by_stage(at_car, wait_for):
    view = open_car(at_car, wait_for, ALLOTMENTS)
    view.spot_acts.new("D")
    wait_for(at_car)
    assert view.page == SPOT
    view.spot_page.pace.click()
    bench = view.bench
    now = [100.0]
    bench.clock = lambda: now[0]
    bench.show_spot(view.job.spots[-1], bench.combination)
    assert view.at_bench
    assert "Space starts" in bench.count.text()
    for stage in (1, 2):
        press(at_car, K.Key_Space)
        now[0] += 5.0
        bench.tick()
        assert "1 of" in bench.drawing.accessibleDescription() or "0 of" in (
            bench.drawing.accessibleDescription()
        )
        press(at_car, K.Key_Space)
        held = bench.pacer.elapsed_s
        now[0] += 60.0
        assert bench.pacer.elapsed_s == held, "held is held"
        press(at_car, K.Key_Space)
        now[0] += 4000.0
        bench.tick()
        wait_for(at_car)
        assert view.job.spots[-1].worked == stage
    assert bench.over
    press(at_car, K.Key_R)
    assert view.page == SPOT
    assert view.spot_page.pace.isHidden()
    at_car.undo()
    wait_for(at_car)
    assert view.job.spots[-1].worked == 1, "a stage is taken back as any other note"


@pytest.mark.parametrize("size", [(1280, 800), (1024, 640)])
def test_nothing_is_clipped_on_any_page(open_window, wait_for, size):
    window = open_window(demo=True, size=size)
    window.go("apply")
    wait_for(window)
    view = window.view
    for page in (STAIRS, PANEL, "aim", "hard", "later", "cards", "garage"):
        if page == "cards":
            view.show_cards()
        elif page == "garage":
            view.show_garage()
        else:
            view.turn(page)
        wait_for(window)
        assert (window.width(), window.height()) == size
        for kind in (QLabel, QPushButton, QLineEdit):
            for widget in view.findChildren(kind):
                if widget.isVisible():
                    at = widget.mapTo(window, QPoint(0, 0))
                    where = f"{page}: {widget.objectName()} {widget.text()!r}"
                    assert at.x() + widget.width() <= size[0], where
                    if size == (1280, 800):
                        assert at.y() + widget.height() <= size[1], where


def test_with_the_lights_out_it_stays_dark(at_car, wait_for):
    at_car.turn_lights()
    wait_for(at_car)
    for page in (STAIRS, "cards", "garage"):
        view = at_car.view
        if page == "cards":
            view.show_cards()
        elif page == "garage":
            view.show_garage()
        wait_for(at_car)
        small = at_car.grab().toImage().scaled(64, 40).convertToFormat(QImage.Format.Format_RGB32)
        lights = [small.pixelColor(x, y).lightnessF() for x in range(64) for y in range(40)]
        assert sum(lights) / len(lights) < 0.12, page
        view.leave()


@pytest.mark.parametrize("seed", [0, 5, 11, 20])
def test_a_car_on_a_small_odd_trial_says_what_it_takes(open_window, wait_for, seed):
    window = open_window()
    with window.session.workshop.transaction() as db:
        trial = write_draft(db, odd_trial(seed).draft, window.session.workshop.now())
    window.session._cache.clear()
    window.session.choose(trial)
    window.go("apply")
    wait_for(window)
    view = window.view
    assert view.in_garage
    view.car_acts.begin("saloon")
    wait_for(window)
    assert view.advice.text().strip()
    assert view.advice.text() != "The ladder is being worked out."
    view.turn(PANEL)
    wait_for(window)
    view.turn(DAY)
    assert "no day yet" in view.days.page.said.text()
    view.note("decided", {"what": "take", "rung": (view.codes or ("A",))[0]}, "", None)
    wait_for(window)
    assert view.days.page.said.text().strip()
    view.show_cards()
    wait_for(window)
    assert "customer" in view.cards.sheets
    assert json.dumps(view.table())
    assert job_at_hand(window.session) is not None


KEYS = [
    *"FGHSWRXCJLNIOBED123",
    *(K.Key_Left, K.Key_Right, K.Key_Up, K.Key_Down, K.Key_Return, K.Key_Return),
    *(K.Key_Escape, K.Key_Escape, K.Key_Tab, K.Key_Space, K.Key_PageUp, K.Key_PageDown),
    *((K.Key_D, True), (K.Key_N, True), (K.Key_Delete, True), (K.Key_Z, True), (K.Key_Y, True)),
    *("85", "12,5", "-3", "x", "1e9", "0"),
]


@pytest.mark.parametrize("seed", [1, 2])
def test_random_keys_at_a_car_never_fail_and_lose_no_note(open_window, wait_for, seed):
    window = open_window(demo=True, size=(1024, 640) if seed % 2 else (1280, 800))
    window.go("apply")
    wait_for(window)
    db = window.session.workshop.connection
    rng = random.Random(seed)
    count = 0
    for _ in range(260):
        key = rng.choice(KEYS)
        held = Qt.KeyboardModifier.ControlModifier
        if isinstance(key, tuple):
            press(window, key[0], held)
        elif isinstance(key, str) and len(key) > 1:
            type_in(key)
        elif isinstance(key, str):
            QTest.keyClicks(QApplication.focusWidget() or window, key.lower())
        else:
            press(window, key)
        if rng.random() < 0.2:
            wait_for(window)
        if window.view.step != "apply":
            window.may_leave("apply")
            window.go("apply")
            wait_for(window)
        now = db.execute("SELECT count(*) FROM job_note").fetchone()[0]
        assert now >= count
        count = now
    wait_for(window)
    assert not any(f.startswith("job") for f in job_store.faults(db))


def test_a_car_unlike_its_class_stands_among_the_doubts_with_a_switch(at_car, wait_for):
    view = open_car(at_car, wait_for, LIFEBOAT)
    spot = view.job.spots[-1].uid
    for m, value in (*(("defects", 1.0),) * 12, *(("haze", 48.0),) * 8):
        facts = {"spot": spot, "measurand": m, "value": value, "phase": "after"}
        view.note("read", facts, "a reading", None)
    wait_for(at_car)
    at_car.go("judge")
    wait_for(at_car)
    judge = at_car.view
    page = judge.doubts
    press(at_car, K.Key_D)
    wait_for(at_car)
    assert judge.pages.currentWidget() is page
    assert page.cars.words() == "A car was unlike its class."
    assert page.cars.words() in page.lead.text()
    number = len(page.found) + 1
    card = page.cards[-1]
    assert card.accessibleName().startswith(f"{LIFEBOAT} was unlike its class.")
    assert card.key.words == "it teaches"
    before = len(page.found)
    page.turn(number)
    wait_for(at_car)
    assert page.cards[-1].key.words == "left out"
    assert len(page.found) == before, "the doubts about readings stay"
    assert next(j for _, j in all_jobs(at_car.session) if j.name == LIFEBOAT).apart
    assert page.table()[-1][:2] == ["car", LIFEBOAT]
    assert page.picture() is not None
    at_car.undo()
    wait_for(at_car)
    assert page.cards[-1].key.words == "it teaches"
    press(at_car, K.Key_Up)
    press(at_car, K.Key_Down)
    assert page.at == number - 1
