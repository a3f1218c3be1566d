"""Everything of a trial travels: out, in, out again, and nothing is another."""

import json
from dataclasses import replace

import pytest

from helpers.lived import lived
from loam.app.session import Session
from loam.core.record import COUNTED, NOTE, SORTS, WORK
from loam.store.datapackage import read_package, write_package
from loam.store.take_in import write_draft
from loam.store.take_out import counts_of, read_draft
from loam.store.workshop import Workshop


@pytest.fixture
def home(tmp_path):
    workshop = Workshop(tmp_path / "home.loam")
    session = Session(workshop)
    yield session
    workshop.close()


@pytest.fixture
def away(tmp_path):
    workshop = Workshop(tmp_path / "away.loam")
    yield Session(workshop)
    workshop.close()


def brought(session, path):
    with session.workshop.transaction() as db:
        return write_draft(db, read_package(path), session.workshop.now())


def unstruck(draft):
    """Return a draft as a file has it, where what is struck stands in the log alone."""
    return replace(draft, readings=tuple(replace(r, struck=None) for r in draft.readings))


def test_a_lived_trial_has_a_row_of_every_sort(home):
    trial = lived(home)
    draft = read_draft(home.workshop.connection, trial)
    assert {s.key for s in SORTS if s.key not in ("away", "panel", "trial", "combination", "stage",
                                                  "cell", "baseline", "reading", "strike")} == set(
        draft.rest)  # fmt: skip
    counts = counts_of(home.workshop.connection, trial)
    assert all(counts[key] for key in counts), counts
    wanted = {s.key for s in COUNTED} - {"note"} | set(NOTE.parts) | set(WORK.parts.values())
    assert wanted <= set(counts)


def test_what_goes_out_comes_back_to_the_letter(home, away, tmp_path):
    trial = lived(home)
    db = home.workshop.connection
    first, second = tmp_path / "1.zip", tmp_path / "2.zip"
    write_package(read_draft(db, trial), first)
    assert read_package(first) == unstruck(read_draft(db, trial))
    other = brought(away, first)
    there = away.workshop.connection
    assert counts_of(there, other) == counts_of(db, trial)
    write_package(read_draft(there, other), second)
    mine, theirs = read_draft(db, trial), read_draft(there, other)
    assert mine.side == theirs.side
    for sort in mine.rest:
        assert json.dumps(mine.rest[sort]) == json.dumps(theirs.rest[sort]), sort
    assert mine == theirs
    assert first.read_bytes() == second.read_bytes()
