"""The tally kept cell by cell is what counting anew gives, whatever happened in between."""

import random
from dataclasses import replace

import pytest

from loam.app.commands import (
    AddPanel,
    Assign,
    EditPanel,
    EditTrial,
    PutPanelAway,
    StrikeReadings,
    TakeInTrial,
    take_reading,
)
from loam.app.presenters.path import path_state
from loam.app.presenters.reading import panel_progress
from loam.app.session import Session
from loam.app.tally import Tally
from loam.core.trial import Reading
from loam.demo.scenario import cut_and_finish, motions
from loam.store.readings import readings_of_cells
from loam.store.workshop import Workshop


@pytest.fixture
def session(tmp_path):
    opened = Session(Workshop(tmp_path / "t.loam"))
    opened.run(TakeInTrial(cut_and_finish()))
    opened.run(TakeInTrial(motions()))
    yield opened
    opened.close()


def same(session):
    """Compare what was kept up with what is counted anew."""
    kept, db = session.tally, session.workshop.connection
    fresh = Tally.load(db, session.trial_id)
    assert kept.places == fresh.places
    assert kept.order == fresh.order
    assert kept.cells_by == fresh.cells_by
    trial = session.trial
    for phase in ("after", "before"):
        want, got = fresh.counts(db, phase), kept.counts(db, phase)
        assert got.keys() == want.keys()
        for key, (n, mean) in want.items():
            assert got[key] == (n, pytest.approx(mean))
    assert kept.taken == fresh.taken
    wanted = trial.readings_per_cell
    assert kept.full(trial.measurands, wanted) == fresh.full(trial.measurands, wanted)
    for m in trial.measurands:
        done = kept.done(db, m, "after", wanted)
        assert +done == +fresh.done(db, m, "after", wanted)
    assert session.trial_id is not None
    path_state(session)
    panel_progress(session, trial.measurands[0])


def test_a_long_evening_of_acts_keeps_the_tally_right(session):
    rng = random.Random(8)
    trial = session.trial
    same(session)
    for step in range(120):
        cells = session.cells()
        cell = rng.choice(cells)
        act = rng.randrange(6)
        if act <= 2:
            number = rng.randrange(1, 10_000)
            value = round(rng.uniform(70, 95), 1)
            phase = rng.choice(["after", "after", "before"])
            session.run(
                take_reading(trial.id, Reading(0, cell.id, "gloss20", value, phase, number))
            )
        elif act == 3:
            found = [
                r
                for r in readings_of_cells(session.workshop.connection, [cell.id])
                if r.struck is None
            ]
            if found:
                ids = [rng.choice(found).id]
                strike = StrikeReadings(trial.id, ids, "hair", of_cells=frozenset({cell.id}))
                session.run(strike)
        elif act == 4:
            free = [c for c in cells if not session.counts().get((c.id, "gloss20"))]
            if free:
                code = rng.choice([None, *(c.id for c in session.combinations())])
                session.run(Assign(trial.id, [(rng.choice(free).id, code, None)]))
        else:
            (session.undo if rng.random() < 0.6 else session.redo)()
        if step % 10 == 0:
            same(session)
    same(session)


def test_other_readings_a_cell_and_panels_put_away_are_counted(session):
    trial = session.trial
    before = session.tally.full(trial.measurands, 5)
    assert before > 0
    session.run(EditTrial(trial, replace(trial, readings_per_cell=6)))
    assert session.tally.full(trial.measurands, 6) == 0
    same(session)
    panel = session.panels()[0]
    cells = len(session.places())
    session.run(PutPanelAway(trial.id, id=panel.id))
    assert len(session.places()) == cells - panel.taping.rows * panel.taping.columns
    same(session)
    session.undo()
    assert len(session.places()) == cells
    same(session)


def test_panels_coming_going_and_taped_anew_are_counted_panel_by_panel(session, monkeypatch):
    """Nothing but the panel itself is counted: a trial may have fifty thousand cells."""
    kept = session.tally
    monkeypatch.setattr(Tally, "load", lambda *_: pytest.fail("the whole trial was counted"))
    panel = session.panels()[1]
    taping = replace(panel.taping, rows=panel.taping.rows + 1)
    session.run(PutPanelAway(session.trial_id, id=panel.id))
    session.undo()
    session.run(EditPanel(panel, replace(panel, taping=taping)))
    added = replace(panel, id=0, name="one more", physical=0)
    session.run(AddPanel(added))
    session.undo()
    session.redo()
    monkeypatch.undo()
    assert session.tally is kept
    assert len({p.panel_id for p in session.places()}) == len(session.panels())
    same(session)


def test_a_tally_from_another_thread_is_the_same_and_of_one_trial_only(session):
    first = next(t.id for t in session.trials() if t.id != session.trial_id)
    tally = Tally.load(session.workshop.connection, first)
    cells = {p.id for p in tally.places}
    assert {cell for cell, _ in tally.counts(session.workshop.connection)} <= cells
    session.choose(first, tally)
    assert session.tally is tally
    same(session)
