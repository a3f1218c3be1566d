"""Working cells in the real window, on a clock that the test turns."""

import shutil

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from helpers.bench import CTRL, MOTIONS, PLANNED, K, press, start
from loam.app.presenters.working import working
from loam.core.pacer import HELD, READY, WORK, track_of


@pytest.fixture
def bench(open_window, wait_for):
    return start(open_window, wait_for, PLANNED)


def test_the_first_cell_of_the_run_is_offered_with_its_set_up(bench):
    state = bench.view.state
    assert state.cell.run_order == 1
    assert (state.stage, state.done, state.wanted) == (1, 0, 20)
    shown = {line.what: line.value for line in state.lines}
    assert shown["pad"].startswith("Bracken")
    assert shown["dial"] == "5 = 4200/min"
    assert all(line.new for line in state.lines)
    assert bench.pace.moment.phase == READY
    assert "dial 5 = 4200/min, new" in bench.view.pace_page.card.accessibleDescription()


def test_space_starts_holds_and_goes_on_and_passes_are_on_disk(bench):
    view = bench.view
    track = view.pacer.track
    press(K.Key_Space)
    bench.later(track.pass_start(2) - 0.5)
    assert bench.noted == []
    bench.later(1.0)
    (one,) = bench.noted
    assert (one.what, one.stage, one.facts["number"]) == ("pass", 1, 1)
    assert one.facts["seconds"] == pytest.approx(track.pass_start(2), abs=0.01)
    press(K.Key_Space)
    bench.later(600.0)
    assert bench.pace.moment.phase == HELD
    assert len(bench.noted) == 1
    press(K.Key_Space)
    bench.later(1.0)
    assert bench.pace.moment.phase == WORK
    assert view.pacer.held_s == 600.0
    bench.later(5.0)
    assert view.pacer.trigger_s == pytest.approx(track.pass_start(2) + 6.5)


def test_a_stage_to_its_end_loads_its_pad_and_offers_the_next(bench):
    first = bench.view.state
    before = first.pad
    bench.work_through()
    whats = [w.what for w in bench.noted]
    assert whats == ["pass"] * first.now.passes + ["worked"]
    assert bench.noted[-1].pad == before.name
    total = sum(w.facts["seconds"] for w in bench.noted if w.what == "pass")
    assert total == pytest.approx(track_of(first.settings.section).whole_s, abs=0.01)
    following = bench.view.state
    assert (following.cell.id, following.stage) == (first.cell.id, 2)
    shown = {line.what: line.new for line in following.lines}
    assert shown["pad"]
    assert shown["compound"]
    assert not shown["force"]
    assert not bench.view.pacer.running
    assert f"{first.cell.code}, stage 1 is worked" in bench.window.note.text()
    session = bench.window.session
    from loam.app.presenters.shelf import singles_by_kind

    now = next(s for s in singles_by_kind(session)["bracken"] if s.name == before.name)
    assert (now.life.sets, now.life.state) == (before.life.sets + 1, "loaded")


def test_a_power_cut_resumes_at_the_same_cell_and_pass(bench, open_window, wait_for, tmp_path):
    cell = bench.view.state.cell.id
    press(K.Key_Space)
    bench.later(bench.view.pacer.track.pass_start(3) + 3.0)
    assert len(bench.noted) == 2
    bench.later(0.4)  # less than a second is not kept
    cut(tmp_path)
    again = start(open_window, wait_for, PLANNED, tmp_path / "cut.loam")
    assert (again.view.state.cell.id, again.view.state.done_passes) == (cell, 2)
    assert again.pace.moment.done_passes == 2
    track = again.view.pacer.track
    assert again.view.pacer.elapsed_s == pytest.approx(track.pass_start(3) + 3.0, abs=0.01)
    assert again.pace.moment.phase == HELD
    assert "Pass 3 was left 0:03 after it was begun" in again.view.lead.text()
    press(K.Key_Space)
    assert "was left" not in again.view.lead.text()
    press(K.Key_Space)
    again.work_through()
    passes = [w.facts for w in again.noted if w.what == "pass"]
    assert [f["number"] for f in passes] == [1, 2, 3, 4, 5, 6]
    assert sum(f["seconds"] for f in passes) == pytest.approx(track.whole_s, abs=0.1)


def cut(folder):
    """Copy the workshop as a power cut would leave it."""
    for end in ("", "-wal", "-shm"):
        source = folder / f"bench.loam{end}"
        if source.exists():
            shutil.copy(source, folder / f"cut.loam{end}")


def test_a_power_cut_in_a_counted_pass_counts_what_was_worked(
    bench, open_window, wait_for, tmp_path
):
    press(K.Key_C)
    press(K.Key_Space)
    bench.later(50.0)
    press(K.Key_Space)
    bench.later(20.0)
    cut(tmp_path)
    again = start(open_window, wait_for, PLANNED, tmp_path / "cut.loam")
    assert again.view.bench.counting
    assert "Pass 2 was left 0:20 after it was begun" in again.view.lead.text()
    press(K.Key_Space)
    again.later(10.0)
    press(K.Key_Space)
    passes = [w.facts for w in again.noted if w.what == "pass"]
    assert [f["seconds"] for f in passes] == pytest.approx([50.0, 30.0], abs=0.01)


@pytest.mark.parametrize(
    "kept",
    [
        {"cell": 1},
        [],
        "pace",
        {"spent_s": "x"},
        {"spent_s": 1e9},
        {"spent_s": -5.0},
        {"spent_s": float("nan")},
        {"spent_s": True},
    ],
)
def test_a_place_that_cannot_be_begins_the_stage(bench, kept):
    state = bench.view.state
    if isinstance(kept, dict) and "spent_s" in kept:
        kept = {"cell": state.cell.id, "stage": 1, "passes": 0} | kept
    bench.window.session.remember("pace", kept)
    bench.runner.take_up(bench.view.bench)
    assert bench.view.pacer.elapsed_s == 0.0
    assert bench.view.bench.left_at == ""


def test_marks_have_a_key_each_and_are_taken_back(bench):
    press(K.Key_1)
    press(K.Key_8)
    assert bench.view.state.marks == ("stalled", "product missed")
    assert "Marked: stalled, product missed" in bench.view.marks.text()
    press(K.Key_Z, CTRL)
    assert bench.view.state.marks == ("stalled",)
    press(K.Key_0)
    QTest.keyClicks(QApplication.focusWidget(), "dust under the pad")
    press(K.Key_Return)
    assert bench.view.state.marks == ("stalled", "dust under the pad")
    assert bench.view.hasFocus()


def test_passes_are_counted_by_the_key_alone(bench):
    press(K.Key_C)
    press(K.Key_Space)
    for number in range(1, 7):
        bench.now += 20.0
        press(K.Key_Space)
        assert sum(w.what == "pass" for w in bench.noted) == number
    assert [w.facts["seconds"] for w in bench.noted if w.what == "pass"] == [20.0] * 6
    assert bench.view.state.stage == 2


def test_a_persons_day_adds_up_and_is_warned_of(bench):
    session = bench.window.session
    while bench.view.worker != "Tam":
        press(K.Key_P)
    bench.work_through()
    minutes = sum(w.facts["seconds"] for w in bench.noted if w.what == "pass") / 60.0
    assert all(w.person == "Tam" for w in bench.noted)
    said = bench.view.day.text()
    assert said.startswith(f"Tam: {minutes:.0f} min today")
    assert "declared values with their K" in said
    press(K.Key_P)
    assert bench.view.day.text().startswith(f"{bench.view.worker}: 0 min today")
    assert session.recall("worker", "") != "Tam"


def test_the_window_is_left_and_the_pad_is_held(bench):
    press(K.Key_Space)
    bench.later(5.0)
    bench.window.go("layout")
    assert not bench.view.pacer.running
    assert not bench.runner.timer.isActive()
    bench.window.go("work")
    bench.later(100.0)
    assert bench.pace.moment.phase == HELD


def test_a_half_read_trial_is_worked_to_its_end_with_space_and_digits(open_window, wait_for):
    bench = start(open_window, wait_for, MOTIONS)
    session = bench.window.session
    assert (bench.view.state.done, bench.view.state.wanted) == (11, 40)
    read = {cell for cell, _ in session.counts()}
    for _ in range(29):
        state = working(session)
        assert state.cell.id not in read
        bench.work_on()
    assert bench.view.state is None
    assert "Every cell is worked" in bench.view.lead.text()
    orders = [w.cell_id for w in bench.noted if w.what == "worked"]
    runs = {c.id: c.run_order for c in session.cells()}
    assert [runs[c] for c in orders] == sorted(runs[c] for c in orders)


def test_another_cell_can_be_worked_first(bench):
    first = bench.view.state.cell
    press(K.Key_PageDown)
    assert bench.view.state.cell.run_order == 2
    press(K.Key_PageUp)
    assert bench.view.state.cell.id == first.id
    press(K.Key_Space)
    bench.later(1.0)
    press(K.Key_PageDown)
    assert bench.view.state.cell.id == first.id


def test_a_trial_too_large_to_pace_says_so(open_window, wait_for, monkeypatch):
    for where in ("ui.views.work.view", "app.presenters.work_words"):
        monkeypatch.setattr(f"loam.{where}.MOST_PACED", 19)
    bench = start(open_window, wait_for, PLANNED)
    assert bench.view.state is None
    assert bench.view.lead.text().startswith("24 cells are too many to pace (19 at most).")
    press(K.Key_Space)
    press(K.Key_1)
    assert bench.noted == []
