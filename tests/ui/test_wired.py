"""Reading from simulated meters over real pseudo-terminals, in the real window."""

import itertools
import threading
import time
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.app.commands import EditTrial
from loam.app.presenters.reading import progress
from loam.app.presenters.tiles import checks
from loam.devices import meter as driver
from loam.simulated.instruments import KINDS
from loam.simulated.serve import Bench
from loam.store import raw_lines
from loam.store.readings import readings_of_cells
from loam.ui.views.read.ports_mode import PortsMode

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier
MOTIONS = 2


def press(key, modifier=NONE):
    QTest.keyClick(QApplication.focusWidget(), key, modifier)
    QApplication.processEvents()


class Desk:
    """A window at Read, and simulated meters on ports of their own."""

    def __init__(self, window, served, wait):
        self.window, self.view, self.served, self._wait = window, window.view, served, wait

    def wait(self):
        self._wait(self.window)

    def read(self):
        """Enter on the empty box."""
        press(K.Key_Return)
        self.wait()

    def sim(self, kind, **changes):
        for name, value in changes.items():
            setattr(self.served.instruments[kind], name, value)

    def own(self):
        """Readings of the cell at hand, newest last."""
        session, cell = self.window.session, self.view.chosen
        found = readings_of_cells(session.workshop.connection, [cell])
        return [r for r in found if r.measurand == self.view.measurand and r.phase == "after"]


@pytest.fixture
def desk(terminals, open_window, wait_for, tmp_path, monkeypatch):
    monkeypatch.setattr(driver, "TIMEOUT_S", 0.4)
    instruments = {name: kind(i, lambda: 0.0) for i, (name, kind) in enumerate(KINDS.items(), 1)}
    for instrument in instruments.values():
        instrument.clock = lambda: 7200.0  # switched on two hours ago: warm
    served = Bench(instruments)
    place = tmp_path / "ports"
    place.mkdir()
    for name, port in served.ports.items():
        (place / name).symlink_to(port)
    going = threading.Event()
    going.set()
    thread = threading.Thread(target=served.run, args=(going.is_set,))
    thread.start()
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[MOTIONS].id)
    window.go("read")
    wait_for(window)
    reading = window.view
    reading.wired.places = [place]
    yield Desk(window, served, wait_for)
    reading.wired.leave()
    going.clear()
    thread.join()
    served.close()


def joined(desk):
    press(K.Key_L, CTRL)
    desk.wait()
    if isinstance(desk.view.mode, PortsMode):
        press(K.Key_Return)
        desk.wait()
    return desk


def test_meters_are_found_and_enter_lets_them_read(desk):
    joined(desk)
    assert "The gloss meter, the film gauge and the thermometer answer" in desk.window.note.text()
    before = len(desk.own())
    desk.sim("gloss", truth={"g20": 84.0, "g60": 92.0, "g85": 98.0, "haze": 20.0})
    desk.read()
    found = desk.own()
    assert len(found) == before + 1
    assert found[-1].value == pytest.approx(84.0, abs=4.0)
    db = desk.window.session.workshop.connection
    raw = raw_lines.of_reading(db, found[-1].id)
    assert f"g20={found[-1].value:.1f}" in raw.line
    assert raw.device_s == 7200.0
    assert desk.view.digits.text() == ""
    assert desk.view.digits.hasFocus()
    press(K.Key_Z, CTRL)
    assert len(desk.own()) == before or desk.own()[-1].struck


def test_a_typed_figure_has_no_line_and_both_ways_go_side_by_side(desk):
    joined(desk)
    QTest.keyClicks(QApplication.focusWidget(), "84,4")
    press(K.Key_Return)
    typed = desk.own()[-1]
    db = desk.window.session.workshop.connection
    assert raw_lines.of_reading(db, typed.id) is None
    assert typed.value == 84.4


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"failing": 20}, "warming up"),
        ({"failing": 25}, "another tile"),
        ({"failing": 30}, "low battery"),
        ({"failing": 40}, "a fault of its own"),
        ({"lifted": True}, "lifted or tilted"),
        ({"drop": 1.0}, "no answer in 3 tries"),
        ({"garble": 1.0}, "in 3 tries"),
    ],
)
def test_a_fault_of_each_kind_is_said_and_reading_by_hand_goes_on(desk, changes, said):
    joined(desk)
    before = len(desk.own())
    desk.sim("gloss", **changes)
    desk.read()
    assert said in desk.view.error.text()
    assert len(desk.own()) == before
    QTest.keyClicks(QApplication.focusWidget(), "84,4")
    press(K.Key_Return)
    assert len(desk.own()) == before + 1
    desk.sim("gloss", failing=0, lifted=False, drop=0.0, garble=0.0)
    desk.read()
    assert len(desk.own()) == before + 2 or desk.view.done


def test_a_meter_that_is_unplugged_is_left_and_the_others_stay(desk):
    joined(desk)
    desk.served.unplug("gloss")
    desk.read()
    assert "gone" in desk.view.error.text() or "no answer" in desk.view.error.text()
    assert desk.view.wired.meter("film") is not None
    QTest.keyClicks(QApplication.focusWidget(), "84,4")
    press(K.Key_Return)
    assert desk.own()[-1].value == 84.4


def test_a_figure_unlike_the_rest_is_asked_back_and_marked(desk):
    joined(desk)
    desk.read()
    desk.sim("gloss", truth={"g20": 40.0, "g60": 60.0, "g85": 70.0, "haze": 20.0})
    before = len(desk.own())
    desk.read()
    assert len(desk.own()) == before
    assert desk.view.digits.text() != ""
    press(K.Key_Return)
    found = desk.own()[-1]
    assert found.mark != ""
    assert raw_lines.of_reading(desk.window.session.workshop.connection, found.id) is not None


def test_scales_of_haze_never_mix(desk):
    session = desk.window.session
    trial = session.trial
    session.run(EditTrial(trial, replace(trial, measurands=(*trial.measurands, "haze"))))
    joined(desk)
    desk.view.turn_kind("haze")
    scale = desk.view._scale(desk.view.state)
    desk.sim("gloss", scale="lin" if scale == "log" else "log")
    before = len(desk.own())
    desk.read()
    assert "turn one of them. Nothing was kept." in desk.view.error.text()
    assert len(desk.own()) == before


def test_ports_are_named_and_asked_for_once(desk):
    press(K.Key_L, CTRL)
    desk.wait()
    mode = desk.view.mode
    assert isinstance(mode, PortsMode)
    named = [p.label for p in desk.view.board.board.pieces[:-1]]
    assert named[-3:] == ["film", "gloss", "ir"]
    film = getattr(K, f"Key_{named.index('film') + 1}")
    press(film)
    press(K.Key_Return)
    desk.wait()
    assert set(desk.view.wired.meters) == {"gloss", "ir"}, "nothing was sent to the film gauge"
    desk.view.wired.leave()
    press(K.Key_L, CTRL)
    desk.wait()
    assert desk.view.mode is None, "it is remembered"
    assert set(desk.view.wired.meters) == {"gloss", "ir"}
    press(K.Key_L, CTRL)  # once meters answer it asks again
    desk.wait()
    press(film)
    press(K.Key_Return)
    desk.wait()
    assert set(desk.view.wired.meters) == {"film", "gloss", "ir"}


def test_a_stuck_button_types_one_reading(desk, qtbot):
    joined(desk)
    before = desk.window.session.tally.taken
    for _ in range(60):
        desk.served.say("gloss", "READY")
    qtbot.waitUntil(lambda: desk.window.session.tally.taken > before, timeout=5000)
    end = time.monotonic() + 2.0
    while time.monotonic() < end:
        desk.served.say("gloss", "READY")
        qtbot.wait(40)
    desk.wait()
    assert desk.window.session.tally.taken <= before + 2
    assert "presses faster than it can read" in desk.view.error.text()


def test_no_meter_is_said(desk, tmp_path):
    desk.view.wired.places = [tmp_path / "nowhere"]
    joined(desk)
    assert "No meter answers on any port" in desk.window.note.text()
    press(K.Key_Return)  # goes to the next cell, as without meters
    assert desk.view.error.text() == ""


def test_the_button_on_the_meter_reads_and_goes_on_to_the_next_cell(desk, qtbot):
    joined(desk)
    seconds = itertools.count()
    desk.view.wired.clock = lambda: float(next(seconds))  # a hand that takes its time
    first = desk.view.chosen
    for _ in range(20):  # one that stands out is read once more
        if desk.view.chosen != first:
            break
        before = len(desk.own())
        cell = desk.view.chosen
        desk.served.say("gloss", "READY")
        qtbot.waitUntil(
            lambda b=before, c=cell: (
                len(desk.own()) > b or desk.view.chosen != c or bool(desk.view.digits.text())
            ),
            timeout=5000,
        )
        desk.wait()
        if desk.view.digits.text():
            press(K.Key_Return)
    assert desk.view.chosen != first
    assert len(desk.own()) == 1


def test_what_a_meter_says_unasked_is_heard(desk, qtbot):
    joined(desk)
    desk.served.say("gloss", "LIFT")
    qtbot.waitUntil(lambda: "lifted or tilted" in desk.view.error.text(), timeout=5000)
    desk.served.say("gloss", "LOWBAT")
    qtbot.waitUntil(lambda: "battery of the gloss meter is low" in desk.window.note.text())
    desk.served.unplug("gloss")
    qtbot.waitUntil(lambda: desk.view.wired.meter("gloss20") is None, timeout=5000)
    assert "gone" in desk.view.error.text()


def test_a_cold_meter_is_said(desk):
    desk.served.instruments["gloss"].started = 7190.0
    joined(desk)
    assert "the gloss meter is cold yet" in desk.window.note.text()


def test_the_tile_is_read_by_the_meter(desk):
    joined(desk)
    press(K.Key_T)
    QTest.keyClicks(QApplication.focusWidget(), "Glim")
    press(K.Key_Return)
    QTest.keyClicks(QApplication.focusWidget(), "92.6")
    press(K.Key_Return)
    desk.sim("gloss", gain=1.02)
    for _ in range(3):
        desk.read()
    (check,) = checks(desk.window.session, "Glim", "gloss20")
    assert check.off == pytest.approx(0.02 * 92.6, abs=0.5)
    assert check.verdict == "doubtful"
    desk.sim("gloss", failing=25)
    desk.read()


FAULTS = (
    {"failing": 20},
    {"failing": 21},
    {"lifted": True},
    {"failing": 23},
    {"failing": 25},
    {"failing": 30},
    {"failing": 40},
    {"garble": 1.0},
    {"drop": 1.0},
)
WELL = {"failing": 0, "lifted": False, "garble": 0.0, "drop": 0.0}


def test_the_demos_trial_is_read_to_its_end_from_meters_with_a_fault_of_each_kind(desk):
    joined(desk)
    session = desk.window.session
    press(K.Key_N, NONE)
    press(K.Key_Return)
    faults = iter(FAULTS)
    wanted = session.trial.readings_per_cell
    seen, typed = [], 0
    for _ in range(2000):
        done, count = progress(session, "gloss20")
        if done == count:
            break
        cell = desk.view.state.cell
        if not desk.view.done and (not seen or seen[-1] != cell.id):
            seen.append(cell.id)
            truth = 76.0 + cell.id % 9
            desk.sim("gloss", truth={"g20": truth, "g60": 92.0, "g85": 98.0, "haze": 20.0})
            fault = next(faults, None) if len(seen) % 3 == 1 else None
            if fault is not None:
                before = len(desk.own())
                desk.sim("gloss", **fault)
                desk.read()
                assert desk.view.error.text() != ""
                assert len(desk.own()) == before
                QTest.keyClicks(QApplication.focusWidget(), f"{truth:.1f}")
                press(K.Key_Return)
                typed += 1
                desk.sim("gloss", **WELL)
                continue
        desk.read()
        if desk.view.digits.text():  # unlike the rest: asked back once
            press(K.Key_Return)
    assert next(faults, None) is None
    assert len(seen) == len(set(seen)) == 29
    db = session.workshop.connection
    rows = db.execute(
        "SELECT raw_line_id IS NULL, count(*) FROM reading r JOIN cell c ON c.id = r.cell_id"
        " JOIN taping t ON t.id = c.taping_id WHERE t.trial_id=? AND c.id IN"
        f" ({','.join('?' * len(seen))}) GROUP BY 1",
        (session.trial_id, *seen),
    ).fetchall()
    assert dict(rows)[1] == typed == len(FAULTS)
    assert dict(rows)[0] >= 29 * wanted - typed


def test_a_test_spot_of_a_car_is_read_by_the_meters_that_were_joined(desk, wait_for):
    joined(desk)
    window = desk.window
    window.go("apply")
    wait_for(window)
    view = window.view
    view.spot_acts.new("D")
    wait_for(window)
    page = view.spot_page
    for m in ("gloss20", "gloss20", "film"):
        page.fields[m].line.setFocus()
        press(K.Key_Return)
        wait_for(window)
    held = view.job.spots[-1].after
    assert [r.measurand for r in held] == ["gloss20", "gloss20", "film"]
    assert all(r.value > 0 for r in held)
    page.fields["defects"].line.setFocus()
    press(K.Key_Return)
    wait_for(window)
    assert "joins meters" in page.fields["defects"].error.text(), "no meter reads marks"
    assert len(view.job.spots[-1].after) == 3
    view.turn("stairs")
    view.choose_part("roof")
    before = len(view.part.survey)
    view.turn("panel")
    press(K.Key_Return)
    wait_for(window)
    assert len(view.part.survey) == before + 1, "the gauge reads the film of a panel too"
