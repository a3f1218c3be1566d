"""The window on the demo: judging, readings behind a figure, bringing in, themes, sizes."""

import os
import shutil

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColor, QFontDatabase, QImage, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit, QPushButton, QWidget

from helpers.light import luminance
from helpers.reference import ROOT, load_json
from loam.ui.theme import BENCH, LIGHTS_OUT
from loam.ui.theme.look import FONTS, load_fonts, look
from loam.ui.widgets.mark import paint_mark

K = Qt.Key
STEPS = ["ask", "kit", "panels", "layout", "read", "judge"]


def test_the_demo_opens_on_the_ranked_second_trial(open_window):
    window = open_window(demo=True)
    assert window.view.step == "judge"
    assert window.session.trial.name == "Cut and finish"
    strips = window.view.chart.picture.strips
    assert [s.hardness for s in strips] == ["soft", "medium", "hard"]
    said = window.view.findChild(QLabel, "sentence").text()
    assert said.startswith(
        "Hard: too close to call between B (heavy cut, polish) and D (medium cut"
    )
    assert {s.combination: s.relation for s in strips[2].swatches} == {
        "B": "",
        "D": "open",
        "C": "clearly better",
        "F": "clearly better",
        "A": "clearly better",
    }


def test_keys_move_through_the_ranking_and_open_the_readings(open_window, wait_for):
    window = open_window(demo=True)
    view = window.view
    chart = view.chart
    assert chart.hasFocus()
    assert chart.chosen == ("hard", "B")
    QTest.keyClick(chart, K.Key_Left)
    assert chart.chosen == ("hard", "D")
    QTest.keyClick(chart, K.Key_Up)
    assert chart.chosen == ("medium", "D")
    assert view.sheet.title.text() == "D on medium clear"
    QTest.keyClick(chart, K.Key_Return)
    wait_for(window)
    assert view.origin.isVisible()
    rows = view.origin.origin.rows
    assert len(rows) == 6
    assert all(len(r.readings) == 5 for r in rows)
    QTest.keyClick(view.origin.grid, K.Key_Escape)
    assert chart.isVisible()


def test_a_click_chooses_a_row_and_a_double_click_opens_it(open_window, wait_for, qtbot):
    window = open_window(demo=True)
    chart = window.view.chart
    place = QPoint(*(round(v) for v in chart.layout_drawn.swatches["soft", "F"].middle))
    qtbot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=place)
    assert chart.chosen == ("soft", "F")
    qtbot.mouseDClick(chart, Qt.MouseButton.LeftButton, pos=place)
    wait_for(window)
    assert window.view.origin.heading.text().startswith("F on soft clear: gloss 20°")


def test_striking_a_reading_needs_a_reason_and_moves_the_figure(open_window, wait_for):
    window = open_window(demo=True)
    view = window.view
    before = view.ranking.judgement.on("hard").standing("B").figures.estimate
    QTest.keyClick(view.chart, K.Key_Return)
    wait_for(window)
    page = view.origin
    figure = page.origin.kind.write(page.origin.rows[0].readings[0].value)
    assert page.do_strike.text() == f"strike {figure}"
    QTest.keyClick(page.grid, K.Key_X)
    QTest.keyClick(page.reason.line, K.Key_Return)
    assert "Say why" in page.reason.error.text()
    QTest.keyClicks(page.reason.line, "hair on the meter")
    QTest.keyClick(page.reason.line, K.Key_Return)
    wait_for(window)
    assert page.origin.rows[0].readings[0].struck == "hair on the meter"
    assert view.rankings["gloss20"].judgement.readings == 479
    assert view.ranking.judgement.on("hard").standing("B").figures.estimate != before
    font = page.model.data(page.grid.currentIndex(), Qt.ItemDataRole.FontRole)
    assert font.strikeOut()
    assert page.do_strike.text() == f"let {figure} count again"
    QTest.keyClick(page.grid, K.Key_X)
    wait_for(window)
    assert view.rankings["gloss20"].judgement.readings == 480


def test_every_measurand_of_the_trial_is_judged(open_window):
    window = open_window(demo=True)
    view = window.view
    assert set(view.rankings) == {"gloss20", "haze", "defects", "removed"}
    QTest.keyClick(view.chart, K.Key_M)
    assert view.measurand == "haze"
    values = [s.place for s in view.chart.picture.strips[0].swatches]
    assert values == sorted(values, reverse=True)


def test_the_reference_file_goes_to_a_ranking_in_a_few_keys(open_window, wait_for, tmp_path):
    """Ctrl+I, Enter on the newest file, Enter on the mapping."""
    window = open_window()
    (tmp_path / "old.csv").write_text("x")
    os.utime(tmp_path / "old.csv", (0, 0))
    shutil.copy(ROOT / "trials" / "medium" / "medium.csv", tmp_path / "medium.csv")
    window.session.remember("folder", str(tmp_path))
    QTest.keyClick(window, K.Key_I, Qt.KeyboardModifier.ControlModifier)
    assert QApplication.focusWidget() is window.view.choice.list
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    wait_for(window)
    assert window.view.step == "bring_in"
    assert window.view.mapping()["baseline_gloss20"] == "baseline:gloss20"
    QTest.keyClick(QApplication.focusWidget(), K.Key_Return)
    wait_for(window)
    assert window.view.step == "judge"
    expected = load_json("trials", "medium", "expected.json")["fits"][0]
    for c in expected["contrasts"]:
        a, b = c["contrast"].split(" - ")
        got = window.view.ranking.judgement.on(c["hardness"]).compare(a, b)
        assert got.estimate == pytest.approx(c["estimate"], abs=0.9 * c["se"])
        assert got.low < c["estimate"] < got.high
    window.view.chart.choose("hard", "C08")
    QApplication.processEvents()
    shown = [w.text() for w in window.view.sheet.findChildren(QLabel) if w.isVisible()]
    assert "to C06" in shown
    assert shown[shown.index("to C06") + 1].startswith("about +0.")


def test_a_mapping_changed_by_hand_is_remembered(open_window, wait_for, tmp_path):
    window = open_window()
    file = tmp_path / "odd.csv"
    lines = ["board,clear,treatment,spot,shine,foo"]
    for i in range(12):
        lines.append(f"P{i % 2},soft,{'AB'[i // 2 % 2]},s{i // 2},{80 + i % 5},x")
    file.write_text("\n".join(lines))
    window.bring_in_file(file)
    wait_for(window)
    view = window.view
    assert not view.take.isEnabled()
    assert "which cell" in view.problems.text()
    for column, role in (("spot", "cell"), ("shine", "after:gloss60")):
        view.set_meaning(column, role)
    wait_for(window)
    view.take_in()
    wait_for(window)
    assert window.session.trial.measurands == ("gloss60",)
    window.bring_in_file(file)
    wait_for(window)
    assert window.view.mapping()["shine"] == "after:gloss60"


def test_a_bad_file_is_refused_in_place_and_nothing_changes(open_window, wait_for, tmp_path):
    window = open_window(demo=True)
    trials = window.session.trials()
    file = tmp_path / "bad.csv"
    file.write_text("panel,hardness,cell,combo,gloss20\nP,soft,K1,A,80\nP,hard,K2,B,x\n")
    window.bring_in_file(file)
    wait_for(window)
    QTest.keyClick(window.view.take, K.Key_Return)
    wait_for(window)
    said = window.view.problems.text()
    assert "line 3, column hardness, 'hard'" in said
    assert "line 3, column gloss20, 'x'" in said
    assert window.session.trials() == trials
    QTest.keyClick(window.view, K.Key_Escape)
    assert window.view.step == "ask"


def test_a_package_goes_out_and_in_through_the_window(open_window, wait_for, tmp_path):
    window = open_window(demo=True)
    out = tmp_path / "trial.zip"
    window.write_out_to(out)
    wait_for(window)
    assert f"Written: {out}" in window.note.text()
    first = window.view.ranking.judgement
    window.bring_in_file(out)
    wait_for(window)
    assert len(window.session.trials()) == 11
    assert "Nothing in the file is new: Cut and finish has it all." in window.note.text()
    other = open_window(path=tmp_path / "other.loam")
    other.bring_in_file(out)
    wait_for(other)
    assert other.session.trial.name == "Cut and finish"
    again = other.view.ranking.judgement
    for a, b in zip(again.classes, first.classes, strict=True):
        assert a.names == b.names
        assert a.leader.p_best == b.leader.p_best


def test_a_newer_request_replaces_an_older_one(open_window, wait_for):
    window = open_window(demo=True)
    trials = [t.id for t in window.session.trials()]
    for trial in (trials[0], trials[2], trials[0]):
        window.session.choose(trial)
    wait_for(window)
    assert [s.hardness for s in window.view.chart.picture.strips] == ["soft"]
    assert window.view.sentence.text().startswith("Soft: ")


def test_one_list_shows_every_key_and_any_key_closes_it(open_window):
    window = open_window(demo=True)
    QTest.keyClick(window, K.Key_F1)
    assert window.overlay.isVisible()
    assert "F7: Read" in window.overlay.accessibleDescription()
    QTest.keyClick(window.overlay, K.Key_Space)
    assert not window.overlay.isVisible()


@pytest.mark.parametrize("tokens", [BENCH, LIGHTS_OUT], ids=lambda t: t.name)
@pytest.mark.parametrize(
    ("text", "ground"),
    [
        ("ink", "ground"),
        ("ink", "sheet"),
        ("ink", "band"),
        ("quiet", "ground"),
        ("quiet", "sheet"),
        ("on_tape", "tape"),
        ("care", "ground"),
        ("care", "sheet"),
        ("on_panel", "panel_cell"),
        ("quiet_on_panel", "panel_cell"),
        ("on_chip", "chip"),
        ("strong", "sheet"),
    ],
)
def test_text_stands_out_from_its_ground(tokens, text, ground):
    a, b = (luminance(QColor(getattr(tokens, n))) for n in (text, ground))
    ratio = (max(a, b) + 0.05) / (min(a, b) + 0.05)
    least = 3.0 if tokens is LIGHTS_OUT and text == "care" else 4.5
    assert ratio >= least, f"{ratio:.2f}"


@pytest.mark.parametrize("step", STEPS)
def test_lights_out_throws_almost_no_light(open_window, wait_for, step):
    window = open_window(demo=True)
    QTest.keyClick(window, K.Key_F12)
    window.go(step)
    wait_for(window)
    if step == "read":
        window.view.digits.setText("84.6")
    elif step == "ask":
        window.view.question.setFocus()
    grabbed = window.grab().toImage()
    image = grabbed.scaled(160, 100).convertToFormat(QImage.Format.Format_RGB32)
    light = [luminance(image.pixelColor(x, y)) for x in range(160) for y in range(100)]
    QTest.keyClick(window, K.Key_F12)
    whole = grabbed.convertToFormat(QImage.Format.Format_RGB32)
    bits = np.frombuffer(whole.constBits().asarray(whole.sizeInBytes()), dtype=np.uint8)
    blue = bits.reshape(-1, 4)[:, 0]
    assert blue.max() < 140, "a white or pale dot, the caret perhaps"
    assert sum(light) / len(light) < 0.04
    assert max(light) < 0.5


def test_the_theme_is_remembered(open_window, tmp_path):
    window = open_window(path=tmp_path / "t.loam")
    window.turn_lights()
    window.close()
    window.session.close()
    open_window(path=tmp_path / "t.loam")
    assert look.lights_out
    look.apply(QApplication.instance(), BENCH)


def visible(window, kinds):
    return [w for k in kinds for w in window.findChildren(k) if w.isVisible() and w.width() > 0]


@pytest.mark.parametrize("size", [(1280, 800), (1024, 640)])
@pytest.mark.parametrize("step", STEPS)
def test_nothing_is_clipped_or_outside_the_window(open_window, wait_for, step, size):
    window = open_window(demo=True, size=size)
    window.session.choose(window.session.trials()[2 if step == "read" else 1].id)
    window.go(step)
    wait_for(window)
    assert (window.width(), window.height()) == size
    for widget in visible(window.view, (QLabel, QPushButton, QLineEdit)):
        where = f"{type(widget).__name__} {widget.objectName()} {getattr(widget, 'text', str)()!r}"
        at = widget.mapTo(window, QPoint(0, 0))
        assert at.x() >= 0, where
        assert at.y() >= 0, where
        assert at.x() + widget.width() <= size[0], where
        assert at.y() + widget.height() <= size[1], where
        if isinstance(widget, QLabel) and widget.text():
            need = widget.heightForWidth(widget.width()) if widget.wordWrap() else 0
            assert widget.height() >= need - 1, where
            if not widget.wordWrap():
                assert widget.width() >= widget.fontMetrics().horizontalAdvance(widget.text()), (
                    where
                )
        if isinstance(widget, QPushButton):
            assert widget.height() >= widget.fontMetrics().height(), where


@pytest.mark.parametrize("step", STEPS)
def test_every_control_has_an_accessible_name(open_window, step):
    window = open_window(demo=True)
    window.go(step)
    for widget in visible(window, (QWidget,)):
        if widget.focusPolicy() == Qt.FocusPolicy.NoFocus or widget is window:
            continue
        if widget.objectName().startswith("qt_") or widget.metaObject().className() == "QWidget":
            continue
        assert widget.accessibleName(), widget


def test_the_shipped_fonts_are_used_with_all_signs(qapp):
    load_fonts()
    families = QFontDatabase.families()
    assert {"B612", "Source Sans 3"} <= set(families)
    assert (FONTS / "B612-OFL.txt").exists()
    assert (FONTS / "SourceSans3-OFL.txt").exists()
    from PyQt6.QtGui import QFontMetrics

    for font in (look.words(14), look.figures(14)):
        metrics = QFontMetrics(font)
        assert all(metrics.inFont(c) for c in "Δσ±≤≥→µ°×·–−ÄÖÜé")
    widths = {QFontMetrics(look.figures(40)).horizontalAdvance(d) for d in "0123456789"}
    assert len(widths) == 1


def test_marks_are_told_apart_without_colour_at_20_pixels(qapp):
    from PyQt6.QtCore import QPointF

    from loam.core.kit import COMPOUNDS, PADS
    from loam.core.machines import KINDS
    from loam.core.trial import Combination, Stage

    def drawn(stage):
        image = QImage(120, 24, QImage.Format.Format_Grayscale8)
        image.fill(255)
        painter = QPainter(image)
        paint_mark(painter, QPointF(2, 2), Combination(1, "A", "", (stage,)), 20, QColor("black"))
        painter.end()
        return bytes(image.constBits().asarray(image.sizeInBytes()))

    stages = [
        Stage("p", "c", "m", pad.key, compound.key, machine.key, passes)
        for pad in PADS
        for compound in COMPOUNDS
        for machine in KINDS
        for passes in (4, 6)
    ]
    stages += [
        Stage("", "", "m", machine_kind=machine.key, passes=passes, disc="P1500")
        for machine in KINDS
        for passes in (4, 6)
    ]
    pictures = [drawn(s) for s in stages]
    for i, a in enumerate(pictures):
        for b in pictures[:i]:
            differing = sum(abs(x - y) > 90 for x, y in zip(a, b, strict=True))
            assert differing >= 8


def test_a_file_is_found_by_folder_path_and_drop(open_window, wait_for, tmp_path):
    window = open_window()
    deep = tmp_path / "deep"
    deep.mkdir()
    (deep / "one.csv").write_text("panel,hardness,cell,combo,gloss20\nP,soft,K1,A,80\n")
    (deep / "notes.odt").write_text("no readings")
    window.bring_in()
    choice = window.view.choice
    choice.open_folder(tmp_path)
    titles = [e.title for e in choice._entries]
    assert "deep/" in titles
    assert titles[-1] == ".."
    choice.path.line.setText(str(deep))
    QTest.keyClick(choice.path.line, K.Key_Return)
    assert [e.title for e in choice._entries] == ["one.csv", ".."]
    QTest.keyClick(choice.list, K.Key_Backspace)
    assert choice.folder == tmp_path
    choice.path.line.setText(str(tmp_path / "nowhere"))
    QTest.keyClick(choice.path.line, K.Key_Return)
    assert "no such file" in choice.path.error.text()
    choice.path.line.setText(str(deep / "one.csv"))
    QTest.keyClick(choice.path.line, K.Key_Return)
    wait_for(window)
    assert window.view.table_file.path == deep / "one.csv"
    assert window.session.recall("folder") == str(deep)


def test_writing_out_asks_in_place_and_replaces_only_when_told_twice(
    open_window, wait_for, tmp_path
):
    window = open_window(demo=True)
    window.session.remember("folder", str(tmp_path))
    QTest.keyClick(window, K.Key_E, Qt.KeyboardModifier.ControlModifier)
    line = window.asking.path.line
    assert line.text() == str(tmp_path / "Cut and finish.zip")
    assert line.selectedText() == "Cut and finish"
    QTest.keyClicks(line, "kept")
    QTest.keyClick(line, K.Key_Return)
    wait_for(window)
    assert (tmp_path / "kept.zip").stat().st_size > 5000
    (tmp_path / "kept.zip").write_bytes(b"old")
    window.write_out()
    line.setText(str(tmp_path / "kept"))
    QTest.keyClick(line, K.Key_Return)
    assert "Enter again replaces it" in window.asking.path.error.text()
    assert (tmp_path / "kept.zip").read_bytes() == b"old"
    QTest.keyClick(line, K.Key_Return)
    wait_for(window)
    assert (tmp_path / "kept.zip").stat().st_size > 5000
    window.write_out()
    line.setText(str(tmp_path / "no" / "such.zip"))
    QTest.keyClick(line, K.Key_Return)
    assert "no folder" in window.asking.path.error.text()
    QTest.keyClick(line, K.Key_Escape)
    assert not window.asking.isVisible()
