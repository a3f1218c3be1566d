"""Reading beside the digits, in the real window: rounds, wipes, tiles, inspection, stories."""

from dataclasses import replace
from datetime import datetime, timedelta

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from loam.app.commands import AddCombination, AddPanel, AddTrial, CopyTrial, EditTrial
from loam.app.presenters.inspecting import inspections
from loam.app.presenters.rounds import open_round, reading_order
from loam.app.presenters.tiles import checks
from loam.core.panel import Taping
from loam.core.trial import Combination, Panel, Stage, Trial
from loam.core.walk import shortest_walk
from loam.store import kit, noted
from loam.store.about import taken_from
from loam.store.readings import readings_of_cells
from loam.ui.theme import look
from loam.ui.views.read.modes import RoundMode, TileMode

K, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
CTRL = Qt.KeyboardModifier.ControlModifier
CUT, MOTIONS, GLIM = 1, 2, 5


def press(*keys, modifier=NONE):
    for key in keys:
        QTest.keyClick(QApplication.focusWidget(), key, modifier)
        QApplication.processEvents()


def typed(text, enter=True):
    QTest.keyClicks(QApplication.focusWidget(), text)
    if enter:
        press(K.Key_Return)


class Reading:
    def __init__(self, window, wait):
        self.window, self.view, self.session, self._wait = window, window.view, window.session, wait
        self.now = datetime(2026, 9, 26, 14, 0, 0)
        self.session.workshop.clock = lambda: self.now

    def later(self, minutes):
        self.now += timedelta(minutes=minutes)

    def wait(self):
        self._wait(self.window)

    def who(self, reader, meter="Glim"):
        self.view.form.reader.set_text(reader)
        self.session.remember("reader", reader)
        self.view.form.meter.set_text(meter)
        self.session.remember("meter", meter)
        self.view.show_all()
        self.view.take_keyboard()

    def readings(self, cell=None):
        found = readings_of_cells(self.session.workshop.connection, [cell or self.view.chosen])
        return [r for r in found if r.measurand == self.view.measurand]

    def noted(self, *sorts):
        return noted.of_trial(self.session.workshop.connection, self.session.trial_id, *sorts)


@pytest.fixture
def open_reading(open_window, wait_for):
    def make(trial=MOTIONS):
        window = open_window(demo=True)
        window.turn_to(window.session.trials()[trial].id)
        window.go("read")
        wait_for(window)
        return Reading(window, wait_for)

    return make


def test_reading_is_done_with_the_lights_out_and_the_rest_is_not(open_reading):
    at = open_reading()
    assert look.lights_out
    press(K.Key_F8)
    assert not look.lights_out
    press(K.Key_F7)
    assert look.lights_out
    press(K.Key_F12)
    assert not look.lights_out
    press(K.Key_F4, K.Key_F7)
    assert not look.lights_out
    press(K.Key_F12)
    typed("84.6")
    about = taken_from(at.readings()[-1].about)
    assert about.light == "out"
    assert about.spot is not None


def test_a_round_is_walked_by_neighbours_and_its_way_is_drawn(open_reading):
    at = open_reading()
    press(K.Key_N)
    assert isinstance(at.view.mode, RoundMode)
    press(K.Key_Return)
    assert at.view.mode is None
    assert open_round(at.session).blind
    panel = at.session.panels()[0]
    own = [c for c in at.session.cells_of(panel.id) if c.combination_id]
    order = reading_order(at.session)
    t = panel.taping
    wanted = shortest_walk(
        [(c.id, c.row, c.column) for c in own],
        t.cell_width_mm + t.gap_mm,
        t.cell_height_mm + t.gap_mm,
    )
    assert sorted(wanted, key=lambda c: order[c]) == wanted
    picture = at.view.drawing.picture
    assert picture.walk[0] == at.view.chosen
    assert picture.face(at.view.chosen).spot == (0.0, 0.0, 0)
    typed("84.6")
    assert at.view.drawing.picture.face(at.view.chosen).spot[2] == 90
    press(K.Key_Z, modifier=CTRL)
    press(K.Key_Z, modifier=CTRL)
    assert open_round(at.session) is None


def test_writing_out_while_a_round_is_blind_is_noted_as_a_peek(open_reading, tmp_path):
    at = open_reading()
    at.who("Lise")
    at.window.write_out_to(tmp_path / "before.csv")
    at.wait()
    assert at.noted(noted.PEEK) == []
    press(K.Key_N, K.Key_2, K.Key_Return)
    at.window.write_out_to(tmp_path / "during.csv")
    at.wait()
    assert (tmp_path / "during.csv").exists()
    (peek,) = at.noted(noted.PEEK)
    assert (peek.facts["what"], peek.person) == ("out", "Lise")
    assert "a peek is noted" in at.window.note.text()


def test_while_a_round_is_blind_the_combinations_stay_covered(open_reading):
    at = open_reading()
    at.who("Lise")
    press(K.Key_N, K.Key_2, K.Key_Return)
    assert open_round(at.session).order == "random"
    for key, step in (
        (K.Key_F2, "ask"),
        (K.Key_F5, "layout"),
        (K.Key_F6, "work"),
        (K.Key_F8, "judge"),
    ):
        press(key)
        assert (at.window.view.step, at.window.view.wanted) == ("cover", step)
    press(K.Key_F3)
    assert at.window.view.step == "kit"
    press(K.Key_F8, K.Key_P)
    assert at.window.view.step == "judge"
    at.wait()
    (peek,) = at.noted(noted.PEEK)
    assert (peek.facts["what"], peek.person) == ("judge", "Lise")
    assert "peeked once by Lise" in at.window.view.notes.text()
    press(K.Key_F7, K.Key_F8)
    assert at.window.view.step == "cover"
    press(K.Key_C)
    assert at.window.view.step == "judge"
    at.wait()
    assert "Read blind, but peeked once" in at.window.view.notes.text()
    press(K.Key_Z, modifier=CTRL)
    assert at.window.view.step == "cover"


def test_a_round_of_another_trial_covers_only_that_one(open_reading):
    at = open_reading()
    press(K.Key_N, K.Key_Return)
    at.window.turn_to(at.session.trials()[CUT].id)
    at.window.go("judge")
    assert at.window.view.step == "judge"
    at.window.turn_to(at.session.trials()[MOTIONS].id)
    assert at.window.view.step == "cover"


def test_a_wipe_is_noted_and_stands_with_every_reading_after_it(open_reading):
    at = open_reading()
    press(K.Key_W)
    assert "safety data sheet" in at.view.board.board.foot
    press(K.Key_2, K.Key_4, K.Key_Return)
    (wipe,) = at.noted(noted.WIPE)
    assert wipe.facts["often"] == "twice"
    assert wipe.facts["panels"] == [at.view.state.panel.id]
    assert "flashing off, 1 min left" in at.view.form.round.text()
    at.later(6)
    typed("84.6")
    assert "flashing" not in at.view.form.round.text()
    assert wipe.facts["with"] in taken_from(at.readings()[-1].about).wipe
    press(K.Key_W, K.Key_1, K.Key_Return)
    assert at.view.phase == "wash"
    typed("83.9")
    assert at.readings()[-1].phase == "wash"
    press(K.Key_W, K.Key_1, K.Key_Return)
    assert at.view.phase == "day"
    assert at.view.form.round.text().endswith("a day has passed")


def check_tile(figures):
    press(K.Key_T)
    for figure in figures:
        typed(figure)


def test_a_drift_is_found_by_the_tile_corrected_visibly_and_taken_back(open_reading):
    at = open_reading()
    at.who("Lise")
    assert "not checked yet" in at.view.form.tile.text()
    check_tile(("92.4", "92.5", "92.3"))
    assert at.view.mode.last.verdict == "good"
    press(K.Key_Return)
    assert at.view.mode is None
    at.later(30)
    typed("80.0")
    cell = at.view.chosen
    at.later(30)
    assert "A check is due" not in at.view.form.tile.text()
    check_tile(("93.6", "93.7", "93.5"))
    assert at.view.mode.last.verdict == "doubtful"
    assert "1 reading since 14:00 is doubtful" in at.view.board.board.foot
    assert at.view.board.drift.isVisible()
    press(K.Key_D)
    old, new = at.readings(cell)
    assert old.struck == "corrected for drift"
    assert new.mark == "corrected for drift"
    assert new.value == pytest.approx(80.0 / (1 + 0.6 / 92.4), abs=0.02)
    assert new.taken_at == old.taken_at
    assert "doubtful" not in at.view.board.board.foot
    press(K.Key_Z, modifier=CTRL)
    old, new = at.readings(cell)
    assert (old.struck, new.struck) == (None, "taken back")
    press(K.Key_X)
    assert at.readings(cell)[0].struck == "meter off its tile"
    press(K.Key_Z, modifier=CTRL)
    press(K.Key_Escape)
    press(K.Key_F8)
    at.wait()
    assert "1 readings of Glim stand in doubt" in at.window.view.notes.text()


def test_a_tile_check_takes_its_printed_value_and_refuses_what_cannot_be(open_reading):
    at = open_reading()
    at.who("Lise", "Other")
    press(K.Key_T)
    assert isinstance(at.view.mode, TileMode)
    press(K.Key_V)
    typed("ab45.1")
    assert at.view.mode.named == 45.1
    typed("99999")
    assert "impossible" in at.view.board.error.text()
    assert at.view.board.line.text() == "99999"
    press(K.Key_Escape)
    typed("45.0")
    press(K.Key_Backspace)
    assert at.view.mode.read == []
    press(K.Key_C)
    for figure in ("45.0", "45.2", "45.1"):
        typed(figure)
    (found,) = checks(at.session, "Other", "gloss20")
    assert (found.named, found.calibrated, found.verdict) == (45.1, True, "good")
    press(K.Key_Escape, K.Key_Escape)
    at.session.run(EditTrial(at.session.trial, replace(at.session.trial, measurands=("defects",))))
    press(K.Key_T)
    assert "no tile for defects removed" in at.window.note.text()
    assert at.view.mode is None


def test_inspection_by_eye_and_by_the_grid_goes_from_cell_to_cell(open_reading):
    at = open_reading()
    at.who("Lise")
    first = at.view.chosen
    press(K.Key_I)
    assert at.view.board.remains.isVisible()
    typed("15")
    second = at.view.chosen
    assert second != first
    typed("150")
    assert "between 0 and 100" in at.view.board.error.text()
    press(K.Key_Escape)
    press(K.Key_Return)
    assert "Type how much remains" in at.view.board.error.text()
    press(K.Key_G)
    assert at.view.board.squares.isVisible()
    press(*[K.Key_1] * 9, K.Key_0, K.Key_Backspace, K.Key_0)
    press(K.Key_Return)
    assert "54 squares are not answered" in at.view.board.error.text()
    press(K.Key_E, K.Key_Return)
    press(K.Key_D, K.Key_L)
    by = {i.cell_id: i.look for i in inspections(at.session)}
    assert (by[first].method, by[first].remains) == ("eye", 15.0)
    assert (by[second].marked, by[second].squares) == (9, 64)
    assert not readings_of_cells(at.session.workshop.connection, [first], "defects")
    press(*[K.Key_D] * 6)
    assert "out of scope" in at.view.board.board.sentence or at.view.mode.defect == "deep"
    press(K.Key_Return)
    assert inspections(at.session)[-1].look.percent is None
    press(K.Key_Z, modifier=CTRL)
    assert len(inspections(at.session)) == 2


def test_a_scratch_that_catches_the_nail_takes_its_squares_out_of_the_count(open_reading):
    at = open_reading()
    at.who("Lise")
    first = at.view.chosen
    press(K.Key_I, K.Key_G)
    press(*[K.Key_1] * 6, K.Key_N, K.Key_N, K.Key_Backspace, K.Key_N, K.Key_0, K.Key_E)
    assert "6 of 62 squares show a mark. 2 not counted" in at.view.board.board.sentence
    press(K.Key_Return)
    look = inspections(at.session)[-1].look
    assert (look.marked, look.squares, look.out) == (6, 62, (6, 7))
    assert "a scratch catches the nail there" in look.words()
    press(*[K.Key_N] * 64, K.Key_Return)
    assert "Nothing is left to count" in at.view.board.error.text()
    press(K.Key_Escape, K.Key_Escape)
    at.view.choose(first)
    assert "set the meter beside the scratch" in at.view.form.where.text()
    face = at.view.side.drawing.picture.face(first)
    assert face.nail == (6, 7)
    assert "the nail catches" in face.spoken


def test_two_readers_on_the_same_cells_are_told_how_far_they_agree(open_reading):
    at = open_reading()
    start = at.view.chosen
    for reader, shares in (("Lise", (5, 10, 20, 40, 60, 80)), ("Tam", (8, 10, 25, 35, 60, 85))):
        at.who(reader)
        at.view.choose(start)
        press(K.Key_I)
        for share in shares:
            typed(str(share))
        press(K.Key_Escape)
    press(K.Key_I)
    assert "Lise and Tam agree well on 6 cells" in at.view.board.board.foot


def test_the_story_of_a_cell_tells_all_of_it(open_reading):
    at = open_reading()
    at.who("Lise")
    press(K.Key_W, K.Key_Return)
    at.later(6)
    cell = at.view.chosen
    typed("84.6")
    typed("85.0")
    press(K.Key_X, K.Key_1)
    press(K.Key_I)
    typed("15")
    press(K.Key_Escape)
    at.view.choose(cell)
    press(K.Key_H)
    story = at.view.story
    told = [e.title for e in story.strip.events]
    assert any(t.startswith("planned: ") for t in told)
    assert "wiped" in told
    assert any("84.6" in t and "85.0 (struck)" in t for t in told)
    assert any("15 % remain by eye" in t for t in told)
    lines = [line for e in story.strip.events for line in e.lines]
    assert any("spot 0, 0 mm, turned 0°" in line and "typed" in line for line in lines)
    assert any("struck: hair or dust under the meter" in line for line in lines)
    before = story.strip.height()
    press(K.Key_D)
    assert story.strip.sizeHint().height() > before
    press(K.Key_Escape)
    assert at.view.page is None
    press(K.Key_N, K.Key_Return, K.Key_H)
    assert "covered" in " ".join(e.title + e.below for e in story.strip.events)


def test_a_gauge_study_is_read_by_each_and_becomes_the_meters(open_reading):
    at = open_reading(GLIM)
    at.window.go("judge")
    at.wait()
    gauge = at.window.view.gauge
    assert gauge.isVisible()
    sd = gauge.found.study.result.ev
    assert 0.25 < sd < 0.40
    assert gauge.found.readers == ("Ivo", "Lise", "Tam")
    assert "read each 3 times" in gauge.more.text()
    before = at.session.kind("gloss20").repeatability
    press(K.Key_U)
    (glim,) = [t for t in kit.things(at.session.workshop.connection, kit.METER) if t.name == "Glim"]
    assert glim.facts["gloss20:repeat"] == pytest.approx(sd, abs=1e-4)
    assert at.session.kind("gloss20").repeatability == pytest.approx(sd, abs=1e-4) != before
    press(K.Key_F7)
    view = at.window.view
    assert "Say first who reads" in view.form.advice.text()
    view.form.reader.line.setFocus()
    typed("Nel")
    assert "0 of 10" in view.form.left.text()
    for _ in range(10):
        for figure in ("86.1", "86.4", "86.2"):
            typed(figure)
            if view.error.text():
                press(K.Key_Return)
    assert "10 of 10" in view.form.left.text()
    assert "Ivo 30" in view.form.round.text()
    assert "Nel 30" in view.form.round.text()
    press(K.Key_F8)
    at.wait()
    assert gauge.found.readers[-1] == "Nel"
    at.window.turn_to(at.session.trials()[CUT].id)
    at.wait()
    assert at.window.view.rankings["gloss20"].judgement.repeat == pytest.approx(sd, abs=1e-4)
    at.window.go("ask")
    press(K.Key_Z, modifier=CTRL)


def test_the_filler_trap_of_the_demo_is_said_and_shown(open_reading):
    at = open_reading(0)
    at.window.go("judge")
    at.wait()
    judge = at.window.view
    assert judge.trap.text().startswith("Before the wipe B looked best on soft clear")
    assert "that was filler" in judge.trap.text()
    press(K.Key_F)
    assert judge.masking.isVisible()
    found = judge.ranking.masked
    by = {m.group: m for m in found.by_class["soft"]}
    assert by["B"].low < 4.2 < by["B"].high
    assert by["D"].seen
    assert not any(by[c].seen for c in "ACE")
    assert {m.group for m in found.products if m.seen} == {"Loess 4"}
    table = judge.table()
    assert any(row[0].startswith("Plover ") for row in table)
    press(K.Key_M)
    assert judge.trap.text() == ""
    assert judge.looks.currentWidget() is judge.chart


def test_a_gauge_study_is_laid_out_on_untouched_paint(open_window, wait_for):
    window = open_window()
    session = window.session
    add = AddTrial(Trial(0, "Ply", "How well does Ply repeat?", ("film",), 3))
    session.run(add)
    session.choose(add.id)
    session.run(AddPanel(Panel(0, add.id, "Heron", "soft", Taping(760, 420, 2, 5, 14, 40))))
    window.go("layout")
    session.run(AddCombination(add.id, Combination(0, "A", "", (Stage("x", "y", "z"),))))
    window.view.deal()
    wait_for(window)
    assert "no untouched control" in window.note.text()
    session.run(AddCombination(add.id, Combination(0, "U", "untouched", (), "untouched")))
    window.view.deal()
    wait_for(window)
    untouched = session.combinations()[-1].id
    assert {c.combination_id for c in session.cells()} == {untouched}
    window.go("read")
    assert window.view.state.wanted == 3


def test_a_whole_trial_is_typed_without_the_mouse(open_window, wait_for):
    """Every cell of the largest demo trial, all its meters in one go, by keys alone."""
    window = open_window(demo=True)
    session = window.session
    copy = CopyTrial(session.trials()[CUT], "Again")
    session.run(copy)
    wait_for(window)
    trial = next(t for t in session.trials() if t.name == "Again")
    session.run(
        EditTrial(trial, replace(trial, measurands=("gloss20", "haze"), readings_per_cell=2))
    )
    window.turn_to(trial.id)
    window.go("read")
    wait_for(window)
    press(K.Key_T, modifier=CTRL)
    wanted = 2 * 2 * len(session.order())
    assert wanted > 380
    view, typed_in = window.view, 0
    while typed_in < wanted:
        base = 84.0 if view.measurand == "gloss20" or view.done else 18.0
        if view.done and typed_in % 7 == 0:
            press(K.Key_Return)
        QTest.keyClicks(view.digits, f"{base + 0.1 * (typed_in % 5):.1f}")
        QTest.keyClick(view.digits, K.Key_Return)
        typed_in += 1
    rows = session.workshop.connection.execute(
        "SELECT count(*), count(DISTINCT r.cell_id) FROM reading r JOIN cell c ON c.id = r.cell_id"
        " JOIN taping t ON t.id = c.taping_id WHERE t.trial_id=?",
        (trial.id,),
    ).fetchone()
    assert rows == (wanted, len(session.order()))
    assert view.digits.hasFocus()
