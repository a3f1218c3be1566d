"""What the eye sees, in the real window: inspected in Read, judged in Judge, in the report."""

from PyQt6.QtCore import Qt

from helpers.hands import press
from loam.app.commands import Note
from loam.app.presenters.inspecting import facts_of
from loam.app.report import make_report
from loam.core.inspection import Looked
from loam.store import noted
from loam.ui.views.judge.reporting import told_of

K = Qt.Key


def inspect(session, defect="swirls", light="point"):
    combinations = {c.id: c for c in session.combinations()}
    for cell in session.cells():
        own = combinations.get(cell.combination_id or 0)
        if own is None or not own.stages:
            continue
        marked = {"A": 4, "B": 20, "C": 30}.get(own.code, 12) + cell.id % 3
        look = Looked(defect, light, "several", "grid", None, marked, 64)
        session.run(Note(session.trial_id, noted.INSPECTION, facts_of(look), cell.id, "Lise"))


def test_the_page_answers_and_the_arrows_turn(open_window, wait_for):
    window = open_window(demo=True)
    session = window.session
    window.go("judge")
    wait_for(window)
    press(window, K.Key_I)
    wait_for(window)
    page = window.view.questions.of("seen")
    assert "Nobody has inspected a worked cell yet" in page.lead.text()
    window.go("kit")
    inspect(session)
    inspect(session, "texture", "strip")
    window.go("judge")
    wait_for(window)
    if window.view.questions.page is not page:
        press(window, K.Key_I)
        wait_for(window)
    kinds = [(c.key[0], c.hardness) for c in page.found.classes]
    assert len(kinds) == 6
    first = page.lead.text().replace("\u00a0", " ")
    assert "least remains" in first
    press(window, K.Key_Right)
    assert page.lead.text().replace("\u00a0", " ") != first
    window.go("kit")
    inspect(session, "holograms")
    window.go("judge")
    wait_for(window)
    assert len(page.found.classes) == 9, "what was inspected since is seen too"
    table = window.view.table()
    assert table[0][:3] == ["defect", "light", "method"]
    assert len(table) == 1 + sum(len(c.seen) for c in page.found.classes)


def test_the_report_has_a_part_for_it(open_window, wait_for):
    window = open_window(demo=True)
    window.go("kit")
    inspect(window.session)
    window.go("judge")
    wait_for(window)
    report = make_report(told_of(window.view), lambda _share: None)
    titles = [s.head for s in report.sections]
    assert not report.failed
    assert "What the eye still sees" in titles
