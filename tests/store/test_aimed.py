"""Single lines of the store and the acts that could be changed without a word, held by tests."""

import pytest

from loam.app.bring_in import read_file
from loam.app.commands import PlanFurther, StrikeReadings, TakeInTrial, TakeReadings
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.kit.facts import BY_SORT, MACHINE
from loam.core.record import READING, TRIAL
from loam.core.trial import Reading
from loam.demo.scenario import motions
from loam.store.datapackage import _value
from loam.store.flat import flat_text
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop

HEAD = "panel,hardness,combo,cell,reading,gloss20,struck\n"


@pytest.fixture
def session(tmp_path):
    workshop = Workshop(tmp_path / "w.loam")
    found = Session(workshop)
    found.run(TakeInTrial(motions()))
    yield found
    workshop.close()


def test_of_two_readings_of_one_number_one_may_be_struck(tmp_path):
    path = tmp_path / "t.csv"
    path.write_text(f"{HEAD}Heron,soft,A,K1,1,84,a hair\nHeron,soft,A,K1,1,86,\n")
    draft = read_file(path)
    assert [r.value for r in draft.readings] == [84.0, 86.0]
    assert [s.reading_id for s in draft.strikes] == [1]
    path.write_text(f"{HEAD}Heron,soft,A,K1,1,84,\nHeron,soft,A,K1,1,86,\n")
    with pytest.raises(LoamError, match="already"):
        read_file(path)


def test_a_struck_one_and_the_one_that_counts_go_out_as_a_table_and_come_back(session, tmp_path):
    cell = session.cells()[0].id
    trial = session.trial_id
    session.run(TakeReadings(trial, [Reading(0, cell, "gloss20", 60.0, ordinal=40)]))
    row = session.workshop.connection.execute("SELECT max(id) FROM reading").fetchone()[0]
    session.run(StrikeReadings(trial, [row], "a hair"))
    session.run(TakeReadings(trial, [Reading(0, cell, "gloss20", 82.0, ordinal=40)]))
    path = tmp_path / "t.csv"
    path.write_text(flat_text(read_draft(session.workshop.connection, trial)))
    draft = read_file(path)
    own = [r.value for r in draft.readings if r.ordinal == 40]
    assert sorted(own) == [60.0, 82.0]
    struck = {s.reading_id for s in draft.strikes if s.struck}
    assert [r.value for r in draft.readings if r.id in struck] == [60.0]


@pytest.mark.parametrize(
    "text", ["9007199254740993", "-9007199254740993", "1_000", " 1", "1.0", "٣"]
)
def test_a_whole_number_that_would_not_stay_one_is_refused(text):
    with pytest.raises(ValueError, match=r".+"):
        _value(text, TRIAL.field("seed"), plain=False)


def test_the_largest_whole_number_that_stays_one_is_taken():
    assert _value("9007199254740992", TRIAL.field("seed"), plain=False) == 2**53
    assert _value("", READING.field("line"), plain=False) is None


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("yes", True),
        ("Y", True),
        ("1", True),
        ("no", False),
        ("none", False),
        ("0", False),
        ("", None),
    ],
)
def test_yes_and_no_are_truths_in_whatever_form(text, value):
    fact = next(f for s in BY_SORT.values() for f in s.facts if f.how == "yes")
    assert fact.read(text) is value
    if value is not None:
        assert fact.read(fact.write(value)) is value
    with pytest.raises(LoamError, match="neither yes nor no"):
        fact.check(1)
    assert MACHINE in BY_SORT


def test_further_cells_stand_last_in_the_order_of_work(session):
    trial = session.trial_id
    last = max(c.run_order or 0 for c in session.cells())
    before = {c.id: c.run_order for c in session.cells()}
    panel = session.panels()[0]
    new = [type(panel)(**{**panel.__dict__, "id": 0, "name": "Ninth", "physical": 0})]
    session.run(PlanFurther(trial, new, [(-1, c.id) for c in session.combinations()[:2]], 4))
    added = [c for c in session.cells() if c.combination_id and before.get(c.id) is None]
    assert len(added) == 2
    assert sorted(c.run_order for c in added) == [last + 1, last + 2]
    assert all(c.run_order == before[c.id] for c in session.cells() if before.get(c.id))


def test_what_undo_takes_back_it_shows(session):
    """The trial that is changed is turned to, and the cells that changed are told."""
    first = session.trial_id
    cell = session.cells()[3].id
    session.run(TakeReadings(first, [Reading(0, cell, "gloss20", 82.0, ordinal=41)]))
    other = TakeInTrial(motions())
    session.run(other)
    session.choose(other.id)
    heard = []
    session.subscribe(heard.append)
    session.undo()
    heard.clear()
    session.undo()
    assert session.trial_id == first
    assert heard[-1].cell_ids == {cell}
    assert heard[-1].trial_id == first
