"""A trainer's own first trial, from nothing: four combinations and a control on two small panels,
one of them read, three people, starts on one, a slip and a doubt; then every page and report."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from helpers.hands import press
from loam.app.commands import take_reading
from loam.app.report import make_report
from loam.core.trial import BEFORE, Reading
from loam.core.verdicts import BETTER, CLEARLY_BETTER
from loam.ui.report_out import drawings, write_report
from loam.ui.views.judge.reporting import told_of

K = Qt.Key
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
LEVEL = {"A": 88.0, "B": 86.9, "C": 84.0, "D": 80.5}
PEOPLE = ("Ivo", "Lise", "Tam")


def type_in(window, text):
    QTest.keyClicks(QApplication.focusWidget() or window, text)


@pytest.fixture
def first(open_window, wait_for):
    """Ask, Kit and Panels, typed from nothing."""
    window = open_window()
    press(window, K.Key_N, CTRL)
    type_in(window, "My first")
    press(window, K.Key_Return)
    press(window, K.Key_F3)
    for i, (pad, compound) in enumerate(
        (
            ("Fen firm", "Grist 9"),
            ("Fen medium", "Loess 4"),
            ("Fen soft", "Silt 2"),
            ("Down", "Silt 1"),
        )
    ):
        press(window, K.Key_N, CTRL)
        for text in (pad, compound, "Dipper 15"):
            type_in(window, text)
            press(window, K.Key_Tab)
        assert len(window.session.combinations()) == i + 1
    press(window, K.Key_J, CTRL)
    press(window, K.Key_F4)
    for name in ("Rot", "Blau"):
        press(window, K.Key_N, CTRL)
        type_in(window, name)
        press(window, K.Key_Tab)
    wait_for(window)
    return window


def test_a_control_has_its_key_and_is_laid_out_once_a_panel(first, wait_for):
    window, session = first, first.session
    damaged = [c for c in session.combinations() if c.control]
    assert [(c.control, c.stages) for c in damaged] == [("damaged", ())]
    press(window, K.Key_F3)
    press(window, K.Key_J, CTRL)
    assert {c.control for c in session.combinations()} == {"damaged", "untouched", ""}
    assert not window.view._lacking()
    press(window, K.Key_Z, CTRL)
    press(window, K.Key_F5)
    press(window, K.Key_R, CTRL)
    wait_for(window)
    for panel in session.panels():
        own = [c.combination_id for c in session.cells_of(panel.id)]
        assert own.count(damaged[0].id) == 1


def test_what_has_no_stages_is_asked_which_control_it_is(first, wait_for):
    window, session = first, first.session
    press(window, K.Key_F3)
    view = window.view
    view.chosen = session.combinations()[3].id
    view._show()
    view.drop_stage()
    assert view.which.isVisible()
    assert "say which control" in view.control.text()
    view._turn_control("damaged")
    assert view.combination.control == "", "one of a kind is enough"
    view._turn_control("untouched")
    assert view.combination.control == "untouched"
    view.add_stage()
    assert view.combination.control == ""


def read_one_panel(window):
    """Work nothing, read one panel: some starts, three people, one slip."""
    session = window.session
    rng = np.random.default_rng(7)
    by = {c.id: c for c in session.combinations()}
    panel = session.panels()[0]
    for i, cell in enumerate(session.cells_of(panel.id)):
        combination = by.get(cell.combination_id)
        if combination is None:
            continue
        level = LEVEL.get(combination.code, 45.0) + rng.normal(0, 0.4)
        who = PEOPLE[i % 3]
        if i % 2:
            start = Reading(
                0,
                cell.id,
                "gloss20",
                round(45 + rng.normal(), 1),
                BEFORE,
                1,
                1,
                "",
                who,
                "2026-09-26",
            )
            session.run(take_reading(session.trial_id, start))
        for k in range(1, 4):
            value = round(level + rng.normal(0, 0.2), 1)
            if i == 2 and k == 3:
                value = round(value * 10, 1)
            session.run(
                take_reading(
                    session.trial_id,
                    Reading(0, cell.id, "gloss20", value, "after", k, 1, "", who, "2026-09-26"),
                )
            )


def test_it_gets_a_ranking_every_page_and_all_four_reports(first, wait_for, tmp_path):
    window, session = first, first.session
    press(window, K.Key_F5)
    press(window, K.Key_R, CTRL)
    wait_for(window)
    read_one_panel(window)
    window.go("judge")
    wait_for(window)
    view = window.view
    found = view.ranking.judgement.classes[0]
    assert {s.combination for s in found.standings} == {"A", "B", "C", "D"}, "no control is ranked"
    assert view.ranking.controls[found.hardness], "it is a line to hold them against"
    assert not any(s.relation == CLEARLY_BETTER for s in found.standings), "one panel"
    notes = " ".join(view.ranking.notes)
    assert "lack it and count at that mean start" in notes
    assert "ranked without" not in notes
    for s in found.standings:
        if s.relation == BETTER:
            assert s.look == "assumed"
            assert "on this panel" in view.ranking.sentence
    for letter in "VSCPEDNA":
        press(window, getattr(K, f"Key_{letter}"))
        wait_for(window)
        page = view.questions.page
        assert page is not None, letter
        assert len(page.lead.text()) > 12
        assert "could not be" not in page.lead.text()
        press(window, K.Key_Escape)
        wait_for(window)
    report = make_report(told_of(view))
    doubted = next(s for s in report.sections if s.head == "Doubts")
    assert any("looks like a slip" in w for w in doubted.words), "the report waits for its doubts"
    for ending in (".html", ".pdf", ".xlsx", ".zip"):
        drawn = list(drawings(report, session.combinations(), ending))
        write_report(report, drawn, tmp_path / f"report{ending}")
        assert (tmp_path / f"report{ending}").stat().st_size > 1000


def test_a_car_on_it_says_step_by_step_what_it_takes(first, wait_for):
    window = first
    press(window, K.Key_F5)
    press(window, K.Key_R, CTRL)
    wait_for(window)
    read_one_panel(window)
    press(window, K.Key_F9)
    wait_for(window)
    view = window.view
    view.car_acts.begin("small car")
    wait_for(window)
    assert "No trial of this workshop read defect removal and haze" in view.advice.text()
    assert "reads (G): gloss 20°" in view.advice.text()
    view.turn("aim")
    field = view.aim_page.fields["gloss20", "at_least"]
    field.line.setFocus()
    type_in(window, "70")
    press(window, K.Key_Return)
    wait_for(window)
    view.turn("stairs")
    assert "Survey its film first" in view.advice.text()
    for value in ("118", "117", "119", "118", "116"):
        view.note("film", {"part": "bonnet", "film_um": float(value)}, "film", None)
    wait_for(window)
    assert view.stairs.decision[0] in ("try", "stop")
    assert view.advice.text().startswith("It is taken for medium: no other panels were read.")
    notes = " ".join(view.stairs.notes)
    assert "Nothing is promised of defect removal and haze: no trial read it." in notes
    assert "No film was read: the clear that they take is assumed from their dose." in notes
    assert "Not surveyed, so nothing is said of" in notes


def test_leaving_a_doubt_out_is_an_act_like_all_others(judging, wait_for):
    """After leaving a doubt out, Ctrl+Z struck a reading and left the doubt out."""
    window = judging()
    view, session = window.view, window.session
    press(window, K.Key_D)
    wait_for(window)
    before = view.ranking.judgement.classes
    counts = session.counts()
    number = next(
        i for i, s in enumerate(view.doubts.found, 1) if s.doubt.kind in ("class", "hand", "pad")
    )
    press(window, getattr(K, f"Key_{number}"))
    wait_for(window)
    assert view.ranking.judgement.classes != before
    assert session.undo_name.startswith("leave out")
    press(window, K.Key_Z, CTRL)
    wait_for(window)
    assert session.counts() == counts, "no reading is struck instead"
    assert view.ranking.judgement.classes == before
    press(window, K.Key_Y, CTRL)
    wait_for(window)
    report = make_report(told_of(view))
    decided = next(s for s in report.sections if s.head == "Decided while judging")
    assert ["taken back" in w for w in decided.words] == [False, True, False]


def test_a_report_can_be_searched(judging, wait_for, tmp_path):
    """Soft, left and after lost their ligatures in a PDF."""
    from PyQt6.QtPdf import QPdfDocument

    window = judging()
    report = make_report(told_of(window.view))
    path = tmp_path / "report.pdf"
    write_report(report, [], path)
    document = QPdfDocument(None)
    document.load(str(path))
    text = " ".join(document.getAllText(i).text() for i in range(document.pageCount()))
    document.close()
    for word in ("Soft", "after", "difference", "first"):
        assert word in text, word


def test_escape_leaves_what_the_wipe_took(judging, wait_for):
    window = judging(1)
    view = window.view
    press(window, K.Key_F)
    assert view.looks.at(view.masking)
    press(window, K.Key_Escape)
    assert not view.looks.at(view.masking)


def test_a_machine_kind_added_by_the_recipe_has_its_dose(monkeypatch):
    from loam.core import machines
    from loam.core.dose import stage as doses
    from loam.core.trial import Stage

    kind = machines.MachineKind("new", "new", "orbits/min", 3, 0.4, ("new",), 10.0, 3000.0, 0.05)
    monkeypatch.setitem(machines.BY_KEY, "new", kind)
    made = object.__new__(Stage)
    for name, value in Stage("x", "y", "z").__dict__.items():
        object.__setattr__(made, name, value)
    object.__setattr__(made, "machine_kind", "new")
    section = doses.settings_for(made, 150.0, 150.0).section
    assert (section.throw_mm, section.orbits_per_min) == (10.0, 3000.0)
