"""Judging in the real window: what matters is dragged and typed, rows, legend, tooltips, files."""

import csv
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QHelpEvent, QImage, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QToolTip

from helpers.simulate import Design, simulate
from loam.app.commands import take_reading
from loam.app.what_matters import chosen
from loam.core.verdicts import ASSUMED, BETTER, CLEARLY_BETTER, EQUAL, OPEN
from loam.store.readings import readings_of_cells
from loam.ui.theme import BENCH, LIGHTS_OUT, look
from loam.ui.views.judge.ranking.paint import draw_legend

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture(autouse=True)
def usual_look():
    yield
    look.apply(QApplication.instance(), BENCH, 1.0)


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
    QApplication.processEvents()


def relations(window, hardness="soft"):
    found = window.view.ranking.judgement.on(hardness)
    return {s.combination: s.relation for s in found.standings[1:]}


def kept(window, trial=None):
    return chosen(window.session.workshop.connection, trial)


def edge(chart, hardness="soft"):
    place = next(p for p in chart.layout_drawn.strips if p.strip.hardness == hardness)
    return place, QPoint(round(place.x(place.strip.edge)), round(place.panel.bottom + 4))


def test_the_strip_is_dragged_and_the_verdicts_follow_at_once(open_window, qtbot):
    window = open_window(demo=True)
    view, chart = window.view, window.view.chart
    assert relations(window)["D"] == OPEN
    place, at = edge(chart)
    to = QPoint(round(place.x(place.strip.swatches[0].place - 3.0)), at.y())
    qtbot.mousePress(chart, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(chart, to)
    assert relations(window)["D"] == EQUAL
    assert "3.0 GU" in view.matters.slot.text()
    assert kept(window, 2) == {}
    qtbot.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=to)
    assert kept(window, 2) == {"gloss20": pytest.approx(3.0, abs=0.06)}
    assert "chosen for this trial" in view.caption.text()
    assert "equally good" in view.sentence.text()
    press(window, K.Key_Z, CTRL)
    assert relations(window)["D"] == OPEN
    assert "the usual choice" in view.caption.text()
    press(window, K.Key_Y, CTRL)
    assert relations(window)["D"] == EQUAL


def test_what_matters_is_typed_for_the_trial_or_the_workshop(open_window, wait_for):
    window = open_window(demo=True)
    view = window.view
    press(window, K.Key_W)
    assert QApplication.focusWidget() is view.matters.line
    assert view.matters.line.text() == "1.0"
    QTest.keyClicks(view.matters.line, "2,5")
    press(window, K.Key_Return)
    assert kept(window, 2) == {"gloss20": 2.5}
    assert view.chart.hasFocus()
    press(window, K.Key_W)
    view.matters.whose.buttons["workshop"].click()
    view.matters.line.selectAll()
    QTest.keyClicks(view.matters.line, "0.4")
    press(window, K.Key_Return)
    assert kept(window) == {"gloss20": 0.4}
    assert view.ranking.judgement.matters.value == 2.5  # the trial's own choice goes first
    press(window, K.Key_W)
    view.matters.whose.buttons["trial"].click()
    view.matters.line.clear()
    press(window, K.Key_Return)
    assert kept(window, 2) == {}
    assert view.ranking.judgement.matters.source == "workshop"
    press(window, K.Key_M)
    assert "10 % of haze" in view.matters.slot.text()
    press(window, K.Key_W)
    view.matters.line.selectAll()
    QTest.keyClicks(view.matters.line, "1.3")
    press(window, K.Key_Return)
    assert view.ranking.judgement.matters.value == 1.3
    window.session.choose(1)
    wait_for(window)
    assert view.rankings["gloss20"].judgement.matters.source == "workshop"


def test_what_cannot_matter_is_refused_where_it_is_typed(open_window):
    window = open_window(demo=True)
    bar = window.view.matters
    for text in ("-1", "nan", "abc", "1e999"):
        press(window, K.Key_W)
        bar.line.setText(text)
        press(window, K.Key_Return)
        assert bar.error.isVisible()
        assert bar.error.text()
        assert "not kept" in window.view.pending()
        press(window, K.Key_Escape)
        assert window.view.chart.hasFocus()
        assert window.view.pending() == ""
    assert kept(window, 2) == {}


def test_exact_rows_and_the_meaning_of_the_tape_are_a_key_away(open_window):
    window = open_window(demo=True)
    view = window.view
    press(window, K.Key_R)
    assert view.rows.isVisible()
    assert not view.chart.isVisible()
    assert view.rows.height() >= 17 * 40
    image = view.rows.grab().toImage()
    assert image.height() == view.rows.height()
    press(window, K.Key_L)
    assert view.legend.isVisible()
    assert "not settled" in view.legend.accessibleDescription()
    press(window, K.Key_M)
    assert view.measurand == "haze"
    press(window, K.Key_R)
    assert view.chart.isVisible()
    press(window, K.Key_L)
    assert not view.legend.isVisible()


def test_a_swatch_tells_everything_in_words(open_window):
    window = open_window(demo=True)
    chart = window.view.chart
    box = chart.layout_drawn.swatches["hard", "D"]
    at = QPoint(*(round(v) for v in box.middle))
    QApplication.sendEvent(chart, QHelpEvent(QEvent.Type.ToolTip, at, chart.mapToGlobal(at)))
    assert "D (medium cut, polish) on hard" in QToolTip.text()
    assert "too close to call" in QToolTip.text()
    said = chart.accessibleDescription()
    assert said.startswith("Soft: Use A, one-step.")
    assert "Soft: not settled between A (one-step)" in said
    assert "1. B (heavy cut, polish) on hard" in said


@pytest.mark.parametrize("tokens", [BENCH, LIGHTS_OUT], ids=["bench", "lights-out"])
def test_the_five_relations_look_different_without_colour(open_window, tokens):
    """Each pair of samples differs in many pixels of grey, in both themes."""
    open_window()
    look.apply(QApplication.instance(), tokens, 1.0)
    from PyQt6.QtCore import QRectF

    from loam.ui.views.judge.ranking.paint import _sample

    greys = []
    for relation in ("", EQUAL, OPEN, BETTER, CLEARLY_BETTER, ASSUMED):
        image = QImage(64, 64, QImage.Format.Format_RGB32)
        image.fill(look.panel)
        painter = QPainter(image)
        _sample(painter, QRectF(10, 10, 44, 44), relation)
        painter.end()
        grey = image.convertToFormat(QImage.Format.Format_Grayscale8)
        bits = grey.constBits()
        bits.setsize(grey.sizeInBytes())
        greys.append(np.frombuffer(bytes(bits), np.uint8).astype(int))
    for i, a in enumerate(greys):
        for b in greys[i + 1 :]:
            assert (np.abs(a - b) > 12).sum() > 40


def write(path, design, seed=4):
    data, _ = simulate(design, np.random.default_rng(seed))
    classes = ("soft", "medium", "hard")
    with path.open("w", newline="") as file:
        out = csv.writer(file)
        out.writerow(["panel", "hardness", "cell", "combo", "gloss20"])
        names = {c: i for i, c in enumerate(dict.fromkeys(data.factors["cell"].codes.tolist()))}
        for i, y in enumerate(data.y):
            h = int(data.hardness.names[data.hardness.codes[i]][1:])
            p = data.factors["panel"].names[data.factors["panel"].codes[i]]
            n = names[int(data.factors["cell"].codes[i])]
            cell = f"{'KLMNOPQRSTUV'[n // 12 % 12]}{n % 12 + 1}"
            out.writerow(
                [p, classes[h], cell, data.combination.names[data.combination.codes[i]], y]
            )


LAYOUTS = {
    "twenty": Design("twenty", [(p, c) for p in range(2) for c in range(20)], (0, 1), 2),
    "ties": Design("ties", [(p, c) for p in range(3) for c in range(3)] * 3, (0, 1, 2), spread=0.0),
    "one cell each": Design("one", [(0, c) for c in range(4)], (1,), operators=1),
    "two": Design("two", [(0, 0), (0, 1)] * 2, (2,)),
    "alone": Design("alone", [(0, 0)] * 4, (0,)),
    "own panel": Design("own", [(c, c) for c in range(3) for _ in range(2)], (0, 0, 0)),
}


@pytest.mark.parametrize("name", LAYOUTS)
@pytest.mark.parametrize("size", [(1280, 800), (960, 540)])
def test_any_trial_is_drawn_whole_in_both_themes(open_window, wait_for, tmp_path, name, size):
    window = open_window()
    window.resize(*size)
    file = tmp_path / "trial.csv"
    write(file, LAYOUTS[name])
    window.bring_in_file(file)
    wait_for(window)
    window.view.take_in()
    wait_for(window)
    view = window.view
    assert view.step == "judge"
    for _ in range(2):
        for _ in range(3):
            QApplication.processEvents()
        chart = view.chart
        shown = chart.layout_drawn
        assert set(shown.swatches) == set(chart.keys())
        for box in shown.swatches.values():
            assert box.x >= 0
            assert box.right <= chart.width()
            assert box.bottom <= chart.height()
        assert view.sentence.text()
        keys = chart.keys()
        for hardness, code in keys:
            chart.choose(hardness, code)
        window.turn_lights()
    if name in ("one cell each", "own panel"):
        assert "assumed" in view.notes.text()


def test_the_legend_is_drawn_at_any_width(open_window):
    open_window()
    for width in (300, 700):
        image = QImage(width, 120, QImage.Format.Format_RGB32)
        image.fill(look.ground)
        painter = QPainter(image)
        from PyQt6.QtCore import QRectF

        draw_legend(painter, QRectF(0, 0, width, 120))
        painter.end()
        colours = {
            image.pixelColor(x, y).name() for x in range(0, width, 3) for y in range(0, 120, 3)
        }
        assert look.tape.name() in colours


def test_doubts_are_shown_left_out_and_let_count_again(open_window, wait_for):
    window = open_window(demo=True)
    wait_for(window)
    view = window.view
    assert view.doubts.later.isActive(), "they are looked for by themselves, a little later"
    view.doubts.later.start(0)
    QApplication.processEvents()
    wait_for(window)
    assert view.questions.buttons["D"].text() == "D  3 to check"
    press(window, K.Key_D)
    page = view.doubts
    assert page.isVisible()
    kinds = [s.doubt.kind for s in page.found]
    assert kinds == ["masking", "pad", "hand"]
    assert "Tam has a heavy hand" in page.found[2].sentence
    assert page.found[1].effect.startswith("Without F on 2026-09-19")
    assert page.found[1].sentence.startswith("F on 2026-09-19 did less than on other days")
    before = view.ranking.judgement.on("soft").standing("F").cells
    press(window, K.Key_2)
    wait_for(window)
    assert page.cards[1].key.words == "left out"
    assert view.ranking.judgement.on("soft").standing("F").cells < before
    press(window, K.Key_Escape)
    assert "Left out because it is doubted: F on 2026-09-19" in view.notes.text()
    press(window, K.Key_D)
    press(window, K.Key_1)
    assert "already" in window.note.text()
    press(window, K.Key_2)
    wait_for(window)
    assert view.ranking.judgement.on("soft").standing("F").cells == before


def test_a_slip_is_struck_from_the_doubts_and_taken_back(open_window, wait_for):
    window = open_window(demo=True)
    wait_for(window)
    session = window.session
    cell = session.cells()[0].id
    found = readings_of_cells(session.workshop.connection, [cell], "gloss20")
    last = [r for r in found if r.phase == "after"][-1]
    wrong = replace(last, id=0, value=round(last.value * 10, 1), ordinal=9, taken_at="")
    session.run(take_reading(session.trial_id, wrong))
    wait_for(window)
    page = window.view.doubts
    page.start()
    wait_for(window)
    slip = next(i for i, s in enumerate(page.found, 1) if s.doubt.kind == "slip")
    assert f"it likely was {last.value:g} GU" in page.found[slip - 1].sentence
    press(window, K.Key_D)
    page.turn(slip)
    wait_for(window)
    page.start()
    wait_for(window)
    struck = readings_of_cells(session.workshop.connection, [cell], "gloss20")[-1]
    assert struck.struck.startswith("a slip: likely")
    assert "slip" not in [s.doubt.kind for s in page.found]
    press(window, K.Key_Z, CTRL)
    page.start()
    wait_for(window)
    assert "slip" in [s.doubt.kind for s in page.found]


def test_the_ranking_before_the_wipe_is_a_key_away_and_never_stays(open_window, wait_for):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[0].id)
    window.go("judge")
    wait_for(window)
    view = window.view
    assert view.ranking.judgement.on("soft").leader.combination == "A"
    press(window, K.Key_B)
    wait_for(window)
    assert view.ranking.judgement.on("soft").leader.combination == "B"
    assert view.trap.text().startswith("Ranked before the wipe, to teach")
    press(window, K.Key_B)
    wait_for(window)
    assert view.ranking.judgement.on("soft").leader.combination == "A"
    press(window, K.Key_B)
    press(window, K.Key_M)
    wait_for(window)
    assert not view.unwiped
    assert not view.rankings["gloss20"].unwiped
    press(window, K.Key_B)
    window.turn_to(window.session.trials()[1].id)
    wait_for(window)
    assert not view.unwiped
