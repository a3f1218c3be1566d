"""What lies around the views: sizes, notes, keys, units, text, pictures, tables, a bad workshop."""

import os

import pytest
from PyQt6.QtCore import QBuffer, QByteArray, QEvent, QIODevice, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QImageReader, QKeyEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton

from loam.app.commands import TakeInTrial
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.demo.scenario import motions
from loam.store.workshop import Workshop
from loam.ui.picture_out import save_picture
from loam.ui.theme import BENCH, LIGHTS_OUT, look
from loam.ui.theme.look import tip
from loam.ui.views.judge.ranking.paint import LEAST_LETTER
from loam.ui.widgets.rows import ListRow, RowList
from loam.ui.widgets.scroll_stack import Stack
from loam.ui.window import FRAME, LEAST, MainWindow

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
STEPS = ["ask", "kit", "panels", "layout", "read", "judge"]


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(QApplication.focusWidget() or window, key, modifier)
    QApplication.processEvents()


@pytest.fixture(autouse=True)
def usual_text(qapp):
    yield
    look.apply(qapp, BENCH, 1.0)


@pytest.mark.parametrize("screen", [(1280, 800), (1024, 600), (960, 540), (3840, 2160)])
def test_the_window_fits_the_screen_it_opens_on(open_window, monkeypatch, screen):
    window = open_window()

    class Screen:
        def availableGeometry(self):
            from PyQt6.QtCore import QRect

            return QRect(0, 0, *screen)

    monkeypatch.setattr(MainWindow, "screen", lambda self: Screen())
    size = window._first_size()
    assert size.width() <= screen[0] - FRAME.width()
    assert size.height() <= screen[1] - FRAME.height()
    assert size.width() >= LEAST.width()
    window.session.remember("window", [5000, 4000])
    again = window._first_size()
    assert again.height() <= screen[1] - FRAME.height()
    for odd in ([], [1], ["a", 2], [-5, 10], {"a": 1}, [10**9, 10**9], "wide"):
        window.session.remember("window", odd)
        assert window._first_size() == size


def test_the_size_is_remembered(open_window, tmp_path):
    path = tmp_path / "s.loam"
    window = open_window(path=path)
    window.resize(1111, 700)
    window.close()
    window.session.close()
    kept = Workshop(path)
    assert Session(kept).recall("window") == [1111, 700]
    kept.close()


@pytest.mark.parametrize("size", [(1280, 800), (1024, 600), (960, 500)])
@pytest.mark.parametrize("step", STEPS)
def test_the_keys_are_never_cut_and_the_list_of_all_always_there(open_window, wait_for, step, size):
    window = open_window(demo=True, size=size)
    window.session.choose(window.session.trials()[1].id)
    window.go(step)
    wait_for(window)
    window.note.leave()
    QApplication.processEvents()
    shown = [b for b in window.strip.buttons if b.isVisible()]
    assert shown[-1].key == "F1"
    for button in shown:
        assert button.width() >= button.sizeHint().width(), button.words
    last = shown[-1].mapTo(window, shown[-1].rect().topRight())
    assert last.x() <= window.width()


@pytest.mark.parametrize("step", STEPS)
def test_no_view_needs_scrolling_at_the_usual_size(open_window, wait_for, step):
    window = open_window(demo=True, size=(1272, 760))
    window.go(step)
    wait_for(window)
    window.note.leave()
    QApplication.processEvents()
    assert not window.room.verticalScrollBar().isVisible()
    assert not window.room.horizontalScrollBar().isVisible()


@pytest.mark.parametrize("percent", [150, 200])
@pytest.mark.parametrize("step", STEPS)
def test_large_text_is_never_cut_but_scrolled(open_window, wait_for, step, percent):
    window = open_window(demo=True)
    window.set_text(percent)
    window.go(step)
    wait_for(window)
    for _ in range(10):
        QApplication.processEvents()
    view = window.view
    for widget in view.findChildren(QLabel) + view.findChildren(QPushButton):
        if not widget.isVisibleTo(view) or not widget.text() or widget.width() == 0:
            continue
        if isinstance(widget, QLabel) and widget.wordWrap():
            assert widget.height() >= widget.heightForWidth(widget.width()) - 2, widget.text()
        else:
            need = widget.fontMetrics().height()
            assert widget.height() >= need - 2, widget.text()
    port = window.room.viewport()
    assert view.width() >= port.width()
    assert view.height() >= port.height() - 8


@pytest.mark.parametrize(
    ("step", "percent"), [*((s, 150) for s in (*STEPS, "work")), ("judge", 200)]
)
def test_large_text_in_a_small_window_is_not_scrolled_sideways(
    open_window, wait_for, step, percent
):
    window = open_window(demo=True, size=(1024, 640))
    window.set_text(percent)
    window.go(step)
    wait_for(window)
    for _ in range(5):
        QApplication.processEvents()
    assert window.view.minimumSizeHint().width() <= window.room.viewport().width()
    assert not window.room.horizontalScrollBar().isVisible()
    if step == "layout":
        rows = window.view.list
        shown = rows.viewport().height() / rows.sizeHintForRow(0)
        assert shown >= min(rows.count(), 6) - 0.2
    if step == "judge":
        window.view.chart.grab()
        places = window.view.chart.layout_drawn
        assert all(place.size >= LEAST_LETTER for place in places.strips)


def test_text_size_by_keys_is_remembered(open_window, tmp_path):
    window = open_window(path=tmp_path / "t.loam")
    press(window, K.Key_Plus, CTRL)
    assert look.scale == 1.25
    press(window, K.Key_Plus, CTRL)
    press(window, K.Key_Minus, CTRL)
    press(window, K.Key_Minus, CTRL)
    press(window, K.Key_Minus, CTRL)
    assert look.scale == 1.0
    press(window, K.Key_Plus, CTRL)
    window.close()
    window.session.close()
    look.apply(QApplication.instance(), BENCH, 1.0)
    open_window(path=tmp_path / "t.loam")
    assert look.scale == 1.25


def test_a_note_covers_nothing_keeps_its_shape_and_goes_with_its_matter(open_window):
    window = open_window(demo=True)
    window.say("Something that is worth saying. " * 12, care=True, matter="deal")
    QApplication.processEvents()
    note = window.note.geometry()
    assert note.top() >= window.room.geometry().bottom()
    assert note.bottom() <= window.strip.geometry().top()
    assert window.note.heightForWidth(note.width()) <= note.height() + 1
    window.turn_lights()
    QApplication.processEvents()
    assert window.note.geometry().size() == note.size()
    window.turn_lights()
    window.settle("moved")
    assert window.note.isVisible()
    window.settle("deal")
    assert not window.note.isVisible()
    window.say("Done.")
    window.go("kit")
    assert not window.note.isVisible()


def test_a_second_deal_of_a_laid_out_panel_asks(open_window, wait_for):
    window = open_window(demo=True)
    for trial in window.session.trials():
        window.session.choose(trial.id)
        if not window.session.counts():
            break
    window.session.run(TakeInTrial(_unread()))
    window.turn_to(window.session.trials()[-1].id)
    window.go("layout")
    before = [c.combination_id for c in window.session.cells()]
    press(window, K.Key_R, CTRL)
    assert "have their combination already" in window.note.text()
    assert [c.combination_id for c in window.session.cells()] == before
    press(window, K.Key_R, CTRL)
    wait_for(window)
    after = [c.combination_id for c in window.session.cells()]
    assert after != before
    assert not window.note.isVisible()
    press(window, K.Key_Z, CTRL)
    assert [c.combination_id for c in window.session.cells()] == before


def _unread():
    from dataclasses import replace

    return replace(motions(), readings=(), strikes=())


@pytest.mark.parametrize("letter", ["²", "½", "٣", "0", "é", "ß"])
def test_odd_letters_lay_out_nothing(open_window, letter):
    window = open_window(demo=True)
    window.session.run(TakeInTrial(_unread()))
    window.turn_to(window.session.trials()[-1].id)
    window.go("layout")
    before = window.session.cells()
    typed = QKeyEvent(QEvent.Type.KeyPress, 0, Qt.KeyboardModifier.NoModifier, letter)
    QApplication.sendEvent(window.view.drawing, typed)
    assert window.session.cells() == before


def test_units_are_switched_by_keys_and_change_no_reading(open_window, wait_for):
    window = open_window(demo=True)
    rows = window.session.workshop.connection.execute("SELECT value FROM reading").fetchall()
    press(window, K.Key_Comma, CTRL)
    assert window.view.step == "settings"
    assert window.view.units["film"].buttons["µm"].hasFocus()
    press(window, K.Key_Right)
    press(window, K.Key_Space)
    assert window.session.unit("film").symbol == "mil"
    assert window.view.units["film"].buttons["mil"].hasFocus()
    window.view.units["size"].buttons["in"].click()
    window.view.units["force"].buttons["kgf"].click()
    window.go("judge")
    wait_for(window)
    window.view.turn("removed")
    ranking = window.view.ranking
    assert ranking.unit == "mil"
    stored = ranking.judgement.classes[0].leader.figures.estimate
    assert float(ranking.strips[0].swatches[0].text) == pytest.approx(stored / 25.4, abs=0.01)
    assert "mil" in ranking.sentence
    assert "µm" not in ranking.sentence
    window.go("panels")
    assert window.view.fields["width_mm"].text() == "28.346"
    window.view.fields["width_mm"].line.setText("30")
    window.view.fields["width_mm"].line.editingFinished.emit()
    assert window.session.panels()[0].taping.width_mm == pytest.approx(762.0)
    window.go("kit")
    assert float(window.view.form.force.text()) > 1
    after = window.session.workshop.connection.execute("SELECT value FROM reading").fetchall()
    assert after == rows


@pytest.mark.parametrize("ending", [".png", ".svg", ".pdf"])
@pytest.mark.parametrize("step", STEPS)
def test_every_drawing_goes_out(open_window, wait_for, tmp_path, step, ending):
    window = open_window(demo=True)
    window.go(step)
    wait_for(window)
    picture = window.view.picture()
    file = tmp_path / f"picture{ending}"
    if not look.lights_out:
        window.turn_lights()
    save_picture(picture, file)
    assert look.tokens is LIGHTS_OUT
    window.turn_lights()
    raw = file.read_bytes()
    if ending == ".png":
        image = QImage(str(file))
        assert image.width() > 1000
        assert image.pixelColor(2, 2) == QColor("white")
        colours = {
            image.pixel(x, y)
            for x in range(0, image.width(), 37)
            for y in range(0, image.height(), 41)
        }
        assert len(colours) > 3
    elif ending == ".svg":
        buffer = QBuffer()
        buffer.setData(QByteArray(raw))
        buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        assert QImageReader(buffer, b"svg").size().width() > 500 or b"<svg" in raw[:400]
        assert raw.count(b"<text") > 3
    else:
        assert raw.startswith(b"%PDF")
        assert b"%%EOF" in raw[-20:]
    assert [p.name for p in tmp_path.iterdir() if p.suffix == ".part"] == []


def test_a_picture_is_asked_for_in_place_and_a_device_is_refused(open_window, wait_for, tmp_path):
    window = open_window(demo=True)
    window.session.remember("folder", str(tmp_path))
    press(window, K.Key_P, CTRL)
    line = window.asking.path.line
    assert line.hasFocus()
    assert line.text().endswith(".pdf")
    window.asking.ways.buttons[".png"].click()
    assert line.text().endswith(".png")
    press(window, K.Key_Return)
    (written,) = tmp_path.glob("*.png")
    assert f"Written: {written}" in window.note.text()
    pipe = tmp_path / "pipe.pdf"
    os.mkfifo(pipe)
    picture = window.view.picture()
    with pytest.raises(LoamError, match="no ordinary file"):
        save_picture(picture, pipe)
    with pytest.raises(LoamError, match="not written as"):
        save_picture(picture, tmp_path / "x.doc")
    with pytest.raises(LoamError, match="could not be written"):
        save_picture(picture, tmp_path / "none" / "x.pdf")


@pytest.mark.parametrize("text", ["~nobody-at-all/x.csv", "/none/at/all.csv", ""])
def test_odd_paths_are_refused_in_place(open_window, text):
    window = open_window(demo=True)
    window.write_out()
    window.asking.path.line.setText(text)
    window.asking.keep()
    assert window.asking.isVisible()
    assert window.asking.path.error.text()
    window.bring_in()
    choice = window.view.choice
    choice.path.line.setText(text or "/none/at all")
    choice.path.line.returnPressed.emit()
    assert choice.path.error.text()


def test_a_trial_goes_out_as_a_table_and_comes_in_again(open_window, wait_for, tmp_path):
    window = open_window(demo=True)
    before = {k: v for k, v in window.view.rankings.items()}
    window.session.remember("folder", str(tmp_path))
    press(window, K.Key_E, CTRL)
    window.asking.ways.buttons[".csv"].click()
    press(window, K.Key_Return)
    wait_for(window)
    (file,) = tmp_path.glob("*.csv")
    window.bring_in_file(file)
    wait_for(window)
    window.view.take_in()
    wait_for(window)
    after = window.view.rankings["gloss20"].judgement
    first = before["gloss20"].judgement
    assert after.readings == first.readings
    for a, b in zip(after.classes, first.classes, strict=True):
        assert a.names == b.names
        assert a.leader.figures.estimate == pytest.approx(b.leader.figures.estimate, abs=0.05)


@pytest.mark.parametrize("step", STEPS)
def test_the_table_at_hand_is_copied(open_window, wait_for, step):
    window = open_window(demo=True)
    window.go(step)
    wait_for(window)
    QApplication.clipboard().clear()
    focus = QApplication.focusWidget()
    QTest.keyClick(focus or window, K.Key_C, CTRL)
    text = QApplication.clipboard().text()
    lines = text.splitlines()
    assert len(lines) > 2
    assert len({line.count("\t") for line in lines}) == 1


@pytest.mark.parametrize("tokens", [BENCH, LIGHTS_OUT], ids=lambda t: t.name)
def test_contrasts_hold_in_both_themes(tokens):
    def light(text):
        c = QColor(text).getRgbF()[:3]
        c = [x / 12.92 if x <= 0.03928 else ((x + 0.055) / 1.055) ** 2.4 for x in c]
        return 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]

    def contrast(a, b):
        low, high = sorted((light(a), light(b)))
        return (high + 0.05) / (low + 0.05)

    grounds = (tokens.ground, tokens.sheet, tokens.band)
    for ground in grounds:
        for text in (tokens.ink, tokens.quiet, tokens.care):
            assert contrast(text, ground) >= 4.5, (text, ground)
    assert contrast(tokens.on_tape, tokens.tape) >= 4.5
    assert contrast(tokens.quiet_on_tape, tokens.tape) >= 4.5
    assert contrast(tokens.on_chip, tokens.chip) >= 4.5
    for text in (tokens.on_panel, tokens.quiet_on_panel):
        assert contrast(text, tokens.panel_cell) >= 4.5
    if tokens is LIGHTS_OUT:
        for ground in (*grounds, tokens.panel, tokens.panel_cell, tokens.tape):
            assert contrast(tokens.edge, ground) >= 3.0, ground
        assert contrast(tokens.on_panel, tokens.panel) >= 3.0, "the chosen cell"


def test_a_tooltip_shows_every_letter():
    from PyQt6.QtGui import QTextDocument

    document = QTextDocument()
    document.setHtml(tip("<b>bold</b> & <script>x</script>"))
    assert document.toPlainText() == "<b>bold</b> & <script>x</script>"


def test_a_stack_is_as_large_as_its_page(qtbot):
    stack = Stack()
    qtbot.addWidget(stack)
    large, small = QLabel("x"), QLabel("y")
    large.setMinimumSize(900, 900)
    stack.addWidget(large)
    stack.addWidget(small)
    stack.setCurrentWidget(small)
    assert stack.minimumSizeHint().height() < 100
    stack.setCurrentWidget(large)
    assert stack.minimumSizeHint() == QSize(900, 900)


@pytest.mark.parametrize("name", ["W" * 59, " ".join(["Bonnet"] * 16)])
def test_a_list_shows_every_letter_of_a_long_name(qtbot, name):
    rows = RowList("rows", "rows")
    qtbot.addWidget(rows)
    rows.resize(220, 300)
    rows.show()
    looks = []
    for last in "WX":
        rows.show_rows([ListRow(1, name + last, "soft clear", "A"), ListRow(2, "Dunlin")], None)
        QApplication.processEvents()
        looks.append(rows.grab().toImage())
    assert looks[0] != looks[1], "the last letter is not to be seen"
    first, second = (rows.visualItemRect(rows.item(i)) for i in (0, 1))
    assert first.height() > 2 * second.height()
    rows.resize(900, 300)
    QApplication.processEvents()
    assert rows.visualItemRect(rows.item(0)).height() < first.height()
