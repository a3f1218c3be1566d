"""Everything of a trial travels: out, in, out again, and nothing is another."""

import json
import re
import sqlite3
from dataclasses import replace
from datetime import datetime
from itertools import permutations
from pathlib import Path

import pytest

from helpers.lived import lived
from loam.app.commands import (
    AddCombination,
    AddPanel,
    AddSpot,
    Assign,
    EditTrial,
    Note,
    NoteWork,
    PutPanelAway,
    SetMatters,
    StrikeReadings,
    TakeInTrial,
    TakeReadings,
)
from loam.app.session import Session
from loam.app.what_matters import chosen
from loam.core.film import Spot
from loam.core.panel import Taping
from loam.core.record import COUNTED, GROWING, NOTE, SORTS, WORK
from loam.core.trial import Combination, Panel, Reading
from loam.store.counts import counts_of
from loam.store.database import WorkshopRefused
from loam.store.datapackage import read_package, write_package
from loam.store.identity import cell_uid
from loam.store.join import BothChanged, Joined, join, trial_here
from loam.store.merge import MINE, THEIRS, registers
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
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
    assert {
        s.key
        for s in SORTS
        if s.key
        not in (
            "away",
            "panel",
            "trial",
            "combination",
            "stage",
            "cell",
            "baseline",
            "reading",
            "strike",
        )
    } == set(draft.rest)
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


def joined(session, draft, choose=""):
    """Join a draft to the trial of a workshop that it is of."""
    with session.workshop.transaction() as db:
        return join(db, trial_here(db, draft), draft, session.workshop.now(), choose)


def bench(folder, name, path):
    """Open a further workshop with a trial from a file."""
    workshop = Workshop(folder / f"{name}.loam")
    with workshop.transaction() as db:
        write_draft(db, read_package(path), workshop.now())
    session = Session(workshop)
    session.choose(session.trials()[0].id)
    return session


def taken(session):
    return read_draft(session.workshop.connection, session.trials()[0].id)


def told(draft):
    """Return what a draft says, whatever the order in which its rows came."""
    cells = {
        c.id: cell_uid(draft.beside("panel", "uid", c.panel_id - 1), c.row, c.column)
        for c in draft.cells
    }
    said = {
        "registers": registers(draft),
        "readings": {
            draft.beside("reading", "uid", i): replace(r, id=0, cell_id=0, struck=None)
            for i, r in enumerate(draft.readings)
        },
        "at": {
            draft.beside("reading", "uid", i): cells[r.cell_id]
            for i, r in enumerate(draft.readings)
        },
        "strikes": {
            draft.beside("strike", "uid", i): (s.struck, s.reason, s.at)
            for i, s in enumerate(draft.strikes)
        },
        "panels": [p.name for p in draft.panels],
        "codes": [c.code for c in draft.combinations],
    }
    for sort in GROWING:
        if sort.key in draft.rest:
            said[sort.key] = {
                r["uid"]: {
                    k: v
                    for k, v in r.items()
                    if k != "id" and (not sort.field(k).of or sort.field(k).of == "person")
                }
                for r in draft.rest[sort.key]
            }
    return said


@pytest.fixture
def benches(home, tmp_path):
    trial = lived(home)
    out = tmp_path / "base.zip"
    write_package(read_draft(home.workshop.connection, trial), out)
    found = [bench(tmp_path, name, out) for name in ("one", "two", "three")]
    yield found
    for session in found:
        session.workshop.close()


def test_a_file_joined_again_brings_nothing(benches):
    one, two, _ = benches
    before = told(taken(one))
    for _ in range(2):
        assert joined(one, taken(two)) == Joined()
    assert told(taken(one)) == before


def typed(session, value, cell=0, ordinal=51):
    cells = [c for c in session.cells() if c.combination_id is not None]
    trial = session.trials()[0].id
    session.run(
        TakeReadings(
            trial, [Reading(0, cells[cell].id, "gloss20", value, ordinal=ordinal, reader="Lise")]
        )
    )


def test_what_is_new_at_two_benches_comes_together_and_nothing_twice(benches):
    one, two, _ = benches
    typed(one, 81.0)
    typed(two, 82.0, 3)
    typed(two, 83.0, 3, 52)
    found = joined(one, taken(two))
    assert found.added == {"reading": 2}
    assert joined(two, taken(one)).added == {"reading": 1}
    assert told(taken(one)) == told(taken(two))
    assert joined(one, taken(two)) == Joined()


def test_every_order_of_joining_three_benches_gives_one_trial(benches, tmp_path):
    for i, session in enumerate(benches):
        session.workshop.clock = lambda i=i: datetime(2026, 9, 28, 9, i)
        typed(session, 80.0 + i, i)
        trial = session.trials()[0].id
        cell = session.cells()[i].id
        session.run(NoteWork(trial, cell, 1, "pass", {"seconds": 10.0 + i}, "Edda"))
        session.run(Note(trial, "wipe", {"what": "wiped", "panels": [session.panels()[i].id]}))
        session.run(AddSpot(trial, session.panels()[0].physical, Spot(40.0, 10.0 + i, 119.0)))
        session.run(AddPanel(Panel(0, trial, "Ninth", "soft", Taping(400, 300, 2, 3, 10, 20))))
        session.run(AddCombination(trial, Combination(0, "Z", f"of bench {i}")))
        free = [c for c in session.cells() if c.combination_id is None]
        session.run(Assign(trial, [(free[i].id, session.combinations()[-1].id, 900 + i)]))
    parts = [taken(s) for s in benches]
    found = []
    for number, order in enumerate(permutations(range(3))):
        write_package(parts[order[0]], tmp_path / "first.zip")
        session = bench(tmp_path, f"o{number}", tmp_path / "first.zip")
        for i in (*order[1:], order[0], order[1]):
            joined(session, parts[i])
        found.append(told(taken(session)))
        session.workshop.close()
    assert all(f == found[0] for f in found)
    ends = [
        uid[:2] for uid in parts[1].side["panel"]["uid"][-1:] + parts[2].side["panel"]["uid"][-1:]
    ]
    assert found[0]["panels"][-3:] == ["Ninth", *(f"Ninth ({end})" for end in ends)]
    assert [code[:2] for code in found[0]["codes"][-3:]] == ["Z", "Z-", "Z-"]
    assert len(found[0]["readings"]) == len(parts[0].readings) + 2


def test_what_one_bench_changed_is_taken_and_what_both_changed_is_asked(benches):
    one, two, three = benches
    trial = one.trials()[0].id
    one.run(SetMatters(trial, trial, "gloss20", 4.0, 2.0))
    assert joined(two, taken(one)).changed == 1
    assert chosen(two.workshop.connection, two.trials()[0].id)["gloss20"] == 2.0
    other = three.trials()[0].id
    three.run(SetMatters(other, other, "gloss20", 4.0, 3.0))
    with pytest.raises(BothChanged, match="what matters") as asked:
        joined(two, taken(three))
    assert [c.key for c in asked.value.conflicts] == ["choice:matters"]
    assert chosen(two.workshop.connection, two.trials()[0].id)["gloss20"] == 2.0
    joined(two, taken(three), THEIRS)
    assert chosen(two.workshop.connection, two.trials()[0].id)["gloss20"] == 3.0
    for session in (one, three):  # who was answered once is not asked again
        joined(session, taken(two))
        assert chosen(session.workshop.connection, session.trials()[0].id)["gloss20"] == 3.0


def test_mine_holds_at_the_other_bench_too(benches):
    one, two, _ = benches
    for session, text in ((one, "first?"), (two, "second?")):
        session.run(EditTrial(session.trial, replace(session.trial, question=text)))
    joined(one, taken(two), MINE)
    joined(two, taken(one))
    assert [taken(s).trial.question for s in (one, two)] == ["first?", "first?"]


def test_a_panel_put_away_goes_at_the_other_bench_and_comes_back_with_its_rows(benches):
    one, two, _ = benches
    panel = one.panels()[1]
    readings = len(taken(two).readings)
    one.run(PutPanelAway(one.trials()[0].id, id=panel.id))
    joined(two, taken(one))
    assert panel.name not in [p.name for p in two.panels()]
    typed(two, 77.0)
    one.undo()
    joined(two, taken(one))
    assert len(taken(two).readings) == readings + 1
    joined(one, taken(two))
    assert told(taken(one)) == told(taken(two))


BY_THE_WAY = ("person", "session", "kit_item", "kit_version", "raw_line", "mark", "sqlite_sequence")


def rows_in(db):
    tables = [r[0] for r in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
    found = {
        t: db.execute(f"SELECT count(*) FROM {t}").fetchone()[0]
        for t in tables
        if t not in BY_THE_WAY
    }
    gone = "SELECT count(*) FROM identity WHERE sort NOT IN ('person', 'item')"
    return {**found, "identity": db.execute(gone).fetchone()[0]}


def test_a_coming_in_that_is_cut_off_anywhere_leaves_nothing_and_comes_whole_the_next_time(
    home, away, tmp_path, monkeypatch
):
    trial = lived(home)
    write_package(read_draft(home.workshop.connection, trial), tmp_path / "t.zip")
    monkeypatch.setattr("loam.store.take_in.PORTION", 300)
    db, path = away.workshop.connection, away.workshop.path
    before = rows_in(db)

    class Cut(Exception):
        pass

    for stop in range(0, 400, 7):
        left = [stop]

        def tell(_share, left=left):
            left[0] -= 1
            if left[0] < 0:
                raise Cut

        command = TakeInTrial(read_package(tmp_path / "t.zip"))
        try:
            command.write_apart(path, away.workshop.now(), tell)
        except Cut:
            assert rows_in(db) == before
            continue
        break
    else:
        raise AssertionError("it never came in")
    assert stop > 20
    mine, theirs = read_draft(home.workshop.connection, trial), read_draft(db, command.id)
    assert mine.side == theirs.side
    assert told(mine) == told(theirs)


def test_a_join_that_the_disk_refuses_changes_nothing(benches, monkeypatch):
    one, two, _ = benches
    typed(two, 82.0, 3)
    file, before = taken(two), read_draft(one.workshop.connection, one.trial_id)

    def full(*_):
        raise sqlite3.OperationalError("database or disk is full")

    monkeypatch.setattr("loam.store.join._say_anew", full)
    with pytest.raises(WorkshopRefused, match="disk"):
        joined(one, file)
    monkeypatch.undo()
    assert read_draft(one.workshop.connection, one.trial_id) == before
    assert joined(one, file).added == {"reading": 1}


def test_what_a_reading_is_worth_at_the_end_is_the_same_in_every_order(benches):
    """One strikes, one strikes and lets count again, one corrects: whoever was last holds."""
    one, two, three = benches
    number = taken(one).readings[0].id
    row = one.workshop.connection.execute("SELECT min(id) FROM reading").fetchone()[0]
    for hour, session, acts in ((9, one, ("hair",)), (10, two, ("dust", None)), (11, three, ())):
        session.workshop.clock = lambda h=hour: datetime(2026, 9, 29, h, 0)
        own = session.workshop.connection.execute("SELECT min(id) FROM reading").fetchone()[0]
        for reason in acts:
            struck = reason is not None
            session.run(StrikeReadings(session.trial_id, [own], reason or "again", struck))
    parts = [taken(s) for s in benches]
    for session in benches:
        for part in (*parts, *parts[:1]):
            joined(session, part)
    assert row
    states = [taken(s).readings[number - 1].struck for s in benches]
    assert states == [states[0]] * 3
    logs = [sorted(taken(s).side["strike"]["uid"]) for s in benches]
    assert logs[0] == logs[1] == logs[2]


def test_the_page_on_formats_names_every_file_and_field():
    page = (Path(__file__).parents[2] / "docs" / "formats.md").read_text()
    for sort in SORTS:
        (line,) = [row for row in page.splitlines() if row.startswith(f"| {sort.file}.csv")]
        for field in sort.fields:
            assert re.search(rf"\b{field.name}\b", line), (sort.file, field.name)
