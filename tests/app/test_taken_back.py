"""Taking back never sticks, and takes what an act brought by the way off the shelf again."""

from dataclasses import replace

import pytest

from loam.app.commands import (
    AddCombination,
    AddPanel,
    AddTrial,
    EditPanel,
    TakeInTrial,
    take_reading,
)
from loam.app.session import Session
from loam.core.panel import Taping
from loam.core.trial import Combination, Panel, Reading, Stage, Trial
from loam.demo.scenario import motions
from loam.store import kit
from loam.store.people import people
from loam.store.workshop import Workshop

PLAIN = Stage("Rook foam", "Alder cut", "Long throw", "foam-firm", "coarse", "free-orbital")


@pytest.fixture
def session(tmp_path):
    workshop = Workshop(tmp_path / "bench.loam")
    session = Session(workshop)
    session.run(AddTrial(Trial(0, "First", "Which?", ("gloss20",), 3)))
    yield session
    workshop.close()


def shelf(session):
    db = session.workshop.connection
    return {
        sort: [(t.name, t.facts) for t in kit.things(db, sort)]
        for sort in (kit.PAD_KIND, kit.COMPOUND, kit.MACHINE, kit.METER)
    }


def add(session, code="A", stage=PLAIN):
    command = AddCombination(session.trial_id, Combination(0, code, "", (stage,)))
    session.run(command)
    return command


def test_a_combination_takes_the_things_that_it_brought_along(session):
    empty = shelf(session)
    add(session)
    full = shelf(session)
    assert [name for name, _ in full[kit.PAD_KIND]] == ["Rook foam"]
    session.undo()
    assert shelf(session) == empty
    assert not any(kit.things(session.workshop.connection, s, away=True) for s in empty)
    session.redo()
    assert shelf(session) == full
    assert session.combinations()[0].stages[0].pad == "Rook foam"


def test_what_others_brought_stays(session):
    add(session)
    full = shelf(session)
    add(session, "B")
    session.undo()
    assert shelf(session) == full


def test_who_names_it_again_brings_it_back(session):
    add(session)
    full = shelf(session)
    session.undo()
    add(session, "B")
    assert shelf(session) == full
    session.undo()
    assert not any(shelf(session).values())


def test_a_diameter_that_was_filled_in_goes_again(session):
    add(session)
    known = shelf(session)
    add(session, "B", replace(PLAIN, pad_mm=125.0))
    assert shelf(session)[kit.PAD_KIND][0][1]["diameter_mm"] == 125.0
    session.undo()
    assert shelf(session) == known
    add(session, "C", replace(PLAIN, pad_mm=125.0))
    assert shelf(session)[kit.PAD_KIND][0][1]["diameter_mm"] == 125.0


def read(session, value, ordinal, cell=0, **who):
    reading = Reading(0, session.cells()[cell].id, "gloss20", value, ordinal=ordinal, **who)
    session.run(take_reading(session.trial_id, reading))


def panelled(session, rows=2):
    add(session)
    panel = Panel(0, session.trial_id, "P1", "soft", Taping(600, 400, rows, 2, 10, 40))
    session.run(AddPanel(panel))
    return session.panels()[0]


def test_people_and_meters_go_with_the_reading_that_named_them(session):
    panelled(session)
    db = session.workshop.connection
    read(session, 81.0, 1, reader="Ivo", meter="Glim")
    assert people(db) == ["Ivo"]
    assert [t.name for t in kit.things(db, kit.METER)] == ["Glim"]
    session.undo()
    assert people(db) == []
    assert kit.things(db, kit.METER) == []
    read(session, 81.0, 2, reader="Ivo", meter="Glim")
    assert people(db) == ["Ivo"]
    read(session, 82.0, 3, reader="Ivo", meter="Glim")
    session.undo()
    assert people(db) == ["Ivo"], "somebody read before"


def test_struck_readings_do_not_stop_what_lies_before_them(session):
    panel = panelled(session)
    larger = replace(panel, taping=replace(panel.taping, rows=3))
    session.run(EditPanel(panel, larger))
    read(session, 81.0, 1, cell=5)
    assert session.undo()
    assert session.undo() == EditPanel(panel, larger).name
    assert session.panels()[0].taping.rows == 2
    assert session.redo()
    assert session.panels()[0].taping.rows == 3


def test_a_trial_from_a_file_takes_its_things_along(session):
    empty, db = shelf(session), session.workshop.connection
    command = TakeInTrial(motions())
    changes = command.write_apart(session.workshop.path, session.workshop.now())
    session.adopt(command, changes, None)
    full, who = shelf(session), people(db)
    assert full != empty
    assert who
    session.undo()
    assert shelf(session) == empty
    assert people(db) == []
    session.redo()
    assert shelf(session) == full
    assert people(db) == who
