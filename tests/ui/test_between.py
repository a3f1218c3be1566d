"""Between the cells: gates, pads, heat, losses, a second bench; in the real window."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from helpers.bench import CTRL, MOTIONS, PLANNED, K, press, start
from helpers.light import luminance
from loam.app.commands import EditCombination, NoteWork
from loam.app.questions.ranking.find import judge_trial
from loam.store import preparation
from loam.ui.views.work.modes import After, Gates, Grit, Loss


@pytest.fixture
def bench(open_window, wait_for):
    return start(open_window, wait_for, PLANNED)


def facts_of(bench, what):
    return [w.facts for w in bench.noted if w.what == what]


def gates(bench):
    session = bench.window.session
    return preparation.passed(session.workshop.connection, session.trial_id)


def on_second_panel(bench):
    """Turn to a panel that is washed and no more."""
    session = bench.window.session
    panel = session.panels()[1]
    bench.view.choose(session.cells_of(panel.id)[0].id)
    assert isinstance(bench.view.mode, Gates)
    return panel


def test_gates_come_before_the_first_cell_and_enter_passes_them(bench):
    panel = on_second_panel(bench)
    view = bench.view
    assert view.board_page.board.head == "Feel"
    assert "Wash: done: Ivo" in view.board_page.strip.accessibleDescription()
    for key in (K.Key_Space, K.Key_Space, K.Key_A):  # one Space too many, or a name being typed
        press(key)
    assert view.board_page.board.head == "Feel", "nothing is ticked by accident"
    assert "Enter does" in bench.window.note.text()
    press(K.Key_Return)
    assert view.board_page.board.head == "Inspect"
    assert gates(bench)[panel.id][-1].gate == "feel"
    press(K.Key_Z, CTRL)
    assert view.board_page.board.head == "Feel"
    press(K.Key_Return, CTRL)  # on every panel that waits for it
    waiting = [p.id for p in bench.window.session.panels()[1:]]
    assert all(gates(bench)[i][-1].gate == "feel" for i in waiting)


def test_what_a_gate_records_is_turned_by_its_number(bench):
    panel = on_second_panel(bench)
    for _ in range(4):
        press(K.Key_Return)
    board = bench.view.board_page.board
    assert board.head == "Damage alike"
    press(K.Key_3)
    press(K.Key_5)
    assert [p.value for p in board.pieces[:5]] == ["by hand", "paper", "P1500", "10", "crossed"]
    press(K.Key_6)  # nothing is asked there
    QTest.mouseClick(board, Qt.MouseButton.LeftButton, pos=board._boxes[3][0].center().toPoint())
    assert board.pieces[3].value == "5"
    press(K.Key_Return)
    found = gates(bench)[panel.id][-1]
    assert (found.gate, found.facts) == (
        "damage",
        {
            "how": "by hand",
            "with": "paper",
            "grit": "P1500",
            "strokes": "5",
            "direction": "crossed",
        },
    )


def test_several_gates_are_left_out_for_one_reason(bench):
    panel = on_second_panel(bench)
    board = bench.view.board_page.board
    press(K.Key_0)
    press(K.Key_9)
    assert board.head.startswith("Leave out: Feel, Inspect")
    assert "nobody felt" in board.sentence
    assert "finger" not in board.sentence
    press(K.Key_1)
    own = [p for p in gates(bench)[panel.id] if p.what == "skipped"]
    assert [p.gate for p in own] == ["feel", "inspect", "degrease", "mask", "damage", "again"]
    assert {p.facts["reason"] for p in own} == {"no time"}
    assert bench.view.mode.found.gate.key == "baseline", "readings are asked for by themselves"
    press(K.Key_Z, CTRL)
    assert board.head == "Feel"


def test_a_gate_is_left_out_for_a_reason_that_is_kept(bench):
    panel = on_second_panel(bench)
    board = bench.view.board_page.board
    press(K.Key_0)
    assert board.head == "Leave out: Feel"
    assert "nobody felt" in board.sentence
    press(K.Key_Escape)
    assert board.head == "Feel"
    press(K.Key_0)
    press(K.Key_0)
    QTest.keyClicks(QApplication.focusWidget(), "the gloves are gone")
    press(K.Key_Return)
    found = gates(bench)[panel.id][-1]
    assert (found.what, found.facts["reason"]) == ("skipped", "the gloves are gone")
    assert bench.view.hasFocus()
    assert "left out, the gloves are gone" not in board.accessibleDescription()
    assert "Feel: left out: the gloves are gone" in (
        bench.view.board_page.strip.accessibleDescription()
    )


def test_reading_before_work_is_one_key_away_and_opens_the_gate(bench):
    panel = on_second_panel(bench)
    for _ in range(6):
        press(K.Key_Return)
    assert bench.view.mode.found.gate.key == "baseline"
    press(K.Key_Return)
    read = bench.window.view
    assert (read.step, read.phase) == ("read", "before")
    assert read.state.cell.panel_id == panel.id


def test_between_cells_the_pad_is_cared_for_and_the_next_is_named(bench):
    first = bench.view.state
    bench.work_through()
    view, board = bench.view, bench.view.board_page.board
    assert isinstance(view.mode, After)
    assert board.head == f"{first.cell.code} is worked, stage 1 of 3"
    assert "Change pad, compound, machine" in board.sentence
    assert board.foot.startswith(f"{first.pad.name}: loaded")
    press(K.Key_9)
    press(K.Key_9)
    assert board.pieces[0].value == "brushed"
    press(K.Key_2)  # a mark is still of the cell that was worked
    assert bench.noted[-1].cell_id == first.cell.id
    assert bench.noted[-1].facts == {"mark": "dry"}
    press(K.Key_Space)
    assert view.mode is None
    pad = bench.runner.single(first.pad)
    assert (pad.life.state, pad.life.since_wash > 0) == ("clean", True)
    assert view.state.stage == 2
    bench.work_through()
    assert board.pieces[0].value == "brushed"  # as it was done last


def test_work_that_is_taken_back_is_offered_again(bench):
    first = bench.view.state
    bench.work_through()
    press(K.Key_Z, CTRL)  # the pad's set
    press(K.Key_Z, CTRL)  # the stage
    assert bench.view.bench.between is None
    assert (bench.view.state.cell.id, bench.view.state.stage) == (first.cell.id, 1)
    assert bench.pace.moment.done_passes == 6


def test_a_warm_panel_is_asked_about_once(bench):
    view = bench.view
    press(K.Key_T)
    QTest.keyClicks(QApplication.focusWidget(), "200")
    press(K.Key_Return)
    assert "cannot be" in view.words.error.text()
    press(K.Key_A, CTRL)
    QTest.keyClicks(QApplication.focusWidget(), "46,5 38")
    press(K.Key_Return)
    assert facts_of(bench, "temperature") == [{"panel_c": 46.5, "pad_c": 38.0}]
    assert "Curlew was read at 46 °C: wait about 1:" in view.lead.text()
    press(K.Key_Space)
    assert not view.pacer.running
    assert "Space again works it warm" in bench.window.note.text()
    press(K.Key_Space)
    assert view.pacer.running
    assert view.state.marks == (), "Space marks nothing: 3 does"
    assert bench.window.note.matter == "", "what was asked is put away"
    press(K.Key_Space)
    press(K.Key_Space)
    assert view.pacer.running, "it is asked once"


def test_a_wrong_count_of_passes_is_asked_for(bench):
    press(K.Key_6)
    field = QApplication.focusWidget()
    QTest.keyClicks(field, "2,5")
    press(K.Key_Return)
    assert "counted whole" in bench.view.words.error.text()
    press(K.Key_A, CTRL)
    QTest.keyClicks(QApplication.focusWidget(), "8")
    press(K.Key_Return)
    assert facts_of(bench, "mark") == [{"mark": "passes", "passes": 8}]
    assert bench.view.state.marks == ("wrong pass count",)


def test_what_goes_wrong_less_often_is_one_key_away(bench):
    view, board = bench.view, bench.view.board_page.board
    press(K.Key_M)
    assert board.head == "What else went wrong?"
    press(K.Key_Escape)
    assert view.mode is None
    press(K.Key_M)
    press(K.Key_1)
    assert view.state.marks == ("dusting or gumming",)
    press(K.Key_M)
    press(K.Key_9)
    assert view.state.marks[-1] == "passes unknown"
    session = bench.window.session
    other = next(c for c in session.cells_of(view.state.panel.id) if c.id != view.state.cell.id)
    press(K.Key_M)
    press(K.Key_6)
    QTest.keyClicks(QApplication.focusWidget(), "Q9")
    press(K.Key_Return)
    assert "has no cell Q9" in view.words.error.text()
    press(K.Key_A, CTRL)
    QTest.keyClicks(QApplication.focusWidget(), other.code.lower())
    press(K.Key_Return)
    hit = [w for w in bench.noted if w.cell_id == other.id]
    assert [w.facts["mark"] for w in hit] == ["splattered"]
    assert len(view.state.marks) == 2, "the cell that is worked is not marked by it"


def test_a_lost_panel_is_laid_out_round_and_its_price_is_said(bench, wait_for):
    session = bench.window.session
    view, board = bench.view, bench.view.board_page.board
    bench.work_on()
    before = {c.id: (c.combination_id, c.run_order) for c in session.cells()}
    on = view.state.panel
    begun = view.state.cell.id
    press(K.Key_R)
    assert isinstance(view.mode, Loss)
    assert board.pieces[1].value == f"what is left of {on.name}: 5 cells"
    press(K.Key_2)
    wait_for(bench.window)
    assert board.head == "What is left"
    assert "4 cells fewer." in board.sentence  # the cell that was begun stays
    assert "On medium its intervals become" in board.sentence
    press(K.Key_Escape)
    press(K.Key_2)
    wait_for(bench.window)
    press(K.Key_Return)
    after = {c.id: (c.combination_id, c.run_order) for c in session.cells()}
    assert after[begun] == before[begun]
    own = [c.id for c in session.cells_of(on.id) if c.id != begun]
    worked = [i for i in own if before[i][1] is not None]
    assert all(after[i] == (None, None) for i in worked)
    assert view.state.cell.id != begun
    press(K.Key_Z, CTRL)
    press(K.Key_Z, CTRL)
    assert {c.id: (c.combination_id, c.run_order) for c in session.cells()} == before
    assert view.state.cell.id == begun


def test_a_lost_afternoon_and_a_failed_pad(bench, wait_for):
    view, board = bench.view, bench.view.board_page.board
    press(K.Key_R)
    press(K.Key_3)
    QTest.keyClicks(QApplication.focusWidget(), "9")
    press(K.Key_Return)
    wait_for(bench.window)
    assert "11 cells fewer." in board.sentence
    press(K.Key_Return)
    assert (view.state.done, view.state.wanted) == (0, 9)
    pad = view.state.pad
    press(K.Key_R)
    press(K.Key_4)
    assert bench.runner.single(pad).life.state == "retired"
    assert view.state.pad.name != pad.name
    assert view.mode is None


def test_too_great_a_loss_is_refused_in_words(bench, wait_for):
    press(K.Key_R)
    press(K.Key_3)
    QTest.keyClicks(QApplication.focusWidget(), "2")
    press(K.Key_Return)
    wait_for(bench.window)
    board = bench.view.board_page.board
    assert board.head == "What was lost?"
    assert "2 free cells for 3 combinations" in board.foot
    press(K.Key_Escape)
    press(K.Key_Escape)
    assert bench.view.mode is None


def test_two_benches_run_side_by_side_and_who_did_what_is_kept_apart(bench):
    view = bench.view
    while view.worker != "Tam":
        press(K.Key_P)
    first = view.state
    press(K.Key_S)
    bench.prepare()
    while view.worker != "Lise":
        press(K.Key_P)
    second = view.state
    assert second.panel.id != first.panel.id
    assert "Bench 1, Tam: Curlew K3, 0 of 6 passes" in view.other.text()
    press(K.Key_Space)
    press(K.Key_S)
    assert view.worker == "Tam"
    press(K.Key_Space)
    assert all(b.running for b in bench.runner.benches)
    bench.later(view.pacer.track.pass_start(2) + 1.0)
    by = {w.person: w.cell_id for w in bench.noted if w.what == "pass"}
    assert by == {"Tam": first.cell.id, "Lise": second.cell.id}
    press(K.Key_Space)  # Tam holds, Lise goes on
    for _ in range(200):
        bench.later(5.0)
    done = [w for w in bench.noted if w.what == "worked"]
    assert [(w.person, w.cell_id) for w in done] == [("Lise", second.cell.id)]
    assert f"Bench 2, Lise: {second.cell.code} is worked" in view.other.text()
    assert view.state.cell.id == first.cell.id
    press(K.Key_S)
    assert isinstance(view.mode, After)


def test_working_blind_shows_what_is_needed_and_nothing_more(bench):
    view = bench.view
    shown = view.pace_page.where.picture
    assert any(f.combination is not None for f in shown.faces)
    press(K.Key_B)
    assert all(f.combination is None for f in view.pace_page.where.picture.faces)
    assert view.pace_page.card.blind
    assert "dial 5 = 4200/min" in view.pace_page.card.accessibleDescription()
    press(K.Key_B)
    assert not view.pace_page.card.blind


def with_stage(bench, **changes):
    """Give the combination of the cell at hand another first stage."""
    session = bench.window.session
    combination = bench.view.state.combination
    stages = (replace(combination.stages[0], **changes), *combination.stages[1:])
    after = replace(combination, stages=stages)
    session.run(EditCombination(session.trial_id, combination, after))
    bench.view.bench.set_up(bench.runner.clock)


def test_sanding_asks_whether_the_former_grit_is_gone(bench):
    with_stage(bench, disc="P3000", passes=2)
    press(K.Key_Space)
    while bench.view.pacer.running:
        bench.later(5.0)
    board = bench.view.board_page.board
    assert isinstance(bench.view.mode, Grit)
    assert board.head == "Are the former marks gone?"
    assert "breathing protection" in board.foot
    assert facts_of(bench, "worked") == []
    press(K.Key_9)
    assert bench.view.mode is None
    press(K.Key_Space)
    while bench.view.pacer.running:
        bench.later(5.0)
    press(K.Key_Space)
    assert [f["number"] for f in facts_of(bench, "pass")] == [1, 2, 3, 4]
    assert facts_of(bench, "worked")[0]["passes"] == 4
    assert isinstance(bench.view.mode, After)


def test_bursts_hold_by_themselves(bench):
    with_stage(bench, burst_s=10.0, passes=3)
    view = bench.view
    press(K.Key_Space)
    bench.later(8.0 + 10.4)
    assert not view.pacer.running
    assert [f["paint_s"] for f in facts_of(bench, "pass")] == [10.0]
    bench.later(100.0)
    press(K.Key_Space)
    bench.later(9.9)
    assert view.pacer.running
    bench.later(0.2)
    assert not view.pacer.running
    press(K.Key_Space)
    bench.later(10.1)
    assert [f["paint_s"] for f in facts_of(bench, "pass")] == [10.0, 10.0, 10.0]
    assert isinstance(view.mode, After)


def test_what_went_wrong_is_said_where_it_is_judged_and_can_be_left_out(open_window, wait_for):
    bench = start(open_window, wait_for, MOTIONS)
    session = bench.window.session
    read = next(c for c in session.cells() if (c.id, "gloss20") in session.counts())
    facts = {"mark": "stalled"}
    number = {"seconds": 20.0, "number": 1}
    for what, said in (("pass", number), ("mark", facts)):
        session.run(NoteWork(session.trial_id, read.id, 1, what, said, "Tam", "2026-09-26"))
    bench.window.go("judge")
    wait_for(bench.window)
    judge = bench.window.view
    panel = next(p for p in session.panels() if p.id == read.panel_id)
    assert f"{panel.name} {read.code}" in judge.notes.text()
    assert "X leaves them out" in judge.notes.text()
    press(K.Key_X)
    assert "X lets them count" in judge.notes.text(), "at once: it was judged ahead"
    ahead = judge.ranking
    wait_for(bench.window)
    found = judge_trial(
        session.workshop.reads,
        session.trial_id,
        "gloss20",
        session.trial.seed,
        session.kind("gloss20"),
    )
    assert found.work == ahead.work
    for own, other in zip(found.judgement.classes, ahead.judgement.classes, strict=True):
        assert own.standings == other.standings
    shown = judge.keys()
    assert any(key == "X" and said == "count all" for key, said, _ in shown)
    press(K.Key_X)
    assert "X leaves them out" in judge.notes.text(), "at once"
    wait_for(bench.window)


def test_another_pad_is_taken_before_a_stage_is_begun(bench):
    view = bench.view
    proposed = view.state.pad
    press(K.Key_9)
    other = view.state.pad
    assert other.item_id != proposed.item_id
    assert other.facts["kind"] == proposed.facts["kind"]
    assert f"pad {other.name}" in view.pace_page.card.accessibleDescription()
    press(K.Key_Space)
    bench.later(1.0)
    press(K.Key_Space)
    press(K.Key_9)  # begun: it stays
    assert view.state.pad.item_id == other.item_id
    press(K.Key_Space)
    while view.pacer.running:
        bench.later(7.0)
    assert facts_of(bench, "worked") != []
    assert bench.noted[-1].pad == other.name


def test_a_cell_that_was_begun_is_kept_and_never_offered_twice(bench):
    view = bench.view
    press(K.Key_Space)
    bench.later(3.0)
    first = view.state.cell
    press(K.Key_S)
    bench.prepare()
    session = bench.window.session
    offered = set()
    for _ in range(25):
        offered.add(view.state.cell.id)
        press(K.Key_PageDown)
    assert first.id not in offered
    press(K.Key_S)
    assert view.state.cell.id == first.id
    assert view.pacer.running
    alone = session.panels()[0].id
    assert all(session.panel_of()[i] != alone for i in [view.runner.benches[1].state.cell.id])


def test_at_night_the_bench_gives_almost_no_light(bench):
    bench.window.turn_lights()
    for _ in range(2):
        QApplication.processEvents()  # Qt hands a palette on by an event
        image = bench.window.grab().scaled(160, 100).toImage()
        light = [luminance(image.pixelColor(x, y)) for x in range(160) for y in range(100)]
        assert sum(light) / len(light) < 0.04
        on_second_panel(bench)
    bench.window.turn_lights()


def test_the_table_at_hand_holds_what_was_prepared_and_worked(bench):
    bench.work_on()
    head, *rows = bench.view.table()
    assert head[:5] == ["when", "panel", "cell", "stage", "what"]
    assert ["Wash", "done"] in [row[4:6] for row in rows]
    worked = [row for row in rows if row[4] == "worked"]
    assert [row[1:4] for row in worked] == [["Curlew", "K3", "1"]]
    assert len([row for row in rows if row[4] == "pass"]) == 6
    assert [row[0] for row in rows] == sorted(row[0] for row in rows)


def test_a_kind_whose_pads_are_all_gone_is_said(bench):
    view = bench.view
    for _ in range(6):
        if view.state.pad is None:
            break
        press(K.Key_R)
        press(K.Key_4)
    assert view.state.pad is None
    assert "No Bracken is left on the shelf" in view.lead.text()


def test_what_is_left_out_can_count_again_even_when_nothing_else_is_left(open_window, wait_for):
    bench = start(open_window, wait_for, MOTIONS)
    session = bench.window.session
    number = {"seconds": 20.0, "number": 1}
    for cell in sorted({c for c, _ in session.counts()}):
        for what, said in (("pass", number), ("mark", {"mark": "stalled"})):
            session.run(NoteWork(session.trial_id, cell, 1, what, said, "Tam", "2026-09-26"))
    bench.window.go("judge")
    wait_for(bench.window)
    judge = bench.window.view
    assert judge.ranking is not None
    press(K.Key_X)
    wait_for(bench.window)
    assert judge.ranking is None
    assert "X lets it count" in judge.refusals[judge.measurand]
    press(K.Key_X)
    wait_for(bench.window)
    assert judge.ranking is not None


def test_a_cell_that_was_begun_and_is_given_up_is_not_offered_again(bench):
    view, session = bench.view, bench.window.session
    cell = view.state.cell
    press(K.Key_Space)
    bench.later(view.pacer.track.pass_start(2) + 1.0)
    press(K.Key_Space)
    press(K.Key_R)
    press(K.Key_1)
    assert view.state.cell.id != cell.id
    assert view.state.done == 1
    assert session.cell(cell.id) == cell  # what it got stays
    assert facts_of(bench, "mark") == [{"mark": "lost"}]
    press(K.Key_Z, CTRL)
    assert view.state.cell.id == cell.id
    assert view.state.done_passes == 1
