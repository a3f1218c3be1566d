"""A workshop that cannot be opened, one that is moved, and closing in the middle of work."""

import sqlite3
from datetime import datetime

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QListWidget

from loam.app.commands import AddTrial
from loam.app.headless.check import check
from loam.core.trial import Trial
from loam.demo.scenario import make_demo
from loam.store.copies import keep_copy
from loam.ui.rescue import RescueWindow
from loam.ui.start import Desk
from loam.ui.window import MainWindow

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


def damaged(path):
    make_demo(path)
    keep_copy(path, datetime(2026, 9, 24, 18, 2, 11))
    path.write_bytes(b"junk" * 999)


def newer(path):
    make_demo(path)
    db = sqlite3.connect(path)
    db.execute("PRAGMA user_version = 99")
    db.commit()
    db.close()


@pytest.fixture
def desk(qtbot):
    class Shown(Desk):
        def open(self, path, *, look=False):
            super().open(path, look=look)
            qtbot.waitExposed(self.window)
            self.window.activateWindow()
            qtbot.waitUntil(lambda: QApplication.activeWindow() is self.window)
            QApplication.processEvents()

    made = Shown(QApplication.instance())
    yield made
    if made.window is not None:
        made.close()
        made.window.close()
        made.window.deleteLater()


def test_a_start_on_junk_offers_the_copies_and_goes_back_to_one(desk, qtbot, tmp_path):
    path = tmp_path / "demo.loam"
    damaged(path)
    desk.open(path)
    assert isinstance(desk.window, RescueWindow)
    assert "cannot be read as a workshop" in desk.window.said.text()
    assert desk.window.choice.list.count() == 1
    QTest.keyClick(desk.window.choice.list, K.Key_Return)
    qtbot.waitUntil(lambda: isinstance(desk.window, MainWindow))
    assert len(desk.window.session.trials()) == 11
    assert any(b"junk" in p.read_bytes() for p in tmp_path.glob("demo.loam.set-aside*"))


def test_a_start_on_a_newer_workshop_offers_a_look(desk, qtbot, tmp_path):
    path = tmp_path / "demo.loam"
    newer(path)
    before = path.read_bytes()
    desk.open(path)
    assert isinstance(desk.window, RescueWindow)
    assert "newer Loam" in desk.window.said.text()
    QTest.keyClick(desk.window, K.Key_L, CTRL)
    qtbot.waitUntil(lambda: isinstance(desk.window, MainWindow))
    assert desk.window.session.workshop.read_only
    assert "to look at only" in desk.window.note.text()
    desk.close()
    assert path.read_bytes() == before


def test_a_start_on_junk_without_copies_opens_another_workshop(desk, qtbot, tmp_path):
    path = tmp_path / "x.loam"
    path.write_bytes(b"junk" * 999)
    desk.open(path)
    window = desk.window
    assert not window.back_key.isVisible()
    assert window.file.line.hasFocus()
    QTest.keyClick(window.file.line, K.Key_Return)
    qtbot.waitUntil(lambda: isinstance(desk.window, MainWindow))
    assert (tmp_path / "x-new.loam").exists()
    assert path.read_bytes() == b"junk" * 999


def test_a_folder_in_the_place_of_a_workshop_is_said(desk, tmp_path):
    (tmp_path / "f.loam").mkdir()
    desk.open(tmp_path / "f.loam")
    assert "no ordinary file" in desk.window.said.text()


def test_moving_the_open_file_is_said_and_settled(open_window, tmp_path):
    path = tmp_path / "m.loam"
    window = open_window(path=path)
    path.rename(tmp_path / "elsewhere.loam")
    window.look_after()
    assert "moved or replaced" in window.note.text()
    (tmp_path / "elsewhere.loam").rename(path)
    window.look_after()
    assert not window.note.isVisible()


def test_closing_in_the_middle_of_an_import_is_clean(open_window, wait_for, tmp_path):
    path = tmp_path / "c.loam"
    window = open_window(path=path)
    file = tmp_path / "long.csv"
    rows = ["panel,hardness,cell,combo,gloss20"]
    rows += [
        f"P{i // 2000},soft,s{i // 10 % 200},{'AB'[i // 10 % 2]},{80 + i % 7}.{i % 9}"
        for i in range(40_000)
    ]
    file.write_text("\n".join(rows))
    window.bring_in_file(file)
    wait_for(window)
    window.view.take_in()
    writing = []
    window.jobs.progress.connect(lambda key, share: writing.append(key == "take_in"))
    while not any(writing):
        QApplication.processEvents()
    window.close()
    window.session.close()
    assert not window.note.isVisible()
    found = check(path)
    assert found["ok"]
    assert found["trials"] == []
    assert not (tmp_path / "c.loam-wal").exists()


def test_closing_while_a_ranking_comes_is_clean(open_window, tmp_path):
    path = tmp_path / "r.loam"
    make_demo(path)
    window = open_window(path=path)
    window.session.choose(window.session.trials()[0].id)
    window.go("judge")
    assert window.jobs.busy
    window.close()
    assert not window.jobs.busy
    window.session.close()
    assert check(path)["ok"]


def test_views_are_built_in_idle_moments_and_show_what_is(desk, qtbot, tmp_path):
    path = tmp_path / "demo.loam"
    make_demo(path)
    desk.open(path)
    window = desk.window
    qtbot.waitUntil(lambda: not window._warm.isActive(), timeout=20_000)
    assert {"ask", "kit", "panels", "layout", "read", "judge"} <= set(window.views)
    window.go("kit")
    assert window.view.list.count() == len(window.session.combinations())
    window.go("panels")
    assert window.view.list.count() == len(window.session.panels())


def test_going_back_from_an_open_workshop_sets_it_aside(desk, qtbot, tmp_path):
    path = tmp_path / "demo.loam"
    make_demo(path)
    keep_copy(path, datetime(2026, 9, 24, 18, 2, 11))
    desk.open(path)
    first = desk.window
    first.session.run(AddTrial(Trial(0, "After the copy")))
    qtbot.waitUntil(lambda: not first.jobs.busy, timeout=60_000)
    QTest.keyClick(first, K.Key_O, CTRL | Qt.KeyboardModifier.ShiftModifier)
    assert first.view.step == "copies"
    choice = first.view.findChild(QListWidget)
    choice.setCurrentRow(choice.count() - 1)
    QTest.keyClick(choice, K.Key_Return)
    assert "Enter again goes back" in first.note.text()
    QTest.keyClick(choice, K.Key_Return)
    qtbot.waitUntil(lambda: desk.window is not first and isinstance(desk.window, MainWindow))
    assert [t.name for t in desk.window.session.trials()][-1] == "A door that chalks"
    assert "earlier copy" in desk.window.note.text()
    (aside,) = [p for p in tmp_path.glob("demo.loam.set-aside*") if not p.name.endswith("-wal")]
    assert "After the copy" in [t["name"] for t in check(aside)["trials"]]


def test_what_this_version_does_not_know_is_said_and_kept(open_window, tmp_path):
    path = tmp_path / "u.loam"
    make_demo(path)
    db = sqlite3.connect(path)
    db.execute('UPDATE trial SET measurands = \'["gloss20", "smell"]\' WHERE id = 1')
    db.commit()
    db.close()
    window = open_window(path=path)
    assert "measurands smell, which this Loam does not know" in window.note.text()
    window.close()
    window.session.close()
    db = sqlite3.connect(path)
    kept = db.execute("SELECT measurands FROM trial WHERE id = 1").fetchone()[0]
    db.close()
    assert "smell" in kept


def test_a_missing_workshop_offers_its_copies_and_begins_none(desk, qtbot, tmp_path):
    path = tmp_path / "demo.loam"
    damaged(path)
    path.unlink()
    desk.open(path)
    assert isinstance(desk.window, RescueWindow)
    assert "not here any more" in desk.window.said.text()
    assert not desk.window.look_key.isVisibleTo(desk.window)
    assert not path.exists()
    QTest.keyClick(desk.window.choice.list, K.Key_Return)
    qtbot.waitUntil(lambda: isinstance(desk.window, MainWindow))
    assert len(desk.window.session.trials()) > 3


def test_a_log_of_elsewhere_is_said_when_the_window_opens(desk, tmp_path):
    path = tmp_path / "demo.loam"
    make_demo(path)
    db = sqlite3.connect(tmp_path / "other.db", isolation_level=None)
    db.execute("PRAGMA journal_mode = WAL")
    db.execute("CREATE TABLE t(a)")
    (tmp_path / "demo.loam-wal").write_bytes((tmp_path / "other.db-wal").read_bytes())
    db.close()
    desk.open(path)
    assert "does not belong" in desk.window.note.text()
    assert len(desk.window.session.trials()) > 3


def test_panels_of_a_newer_loam_are_left_out_of_every_view(desk, qtbot, tmp_path):
    """They are kept and named; their cells and readings go with them."""
    path = tmp_path / "demo.loam"
    make_demo(path)
    db = sqlite3.connect(path, isolation_level=None)
    for (name,) in db.execute(
        "SELECT name FROM sqlite_master WHERE type='trigger' AND tbl_name='panel_version'"
    ).fetchall():
        db.execute(f"DROP TRIGGER {name}")
    newer = '{"shape": "spiral"}'
    db.execute("UPDATE panel_version SET outline = ? WHERE id % 2 = 0", (newer,))
    db.close()
    desk.open(path)
    window = desk.window
    assert isinstance(window, MainWindow)
    for trial in window.session.trials()[::3]:
        window.turn_to(trial.id)
        qtbot.waitUntil(lambda: not window.jobs.busy, timeout=30_000)
        shown = {p.id for p in window.session.panels()}
        assert {c.panel_id for c in window.session.cells()} <= shown
        for step in ("ask", "kit", "panels", "layout", "work", "read", "judge"):
            window.go(step)
            qtbot.waitUntil(lambda: not window.jobs.busy, timeout=30_000)
