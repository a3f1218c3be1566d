"""Advice first, in the real window: what to use stands in its band, and follows the aim."""

import re
import zipfile

from PyQt6.QtCore import Qt

from helpers.hands import press
from loam.app.commands import SetMatters
from loam.app.report import make_report
from loam.core.units import percent
from loam.core.verdicts import EQUAL, OPEN
from loam.ui.report_out import drawings, write_report
from loam.ui.views.judge.reporting import told_of

K = Qt.Key


def test_the_advice_follows_the_aim_and_is_taken_back(judging, wait_for):
    window = judging()
    view = window.view
    advice = view.chart.advice
    assert advice["hard"].headline == "Use D, medium cut, polish."
    assert view.chart.accessibleDescription().startswith("Soft: Use A")
    bar = view.aiming.bar
    assert bar.weighs.text() == "finish 40, marks gone 30, clear kept 30"
    press(window, K.Key_G)
    wait_for(window)
    assert view.aiming.aim[0] == "show"
    assert view.chart.advice["hard"].use == "B"
    assert "for a show car" in view.chart.advice["hard"].surely
    press(window, K.Key_Z, Qt.KeyboardModifier.ControlModifier)
    wait_for(window)
    assert view.aiming.aim[0] == "daily"
    assert view.chart.advice["hard"].use == "D"
    for _ in view.priorities.aims:
        press(window, K.Key_G)
        wait_for(window)
    assert view.aiming.aim is None, "after the last aim the measurement alone"
    first = view.ranking.strip("hard").swatches[0]
    assert view.chart.advice["hard"].use == first.combination
    assert str(percent(view.ranking.judgement.on("hard").leader.p_best)) in (
        view.chart.advice["hard"].surely
    )
    view.turn("haze")
    wait_for(window)
    assert "for haze" in view.chart.advice["hard"].surely


def test_the_advice_agrees_with_the_map_and_follows_what_matters(judging, wait_for):
    window = judging()
    view = window.view
    press(window, K.Key_P)
    wait_for(window)
    goals = {h: view.priorities.found.goals(h, view.priorities.weights) for h in ("soft", "hard")}
    press(window, K.Key_Escape)
    for hardness, found in goals.items():
        advice = view.chart.advice[hardness]
        assert advice.use == found[0].combination
        assert str(percent(found[0].p_best)).lower() in advice.surely.lower()
    trial = window.session.trial
    window.session.run(SetMatters(trial.id, trial.id, "gloss20", None, 6.0))
    wait_for(window)
    assert "shines" not in view.chart.advice["hard"].because, "that much does not matter now"


def test_the_report_opens_with_the_same_lines(judging):
    window = judging()
    view = window.view
    report = make_report(told_of(view))
    first = report.sections[1]
    assert first.head == "What to use"
    assert list(first.words[:3]) == [a.said() for a in view.chart.advice.values()]


def test_a_trial_without_an_aim_says_what_it_takes(judging, wait_for):
    window = judging(3)
    view = window.view
    assert not view.aiming.bar.slot.isVisible()
    assert "An aim weighs" in view.aiming.bar.weighs.text()
    assert view.chart.advice["hard"].use
    press(window, K.Key_G)
    assert window.session.recall(f"aim:{window.session.trial_id}", None) is None


def test_a_report_can_be_handed_on(judging, tmp_path):
    """A cover with the advice, every reading, heads that repeat, pictures that are told."""
    window = judging()
    report = make_report(told_of(window.view))
    combinations = window.session.combinations()
    for ending in (".html", ".xlsx", ".pdf"):
        drawn = list(drawings(report, combinations, ending))
        write_report(report, drawn, tmp_path / f"r{ending}")
    page = (tmp_path / "r.html").read_text("utf-8")
    assert page.index("What to use") < page.index("The result")
    assert page.count("<thead>") == sum(len(t.rows) > 1 for t in report.tables())
    assert page.count('aria-label="Picture: ') == page.count("<svg ")
    assert "@alt@" not in page
    with zipfile.ZipFile(tmp_path / "r.xlsx") as book:
        sheets = re.findall(r'<sheet name="([^"]+)"', book.read("xl/workbook.xml").decode())
        strings = book.read("xl/worksheets/sheet1.xml").decode()
    assert sheets[0] == "Report"
    assert "readings" in sheets
    assert "Use D, medium cut, polish." in strings
    read = next(t for t in report.data if t.name == "readings")
    count = window.session.workshop.connection.execute(
        "SELECT count(*) FROM reading r JOIN cell c ON c.id = r.cell_id JOIN taping t"
        " ON t.id = c.taping_id WHERE t.trial_id = ?",
        (window.session.trial_id,),
    ).fetchone()[0]
    assert len(read.rows) == count + 1
    assert (tmp_path / "r.pdf").stat().st_size > 50_000


def _leads(ranked, code, other):
    return ranked.compare(code, other).verdict not in (OPEN, EQUAL)


def test_what_it_costs_starts_from_what_is_advised(judging, wait_for):
    window = judging()
    view = window.view
    uses = set()
    for _ in range(len(view.priorities.aims) + 1):
        for kind in ("gloss20", "defects"):
            view.turn(kind)
            wait_for(window)
            press(window, K.Key_C)
            wait_for(window)
            page = view.questions.page
            used = {h: (a.among, a.wanted) for h, a in view.aiming.advice.items()}
            for own in page.found.classes:
                assert own.used in used[own.hardness][0], "the same is on tape here and there"
                assert own.wanted == used[own.hardness][1]
                assert own.lasts.startswith(f"{own.used} lasts") or not own.lasts
                uses.add((own.hardness, own.used))
                priced = own.of(own.used)
                if not priced.frontier:
                    assert own.advice.startswith(f"{own.used} leads {own.wanted}; in this alone ")
                    continue
                assert own.used in re.findall(r"\b[A-F]\b", own.advice)
                ranked = view.rankings[kind].judgement.on(own.hardness)
                if "gives most" in own.advice:
                    ranked = view.rankings[kind].judgement.on(own.hardness)
                    assert ranked.leader.combination == own.used
                    assert all(
                        _leads(ranked, own.used, p.name) for p in own.priced if p is not priced
                    )
                up = [p for p in own.priced if p.frontier and p.cost[0] > priced.cost[0]]
                ranked = view.rankings[kind].judgement.on(own.hardness)
                if up and _leads(ranked, up[0].name, own.used):
                    assert own.advice.startswith(f"Go from {own.used} to {up[0].name} only where")
                elif up:
                    assert own.advice.startswith(f"Stay with {own.used}: whether {up[0].name} ")
            press(window, K.Key_Escape)
        press(window, K.Key_G)
        wait_for(window)
    assert len(uses) > len(view.ranking.judgement.classes), "another aim starts elsewhere"


def test_a_heading_on_paper_stays_with_what_it_heads(judging, tmp_path):
    from PyQt6.QtPdf import QPdfDocument

    window = judging()
    report = make_report(told_of(window.view))
    path = tmp_path / "report.pdf"
    write_report(report, list(drawings(report, window.session.combinations(), ".pdf")), path)
    document = QPdfDocument(None)
    document.load(str(path))
    pages = [document.getAllText(i).text() for i in range(document.pageCount())]
    document.close()
    heads = {s.head for s in report.sections} | {t.title for t in report.tables()}
    seen = 0
    for page in pages:
        lines = [line.strip() for line in page.splitlines() if line.strip()]
        own = [line for line in lines if not re.search(r"\d+ of \d+$|^Cut and finish, 2026", line)]
        assert not own or own[-1] not in heads, own[-1]
        seen += sum(line in heads for line in own)
    assert seen > 20
