"""Judge beside the ranking: every question asked in the real window."""

import csv
import io
import json
import zipfile

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from helpers.hands import press
from loam.app.questions.priorities.find import AIMS
from loam.core.units import fixed
from loam.ui.picture_out import save_picture
from loam.ui.report_out import drawings, write_report
from loam.ui.theme import BENCH, LIGHTS_OUT, look
from loam.ui.views.judge import judge_jobs as judging_module

K = Qt.Key
LETTERS = "VSCPEIDNA"


def test_every_question_has_its_letter_answers_and_can_be_left(judging, wait_for, tmp_path):
    window = judging()
    view = window.view
    chips = view.questions.buttons
    assert [k for k in chips if k != "Esc"] == list(LETTERS)
    for letter in LETTERS:
        press(window, getattr(K, f"Key_{letter}"))
        wait_for(window)
        page = view.questions.page
        assert page.letter == letter
        assert chips[letter].isChecked()
        assert len(page.lead.text()) > 20
        assert not page.lead.text().startswith("Working")
        assert not view.sentence.isVisible(), "two sentences could deny each other"
        shown = window.view.keys()
        assert ("Esc", "ranking") in [(k[0].split()[0], k[1]) for k in shown]
        if letter not in "DI":  # nothing was inspected here
            assert len(view.table()) > 2, letter
            picture = view.picture()
            save_picture(picture, tmp_path / f"{letter}.png")
            assert QImage(str(tmp_path / f"{letter}.png")).width() > 800
        press(window, K.Key_Escape)
        assert view.questions.page is None
        assert view.chart.isVisible()
        assert view.sentence.isVisible()


def test_m_turns_the_question_to_the_next_measurand(judging, wait_for):
    window = judging()
    press(window, K.Key_V)
    wait_for(window)
    page = window.view.questions.of("drivers")
    assert "gloss" in page.lead.text()
    press(window, K.Key_M)
    wait_for(window)
    assert window.view.questions.page is page
    assert "haze" in page.lead.text()


def test_what_is_not_there_is_said_with_what_would_carry_it(judging, wait_for):
    window = judging(5)
    press(window, K.Key_V)
    assert window.view.questions.page is None, "nothing is judged yet"
    assert not window.view.rankings
    window.turn_to(window.session.trials()[2].id)
    wait_for(window)
    press(window, K.Key_E)
    wait_for(window)
    told = "\n".join(" ".join(row) for row in window.view.table())
    assert "Not carried: it would take" in told
    press(window, K.Key_E)
    press(window, K.Key_C)
    wait_for(window)
    assert "minutes" in window.view.questions.page.lead.text(), "no film was read"


def test_what_was_not_tried_becomes_a_combination(judging, wait_for):
    window = judging()
    session = window.session
    before = len(session.combinations())
    press(window, K.Key_V)
    wait_for(window)
    page = window.view.questions.of("drivers")
    own, u = page.found.offers[0]
    assert page.found.number_of(own.hardness, u) == 1
    every = [x for c in page.found.classes for x in c.untried]
    assert u.p_ahead == max(x.p_ahead for x in every)
    assert len(page.found.offers) == len(every) > 3, "each has a number of its own"
    cells = len(session.cells())
    assert 0.0 < u.p_ahead < 1.0
    press(window, K.Key_1)
    assert len(session.combinations()) == before + 1
    made = session.combinations()[-1]
    assert made.stages == u.combination.stages
    assert window.view.step == "layout"
    planned = [c for c in session.cells() if c.combination_id == made.id]
    assert len(planned) == 2, "the cells that test it"
    there = {c.panel_id for c in planned}
    beside = [c for c in session.cells() if c.panel_id in there and c not in planned]
    codes = {c.id: c.code for c in session.combinations()}
    assert own.leader[0] in {codes.get(c.combination_id) for c in beside}
    assert {p.hardness for p in session.panels() if p.id in there} == {own.hardness}
    press(window, K.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(session.combinations()) == before
    assert len(session.cells()) == cells
    press(window, K.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert len([c for c in session.cells() if c.combination_id == made.id]) == 2


def test_enter_plans_what_is_advised_and_undo_takes_it_back(judging, wait_for):
    window = judging()
    session = window.session
    panels = len(session.panels())
    press(window, K.Key_N)
    wait_for(window)
    page = window.view.questions.of("next_test")
    tiles = page.found.tiles
    best = max(range(len(tiles)), key=lambda i: tiles[i][1].advice.per_minute)
    assert page.chosen == best + 1
    press(window, K.Key_2)
    own, tile = tiles[1]
    assert tile.name == "a panel"
    press(window, K.Key_Return)
    wait_for(window)
    assert window.view.step == "layout"
    assert len(session.panels()) == panels + 1
    new = session.panels()[-1]
    assert new.hardness == own.hardness
    codes = {c.id: c.code for c in session.combinations()}
    laid = sorted(codes[c.combination_id] for c in session.cells_of(new.id) if c.combination_id)
    assert laid == sorted(c.combination for c in tile.advice.cells)
    orders = [c.run_order for c in session.cells_of(new.id) if c.combination_id]
    assert len(set(orders)) == len(orders)
    press(window, K.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(session.panels()) == panels


def test_the_price_turns_to_minutes_and_never_names_two_winners(judging, wait_for):
    window = judging()
    window.view.turn("defects")
    press(window, K.Key_C)
    wait_for(window)
    page = window.view.questions.of("price")
    assert page.found.of == "clear"
    for own in page.found.classes:
        front = {p.name for p in own.priced if p.frontier}
        assert front
        assert not {p.name for p in own.priced if p.beaten_by} & front
    press(window, K.Key_T)
    wait_for(window)
    assert page.found.of == "minutes"
    for own in page.found.classes:
        assert all(p.cost[1] == p.cost[2] for p in own.priced), "minutes are as planned"


def test_planted_stages_are_said(judging, wait_for):
    window = judging(7)
    press(window, K.Key_S)
    wait_for(window)
    said = window.view.questions.of("stages").lead.text().replace("\u00a0", " ")
    assert "middle stage of C (Fen medium + Silt 2) does not earn its place" in said
    assert "middle stage of E (Fen medium + Silt 2) earns its place" in said
    assert "cannot see what stage 3 of E adds" in said
    found = window.view.questions.of("stages").found
    row = next(r for r in found.classes[0].rows if r.code == "C")
    assert [b.name for b in row.boxes] == [
        "before work",
        "after stage 1",
        "after stage 2",
        "after stage 3",
    ]
    assert [link.verdict for link in row.links][:2] == ["seen", "seen"]


def test_stages_show_what_the_wipe_took(judging, wait_for):
    window = judging(1)
    press(window, K.Key_S)
    wait_for(window)
    rows = window.view.questions.of("stages").found.classes[0].rows
    b = next(r for r in rows if r.code == "B")
    assert [box.name for box in b.boxes] == ["before work", "before the wipe", "after"]
    assert "by the wipe" in b.links[1].gain
    assert b.links[1].gain.startswith("\u2212")


def test_time_aims_and_limits_move_the_map(judging, wait_for):
    window = judging()
    press(window, K.Key_P)
    wait_for(window)
    page = window.view.priorities
    before = {h: m.winner.tolist() for h, m in page.found.maps.items()}
    press(window, K.Key_5)
    wait_for(window)
    assert "(fast turn-over)" in page.lead.text().replace("\u00a0", " ")
    assert page.time == pytest.approx(0.4)
    assert {h: m.winner.tolist() for h, m in page.found.maps.items()} != before
    QTest.keyClicks(QApplication.focusWidget(), "k")
    QTest.keyClicks(QApplication.focusWidget(), "minibuses")
    press(window, K.Key_Return)
    shown = page.keys()
    assert ("6", "minibuses") in [k[:2] for k in shown]
    press(window, K.Key_W)
    assert page.worth.isVisible()
    stood = page.found.criteria["gloss20"]
    press(window, K.Key_Right)
    wait_for(window)
    moved = page.found.criteria["gloss20"]
    assert moved.nothing > stood.nothing
    assert moved.full == pytest.approx(stood.full)
    press(window, K.Key_0)
    wait_for(window)
    assert page.found.criteria["gloss20"].nothing == pytest.approx(stood.nothing)


def test_faulty_kept_aims_and_limits_never_stop_it(open_window, wait_for):
    window = open_window(demo=True)
    session = window.session
    session.remember("aims", [["x", [1, 2]], ["", [1, 1, 1, 1]], ["y", ["a", 1, 1, 1]], 3, None])
    session.remember(
        f"worth:{session.trial_id}",
        {"gloss20": [5, 5], "time": [-1, 2], "haze": "x", "defects": [None, 1]},
    )
    window.go("judge")
    wait_for(window)
    press(window, K.Key_P)
    wait_for(window)
    page = window.view.priorities
    assert page.found is not None
    assert len(page.aims) == 5


def test_a_report_holds_what_is_on_the_screen(judging, qtbot, tmp_path):
    window = judging()
    view = window.view
    press(window, K.Key_O)
    assert window.out.asking.isVisible()
    path = tmp_path / "report.zip"
    window.out._write_report_to(path)
    qtbot.waitUntil(lambda: path.exists() and not window.jobs.busy, timeout=60_000)
    report = window.out.report.report
    for ending in (".xlsx", ".pdf"):
        drawn = list(drawings(report, window.session.combinations(), ending))
        write_report(report, drawn, tmp_path / f"report{ending}")
    assert (tmp_path / "report.pdf").read_bytes().startswith(b"%PDF")
    with zipfile.ZipFile(path) as archive:
        page = archive.read("report.html").decode()
        head = json.loads(archive.read("datapackage.json"))
        names = {r["name"] for r in head["resources"]}
        assert {"ranking_gloss20", "pairs_haze", "price", "next", "variances"} <= names
        lines = archive.read("ranking_gloss20.csv").decode().splitlines()
        worth = archive.read("priorities.csv").decode()
    assert len(lines) == len(view.table())
    for ranking in view.rankings.values():
        assert ranking.sentence.split(";")[0] in page.replace("&#x27;", "'")
    assert page.count("<svg") >= 8
    assert "priorities" in names
    mapped = [r for r in csv.reader(io.StringIO(worth)) if r[0] == "daily" and r[5] == "soft"]
    press(window, K.Key_Escape)
    view.chart.setFocus()
    press(window, K.Key_P)
    qtbot.waitUntil(lambda: view.priorities.found is not None, timeout=20_000)
    goals = view.priorities.found.goals("soft", AIMS[0][1][:3])
    assert [r[6] for r in mapped] == [g.combination for g in goals]
    assert fixed(float(mapped[0][7]), 2) == fixed(goals[0].mean, 2), "it says what the map says"
    assert float(mapped[0][7]) == goals[0].mean, "and says all of it"
    assert "safety data sheets" in page
    with zipfile.ZipFile(tmp_path / "report.xlsx") as book:
        assert "ranking_gloss20" in book.read("xl/workbook.xml").decode()


def test_a_report_says_how_far_it_is_and_can_be_stopped(judging, wait_for, qtbot, tmp_path):
    window = judging()
    said = []
    window.jobs.progress.connect(lambda job, share: said.append((job, share)))
    path = tmp_path / "report.pdf"
    press(window, K.Key_O)
    window.out.asking.hide()
    window.out._write_report_to(path)
    qtbot.waitUntil(lambda: ("report", 0.0) in said, timeout=20_000)
    assert window.out.report.busy
    window.view.chart.setFocus()
    press(window, K.Key_O)
    assert not window.out.report.busy
    assert "stopped; nothing was written" in window.note.text()
    wait_for(window)
    assert not list(tmp_path.glob("*report*"))
    window.out._write_report_to(path)
    qtbot.waitUntil(lambda: not window.out.report.busy, timeout=60_000)
    assert path.read_bytes().startswith(b"%PDF")
    shares = [share for job, share in said if job == "report"]
    assert max(shares) > 0.85
    assert "Written" in window.note.text()


def test_a_question_that_is_left_is_not_worked_out(judging, wait_for):
    window = judging()
    page = window.view.questions.of("drivers")
    press(window, K.Key_V)
    assert page.found is None
    assert window.jobs.is_busy("drivers")
    press(window, K.Key_Escape)
    assert not window.jobs.is_busy("drivers"), "the worker is free for what is asked next"
    wait_for(window)
    assert page.found is None
    press(window, K.Key_V)
    wait_for(window)
    assert page.found is not None


def test_a_report_that_the_disk_refuses_says_so(judging, wait_for, qtbot, tmp_path):
    window = judging()
    press(window, K.Key_O)
    (tmp_path / "report.xlsx").mkdir()
    window.out._write_report_to(tmp_path / "report.xlsx")
    qtbot.waitUntil(lambda: not window.jobs.busy and window.note.text() != "", timeout=60_000)
    qtbot.waitUntil(lambda: "report.xlsx" in window.note.text(), timeout=10_000)
    assert "Written" not in window.note.text()


def test_pages_are_drawn_at_the_smallest_size_with_the_lights_out(open_window, wait_for):
    application = QApplication.instance()
    look.apply(application, LIGHTS_OUT, 1.0)
    try:
        window = open_window(demo=True, size=(1024, 640))
        window.go("judge")
        wait_for(window)
        for letter in LETTERS:
            press(window, getattr(K, f"Key_{letter}"))
            wait_for(window)
            page = window.view.questions.page
            assert page.width() <= 1024
            shown = window.grab().toImage()
            assert shown.width() == 1024
            press(window, K.Key_Escape)
    finally:
        look.apply(application, BENCH, 1.0)


def test_a_cell_is_read_between_its_stages_in_the_window(open_window, wait_for):
    window = open_window(demo=True)
    session = window.session
    window.turn_to(session.trials()[3].id)
    window.go("read")
    wait_for(window)
    read = window.view
    phases = list(read.form.phases.buttons)
    assert phases[-2:] == ["stage1", "stage2"], "the longest combination has three stages"
    codes = {c.id: c for c in session.combinations()}
    longest = next(
        c
        for p in session.panels()
        for c in session.cells_of(p.id)
        if len(getattr(codes.get(c.combination_id), "stages", ())) == 3
    )
    read.choose(longest.id)
    levels = {"before": "60,0", "stage1": "80,2", "stage2": "85,1", "after": "85,3"}
    for phase, figure in levels.items():
        read.turn_phase(phase)
        read.choose(longest.id)
        for _ in range(session.trial.readings_per_cell):
            QTest.keyClicks(read.digits, figure)
            press(window, K.Key_Return)
            if read.digits.text():
                press(window, K.Key_Return)  # a second Enter keeps what was asked back
    window.go("judge")
    wait_for(window)
    press(window, K.Key_S)
    wait_for(window)
    found = window.view.questions.of("stages").found
    code = codes[longest.combination_id].code
    row = next(r for r in found.classes[0].rows if r.code == code)
    assert [b.value[:4] for b in row.boxes] == ["60.0", "80.2", "85.1", "85.3"]
    assert [b.name for b in row.boxes][1:3] == ["after stage 1", "after stage 2"]
    assert {link.verdict for link in row.links} == {"not settled"}, "one cell shows no scatter"


def test_what_was_read_between_stages_goes_out_and_comes_back(open_window, tmp_path):
    from loam.store.csv_readings import build_draft
    from loam.store.datapackage import read_package, write_package
    from loam.store.flat import flat_text
    from loam.store.mapping import guess_mapping
    from loam.store.table_file import read_table
    from loam.store.take_out import read_draft

    window = open_window(demo=True)
    draft = read_draft(window.session.workshop.connection, window.session.trials()[6].id)
    write_package(draft, tmp_path / "stages.zip")
    again = read_package(tmp_path / "stages.zip")
    assert again.readings == draft.readings
    assert again.workshop == draft.workshop != ""
    (tmp_path / "stages.csv").write_text(flat_text(draft))
    table = read_table(tmp_path / "stages.csv")
    from_csv = build_draft(table, guess_mapping(table.header), "stages")

    def count(readings, phase):
        return sum(r.phase == phase for r in readings)

    for phase in ("before", "stage1", "stage2", "after"):
        assert count(from_csv.readings, phase) == count(draft.readings, phase) > 0


def test_a_page_is_built_when_it_is_asked_or_while_nothing_is_done(judging, wait_for):
    window = judging()
    questions = window.view.questions
    built = set(questions.by_letter)
    assert built == {"P", "D"}, "what the ranking itself needs"
    press(window, K.Key_V)
    wait_for(window)
    assert set(questions.by_letter) == {"P", "D", "V"}
    while window.warm_up():
        wait_for(window)
    assert set(questions.by_letter) == set(questions.offers)
    for letter, page in questions.by_letter.items():
        assert page.letter == letter
        assert questions.buttons[letter].text() == f"{letter}  {page.label}"
    assert window.view.questions.page.letter == "V", "nothing has moved"


def test_what_a_doubt_would_do_is_judged_ahead(judging, wait_for, monkeypatch):
    window = judging()
    view = window.view
    view.doubts.start()
    wait_for(window)
    assert len(view.doubts.found) == 3
    asked = []
    judge = judging_module.judge_trial

    def counting(*args, **how):
        if how.get("turned") is None:
            asked.append(args[2])
        return judge(*args, **how)

    monkeypatch.setattr(judging_module, "judge_trial", counting)
    press(window, K.Key_D)
    before = view.ranking.sentence
    press(window, K.Key_2)
    assert view.ranking.sentence != before, "at once"
    assert any("Left out because it is doubted: F on" in said for said in view.ranking.work)
    ahead = view.ranking
    wait_for(window)
    session = window.session
    found = judge(
        session.workshop.reads,
        session.trial_id,
        "gloss20",
        session.trial.seed,
        session.kind("gloss20"),
    )
    assert found.sentence == ahead.sentence
    assert found.work == ahead.work
    for own, other in zip(found.judgement.classes, ahead.judgement.classes, strict=True):
        assert own.standings == other.standings
    press(window, K.Key_2)
    assert view.ranking.sentence == before
    wait_for(window)
    asked.clear()
    press(window, K.Key_3)
    assert "gloss20" not in asked, "nothing is judged that was judged ahead"
    assert any("cells of Tam" in said for said in view.ranking.work)
    wait_for(window)
