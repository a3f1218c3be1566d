"""All trials as one, ticked and explained; one trial against another."""

from PyQt6.QtCore import Qt

from helpers.hands import press
from loam.app.drawings.ranking import strip_places
from loam.app.drawings.rect import Rect
from loam.core.verdicts import ASSUMED, OPEN

K = Qt.Key


def test_all_trials_pool_by_recipe(judging, wait_for):
    window = judging()
    press(window, K.Key_A)
    wait_for(window)
    found = window.view.questions.of("all_trials").found
    shared = [code for code, where in found.where.items() if where.count(" in ") > 1]
    assert shared == ["A"], "the plain one-step is in two trials"
    assert found.where["A"].startswith("A in One-steps on soft")
    assert "A in Cut and finish" in found.where["A"]
    page = window.view.questions.of("all_trials")
    brief = page.small.text()
    press(window, K.Key_L)
    said = page.small.text().replace("\u00a0", " ")
    assert len(said) > len(brief)
    leaders = {c.leader.combination for c in found.ranking.judgement.classes}
    assert found.origins["A"].startswith("in ")
    for strip in found.ranking.strips:
        leader, *rest = strip.swatches
        close = [s.combination for s in rest if s.relation == OPEN]
        told = next(
            part for part in found.lead.split(". ") if part.startswith(strip.hardness.capitalize())
        )
        assert leader.combination in told
        assert ("too close to call" in told) == bool(close), "words and tape agree"
        assert all(code in told for code in close[:2])
    alone = next(c for c, where in found.letters.items() if len(where) == 1)
    assert found.origins[alone] == found.letters[alone][0][0], "one trial is named"
    assert "A is in several trials and holds them together" in said
    numbered = [code for code in leaders if code[-1].isdigit()]
    assert numbered
    for code in numbered:
        trial, letter = found.letters[code][0]
        number = code.removeprefix(letter)
        assert f"{number} {trial}" in said
        chip = window.view.questions.of("all_trials").trials.buttons[trial]
        assert chip.text() == f"{number}  {trial}", "where a letter comes from can be seen"
    press(window, K.Key_L)
    assert page.small.text() == brief
    hatched = any(s.relation == ASSUMED for t in found.ranking.strips for s in t.swatches)
    assert ("Hatched: behind here" in brief) == hatched, "what is drawn is said where it is seen"


def _lane(place, code):
    return place.swatches[code].y


def test_ranges_that_run_into_each_other_are_told_apart(judging, wait_for):
    window = judging()
    press(window, K.Key_A)
    wait_for(window)
    found = window.view.questions.of("all_trials").found
    several = 0
    for place in strip_places(Rect(0, 0, 1232, 380), found.ranking):
        for name, bar in place.bars.items():
            lane = [
                b
                for c, b in place.bars.items()
                if c != name and _lane(place, c) == _lane(place, name)
            ]
            here = [b for b in lane if b.x < bar.middle[0] < b.right]
            several += bool(here)
            if len(here) == 1:
                assert here[0].y != bar.y, "two that cross stand one below the other"
    assert several > 3


def test_trials_are_ticked_and_less_certainty_is_explained(judging, wait_for):
    window = judging()
    press(window, K.Key_A)
    wait_for(window)
    page = window.view.questions.of("all_trials")
    taken = page.found.taken
    assert "Cut and finish" in taken
    assert "One-steps on soft" in taken
    assert page.found.others, "a trial that shares no combination can be ticked"
    alone = window.view.rankings["gloss20"].judgement
    soft = alone.on("soft").leader
    code = next(
        c
        for c, where in page.found.letters.items()
        if ("Cut and finish", soft.combination) in where
    )
    press(window, K.Key_L)
    now = page.found.ranking.judgement.on("soft").standing(code).p_best
    told = page.small.text().replace("\u00a0", " ")
    assert ("On soft" in told and "in this trial alone" in told) == (now <= soft.p_best - 0.05)
    press(window, K.Key_T)
    page.trials.buttons["One-steps on soft"].click()
    wait_for(window)
    assert "One-steps on soft" not in page.found.taken
    assert "Taken out by hand: One-steps on soft" in page.small.text().replace("\u00a0", " ")
    page.trials.buttons[page.found.others[0]].click()
    wait_for(window)
    page.trials.buttons["Cut and finish"].click()  # the trial at hand stays
    wait_for(window)
    assert page.trials.buttons["Cut and finish"].isChecked()
    assert "Cut and finish" in page.found.taken


def test_the_last_evening_is_held_against_the_first(judging, wait_for):
    window = judging()
    press(window, K.Key_A)
    wait_for(window)
    press(window, K.Key_Right)
    wait_for(window)
    page = window.view.questions.of("all_trials")
    said = page.lead.text().replace("\u00a0", " ")
    assert "2026-09-19 against 2026-09-05" in said
    assert "F on medium surely read otherwise" in said, "its pad was worn out"
    assert len(window.view.table()) == 13
    press(window, K.Key_Left)
    wait_for(window)
    assert "trials as one" in page.lead.text()
    press(window, K.Key_Left)
    wait_for(window)
    assert page.against == "A door that chalks"
    for _ in range(8):
        if page.against == "Stage by stage on medium":
            break
        press(window, K.Key_Left)
        wait_for(window)
    assert "against Cut and finish" in page.lead.text().replace("\u00a0", " ")
    press(window, K.Key_Escape)
    assert window.view.chart.isVisible()
