"""Photographs of a cell through the real window: tape, measure, refusal, stop, keep."""

import hashlib

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.app.presenters.photographing import measure_pair, paint_of
from loam.core.film import FilmBuild
from loam.core.photo import Region, find_tape
from loam.simulated.camera import Scene, photograph
from loam.store import noted
from loam.store.about import taken_from
from loam.store.readings import readings_of_cells

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
CUT = 1


def press(*keys, modifier=NONE):
    for key in keys:
        QTest.keyClick(QApplication.focusWidget(), key, modifier)
        QApplication.processEvents()


def saved(folder, pair):
    for name, values in (("before", pair.before), ("after", pair.after)):
        Image.fromarray(np.rint(values * 255).astype(np.uint8)).save(folder / f"{name}.png")
    return folder / "before.png", folder / "after.png"


@pytest.fixture
def page(open_window, wait_for):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[CUT].id)
    window.go("read")
    wait_for(window)
    press(K.Key_P)
    window.view.photos.wait = lambda: wait_for(window)
    window.view.photos.window_ = window
    return window.view.photos


def load(page, *files):
    for file in files:
        page.window_.take_dropped(file)
        page.wait()


def test_a_pair_is_measured_kept_and_told_in_the_story(page, tmp_path):
    window, session = page.window_, page.owner.session
    cell = window.view.chosen
    pair = photograph(Scene(5, "black", 700, cut_um=0.5, tape=True, turn_deg=0.4, shift=(3, -2)))
    before, after = saved(tmp_path, pair)
    assert "before and after" in page.said.text()
    load(page, before, after)
    assert "tape was found" in page.said.text()
    press(K.Key_Return)
    page.wait()
    assert page.result.removed_pct == pytest.approx(pair.removed_pct, abs=10)
    assert "not the share of marks that are gone" in page.said.text()
    assert page.panes["after"].overlay is not None
    outside = page.result.counted.before[:2]
    assert outside.max() == 0.0
    press(K.Key_Return)
    assert window.view.page is None
    db = session.workshop.connection
    (note,) = noted.of_trial(db, session.trial_id, noted.PHOTOGRAPH)
    sha = hashlib.sha256(after.read_bytes()).hexdigest()
    assert note.facts["after_sha256"] == sha
    found = readings_of_cells(db, [cell], "defects")[-1]
    assert (found.scale, found.value) == (
        "photograph",
        pytest.approx(page.result.removed_pct, abs=0.06),
    )
    assert taken_from(found.about).photo == sha
    press(K.Key_H)
    story = window.view.story.strip
    assert any(e.picture in story.images for e in story.events)
    press(K.Key_Escape)
    press(K.Key_Z, modifier=CTRL)
    assert noted.of_trial(db, session.trial_id, noted.PHOTOGRAPH) == []
    assert readings_of_cells(db, [cell], "defects")[-1].struck == "taken back"


def test_photographs_and_eye_estimates_never_mix_in_a_judgement(page, tmp_path):
    window = page.window_
    load(page, *saved(tmp_path, photograph(Scene(2, "black", 500, tape=True))))
    press(K.Key_Return)
    page.wait()
    press(K.Key_Return)
    window.go("judge")
    page.wait()
    assert "2 scales, which never mix" in window.view.refusals["defects"]


def test_a_pair_that_cannot_be_compared_is_refused_with_what_helps_and_kept_as_refused(
    page, tmp_path
):
    other = photograph(Scene(5, "black", 500, tape=True, other_panel=True))
    load(page, *saved(tmp_path, other))
    press(K.Key_Return)
    page.wait()
    assert page.said.text().startswith("Refused: ")
    assert page.said.property("role") == "care"
    press(K.Key_Return)
    session = page.owner.session
    (note,) = noted.of_trial(session.workshop.connection, session.trial_id, noted.PHOTOGRAPH)
    assert note.facts["refused"] is True


def test_regions_are_moved_by_keys_and_drawn_by_mouse(page, tmp_path):
    plain = photograph(Scene(5, "black", 500))
    load(page, *saved(tmp_path, plain))
    assert "No tape was found" in page.said.text()
    start = page.regions["cell"]
    press(K.Key_Right, K.Key_Down)
    moved = page.regions["cell"]
    assert (moved.x, moved.y) == (start.x + 4, start.y + 4) or moved.x + moved.width == 500
    press(K.Key_S)
    press(K.Key_Left, modifier=SHIFT)
    assert page.regions["strip"].width < page.panes["before"].regions["cell"].width + 8
    press(K.Key_C)
    pane = page.panes["before"]
    box = pane._box()
    corners = [
        QPoint(round(box.left() + s * box.width()), round(box.top() + s * box.height()))
        for s in (0.3, 0.9)
    ]
    QTest.mousePress(pane, Qt.MouseButton.LeftButton, NONE, corners[0])
    QTest.mouseMove(pane, corners[1])
    QTest.mouseRelease(pane, Qt.MouseButton.LeftButton, NONE, corners[1])
    drawn = page.regions["cell"]
    assert drawn.x == pytest.approx(150, abs=4)
    assert drawn.width == pytest.approx(300, abs=6)
    press(K.Key_P)
    assert page.paint == "silver"


def test_what_is_no_picture_is_said_and_a_measure_can_be_stopped(page, tmp_path):
    broken = tmp_path / "broken.png"
    broken.write_bytes(b"no picture")
    load(page, broken)
    assert "cannot be read as a picture" in page.said.text()
    load(page, *saved(tmp_path, photograph(Scene(5, "black", 900, tape=True))))
    press(K.Key_Return)
    press(K.Key_Escape)
    assert page.said.text() == "Stopped."
    page.wait()
    assert page.result is None
    press(K.Key_Escape)
    assert page.window_.view.page is None
    press(K.Key_P)
    assert len(page.photos) == 2


def test_a_picture_is_chosen_from_a_folder_by_keys(page, tmp_path):
    saved(tmp_path, photograph(Scene(5, "black", 400, tape=True)))
    (tmp_path / "readings.csv").write_text("a,b\n")
    page.owner.session.remember("pictures", str(tmp_path))
    press(K.Key_B)
    titles = [e.title for e in page.choice._entries]
    assert "before.png" in titles
    assert "readings.csv" not in titles
    page.choice.list.setCurrentRow(titles.index("before.png"))
    press(K.Key_Return)
    page.wait()
    assert page.photos["before"].path.name == "before.png"


@pytest.mark.parametrize("paint", ["black", "silver", "white"])
@pytest.mark.parametrize("turn", [0.0, 1.2])
def test_the_tape_is_found_whatever_the_paint_and_a_small_turn(paint, turn):
    pair = photograph(Scene(7, paint, 600, tape=True, turn_deg=turn, shift=(4, -3)))
    for values, most in ((pair.before, 16), (pair.after, 40)):
        found = find_tape(values)
        for own, wanted in ((found.cell, pair.cell), (found.strip, pair.strip)):
            assert abs(own.x - wanted.x) < most
            assert abs(own.y - wanted.y) < most
            assert own.width > wanted.width - 2 * most
            assert own.height > wanted.height - 2 * most


def test_no_tape_is_no_tape():
    rng = np.random.default_rng(1)
    assert find_tape(rng.random((300, 400))) is None
    assert find_tape(np.zeros((200, 200))) is None
    half = np.zeros((200, 200))
    half[100:] = 0.5
    assert find_tape(half) is None


def test_the_paint_is_guessed_from_the_build():
    assert paint_of(FilmBuild(colour="silver metallic")) == "silver"
    assert paint_of(FilmBuild(colour="arctic white", lightness="pale")) == "white"
    assert paint_of(FilmBuild(colour="marsh blue", lightness="dark")) == "black"


def test_a_measure_can_be_told_to_stop():
    class Stop(Exception):
        pass

    def tell(_share):
        raise Stop

    pair = photograph(Scene(3, "black", 300, tape=True))
    from loam.app.presenters.photographing import Pair, Photo

    photos = [Photo(None, "", v, None, 1, None) for v in (pair.before, pair.after)]
    with pytest.raises(Stop):
        measure_pair(Pair(*photos, pair.cell, Region(10, 10, 280, 40), "black"), tell)
