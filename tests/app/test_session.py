"""Commands, undo and redo; where a trial stands; what is next to read."""

from dataclasses import replace

import pytest

from loam.app.changes import CELLS, READINGS
from loam.app.commands import (
    AddCombination,
    AddPanel,
    AddTrial,
    Assign,
    EditPanel,
    StrikeReadings,
    take_reading,
)
from loam.app.presenters.path import path_state
from loam.app.presenters.reading import entry_state, next_cell
from loam.app.questions.doubts import find as doubted
from loam.app.session import Session
from loam.core.errors import LoamError, ValueRefused
from loam.core.panel import Taping
from loam.core.trial import Combination, Panel, Reading, Stage, Trial
from loam.store import snapshot_cache as kept
from loam.store.readings import readings_of_cells
from loam.store.snapshot import load_snapshot
from loam.store.workshop import Workshop

TAPING = Taping(400, 300, 2, 3, 10, 20)


@pytest.fixture
def session(tmp_path):
    opened = Session(Workshop(tmp_path / "s.loam"))
    yield opened
    opened.close()


def start(session):
    trial = AddTrial(Trial(0, "One", "Which?", ("gloss20",), 2))
    session.run(trial)
    session.choose(trial.id)
    session.run(AddPanel(Panel(0, trial.id, "Heron", "soft", TAPING)))
    for code in "AB":
        session.run(AddCombination(trial.id, Combination(0, code, "", (Stage(code, "", ""),))))
    return trial.id


def take(session, cell, value):
    ordinal = session.counts().get((cell.id, "gloss20"), (0, 0))[0] + 1
    reading = Reading(0, cell.id, "gloss20", value, ordinal=ordinal)
    session.run(take_reading(session.trial_id, reading))


def test_a_command_that_fails_is_not_remembered(session):
    trial_id = start(session)
    before = session.undo_name
    with pytest.raises(ValueRefused, match="panel Heron in this trial already"):
        session.run(AddPanel(Panel(0, trial_id, "Heron", "hard", TAPING)))
    assert session.undo_name == before
    assert len(session.panels()) == 1


def test_a_struck_reading_stays_and_counts_no_more(session):
    trial_id = start(session)
    cell = session.cells()[0]
    take(session, cell, 84.0)
    take(session, cell, 99.0)
    second = readings_of_cells(session.workshop.connection, [cell.id])[1]
    with pytest.raises(ValueRefused, match="needs a reason"):
        session.run(StrikeReadings(trial_id, [second.id], "  "))
    session.run(StrikeReadings(trial_id, [second.id], "hair on the meter"))
    found = readings_of_cells(session.workshop.connection, [cell.id])
    assert [(r.value, r.struck) for r in found] == [(84.0, None), (99.0, "hair on the meter")]
    assert session.counts()[cell.id, "gloss20"] == (1, 84.0)
    session.undo()
    assert session.counts()[cell.id, "gloss20"] == (2, 91.5)


def test_taking_a_reading_back_strikes_it(session):
    start(session)
    cell = session.cells()[0]
    take(session, cell, 84.0)
    session.undo()
    (kept,) = readings_of_cells(session.workshop.connection, [cell.id])
    assert kept.struck == "taken back"
    session.redo()
    (kept,) = readings_of_cells(session.workshop.connection, [cell.id])
    assert kept.struck is None


def test_an_impossible_reading_is_refused(session):
    start(session)
    with pytest.raises(ValueRefused, match="impossible"):
        take(session, session.cells()[0], -4.0)
    assert session.counts() == {}


def test_retaping_never_loses_a_reading(session):
    start(session)
    panel, last = session.panels()[0], session.cells()[-1]
    take(session, last, 80.0)
    with pytest.raises(ValueRefused, match="1 cell with readings would fall off"):
        session.run(EditPanel(panel, replace(panel, taping=replace(TAPING, columns=2))))
    wider = replace(panel, taping=replace(TAPING, columns=4))
    session.run(EditPanel(panel, wider))
    assert len(session.cells()) == 8


def test_listeners_hear_what_changed(session):
    trial_id = start(session)
    heard = []
    session.subscribe(heard.append)
    cell = session.cells()[0]
    session.run(Assign(trial_id, [(cell.id, None, 1)]))
    take(session, cell, 80.0)
    assert [h.kinds for h in heard] == [{CELLS}, {READINGS}]
    assert heard[1].cell_ids == {cell.id}


def test_the_path_says_what_is_next(session):
    assert path_state(session).next_step == "ask"
    trial_id = start(session)
    state = path_state(session)
    assert (state.next_step, state.reached) == ("layout", 3)
    assert state.advice == "6 of 6 cells are still free."
    ids = [c.id for c in session.combinations()]
    cells = session.cells()
    session.run(Assign(trial_id, [(c.id, ids[i % 2], i) for i, c in enumerate(cells)]))
    assert path_state(session).advice == "0 of 6 cells are worked."
    for cell in session.cells():
        take(session, cell, 80.0)
        take(session, cell, 81.0)
    assert path_state(session).next_step == "judge"
    assert path_state(session).facts == "1 panel · 6 cells · 12 readings"


def test_the_next_cell_comes_by_itself(session):
    trial_id = start(session)
    cells = session.cells()
    laid = [cells[0], cells[2], cells[3]]
    ids = [c.id for c in session.combinations()]
    session.run(Assign(trial_id, [(c.id, ids[0], None) for c in laid]))
    assert next_cell(session, "gloss20", None, "after").id == laid[0].id
    take(session, laid[1], 80.0)
    take(session, laid[1], 80.2)
    assert next_cell(session, "gloss20", laid[0].id, "after").id == laid[2].id
    assert next_cell(session, "gloss20", laid[2].id, "after").id == laid[0].id
    state = entry_state(session, session.cells()[2], "gloss20", "after")
    assert state.full
    assert state.next_ordinal == 3


def test_a_file_that_is_reopened_shows_the_same_trial(tmp_path):
    first = Session(Workshop(tmp_path / "r.loam"))
    start(first)
    first.run(AddTrial(Trial(0, "Later")))
    chosen, trials = first.trial_id, first.trials()
    first.close()
    second = Session(Workshop(tmp_path / "r.loam"))
    assert (second.trial_id, second.trials()) == (chosen, trials)
    assert second.undo() == ""
    second.close()


def test_a_trial_is_read_once_until_something_changes(session, monkeypatch):
    start(session)
    read = []

    def counting(db, trial_id, measurands=None):
        read.append(measurands)
        return load_snapshot(db, trial_id, measurands)

    monkeypatch.setattr(kept, "load_snapshot", counting)
    db, trial = session.workshop.connection, session.trial_id
    before = session.loader()
    first = before(db, trial, ["gloss20"])
    assert session.loader()(db, trial, iter(["gloss20"])) is first
    assert session.loader()(db, trial, ["haze"]) is not first
    assert read == [("gloss20",), ("haze",)]
    session.remember("anything", 1)
    assert session.loader()(db, trial, ["gloss20"]) is first, "a preference changes no reading"
    session.run(AddPanel(Panel(0, trial, "Osprey", "hard", TAPING)))
    after = session.loader()(db, trial, ["gloss20"])
    assert [p.name for p in after.panels][-1] == "Osprey"
    assert len(before(db, trial, ["gloss20"]).panels) == 2, "an older question reads for itself"
    assert session.loader()(db, trial, ["gloss20"]) is after, "and is not kept for later ones"


def test_what_is_kept_of_trials_is_bounded(session, monkeypatch):
    start(session)
    monkeypatch.setattr(kept, "MOST_KEPT", 2)
    db, load = session.workshop.connection, session.loader()
    first = load(db, session.trial_id, ["gloss20"])
    for other in ("haze", "clarity"):
        load(db, session.trial_id, [other])
    assert load(db, session.trial_id, ["gloss20"]) is not first, "the oldest went"
    monkeypatch.setattr(kept, "MOST_ROWS", -1)
    one = load(db, session.trial_id, ["ra"])
    assert load(db, session.trial_id, ["ra"]) is not one, "too large to be kept"


def test_who_only_looks_reads_anew_since_another_hand_writes(session):
    start(session)
    with_a_lock = Session(Workshop(session.workshop.path))
    assert with_a_lock.workshop.read_only
    load = with_a_lock.loader()
    db = with_a_lock.workshop.connection
    assert load(db, session.trial_id, None) is not load(db, session.trial_id, None)
    with_a_lock.close()


def test_a_search_for_doubts_can_be_stopped_while_it_reads(session, monkeypatch):
    trial = start(session)
    monkeypatch.setattr(doubted, "STEPS", 1)
    told = []

    def stop(share):
        told.append(share)
        raise RuntimeError("nobody waits for it")

    with pytest.raises(LoamError):
        doubted.doubts_of(session.workshop.reads, trial, 1, stop)
    assert told == [0.0], "at the first step"
    assert doubted.doubts_of(session.workshop.reads, trial, 1, told.append) == []
    assert len(told) > 10, "and at every other"
