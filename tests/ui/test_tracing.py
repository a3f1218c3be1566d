"""From any figure of Judge to its readings and back, in the real window."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from helpers.hands import press
from loam.app.commands import StrikeReadings
from loam.app.record import doubts_key, stored
from loam.core.doubts import Doubt

K = Qt.Key
OPENS = {"N": K.Key_F}


@pytest.mark.parametrize("letter", "VSCPEDNA")
def test_a_figure_of_every_question_opens_its_readings_and_comes_back(judging, wait_for, letter):
    window = judging()
    view = window.view
    press(window, getattr(K, f"Key_{letter}"))
    wait_for(window)
    page = view.questions.page
    if letter not in "NDP":
        press(window, K.Key_Down)
        press(window, K.Key_Down)
        assert page.drawing.chosen == list(page.sources())[1], "the arrows choose a figure"
    press(window, OPENS.get(letter, K.Key_Return))
    wait_for(window)
    origin = view.origin.origin
    assert view.origin.isVisible()
    assert view.questions.buttons[letter].isChecked(), "it belongs to its question"
    assert not view.sentence.isVisible(), "the sentence of the ranking is of another figure"
    assert origin.rows
    assert any(row.readings for row in origin.rows)
    assert len(origin.heading) > 20
    assert f"seed {window.session.trial.seed}" in origin.recipe
    assert "docs/statistics.md" in origin.recipe
    table = view.table()
    assert len(table) == len(origin.rows) + 1
    assert all(len(row) <= len(table[0]) for row in table)
    press(window, K.Key_Escape)
    assert view.questions.page is page
    assert page.hasFocus()


def test_the_levels_rest_on_the_combinations_that_have_them(judging, wait_for):
    window = judging()
    press(window, K.Key_V)
    wait_for(window)
    page = window.view.questions.of("drivers")
    own = page.found.classes[0]
    codes = {c.code: c for c in window.session.combinations()}
    for i, lever in enumerate(own.levers):
        for k, level in enumerate(lever.levels):
            (source,) = page.sources()[f"{own.hardness}:{i}:{k}"]
            assert source.codes == level.codes
            if lever.label == "pad":
                assert {codes[c].stages[0].pad for c in level.codes} == {level.words}
        if lever.levels:
            tried = sorted(c for level in lever.levels for c in level.codes)
            assert tried == sorted(page.found.judgement.on(own.hardness).names)


def test_a_strike_behind_a_page_works_the_figure_out_again(judging, wait_for):
    window = judging()
    view = window.view
    press(window, K.Key_V)
    wait_for(window)
    page = view.questions.of("drivers")
    press(window, K.Key_Down)
    press(window, K.Key_Down)
    press(window, K.Key_Return)
    wait_for(window)
    before = view.origin.origin
    cell = before.rows[0]
    window.session.run(
        StrikeReadings(
            window.session.trial_id,
            [r.id for r in cell.readings[:3]],
            "hologram in the beam",
            of_cells=frozenset({cell.cell.id}),
        )
    )
    wait_for(window)
    after = view.origin.origin
    assert view.origin.isVisible(), "one goes on where one was"
    assert "3 of these readings are struck" in after.recipe
    (source,) = page.sources()[page.drawing.chosen]
    assert after.heading == source.heading, "the figure and its page say the same"
    assert page.found.judgement is view.rankings["gloss20"].judgement
    press(window, K.Key_Escape)
    assert view.questions.page is page


def test_what_counts_again_is_there_at_once_and_nothing_stale_is_kept(judging, wait_for):
    window = judging()
    view, session = window.view, window.session
    panel = session.panels()[0]
    doubt = stored(Doubt("class", panel.name, 0.0, panels=frozenset({panel.id})))

    def leave_out(kept):
        session.remember(doubts_key(session.trial_id), kept)
        view.judge_again()

    whole = view.ranking
    leave_out({"class:x": doubt})
    assert view.ranking is whole, "it is judged on the worker"
    wait_for(window)
    without = view.ranking
    assert without.judgement.readings < whole.judgement.readings
    leave_out({})
    assert view.ranking is whole, "at once"
    leave_out({"class:x": doubt})
    assert view.ranking is without
    leave_out({})
    wait_for(window)
    reading = session.workshop.connection.execute(
        "SELECT r.id, r.cell_id FROM reading r JOIN cell c ON c.id = r.cell_id"
        " WHERE c.taping_id = ? AND r.measurand = 'gloss20' AND r.phase = 'after'",
        (panel.id,),
    ).fetchone()
    session.run(
        StrikeReadings(session.trial_id, [reading[0]], "hair", of_cells=frozenset({reading[1]}))
    )
    wait_for(window)
    assert view.ranking.judgement.readings == whole.judgement.readings - 1
    leave_out({"class:x": doubt})
    wait_for(window)
    assert view.ranking is not without, "what was kept is of other readings"


def test_the_price_rests_on_two_measurands_and_m_turns(judging, wait_for):
    window = judging()
    view = window.view
    press(window, K.Key_C)
    wait_for(window)
    press(window, K.Key_Return)
    wait_for(window)
    assert view.origin.origin.kind.key == "gloss20"
    shown = view.keys()
    assert ("M", "its clear removed") in [k[:2] for k in shown]
    press(window, K.Key_M)
    wait_for(window)
    assert view.origin.origin.kind.key == "removed"
    press(window, K.Key_M)
    wait_for(window)
    assert view.origin.origin.kind.key == "gloss20"


def test_readings_of_another_trial_are_shown_and_not_struck_here(judging, wait_for):
    window = judging()
    view = window.view
    press(window, K.Key_A)
    wait_for(window)
    key = next(k for k, (s,) in view.questions.page.sources().items() if s.trials and s.codes)
    view.questions.page.open_figure(key)
    wait_for(window)
    page = view.origin
    assert page.origin.columns[0] == "Trial"
    others = [i for i, row in enumerate(page.origin.rows) if not row.own]
    assert others
    (source,) = view.tracing.back.sources()[key]
    assert {page.origin.rows[i].lead[0] for i in others} <= set(source.trials)
    page.grid.setCurrentIndex(page.model.index(others[0], page.model.lead))
    assert not page.do_strike.isEnabled()
    press(window, K.Key_X)
    assert not page.bar.isVisible()


def test_a_goal_is_ranked_like_a_measurand(judging, wait_for):
    window = judging()
    view, page = window.view, window.view.priorities
    press(window, K.Key_P)
    wait_for(window)
    press(window, K.Key_R)
    wait_for(window)
    assert page.goal.isVisible()
    ranking = page.goal.ranking
    for found in ranking.judgement.classes:
        goals = {g.combination: g for g in page.found.goals(found.hardness, page.weights)}
        assert set(goals) == set(found.names)
        for s in found.standings:
            assert s.p_best == pytest.approx(goals[s.combination].p_best), "one chance, told twice"
            assert s.figures.estimate == pytest.approx(goals[s.combination].mean)
        assert found.leader.combination in page.lead.text()
    daily = page.lead.text()
    press(window, K.Key_2)
    wait_for(window)
    assert page.goal.isVisible()
    assert page.lead.text() != daily
    assert "(show)" in page.lead.text()
    assert view.table()[0][2].startswith("worth")
    QApplication.processEvents()
    spot = next(s for s in page.goal.spots if s.key.startswith("hard:"))
    QTest.mouseClick(page.goal, Qt.MouseButton.LeftButton, pos=spot.box.center().toPoint())
    assert page.goal.chosen == spot.key
    assert not view.origin.isVisible()
    QTest.mouseClick(page.goal, Qt.MouseButton.LeftButton, pos=spot.box.center().toPoint())
    wait_for(window)
    assert view.origin.origin.codes == (spot.key.split(":")[1],)
    assert view.origin.origin.hardness == "hard"
    press(window, K.Key_Escape)
    assert page.goal.isVisible()
    press(window, K.Key_R)
    assert page.chart.isVisible()
    press(window, K.Key_R)
    window.turn_to(window.session.trials()[2].id)  # nothing but gloss is read there
    wait_for(window)
    view.open_question("P")
    assert page.goal.ranking is None, "another trial's ranking is not left standing"
    assert page.goal.draw is None
    assert "It needs" in page.lead.text()


def test_a_makers_claim_opens_the_readings_of_its_compounds(judging, wait_for):
    window = judging()
    view = window.view
    press(window, K.Key_E)
    wait_for(window)
    page = view.questions.page
    keys = list(page.sources())
    claims = [k for k in keys if k.startswith(("grit:", "makers' ", "masked:"))]
    assert {k.partition(":")[0] for k in claims} == {
        "grit",
        "makers' cut",
        "makers' finish",
        "masked",
    }
    drawn = {s.key for s in page.drawing.spots}
    assert set(claims) <= drawn
    for key in (claims[0], claims[-1]):
        while page.drawing.chosen != key:
            press(window, K.Key_Down)
        press(window, K.Key_Return)
        wait_for(window)
        origin = view.origin.origin
        assert view.origin.isVisible()
        code = {c.id: c.code for c in window.session.combinations()}
        of = {code[row.cell.combination_id] for row in origin.rows}
        assert of == set(page.sources()[key][0].codes)
        press(window, K.Key_Escape)
        wait_for(window)
        assert view.questions.page is page
