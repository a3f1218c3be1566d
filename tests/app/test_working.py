"""Gates, losses and what was done, from the file to what is said of the result."""

from dataclasses import replace
from datetime import datetime

import pytest

from loam.app.commands import (
    AddCombination,
    AddPanel,
    AddTrial,
    Assign,
    EditCombination,
    LayOut,
    NoteWork,
    PassGate,
    take_reading,
)
from loam.app.presenters.laying import lay_out_trial
from loam.app.presenters.pace import duration, pace, pace_words, real_seconds
from loam.app.presenters.preparing import gate_lines, preparing
from loam.app.presenters.replan import replan
from loam.app.presenters.working import Wish, heat_limit, working
from loam.app.questions.ranking.find import judge_trial
from loam.app.session import Session
from loam.app.work_against_plan import left_out_key, stages_done
from loam.core.errors import NotEnough, ValueRefused
from loam.core.pacer import track_of
from loam.core.panel import Taping
from loam.core.prepare import DONE, GATES, SKIPPED
from loam.core.trial import BEFORE, Combination, Panel, Reading, Stage, Trial
from loam.core.verdict import unlike_plan
from loam.store import preparation, work
from loam.store.workshop import Workshop

TAPING = Taping(700, 500, 2, 3, 10, 20)
CUT = Stage(
    "Bracken", "Grist 9", "Dipper 21", "microfibre", "coarse", "free-orbital", 4, pad_mm=75.0
)


class Clock:
    """A clock that a test turns."""

    def __init__(self):
        self.now = datetime(2026, 9, 26, 9, 0, 0)

    def __call__(self):
        return self.now

    def at(self, hours, minutes, seconds=0):
        self.now = datetime(2026, 9, 26, hours, minutes, seconds)


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def session(tmp_path, clock):
    opened = Session(Workshop(tmp_path / "s.loam", clock=clock))
    trial = AddTrial(Trial(0, "One", "Which?", ("gloss20", "haze"), 1))
    opened.run(trial)
    opened.choose(trial.id)
    for name, hardness in (("Heron", "soft"), ("Teal", "soft"), ("Snipe", "soft")):
        opened.run(AddPanel(Panel(0, trial.id, name, hardness, TAPING)))
    for code in "AB":
        opened.run(AddCombination(trial.id, Combination(0, code, "", (CUT,))))
    opened.run(AddCombination(trial.id, Combination(0, "X", "", (), "damaged")))
    found = lay_out_trial(opened.workshop.reads, trial.id)
    opened.run(Assign(trial.id, list(found.placements)))
    yield opened
    opened.close()


def in_order(session):
    return sorted((c for c in session.cells() if c.run_order), key=lambda c: c.run_order)


def note(session, cell, what, stage=1, person="Tam", **facts):
    session.run(NoteWork(session.trial_id, cell.id, stage, what, facts, person, "2026-09-26"))


def worked(session, cell, passes=4, **more):
    for number in range(1, passes + 1):
        note(session, cell, "pass", seconds=20.0, paint_s=18.0, number=number, **more)
    note(session, cell, "worked", passes=passes)


def pass_all(session, panel, but=()):
    for gate in GATES:
        if gate.key not in but:
            session.run(PassGate(session.trial_id, [panel.id], gate.key, DONE, {}, "Tam"))


def test_gates_are_passed_taken_back_and_stay_on_disk(session):
    panel = session.panels()[0]
    first = preparing(session, panel)
    assert (first.gate.key, len(first.alike)) == ("wash", 3)
    both = [p.id for p in session.panels()[:2]]
    session.run(PassGate(session.trial_id, both, "wash", DONE, {}, "Tam", "2026-09-26"))
    assert preparing(session, panel).gate.key == "decontaminate"
    assert len(preparing(session, panel).alike) == 2
    assert preparing(session, session.panels()[2]).gate.key == "wash"
    assert gate_lines(preparing(session, panel))[0] == ("Wash", "done", "Tam, 09-26, 09:00")
    session.undo()
    assert preparing(session, panel).gate.key == "wash"
    session.redo()
    assert preparing(session, panel).gate.key == "decontaminate"
    rows = session.workshop.connection.execute("SELECT count(*) FROM gate").fetchone()[0]
    assert rows == 6  # two noted, two taken back, two noted again: nothing is lost


def test_answers_of_the_last_panel_are_offered_for_the_next(session):
    one, two = session.panels()[:2]
    assert preparing(session, one).usual == {}
    pass_all(session, one, but=("damage", "baseline"))
    pass_all(session, two, but=("damage", "baseline"))
    assert preparing(session, one).usual["grit"] == "P2000"
    facts = {"grit": "P1500", "strokes": "20", "direction": "crossed"}
    session.run(PassGate(session.trial_id, [one.id], "damage", DONE, facts, "Tam"))
    assert preparing(session, two).usual == {"how": "by hand", "with": "paper", **facts}


def test_the_baseline_gate_counts_cells_and_opens_by_itself(session):
    panel = session.panels()[0]
    pass_all(session, panel, but=("baseline",))
    cells = session.cells_of(panel.id)
    assert preparing(session, panel).missing == preparing(session, panel).of == 6
    for kind in ("gloss20", "haze"):
        for cell in cells:
            scale = "log" if kind == "haze" else ""
            session.run(
                take_reading(session.trial_id, Reading(0, cell.id, kind, 60.0, BEFORE, scale=scale))
            )
        if kind == "gloss20":
            assert preparing(session, panel).missing == 6  # haze is missing still
    assert preparing(session, panel) is None


def test_a_panel_that_was_begun_is_not_asked(session):
    panel = session.panels()[0]
    cell = next(c for c in in_order(session) if c.panel_id == panel.id)
    note(session, cell, "pass", seconds=20.0, number=1)
    assert preparing(session, panel) is None


@pytest.mark.parametrize("facts", [{}, {"reason": " "}])
def test_a_gate_without_a_reason_is_not_skipped(session, facts):
    panel = session.panels()[0]
    with pytest.raises(ValueRefused, match="for a reason"):
        session.run(PassGate(session.trial_id, [panel.id], "wash", SKIPPED, facts))
    assert preparation.passed(session.workshop.connection, session.trial_id) == {}


def test_what_was_left_out_and_missed_is_carried_to_the_judging(session):
    trial, cells = session.trial, in_order(session)
    panel = session.panels()[0]
    session.run(PassGate(trial.id, [panel.id], "degrease", SKIPPED, {"reason": "no time"}, "Tam"))
    for cell in cells:
        worked(session, cell)
        value = 82.0 + (cell.run_order % 5) * 0.3
        session.run(take_reading(trial.id, Reading(0, cell.id, "gloss20", value)))
    for cell in session.cells()[:-3]:
        session.run(take_reading(trial.id, Reading(0, cell.id, "gloss20", 60.0, BEFORE)))
    note(session, cells[2], "mark", mark="stalled")
    note(session, cells[4], "mark", mark="passes", passes=2)
    found = judge_trial(session.workshop.reads, trial.id, "gloss20", 1)
    said = " ".join(found.work)
    assert "Degrease was left out on Heron: oils may have hidden marks" in said
    notes = " ".join(found.notes)
    assert "the same everywhere" in notes  # nobody read two different starts
    names = {p.id: p.name for p in session.panels()}
    spoiled = [f"{names[c.panel_id]} {c.code}" for c in (cells[2], cells[4])]
    assert all(name in said for name in spoiled)
    assert "(50 % of its dose)" in said
    assert "X leaves them out" in said
    assert found.unlike
    counted = sum(s.cells for s in found.judgement.classes[0].standings)
    session.remember(left_out_key(trial.id), True)
    fewer = judge_trial(session.workshop.reads, trial.id, "gloss20", 1)
    assert sum(s.cells for s in fewer.judgement.classes[0].standings) == counted - 2
    assert "X lets them count" in " ".join(fewer.work)


def test_what_was_done_stands_beside_what_was_planned(session):
    cells = in_order(session)
    worked(session, cells[0])
    worked(session, cells[1], passes=3, timed=True)
    note(session, cells[2], "pass", seconds=20.0, number=1)
    db = session.workshop.connection
    done = stages_done(
        work.paced(db, session.trial_id),
        {c.id: c for c in session.cells()},
        {c.id: c for c in session.combinations()},
        {p.id: p.taping for p in session.panels()},
    )
    assert done[cells[0].id][0].share == 1.0
    timed = done[cells[1].id][0]
    assert timed.timed
    assert timed.share == pytest.approx(3 * 18.0 / timed.planned_s)
    assert done[cells[2].id][0].share == 0.25
    assert unlike_plan(done) == {cells[1].id, cells[2].id}
    session.undo()
    assert cells[2].id not in {w.cell_id for w in work.paced(db, session.trial_id)}


def test_a_lost_panel_is_closed_and_the_rest_is_dealt_round_what_is_done(session):
    cells = in_order(session)
    done = cells[:2]
    for cell in done:
        worked(session, cell)
    lost = [c.id for c in cells if c.panel_id == session.panels()[1].id]
    before = {c.id: (c.combination_id, c.run_order) for c in session.cells()}
    found = replan(session.workshop.reads, session.trial_id, lost)
    assert found.lost == 5
    assert found.words.startswith("On soft its intervals become ")
    act = LayOut(
        session.trial_id,
        list(found.laid.placements),
        "lay out what is left",
        rules=found.laid.rules,
        after_rules=found.laid.after,
    )
    session.run(act)
    after = {c.id: (c.combination_id, c.run_order) for c in session.cells()}
    assert all(after[i] == (None, None) for i in lost)
    assert all(after[c.id] == before[c.id] for c in done)
    control = next(c.id for c in session.combinations() if c.control)
    kept = [i for i, (what, _) in before.items() if what == control and i not in lost]
    assert all(after[i][0] == control for i in kept)
    orders = [order for i, (_, order) in after.items() if order and i not in {c.id for c in done}]
    assert min(orders) > max(c.run_order for c in done)
    assert working(session).cell.run_order == min(orders)
    session.undo()
    assert {c.id: (c.combination_id, c.run_order) for c in session.cells()} == before


def test_a_lost_afternoon_keeps_the_cells_that_tell_most(session):
    cells = in_order(session)
    for cell in cells[:3]:
        worked(session, cell)
    found = replan(session.workshop.reads, session.trial_id, (), 6)
    given = [p for p in found.laid.placements if p[1] is not None and p[2] is not None]
    assert len(given) == 3 + 6
    assert found.lost == len(cells) - 9
    worse = replan(session.workshop.reads, session.trial_id, (), 3)
    assert worse.lost == len(cells) - 6
    same = replan(session.workshop.reads, session.trial_id, (), 99)
    assert same.lost == 0
    assert same.words == "On soft it tells as much as before."


def test_nothing_left_is_said(session):
    lost = [c.id for c in session.cells()]
    with pytest.raises(NotEnough, match="Nothing is left to work"):
        replan(session.workshop.reads, session.trial_id, lost)
    but_one = [c.id for c in in_order(session)[1:]]
    with pytest.raises(NotEnough, match="free cells for 2 combinations"):
        replan(session.workshop.reads, session.trial_id, but_one)


def test_real_minutes_are_told_against_the_plan(session, clock):
    cells = in_order(session)
    planned = pace(session)
    assert (planned.real_s, planned.planned_s) == (0.0, 0.0)
    clock.at(9, 0)
    note(session, cells[0], "pass", seconds=30.0, number=1)
    clock.at(9, 8)
    note(session, cells[0], "worked", passes=4)
    clock.at(10, 30)  # a pause
    note(session, cells[1], "pass", seconds=30.0, number=1)
    clock.at(10, 36, 30)
    note(session, cells[1], "worked", passes=4)
    found = pace(session)
    assert found.real_s == pytest.approx(30.0 + 480.0 + 390.0)
    assert found.left_s == pytest.approx(planned.left_s * 13 / 15)
    each = found.planned_s / 2
    late = found.real_s - found.planned_s
    assert f"{duration(late)} behind the plan so far" in pace_words(session)
    assert each > 60.0
    assert real_seconds([]) == 0.0
    assert [duration(s) for s in (10, 89 * 60, 90 * 60, 7500)] == [
        "1 min",
        "89 min",
        "1 h 30",
        "2 h 05",
    ]


def test_two_people_at_once_do_not_add_their_gaps(session, clock):
    a, b = in_order(session)[:2]
    for minute, cell, person in ((0, a, "Tam"), (1, b, "Mira"), (5, a, "Tam"), (6, b, "Mira")):
        clock.at(9, minute)
        note(session, cell, "pass", person=person, seconds=30.0, number=1)
    assert pace(session).real_s == pytest.approx(30.0 + 30.0 + 300.0 + 300.0)


def test_a_warm_panel_waits_and_the_next_pass_makes_the_reading_old(session, clock):
    cell = working(session).cell
    assert working(session).heat is None
    note(session, cell, "temperature", panel_c=50.0)
    heat = working(session).heat
    assert (heat.panel_c, heat_limit(session)) == (50.0, 40.0)
    assert heat.left_s(clock()) == pytest.approx(heat.wait_s)
    assert 90.0 < heat.wait_s < 120.0
    clock.at(9, 1)
    assert working(session).heat.left_s(clock()) == pytest.approx(heat.wait_s - 60.0)
    note(session, cell, "temperature", panel_c=49.0)
    slower = working(session).heat
    assert slower.wait_s > 4 * heat.wait_s  # it cools more slowly than was assumed
    note(session, cell, "pass", seconds=20.0, number=1)
    assert working(session).heat is None
    session.remember("heat_limit_c", 55)
    note(session, cell, "temperature", panel_c=50.0)
    assert working(session).heat.wait_s == 0.0
    for odd in ("warm", True, -5, 1e9):
        session.remember("heat_limit_c", odd)
        assert heat_limit(session) == 40.0


def test_a_cell_on_a_panel_that_someone_else_works_comes_last(session):
    first = working(session).cell
    other = working(session, Wish(taken=first)).cell
    assert other.panel_id != first.panel_id
    mine = [c for c in in_order(session) if c.panel_id != first.panel_id]
    assert other.id == mine[0].id


def test_the_card_says_what_is_special_of_a_stage(session):
    sanding = replace(CUT, disc="P1500", pad="", compound="", pad_material="", compound_class="")
    rotary = replace(CUT, machine_kind="rotary", machine="Mill", tilt_deg=5.0, burst_s=12.0)
    combination = session.combinations()[0]
    session.run(
        EditCombination(
            session.trial_id, combination, replace(combination, stages=(sanding, rotary))
        )
    )
    cell = next(c for c in in_order(session) if c.combination_id == combination.id)
    shown = {line.what: line.value for line in working(session, Wish(cell.id)).lines}
    assert shown["disc"] == "P1500: take a new one"
    assert "pad" not in shown
    assert "compound" not in shown
    worked(session, cell)
    shown = {line.what: line.value for line in working(session, Wish(cell.id)).lines}
    assert shown["tilt"] == "5°"
    assert shown["passes"] == "4 bursts of 12 s each"
    assert "arm" not in shown
    assert "prime it" in shown["compound"]
    state = working(session, Wish(cell.id))
    plain = track_of(state.settings.section)
    assert plain.whole_s - plain.spread_s == pytest.approx(48.0)
    track = track_of(state.settings.section, burst_s=12.0)
    starts = [track.pass_start(n) - track.spread_s for n in range(1, 5)]
    assert starts == pytest.approx([0.0, 12.0, 24.0, 36.0])
