"""Another bench's file in the real window: joined by itself, or asked where both changed."""

import pytest
from PyQt6.QtCore import Qt

from helpers.hands import press
from loam.app.commands import Assign, EditTrial, SetMatters, TakeReadings
from loam.app.session import Session
from loam.app.what_matters import chosen
from loam.core.trial import Reading
from loam.demo.scenario import motions
from loam.store.copies import copies
from loam.store.datapackage import read_package, write_package
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop

Key = Qt.Key


@pytest.fixture
def other(tmp_path):
    """Return what makes another bench's file: the base, changed by what is done to it there."""

    def make(window, act):
        db = window.session.workshop.connection
        write_package(read_draft(db, window.session.trial_id), tmp_path / "base.zip")
        workshop = Workshop(tmp_path / "other.loam")
        with workshop.transaction() as there:
            write_draft(there, read_package(tmp_path / "base.zip"), workshop.now())
        session = Session(workshop)
        act(session)
        out = tmp_path / "other.zip"
        write_package(read_draft(workshop.connection, session.trial_id), out)
        workshop.close()
        return out

    return make


@pytest.fixture
def window(open_window, tmp_path):
    workshop = Workshop(tmp_path / "bench.loam")
    with workshop.transaction() as db:
        write_draft(db, motions(), workshop.now())
    workshop.close()
    return open_window(path=tmp_path / "bench.loam")


def reads(session):
    cell = next(c for c in session.cells() if c.combination_id is not None)
    session.run(
        TakeReadings(
            session.trial_id, [Reading(0, cell.id, "gloss20", 71.5, ordinal=9, reader="Ivo")]
        )
    )


def test_what_is_new_of_the_trial_comes_and_nothing_twice(window, other, wait_for):
    file = other(window, reads)
    before = len(read_draft(window.session.workshop.connection, 1).readings)
    for said in ("1 reading", "Nothing in the file is new"):
        window.bring_in_file(file)
        wait_for(window)
        assert said in window.note.text()
        assert [t.id for t in window.session.trials()] == [1]
        assert len(read_draft(window.session.workshop.connection, 1).readings) == before + 1
    assert copies(window.session.workshop.path)
    assert window.view.step == "judge"


def clash(window, other):
    """Change the same three things at both benches, each otherwise."""

    def act(session, value=3.0, name="Evening", order=77):
        trial = session.trial
        session.run(SetMatters(trial.id, trial.id, "gloss20", None, value))
        session.run(EditTrial(trial, type(trial)(**{**trial.__dict__, "name": name})))
        cell = next(c for c in session.cells() if c.combination_id is not None)
        session.run(Assign(trial.id, [(cell.id, cell.combination_id, order)]))

    file = other(window, lambda session: (act(session), reads(session)))
    act(window.session, 2.0, "Morning", 55)
    return file


def test_what_both_changed_is_asked_side_by_side(window, other, wait_for):
    file = clash(window, other)
    before = len(read_draft(window.session.workshop.connection, 1).readings)
    window.bring_in_file(file)
    wait_for(window)
    page = window.view.differs
    assert window.view.pages.currentWidget() is page
    assert "3 things changed at both benches" in page.title.text()
    said = {a.what: (a.mine, a.theirs) for a in page.rows.asked}
    assert said["what matters"] == ("gloss 20° 2.0 GU", "gloss 20° 3.0 GU")
    assert "Morning" in said["the trial itself"][0]
    assert len(read_draft(window.session.workshop.connection, 1).readings) == before
    keys = [a.key.partition(":")[0] for a in page.rows.asked]
    while keys[page.rows.at] != "choice":
        press(window, Key.Key_Down)
    press(window, Key.Key_Right)
    press(window, Key.Key_Return)
    wait_for(window)
    session = window.session
    assert chosen(session.workshop.connection, 1)["gloss20"] == 3.0
    assert session.trial.name == "Morning"
    assert len(read_draft(session.workshop.connection, 1).readings) == before + 1
    assert "Joined to Morning" in window.note.text()


def test_all_at_once_and_leaving_it_changes_nothing(window, other, wait_for):
    file = clash(window, other)
    window.bring_in_file(file)
    wait_for(window)
    press(window, Key.Key_2)
    assert set(window.view.differs.answers().values()) == {"theirs"}
    press(window, Key.Key_1)
    assert set(window.view.differs.answers().values()) == {"mine"}
    press(window, Key.Key_Escape)
    assert window.view.step == "ask"
    assert chosen(window.session.workshop.connection, 1)["gloss20"] == 2.0
    window.bring_in_file(file)
    wait_for(window)
    press(window, Key.Key_2)
    press(window, Key.Key_Return)
    wait_for(window)
    assert window.session.trial.name == "Evening"
