"""The window when things are out of the ordinary: looked at only, failing, half done, large."""

import sys
import threading

import pytest
from PyQt6.QtCore import QPoint, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtSvg import QSvgGenerator
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton, QWidget

from loam.app.presenters.picture import assigned
from loam.store.readings import readings_of_cells
from loam.ui.bugs import install
from loam.ui.log import LOG, keep_log
from loam.ui.start import Desk
from loam.ui.theme import look
from loam.ui.views.judge.ranking.paint import draw_ranking
from loam.ui.widgets.panel_painter import _mark_box, _zone_px, draw_panel, face_rect, panel_rect
from loam.ui.worker import Cancelled

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


def test_a_second_window_looks_and_says_why_it_may_not_change(open_window, tmp_path, wait_for):
    path = tmp_path / "both.loam"
    first = open_window(demo=True, path=path)
    second = open_window(path=path)
    assert "only be looked at" in second.note.text()
    second.go("judge")
    wait_for(second)
    assert second.view.chart.picture is not None
    second.go("ask")
    second.view.add()
    assert "open in another window" in second.note.text()
    assert len(second.session.trials()) == 11
    second.turn_lights()
    second.turn_lights()
    second.session.choose(second.session.trials()[0].id)
    first.go("ask")
    first.view.add()
    assert len(first.session.trials()) == 12


def test_a_fault_of_loam_itself_is_reported_and_survived(open_window, tmp_path, monkeypatch, capfd):
    window = open_window()
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    install(tmp_path / "reports", lambda said: window.say(said, care=True))
    try:
        raise ZeroDivisionError("planted")
    except ZeroDivisionError as error:
        sys.excepthook(type(error), error, error.__traceback__)
    assert "Every reading taken is safe" in window.note.text()
    (report,) = (tmp_path / "reports").iterdir()
    assert "ZeroDivisionError: planted" in report.read_text()
    assert str(report) in window.note.text()


def test_empty_views_say_what_they_will_show_and_how_to_start(open_window):
    window = open_window()
    for step, word in (
        ("kit", "A combination is what one cell gets"),
        ("panels", "drawn to scale as you type"),
        ("layout", "each cell gets its combination"),
        ("read", "with the keyboard alone"),
        ("judge", "Start a trial first"),
    ):
        window.go(step)
        shown = [
            w.text() if hasattr(w, "text") else w.waiting
            for w in window.view.findChildren(object)
            if (hasattr(w, "text") or hasattr(w, "waiting"))
            and getattr(w, "isVisible", bool)()
            and not callable(getattr(w, "waiting", ""))
        ]
        assert any(word in str(s) for s in shown), (step, shown)


def test_haze_is_typed_on_the_scale_that_the_meter_shows(open_window):
    window = open_window(demo=True)
    window.session.choose(window.session.trials()[1].id)
    window.go("read")
    view = window.view
    view.turn_kind("haze")
    assert view.form.scales.value() == ["log"]
    view.turn_scale("linear")
    QTest.keyClicks(view.digits, "3.5")
    QTest.keyClick(view.digits, K.Key_Return)
    assert "on the log scale, and this is linear" in view.error.text()
    QTest.keyClick(view.digits, K.Key_Return)
    cell = view.state.cell.id
    found = readings_of_cells(window.session.workshop.connection, [cell], "haze")
    assert (found[-1].scale, found[-1].value) == ("linear", 3.5)
    view.turn_kind("gloss20")
    assert not view.form.scales.isVisible()


def test_readings_before_work_are_kept_apart(open_window):
    window = open_window(demo=True)
    window.session.choose(window.session.trials()[2].id)
    window.go("read")
    view = window.view
    cell = view.state.cell
    view.turn_phase("before")
    view.choose(cell.id)
    QTest.keyClicks(view.digits, "61.2")
    QTest.keyClick(view.digits, K.Key_Return)
    found = readings_of_cells(window.session.workshop.connection, [cell.id], "gloss20")
    assert [(r.phase, r.value) for r in found] == [("before", 61.2)]
    assert (cell.id, "gloss20") not in window.session.counts()


def test_a_reading_that_stands_out_is_asked_again_not_dropped(open_window):
    window = open_window(demo=True)
    window.session.choose(window.session.trials()[2].id)
    window.go("read")
    view = window.view
    cell = view.state.cell.id
    for text in ("84.6", "84.8", "84.7", "80.5", "84.9"):
        QTest.keyClicks(view.digits, text)
        QTest.keyClick(view.digits, K.Key_Return)
    assert view.state.cell.id == cell, "one more reading is wanted here"
    assert view.form.verdict.text() == "one stands out"
    QTest.keyClicks(view.digits, "84.7")
    QTest.keyClick(view.digits, K.Key_Return)
    assert view.state.cell.id == cell, "what is said of it is seen first"
    QTest.keyClick(view.digits, K.Key_Return)
    assert view.state.cell.id != cell
    kept = readings_of_cells(window.session.workshop.connection, [cell], "gloss20")
    assert [r.value for r in kept] == [84.6, 84.8, 84.7, 80.5, 84.9, 84.7]
    assert all(r.struck is None for r in kept)


def test_a_figure_of_another_measurand_opens_its_own_readings(open_window, wait_for, qtbot):
    window = open_window(demo=True)
    button = window.view.findChild(QPushButton, "figure_removed")
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    wait_for(window)
    assert window.view.measurand == "removed"
    assert window.view.origin.heading.text().startswith("B on hard clear: clear removed")


def test_another_click_on_a_swatch_opens_its_readings(open_window, wait_for, qtbot):
    window = open_window(demo=True)
    chart = window.view.chart
    at = QPoint(*(round(v) for v in chart.layout_drawn.swatches["soft", "C"].middle))
    qtbot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=at)
    assert not window.view.origin.isVisible()
    qtbot.mouseClick(chart, Qt.MouseButton.LeftButton, pos=at)
    wait_for(window)
    assert window.view.origin.isVisible()
    assert window.view.origin.heading.text().startswith("C on soft clear")


def test_a_stale_job_stops_itself(open_window, qtbot):
    window = open_window()
    tell = window.jobs.teller("x")
    window.jobs.start("x", lambda: 1, lambda _r: None, lambda _e: None)
    told = []
    window.jobs.progress.connect(lambda key, share: told.append((key, share)))
    tell(0.5)
    assert told == [("x", 0.5)]
    window.jobs.cancel("x")
    with pytest.raises(Cancelled):
        tell(0.6)
    qtbot.waitUntil(lambda: not window.jobs.busy, timeout=60_000)


def test_what_runs_aside_stands_back_and_begins_anew(open_window, qtbot):
    window = open_window()
    jobs, runs, order = window.jobs, [], []
    going, asked = threading.Event(), threading.Event()

    def aside(tell):
        runs.append(len(runs))
        going.set()
        while len(runs) == 1:
            asked.wait(10.0)
            tell(0.5)  # raises once something else is asked
        return "done"

    jobs.start_aside("aside", aside, order.append, lambda _e: None)
    qtbot.waitUntil(going.is_set, timeout=10_000)
    jobs.start("other", lambda: "other", order.append, lambda _e: None)
    asked.set()
    assert jobs.is_busy("aside"), "it is still to be answered"
    qtbot.waitUntil(lambda: not jobs.busy, timeout=20_000)
    assert order == ["other", "done"]
    assert len(runs) == 2
    jobs.start_aside("aside", aside, order.append, lambda _e: None)
    jobs.cancel("aside")
    qtbot.waitUntil(lambda: not jobs.busy, timeout=20_000)
    assert order == ["other", "done"], "nobody waits for it"


def test_a_trial_half_read_is_judged_with_its_warnings(open_window, wait_for):
    window = open_window(demo=True)
    window.session.choose(window.session.trials()[2].id)
    window.go("judge")
    wait_for(window)
    assert "assumed" in window.view.notes.text()
    assert "best" in window.view.sentence.text()


def test_a_trial_with_nothing_read_says_so_in_place(open_window, wait_for):
    window = open_window(demo=True)
    window.go("ask")
    window.view.add()
    window.go("judge")
    wait_for(window)
    assert "No gloss 20° has been read" in window.view.chart.waiting
    assert not window.view.sheet.isVisible()


def test_undo_of_a_taken_in_trial_puts_it_away_and_redo_brings_it_back(open_window, wait_for):
    from helpers.reference import ROOT

    window = open_window(demo=True)
    window.bring_in_file(ROOT / "trials" / "small" / "small.csv")
    wait_for(window)
    window.view.take_in()
    wait_for(window)
    assert len(window.session.trials()) == 12
    window.undo()
    wait_for(window)
    assert [t.name for t in window.session.trials()][-1] == "A door that chalks"
    window.redo()
    assert len(window.session.trials()) == 12


def test_the_same_drawing_serves_screen_and_vector(open_window, tmp_path):
    window = open_window(demo=True)
    picture = assigned(window.session, window.session.panels()[0])
    area = QRectF(0, 0, 600, 480)
    file = tmp_path / "panel.svg"
    svg = QSvgGenerator()
    svg.setFileName(str(file))
    svg.setSize(QSize(600, 480))
    painter = QPainter(svg)
    where = draw_panel(painter, area, picture)
    draw_ranking(painter, area, window.view.ranking, {})
    painter.end()
    t = picture.taping
    width = min(600, 480 * t.width_mm / t.height_mm)
    assert where.width() == pytest.approx(width)
    assert (where.center().x(), where.top()) == pytest.approx((300, 0))
    assert file.read_text().count("<text") > 60
    scale = where.width() / picture.taping.width_mm
    assert where.height() / picture.taping.height_mm == pytest.approx(scale)


def test_no_mark_lies_on_the_even_ground_where_there_is_room_for_both(open_window):
    """In every cell of the demo's laid-out trials, on a panel as large as Lay out draws it."""
    window = open_window(demo=True)
    session, seen = window.session, 0
    for trial in session.trials():
        session.choose(trial.id)
        for panel in session.panels():
            zones = {c.id: 40.0 for c in session.combinations()}
            picture = assigned(session, panel, zones=zones)
            shown = panel_rect(QRectF(0, 0, 730, 506), picture)
            scale = shown.width() / picture.taping.width_mm
            for face in picture.faces:
                rect = face_rect(shown, picture, face)
                zone = _zone_px(face, scale)
                mark = _mark_box(rect, face, zone)
                if mark is None or not zone or zone > 0.3 * rect.height() or face.pinned:
                    continue
                seen += 1
                ground = QRectF(0, 0, 2 * zone, 2 * zone)
                ground.moveCenter(rect.center())
                roomy = rect.height() > 4 * zone + 120 and rect.width() > 200
                assert not (roomy and ground.intersects(mark)), (trial.name, face.code)
                assert rect.contains(mark), (trial.name, face.code)
    assert seen > 20


def test_the_chosen_cell_is_framed(open_window):
    window = open_window(demo=True)
    picture = assigned(window.session, window.session.panels()[0])

    def drawn(chosen):
        image = QImage(400, 320, QImage.Format.Format_RGB32)
        image.fill(QColor("white"))
        painter = QPainter(image)
        draw_panel(painter, QRectF(0, 0, 400, 320), picture, chosen)
        painter.end()
        return image

    assert drawn(None) == drawn(None)
    assert drawn(picture.faces[0].cell_id) != drawn(None)
    assert drawn(picture.faces[0].cell_id) != drawn(picture.faces[1].cell_id)


def test_pages_turn_between_panels(open_window):
    window = open_window(demo=True)
    window.session.choose(window.session.trials()[1].id)
    for step in ("panels", "layout"):
        window.go(step)
        first = window.view.panel.name
        QTest.keyClick(QApplication.focusWidget(), K.Key_PageDown)
        assert window.view.panel.name != first
        QTest.keyClick(QApplication.focusWidget(), K.Key_PageUp)
        assert window.view.panel.name == first


def test_marks_lie_where_they_are_asked_for(qapp):
    from loam.core.trial import Combination, Stage
    from loam.ui.widgets.mark import mark_size, paint_mark

    combination = Combination(
        1, "A", "", (Stage("p", "c", "m", "wool", "coarse", "rotary", 4),) * 2
    )
    width, height = mark_size(combination, 20)
    image = QImage(200, 100, QImage.Format.Format_Grayscale8)
    image.fill(255)
    painter = QPainter(image)
    paint_mark(painter, QPointF(30, 20), combination, 20, QColor("black"))
    painter.end()
    dark = [(x, y) for x in range(200) for y in range(100) if image.pixelColor(x, y).red() < 128]
    xs, ys = [d[0] for d in dark], [d[1] for d in dark]
    assert 28 <= min(xs) <= max(xs) <= 30 + width + 2
    assert 18 <= min(ys) <= max(ys) <= 20 + height + 2


def test_a_disk_that_refuses_an_import_leaves_the_file_ready_for_another_try(
    open_window, wait_for, monkeypatch
):
    from helpers.reference import ROOT
    from loam.app.commands import trials as trial_commands
    from loam.store.database import WorkshopRefused

    window = open_window()
    window.bring_in_file(ROOT / "trials" / "small" / "small.csv")
    wait_for(window)

    def full(*_):
        raise WorkshopRefused("The disk did not take it.", todo="Free some space.")

    with monkeypatch.context() as broken:
        broken.setattr(trial_commands, "draft_steps", full)
        window.view.take_in()
        wait_for(window)
        wait_for(window)
    assert "Free some space" in window.view.problems.text()
    assert window.session.trials() == []
    assert window.session.undo_name == ""
    window.view.take_in()
    wait_for(window)
    assert [t.name for t in window.session.trials()] == ["small"]


def test_a_job_can_wait_until_the_window_is_painted(open_window, qtbot):
    window = open_window()
    told = []

    class Watched(QWidget):
        def paintEvent(self, event):
            told.append("painted")

    own = Watched(window)
    own.resize(50, 50)
    own.show()
    qtbot.waitUntil(lambda: "painted" in told)
    told.clear()
    own.update()
    for n in (1, 2):
        window.jobs.start(
            f"late{n}",
            lambda n=n: told.append(f"run {n}"),
            lambda _r: None,
            lambda _e: None,
            painted=True,
        )
    assert window.jobs.busy
    assert told == []
    qtbot.waitUntil(lambda: not window.jobs.busy, timeout=20_000)
    assert told == ["painted", "run 1", "run 2"]
    window.jobs.start("never", lambda: told.append("never"), print, print, painted=True)
    window.jobs.stop()
    QApplication.processEvents()
    assert "never" not in told


def test_lights_reach_a_view_when_it_is_turned_to(open_window, wait_for):
    """Only what is seen is dressed at once; a view that was built in the light gets dark then."""
    window = open_window(demo=True)
    for step in ("ask", "kit", "judge"):
        window.go(step)
        wait_for(window)
    worn = {step: window.views[step].styleSheet() for step in ("ask", "kit", "judge")}
    assert len(set(worn.values())) == 1
    window.turn_lights()
    assert look.lights_out
    dark = window.view.styleSheet()
    assert dark != worn["judge"]
    assert window.strip.styleSheet() == window.path.styleSheet() == dark
    assert window.views["kit"].styleSheet() == worn["kit"]
    window.go("kit")
    assert window.view.styleSheet() == dark
    label = window.view.findChild(QLabel)
    ink = label.palette().color(label.foregroundRole())
    assert ink.lightness() > 128, "light words on dark"
    window.turn_lights()
    window.go("ask")
    assert window.view.styleSheet() == worn["ask"], "never dressed in the dark"


def test_what_loam_did_is_kept_beside_the_reports_and_no_reading_is_in_it(
    open_window, tmp_path, monkeypatch, capfd
):
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    path = keep_log(tmp_path / "reports")
    desk = Desk(QApplication.instance())
    try:
        desk.open(tmp_path / "bench.loam")
        (tmp_path / "other.loam").write_text("no workshop")
        desk.open(tmp_path / "other.loam")
        install(tmp_path / "reports", lambda _said: None)
        try:
            raise ZeroDivisionError("84.125")
        except ZeroDivisionError as error:
            sys.excepthook(type(error), error, error.__traceback__)
    finally:
        desk.close()
        desk.window.close()
        for handler in list(LOG.handlers):
            LOG.removeHandler(handler)
            handler.close()
    lines = path.read_text().splitlines()
    assert "opened" in lines[0]
    assert "was not opened" in lines[1]
    assert "ZeroDivisionError" in lines[2]
    assert "84.125" not in path.read_text()


def test_a_log_that_cannot_be_written_is_no_reason_not_to_start(tmp_path):
    (tmp_path / "file").write_text("")
    assert keep_log(tmp_path / "file") is None
