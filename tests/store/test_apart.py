"""Writing a whole trial from another thread, and many rows in one step."""

import threading
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.app.commands import TakeInTrial
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.trial import Trial
from loam.demo.scenario import cut_and_finish, motions
from loam.store.cells import cells, set_baselines
from loam.store.database import one_transaction, writing_apart
from loam.store.one_row import rows_at_once
from loam.store.take_out import read_draft
from loam.store.trials import add_trial
from loam.store.workshop import Workshop


@pytest.fixture
def session(tmp_path):
    opened = Session(Workshop(tmp_path / "apart.loam"))
    yield opened
    opened.close()


def test_a_trial_written_apart_is_the_same_and_can_be_taken_back(session):
    here = TakeInTrial(motions())
    session.run(here)
    apart = TakeInTrial(motions())
    path, now = session.workshop.path, session.workshop.now()
    told = []
    worker = threading.Thread(target=lambda: told.append(apart.write_apart(path, now)))
    worker.start()
    worker.join()
    heard = []
    session.subscribe(heard.append)
    session.adopt(apart, told[0])
    assert session.trial_id == apart.id
    assert heard == told
    db = session.workshop.connection
    mine, theirs = read_draft(db, apart.id), read_draft(db, here.id)
    assert replace(mine, side={}, rest={}) == replace(theirs, side={}, rest={})
    assert apart.draft is None, "the history must not hold every reading twice"
    assert session.undo() == "take in readings"
    assert [t.id for t in session.trials()] == [here.id]
    session.redo()
    assert [t.id for t in session.trials()] == [here.id, apart.id]


def test_a_write_apart_that_fails_leaves_nothing(session):
    path = session.workshop.path

    def broken():
        with writing_apart(path) as db, one_transaction(db, path):
            add_trial(db, Trial(0, "half"), "")
            raise LoamError("stopped")

    with pytest.raises(LoamError, match="stopped"):
        broken()
    assert session.workshop.connection.execute("SELECT count(*) FROM trial").fetchone()[0] == 0


@pytest.fixture(scope="module")
def laid(tmp_path_factory):
    session = Session(Workshop(tmp_path_factory.mktemp("b") / "b.loam"))
    session.run(TakeInTrial(cut_and_finish()))
    yield session
    session.close()


@given(st.lists(st.floats(allow_nan=False, allow_infinity=False), min_size=1, max_size=30))
def test_a_baseline_keeps_every_bit_on_its_way_through(laid, values):
    db = laid.workshop.connection
    ids = [c.id for c in cells(db, 1)][: len(values)]
    set_baselines(db, [(i, "haze", v) for i, v in zip(ids, values, strict=True)])
    found = {c.id: c.baseline.get("haze") for c in cells(db, 1)}
    assert [found[i] for i in ids] == values


def test_rows_at_once_are_the_rows_in_their_order(session):
    session.run(TakeInTrial(cut_and_finish()))
    db = session.workshop.connection
    query = "SELECT id, name, hardness FROM panel_version WHERE id > ? ORDER BY name DESC"
    plain = [list(r) for r in db.execute(query, (1,))]
    assert rows_at_once(db, ("id", "name", "hardness"), query, (1,)) == plain
    assert rows_at_once(db, ("id",), "SELECT id FROM panel WHERE id=99") == []
