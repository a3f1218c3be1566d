"""Who wins for which priority, moved through in the real window."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt

from helpers.hands import press
from loam.app.questions.priorities.find import CORNERS
from loam.app.questions.priorities.words import point_words, share_words
from loam.core.units import percent
from loam.ui.widgets.fields import unbroken

K = Qt.Key


@pytest.fixture
def mapped(open_window, wait_for):
    window = open_window(demo=True)
    wait_for(window)
    press(window, K.Key_P)
    wait_for(window)
    return window


def test_p_maps_who_wins_and_one_moves_through_it(mapped):
    window = mapped
    view, page = window.view, window.view.priorities
    assert page.isVisible()
    assert not view.sentence.isVisible()
    assert page.lead.text().startswith(unbroken("Finish 40 %, removal 30 %"))
    assert "(daily)" in page.lead.text()
    assert list(page.found.maps) == ["soft", "medium", "hard"]
    for own in page.found.maps.values():
        assert own.chance.sum(axis=1) == pytest.approx(np.ones(len(own.points)))
        assert own.share().sum() == pytest.approx(1.0)
    words = [label.text() for label in page.findChildren(type(page.lead))]
    soft = page.found.maps["soft"]
    share = unbroken(percent(float(soft.share().max())))
    assert any(share in said for said in words), "the largest share is said"

    press(window, K.Key_3)
    assert "(thin coat)" in page.lead.text()
    before = page.weights
    press(window, K.Key_Right)
    assert page.weights[CORNERS.index("clear kept")] == pytest.approx(before[2] + 0.05)
    for _ in range(60):
        press(window, K.Key_Up)
    assert page.weights == pytest.approx((1.0, 0.0, 0.0)), "the corner is the end"
    at = soft.nearest(page.weights)
    assert unbroken(point_words(soft, at)) in page.lead.text()
    press(window, K.Key_Escape)
    assert view.chart.isVisible()
    assert view.sentence.isVisible()


def test_finish_alone_is_won_by_who_leads_in_gloss_and_haze(mapped):
    found = mapped.view.priorities.found
    for hardness, own in found.maps.items():
        top = own.chance[own.nearest((1.0, 0.0, 0.0))]
        leads = {
            mapped.view.rankings[m].judgement.on(hardness).standings[0].combination
            for m in ("gloss20", "haze")
        }
        assert own.names[int(top.argmax())] in leads


def test_a_click_moves_there(mapped, qtbot):
    page = mapped.view.priorities
    chart = page.chart
    chart.grab()
    spot, at = chart._spots[37]
    qtbot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=QPoint(int(spot.x()), int(spot.y())))
    assert chart.at == at
    assert page.weights == pytest.approx(tuple(page.found.maps["soft"].points[at]))


def test_what_is_missing_is_said(open_window, wait_for):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[2].id)
    window.go("judge")
    wait_for(window)
    press(window, K.Key_P)
    page = window.view.priorities
    assert page.found is None
    assert "It needs defects removed and clear removed judged too" in page.lead.text()
    assert "Ask (F2)" in page.lead.text()
    press(window, K.Key_3)
    press(window, K.Key_Right)
    press(window, K.Key_Escape)
    assert not page.isVisible()


def test_the_map_is_never_of_before_the_wipe(open_window, wait_for):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[0].id)
    window.go("judge")
    wait_for(window)
    view = window.view
    press(window, K.Key_B)
    wait_for(window)
    assert view.unwiped
    press(window, K.Key_P)
    wait_for(window)
    assert not view.unwiped
    press(window, K.Key_Escape)
    assert view.chart.isVisible()


def test_shares_are_said_with_where_they_lie(mapped):
    own = mapped.view.priorities.found.maps["soft"]
    said = share_words(own)
    assert said.startswith(own.names[int(own.share().argmax())] + " wins ")
    assert said.count("of all priorities") == 1


def test_a_limit_taken_back_moves_the_map_and_judges_nothing_again(mapped, wait_for, monkeypatch):
    window, page = mapped, mapped.view.priorities
    judged = []
    monkeypatch.setattr(window.view, "judge_again", lambda: judged.append("again"))
    press(window, K.Key_W)
    stood = page.found.criteria["gloss20"].nothing
    press(window, K.Key_Right)
    wait_for(window)
    assert page.found.criteria["gloss20"].nothing > stood
    press(window, K.Key_Z, Qt.KeyboardModifier.ControlModifier)
    wait_for(window)
    assert page.found.criteria["gloss20"].nothing == pytest.approx(stood)
    assert page.isVisible()
    assert judged == []
