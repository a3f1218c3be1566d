"""Bringing in through the real window: what comes out is seen before it is taken."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QTextDocument
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.app.commands import EditTrial
from loam.app.presenters.incoming import join, matching_roles
from loam.core.errors import ValueRefused
from loam.demo.scenario import motions
from loam.store.flat import flat_text
from loam.store.readings import readings_of_cells

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
HEAD = "panel,hardness,cell,combo,gloss20,haze"


def lines(classes=("soft", "hard"), haze="11.5"):
    rows = [HEAD]
    for p, word in enumerate(classes):
        for i in range(4):
            rows += [
                f"P{p},{word},{'KL'[i // 2]}{i % 2 + 1},{'AB'[i % 2]},{80 + i}.{k},{haze}"
                for k in range(3)
            ]
    return rows


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
    QApplication.processEvents()


@pytest.fixture
def bring(open_window, wait_for, tmp_path):
    """Open a window and bring a file of these lines in."""

    def make(rows, *, demo=False, name="evening.csv"):
        window = open_window(demo=demo)
        file = tmp_path / name
        file.write_text("\n".join(rows))
        window.bring_in_file(file)
        wait_for(window)
        return window, file

    return make


def test_the_panels_that_come_out_are_drawn_before_anything_is_taken(bring):
    window, _ = bring(lines())
    outcome = window.view.outcome
    assert outcome.said.text() == (
        "2 panels, 8 cells, 2 combinations: 24 × gloss 20° and 24 × haze."
    )
    assert outcome.panels.accessibleDescription() == "P0 soft, P1 hard"
    assert len(outcome.panels.tiles().boxes) == 2
    assert window.session.trials() == []
    assert window.view.take.hasFocus()


def test_the_files_own_words_for_hardness_are_mapped_and_remembered(bring, wait_for):
    window, file = bring(lines(("1", "mittel")))
    view = window.view
    assert list(view.outcome.chips) == ["1"]
    assert not view.take.isEnabled()
    assert view.outcome.chips["1"].buttons["soft"].hasFocus()
    press(window, K.Key_Space)
    wait_for(window)
    assert view.outcome.panels.accessibleDescription() == "P0 soft, P1 medium"
    view.take_in()
    wait_for(window)
    assert [p.hardness for p in window.session.panels()] == ["soft", "medium"]
    window.bring_in_file(file)
    wait_for(window)
    assert window.view.outcome.chips["1"].value() == ["soft"]
    assert window.view.take.isEnabled()


def test_focus_goes_to_the_first_gap_and_typing_says_what_it_means(bring, wait_for):
    rows = [r.replace("cell", "spot", 1).replace("haze", "mist") for r in lines()]
    window, _ = bring(rows)
    view = window.view
    assert view.columns.hasFocus()
    assert view.columns.column == "spot"
    for text, role in (("cell", "cell"), ("haze", "after:haze")):
        QTest.keyClicks(view.columns, text[0])
        QTest.keyClicks(QApplication.focusWidget(), text[1:])
        press(window, K.Key_Return)
        assert view.mapping()[view.columns.column] == role
        view.columns.choose("mist")
    wait_for(window)
    assert "24 × haze" in view.outcome.said.text()
    press(window, K.Key_Delete)
    wait_for(window)
    assert view.mapping()["mist"] == ""
    assert view.outcome.lost.text() == "Left out: mist."


@pytest.mark.parametrize(
    ("typed", "first"),
    [
        ("haze", "after:haze"),
        ("haze s", "scale"),
        ("gloss 60", "after:gloss60"),
        ("film", "after:film"),
        ("gl", "after:gloss20"),
        ("who", "operator"),
        ("pan", "panel"),
    ],
)
def test_a_measurand_is_found_before_what_is_named_after_it(typed, first):
    assert matching_roles(typed)[0].key == first


def test_a_refusal_keeps_the_meanings_and_enter_reads_the_mended_file(bring, wait_for):
    rows = [r.replace("gloss20", "shine") for r in lines()]
    window, file = bring([*rows[:5], rows[5].replace("81.1", "eighty"), *rows[6:]])
    view = window.view
    view.set_meaning("shine", "after:gloss60")
    wait_for(window)
    view.take_in()
    wait_for(window)
    assert "line 6, column shine, 'eighty'" in view.problems.text()
    assert view.mapping()["shine"] == "after:gloss60"
    assert view.outcome.panels.accessibleDescription() == "P0 soft, P1 hard"
    assert "without fault" in view.outcome.lost.text()
    file.write_text("\n".join(rows))
    press(window, K.Key_Return)
    wait_for(window)
    assert window.view.step == "judge"
    assert window.session.trial.measurands == ("gloss60", "haze")


def test_the_same_error_on_many_lines_is_counted_not_repeated(bring, wait_for):
    window, _ = bring([r.replace(",P", ",Q").replace("11.5", "n/a") for r in lines()])
    window.view.take_in()
    wait_for(window)
    said = window.view.problems.text().splitlines()
    assert said[0] == "line 2, column haze, 'n/a': this is not a number. (23 more lines like it)"
    assert len(said) == 2


def test_figures_taken_as_a_scale_are_asked_back(bring, wait_for):
    window, _ = bring(lines())
    view = window.view
    view.set_meaning("haze", "scale")
    wait_for(window)
    assert "is the column the haze itself?" in view.problems.text()
    view.set_meaning("haze", "after:haze")
    wait_for(window)
    assert "24 × haze" in view.outcome.said.text()


def test_readings_side_by_side_are_recognised(bring):
    rows = ["panel,hardness,cell,combo,gloss20 r1,gloss20 r2,gloss20 r3"]
    rows += [f"P,soft,K{i},{'AB'[i % 2]},80.{i},80.1,80.2" for i in range(1, 5)]
    window, _ = bring(rows)
    assert window.view.outcome.said.text() == ("1 panel, 4 cells, 2 combinations: 12 × gloss 20°.")


def test_readings_are_added_to_the_trial_at_hand(bring, wait_for, open_window):
    window = open_window(demo=True)
    window.session.choose(window.session.trials()[2].id)
    text = flat_text(motions())
    file = window.session.workshop.path.parent / "more.csv"
    file.write_text(text)
    before = sum(n for n, _ in window.session.counts().values())
    window.bring_in_file(file)
    wait_for(window)
    outcome = window.view.outcome
    assert list(outcome.target.buttons) == ["new", "here"]
    outcome.target.buttons["here"].click()
    trials = len(window.session.trials())
    window.view.take_in()
    wait_for(window)
    assert "Nothing in the file is new" in window.note.text()
    assert sum(n for n, _ in window.session.counts().values()) == before
    file.write_text(text.replace("2026-", "2025-"))  # read on other days: these are new
    window.bring_in_file(file)
    wait_for(window)
    window.view.outcome.target.buttons["here"].click()
    window.view.take_in()
    wait_for(window)
    assert len(window.session.trials()) == trials
    assert sum(n for n, _ in window.session.counts().values()) == 2 * before
    cell = window.session.cells()[0].id
    found = readings_of_cells(window.session.workshop.connection, [cell], "gloss20")
    assert [r.ordinal for r in found] == list(range(1, 11))
    press(window, K.Key_Z, CTRL)
    assert sum(n for n, _ in window.session.counts().values()) == before


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (
            lambda d: replace(d, panels=(replace(d.panels[0], name="Teal"), *d.panels[1:])),
            "no panel Teal",
        ),
        (lambda d: replace(d, cells=(replace(d.cells[0], row=9), *d.cells[1:])), "has no cell"),
        (
            lambda d: replace(
                d,
                cells=(replace(d.cells[0], combination_id=d.cells[1].combination_id), *d.cells[1:]),
            ),
            "in the file",
        ),
        (lambda d: replace(d, readings=d.readings * 200), "too many to add"),
    ],
)
def test_what_does_not_fit_the_trial_at_hand_is_refused(change, said):
    draft = motions()
    assert draft.cells[0].combination_id != draft.cells[1].combination_id
    with pytest.raises(ValueRefused, match=said):
        join(change(draft), draft.panels, draft.cells, draft.combinations, {})


def test_joined_readings_are_numbered_on():
    draft = motions()
    found = join(
        draft, draft.panels, draft.cells, draft.combinations, {(1, "gloss20", "after", 1): 7}
    )
    own = [r.ordinal for r in found if (r.cell_id, r.measurand, r.phase) == (1, "gloss20", "after")]
    assert own == [8, 9, 10, 11, 12]
    others = [r for r in found if r.cell_id != 1 and r.phase == "after"]
    assert min(r.ordinal for r in others) == 1


def test_names_with_markup_are_shown_as_they_are(bring, wait_for):
    rows = [r.replace("P0", "<b>P0</b>") for r in lines()]
    rows[0] += ",<img src=x>" + "n" * 20_000
    window, _ = bring([rows[0], *(r + ",1" for r in rows[1:])])
    view = window.view
    assert len(view.outcome.lost.text()) < 200
    view.take_in()
    wait_for(window)
    assert window.session.panels()[0].name == "<b>P0</b>"
    for step in ("ask", "panels", "layout", "read", "judge"):
        window.go(step)
        wait_for(window)
    window.go("panels")
    view = window.view
    assert tipped(view.list.item(0).toolTip()) == "<b>P0</b>\nsoft clear · 2 × 2 cells"
    window.go("ask")
    named = replace(window.session.trial, name="<i>x</i>", question="<h1>Which?</h1>")
    window.session.run(EditTrial(window.session.trial, named))
    assert tipped(window.view.list.item(0).toolTip()) == "<i>x</i>\n<h1>Which?</h1>"


def tipped(tip):
    """What a tooltip shows, after Qt has read it the way it reads tooltips."""
    document = QTextDocument()
    document.setHtml(tip)
    return document.toPlainText()
