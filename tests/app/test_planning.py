"""The plan of a trial: its rules, what the design sees of it, what it will tell, what it costs."""

import json
import math
from dataclasses import replace

import pytest

from loam.app.commands import (
    AddCombination,
    AddPanel,
    AddTrial,
    Assign,
    EditTrial,
    NoteWork,
    SetMatters,
    SetRules,
    take_reading,
)
from loam.app.drawings.outlook import lay_ruler, ruler_height
from loam.app.planning import Rules, planned, rules_of
from loam.app.presenters.kit import new_control
from loam.app.presenters.laying import lay_out_trial
from loam.app.presenters.outlook import cost_lines, look_ahead
from loam.app.session import Session
from loam.core.design import lay_out
from loam.core.design.costs import READ_S, SET_UP_S, WIPE_S
from loam.core.errors import NotEnough, ValueRefused
from loam.core.panel import Taping
from loam.core.readings import kind_of
from loam.core.trial import BEFORE, Combination, Panel, Reading, Stage, Trial
from loam.core.words.outlook import ahead_short, ahead_words
from loam.demo.scenario import make_demo
from loam.store.settings import remember
from loam.store.workshop import Workshop

TAPING = Taping(700, 500, 2, 3, 10, 20)
CUT = Stage(
    "Bracken", "Grist 9", "Dipper 21", "microfibre", "coarse", "free-orbital", 4, pad_mm=75.0
)
GLOSS = kind_of("gloss20")


@pytest.fixture
def session(tmp_path):
    opened = Session(Workshop(tmp_path / "s.loam"))
    trial = AddTrial(Trial(0, "One", "Which?", ("gloss20",), 3))
    opened.run(trial)
    opened.choose(trial.id)
    for name, hardness in (("Heron", "soft"), ("Teal", "soft"), ("Snipe", "hard")):
        opened.run(AddPanel(Panel(0, trial.id, name, hardness, TAPING)))
    for code in "AB":
        opened.run(AddCombination(trial.id, Combination(0, code, "", (CUT,))))
    opened.run(AddCombination(trial.id, Combination(0, "X", "", (), "damaged")))
    yield opened
    opened.close()


def plan(session):
    return planned(session.workshop.connection, session.trial_id)


def laid(session):
    found = lay_out_trial(session.workshop.reads, session.trial_id)
    session.run(Assign(session.trial_id, list(found.placements)))
    return found


def codes(session):
    return {c.id: c.code for c in session.combinations()}


def test_controls_and_combinations_are_told_apart(session):
    found = plan(session)
    assert found.plan.combinations == ("A", "B")
    assert (found.plan.damaged, found.plan.untouched) == (1, 0)
    assert found.id_of["damaged"] == session.combinations()[2].id
    assert [p.hardness for p in found.plan.panels] == ["soft", "soft", "hard"]


def test_a_layout_comes_back_to_the_cells(session):
    laid(session)
    name = codes(session)
    for panel in session.panels():
        own = [name[c.combination_id] for c in session.cells_of(panel.id)]
        assert own.count("X") == 1
        assert abs(own.count("A") - own.count("B")) == 1
    orders = sorted(c.run_order for c in session.cells() if c.run_order)
    assert orders == list(range(1, 16))  # controls are not worked
    before = {c.id: c.combination_id for c in session.cells()}
    assert lay_out_trial(session.workshop.reads, session.trial_id).after.turn == 1  # not yet kept
    session.run(SetRules(session.trial_id, Rules(), Rules(turn=1)))
    laid(session)
    assert {c.id: c.combination_id for c in session.cells()} != before


def test_cells_that_are_kept_or_read_stay_as_they_are(session):
    laid(session)
    cells = session.cells()
    kept, read = cells[0], cells[7]
    session.run(Assign(session.trial_id, [(cells[3].id, None, None)]))
    locked = frozenset({kept.id, cells[3].id})
    session.run(SetRules(session.trial_id, Rules(), Rules(locked=locked, turn=4)))
    session.run(take_reading(session.trial_id, Reading(0, read.id, "gloss20", 81.5)))
    found = plan(session)
    assert sorted(found.plan.fixed.values()) == ["A", "B", "damaged"]  # the read panel's control
    after = {i: c for i, c, _ in found.placements(lay_out(found.plan))}
    assert after[kept.id] == kept.combination_id
    assert after[read.id] == read.combination_id
    assert cells[3].id not in after  # kept empty


@pytest.mark.parametrize(
    "kept",
    [
        "nonsense",
        3,
        {"damaged": -1},
        {"damaged": 1e9},
        {"apart": "yes"},
        {"locked": "x"},
        {"locked": [1.5, None, True]},
        {"turn": -4},
        {"turn": 10**30},
    ],
)
def test_rules_that_cannot_be_count_as_not_said(session, kept):
    with session.workshop.transaction() as db:
        remember(db, f"plan:{session.trial_id}", kept)
    assert rules_of(session.workshop.connection, session.trial_id) == Rules()


def test_too_little_to_lay_out_is_refused_in_words(session):
    session.run(AddTrial(Trial(0, "Two")))
    with pytest.raises(NotEnough, match="no combination"):
        planned(session.workshop.connection, session.trials()[-1].id)
    ahead = look_ahead(session.workshop.reads, session.trials()[-1].id, GLOSS)
    assert "no combination" in ahead.refusal
    ahead = look_ahead(session.workshop.reads, 999, GLOSS)
    assert "put away" in ahead.refusal
    session.run(SetRules(session.trial_id, Rules(), Rules(damaged=6)))
    with pytest.raises(NotEnough, match="soft has 0 free cells for 2 combinations"):
        plan(session)


def test_the_outlook_follows_the_plan_and_what_matters(session):
    before = look_ahead(session.workshop.reads, session.trial_id, GLOSS)
    assert not before.laid
    assert [o.hardness for o in before.outlook] == ["soft", "hard"]
    soft, hard = (o.ahead for o in before.outlook)
    assert soft < hard
    assert {c.key for c in before.choices} == {"panel:hard", "readings"}
    laid(session)
    after = look_ahead(session.workshop.reads, session.trial_id, GLOSS)
    assert after.laid
    assert after.efficiency == pytest.approx({"soft": 0.96, "hard": 0.96})
    assert [o.ahead for o in after.outlook] == pytest.approx([soft, hard], rel=0.02)
    session.run(SetMatters(session.trial_id, session.trial_id, "gloss20", None, 9.0))
    easy = look_ahead(session.workshop.reads, session.trial_id, GLOSS)
    assert easy.sentence.startswith("It can answer for gloss 20°: it shows differences over")
    assert "9.0 GU matters" in easy.sentence


def test_what_one_more_panel_is_said_to_buy_is_what_it_buys(session):
    said = look_ahead(session.workshop.reads, session.trial_id, GLOSS).choices[0]
    assert said.key == "panel:hard"
    session.run(AddPanel(Panel(0, session.trial_id, "Godwit", "hard", TAPING)))
    hard = look_ahead(session.workshop.reads, session.trial_id, GLOSS).outlook[1]
    assert said.effect == ahead_short(kind_of("gloss20"), hard)


def test_costs_add_up(session):
    laid(session)
    costs = look_ahead(session.workshop.reads, session.trial_id, GLOSS).costs
    cells, worked = 18, 15
    assert costs.pads == {("Bracken", 75.0): worked}
    assert costs.grams == pytest.approx({"Grist 9": worked * 0.2e-3 * math.pi * 37.5**2})
    assert costs.read_s == cells * (WIPE_S + 3 * READ_S)
    assert costs.work_s > worked * SET_UP_S
    assert costs.clear_um[0] < costs.clear_um[1]
    lines = cost_lines(costs)
    assert [what for what, _, _ in lines] == ["time", "clear", "pads", "compound"]
    assert lines[2][1] == "15 sets"
    session.run(EditTrial(session.trial, replace(session.trial, readings_per_cell=5)))
    more = look_ahead(session.workshop.reads, session.trial_id, GLOSS).costs
    assert more.read_s - costs.read_s == cells * 2 * READ_S


def test_a_pad_too_large_for_its_cells_is_not_laid_out_and_costs_no_figure(session):
    big = replace(CUT, pad_mm=300.0)
    laid(session)
    added = AddCombination(session.trial_id, Combination(0, "C", "", (big,)))
    session.run(added)
    with pytest.raises(ValueRefused, match="C cannot be worked on Heron") as refused:
        laid(session)
    assert "evenly from 750 mm on" in refused.value.todo
    cell = session.cells()[0]
    session.run(Assign(session.trial_id, [(cell.id, added.id, cell.run_order)]))
    costs = look_ahead(session.workshop.reads, session.trial_id, GLOSS).costs
    assert costs.unknown > 0
    assert ("Bracken", 300.0) not in costs.pads


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    path = tmp_path_factory.mktemp("demo") / "d.loam"
    make_demo(path)
    return path


@pytest.mark.parametrize("measurand", ["gloss20", "haze", "defects", "film"])
def test_a_ruler_lies_inside_its_room(demo, measurand):
    ahead = look_ahead(demo, 2, kind_of(measurand))
    for width in (220, 340, 900):
        check_ruler(lay_ruler(ahead, width, 60), ahead)


def check_ruler(ruler, ahead):
    assert ruler.height == ruler_height(3)
    assert [r.hardness for r in ruler.rows] == ["soft", "medium", "hard"]
    for row, one in zip(ruler.rows, ahead.outlook, strict=True):
        assert row.tape.x == ruler.left
        assert row.tape.right <= ruler.right
        assert row.enough == one.answers
        assert row.text.removeprefix("shows ") in ahead_words(ahead.kind, one)
        assert "Judge (F8)" in ahead.sentence, "it is read: the judgement answers"
    assert ruler.left <= ruler.matters <= ruler.right
    places = [x for x, _ in ruler.marks]
    assert places == sorted(places)
    assert 2 <= len(places) <= 8
    wide = [o.ahead for o in ahead.outlook]
    assert [r.tape.width for r in ruler.rows] == sorted(
        (r.tape.width for r in ruler.rows),
        key=lambda w: wide[[r.tape.width for r in ruler.rows].index(w)],
    )


def test_demo_trials_four_and_five_are_laid_out_by_the_same_code(demo):
    workshop = Workshop(demo)
    for trial_id, most in ((4, 4), (5, 4)):
        found = planned(workshop.connection, trial_id)
        again = {
            found.cell_of[c.panel, c.row, c.column]: c.assigned for c in lay_out(found.plan).cells
        }
        stands = {found.cell_of[p]: what for p, what in found.assigned.items()}
        assert again == stands
        assert len(stands) >= 24
        assert sum(what == "damaged" for what in stands.values()) <= most
    workshop.close()


def test_rules_are_plain_json_in_the_file(session):
    session.run(SetRules(session.trial_id, Rules(), Rules(locked=frozenset({3, 1}), trends=True)))
    row = session.workshop.connection.execute(
        "SELECT value FROM setting WHERE key=?", (f"plan:{session.trial_id}",)
    ).fetchone()
    kept = json.loads(row[0])
    assert (kept["locked"], kept["trends"]) == ([1, 3], True)


def test_the_way_it_is_asked_says_what_it_needs(session):
    session.run(
        EditTrial(
            session.trial, replace(session.trial, question="Does a middle stage earn its clear?")
        )
    )
    ahead = look_ahead(session.workshop.reads, session.trial_id, GLOSS)
    assert ahead.choices[0].key == "reads:film"
    assert "with it and without it" in ahead.notes[0]
    session.run(
        EditTrial(session.trial, replace(session.trial, question="How well does Glim repeat?"))
    )
    ahead = look_ahead(session.workshop.reads, session.trial_id, GLOSS)
    assert ahead.choices[0].key == "control:untouched"
    session.run(AddCombination(session.trial_id, new_control(session, "untouched")))
    assert session.combinations()[-1].code == "Y"  # X is taken
    ahead = look_ahead(session.workshop.reads, session.trial_id, GLOSS)
    assert "control:untouched" not in {c.key for c in ahead.choices}


def test_what_the_last_trial_found_is_marked_on_the_ruler(demo, tmp_path):
    path = tmp_path / "d.loam"
    path.write_bytes(demo.read_bytes())
    session = Session(Workshop(path))
    trial = session.trials()[3]
    ahead = look_ahead(session.workshop.reads, trial.id, GLOSS)
    gaps = ahead.before["medium"]
    assert list(gaps) == sorted(gaps)
    # trial 2 on medium: D leads B by 0.7 in truth, E is 7.5 behind
    assert len(gaps) == 5
    assert 0.2 < gaps[0] < 1.6
    assert 6.0 < gaps[-1] < 9.0
    ruler = lay_ruler(ahead, 330.0, 60.0)
    (row,) = ruler.rows
    shown = [x for x in row.before if ruler.left <= x <= ruler.right]
    assert len(row.before) == len(shown) >= 1
    first = look_ahead(session.workshop.reads, session.trials()[0].id, GLOSS)
    assert first.before == {}
    session.close()


def test_people_share_the_panels_and_a_begun_panel_keeps_its_person(session):
    trial, panels = session.trial, session.panels()
    rules = Rules().with_people(trial, ("Tam", "Mira"), panels, ())
    session.run(SetRules(trial.id, Rules(), rules))
    kept = plan(session).rules
    assert kept == rules
    assert {rules.worker(p.id) for p in panels[:2]} == {"Tam", "Mira"}  # one soft panel each
    other = next(
        r
        for turn in range(50)
        if (r := replace(rules, turn=turn).with_people(trial, ("Ode",), panels, {panels[0].id}))
    )
    assert other.worker(panels[0].id) == rules.worker(panels[0].id)
    assert [other.worker(p.id) for p in panels[1:]] == ["Ode", "Ode"]
    session.undo()
    assert plan(session).rules.workers == ()


@pytest.mark.parametrize("kept", [{"workers": [[1, 2], "x", [3, "Tam"], None]}, {"people": 7}])
def test_odd_people_in_a_file_count_as_not_said(session, kept):
    remember(session.workshop.connection, f"plan:{session.trial_id}", kept)
    rules = plan(session).rules
    assert rules.people == ()
    assert rules.workers == (((3, "Tam"),) if "workers" in kept else ())


def test_what_was_worked_stays_and_a_baseline_does_not_bind(session):
    laid(session)
    worked, other = [c for c in session.cells() if c.run_order][:2]
    note = NoteWork(session.trial_id, worked.id, 1, "pass", {"seconds": 20.0, "number": 1})
    session.run(note)
    session.run(take_reading(session.trial_id, Reading(0, other.id, "gloss20", 70.0, BEFORE)))
    found = plan(session)
    assert list(found.plan.done.values()) == [worked.run_order]
    with pytest.raises(ValueRefused, match="1 of these cells has been worked"):
        session.run(Assign(session.trial_id, [(worked.id, None, None)]))
    session.run(Assign(session.trial_id, [(other.id, None, None)]))
    after = lay_out_trial(session.workshop.reads, session.trial_id)
    placed = {i: (c, order) for i, c, order in after.placements}
    assert placed[worked.id] == (worked.combination_id, worked.run_order)
    assert min(order for i, (_, order) in placed.items() if order and i != worked.id) > (
        worked.run_order
    )
