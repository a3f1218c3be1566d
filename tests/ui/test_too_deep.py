"""Paint without a clear, and plans that go too deep: said in the care colour where it matters."""

import re
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel

from helpers.hands import press
from loam.app.commands import AddSpot, EditPanel
from loam.app.presenters.asking import sentence_parts
from loam.app.presenters.depth import cares_on_paper
from loam.core.film import Spot
from loam.ui.views.layout.paper import plan_on_paper

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
PLANNED, JUDGED = 3, 2


def single(session, **facts):
    """Make every panel of the trial at hand a single stage of which nothing is known."""
    for p in session.panels():
        build = replace(p.build, single_stage=True, cured_on="", age="", **facts)
        session.run(EditPanel(p, replace(p, build=build)))


@pytest.fixture
def thin(open_window, wait_for):
    """The planned trial of the demo on a single stage of which nothing may go at one spot."""
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[PLANNED].id)
    single(window.session, colour_um=24.0)
    first = window.session.panels()[0]
    for x, um in ((60.0, 90.0), (200.0, 100.0), (400.0, 100.0)):
        spot = Spot(x, 60.0, um)
        window.session.run(AddSpot(window.session.trial_id, first.physical, spot))
    return window


def test_it_is_said_in_kit_lay_out_ask_work_and_on_paper(thin, wait_for):
    window = thin
    window.go("kit")
    wait_for(window)
    assert window.view.dose.care.property("role") == "care"
    assert window.view.dose.care.text().startswith("Too deep: A may take")
    assert "nothing may go of the colour of Curlew" in window.view.dose.care.text()
    assert "Paint taken off" in window.view.dose.facts.text()
    for step in ("layout", "ask"):
        window.go(step)
        wait_for(window)
        assert "how deep it goes" in window.view.outlook.care.text()
        assert window.view.outlook.care.property("care") is True
        said = window.view.outlook.ahead.care["how deep it goes"]
        assert "Too deep: " in said
        assert "of the colour of" in said
    costs = window.view.outlook.ahead.costs
    assert any(c.startswith("Too deep") for c in cares_on_paper(window.session, costs))
    sheets = plan_on_paper(window.session, costs)
    assert "Mind before work" in [s.name for s in sheets.sheets]
    window.go("work")
    wait_for(window)
    said = window.view.marks.text()
    assert window.view.marks.property("role") == "care"
    assert said.startswith("Too deep: ")
    assert "colour on the pad is normal" in said
    assert "may hold lead" in said
    window.view.turn_blind()
    code = window.view.state.combination.code
    assert f"Too deep: {code} " not in window.view.marks.text()
    assert "Too deep: it may take" in window.view.marks.text()


def test_old_fresh_and_plastic_are_said_at_the_gates(open_window, wait_for):
    window = open_window(demo=True)
    session = window.session
    window.turn_to(session.trials()[PLANNED].id)
    press(window, K.Key_F2)
    press(window, K.Key_D, CTRL)  # a copy, of which nothing is prepared
    day = session.workshop.clock().date().isoformat()
    for p in session.panels():
        build = replace(p.build, substrate="plastic", cured_on=day, polish_days=7)
        session.run(EditPanel(p, replace(p, build=build)))
    window.go("work")
    wait_for(window)
    assert window.view.mode is not None
    said = window.view.marks.text()
    assert "Plastic: it warms" in said
    assert "Too fresh: not to be polished before" in said


def test_no_page_of_judge_speaks_of_a_clear_that_is_not_there(judging, wait_for):
    window = judging(JUDGED)
    single(window.session)
    assert window.session.kind("removed").label == "paint removed"
    said = " ".join(part.text for part in sentence_parts(window.session))
    assert " paint, for " in said
    window.go("judge")
    wait_for(window)
    told = []
    for measurand in (window.view.measurand, "removed"):
        window.view.turn(measurand)
        wait_for(window)
        for letter in "VSCGEDNA":
            press(window, getattr(K, f"Key_{letter}"))
            wait_for(window)
            told.append(" ".join(x.text() for x in window.findChildren(QLabel) if x.isVisible()))
            press(window, K.Key_Escape)
    chips = [b.text() for b in window.view.kinds.buttons.values()]
    told.append(" ".join(chips))
    assert "paint removed" in told[-1]
    assert len(set(told)) > 4
    for text in told:
        assert not (m := re.search(r"\bclear\b", text)), text[
            max(0, m.start() - 120) : m.end() + 40
        ]
