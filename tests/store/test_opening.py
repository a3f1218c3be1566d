"""Whatever lies where a workshop should be: it is said, never thrown, and nothing is lost."""

import os
import sqlite3
from datetime import datetime, timedelta

import pytest

from loam.app.commands import TakeInTrial
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.trial import Reading
from loam.demo.scenario import motions
from loam.store.copies import copies, go_back, keep_copy
from loam.store.database import WorkshopRefused, reading_apart
from loam.store.readings import add_reading
from loam.store.workshop import Workshop

NOW = datetime(2026, 9, 26, 14, 2, 11)


@pytest.fixture
def filled(tmp_path):
    path = tmp_path / "bench.loam"
    workshop = Workshop(path, clock=lambda: NOW)
    Session(workshop).run(TakeInTrial(motions()))
    workshop.close()
    return path


def test_closing_leaves_one_plain_file(filled):
    assert [p.name for p in filled.parent.iterdir()] == ["bench.loam"]
    with sqlite3.connect(f"file:{filled}?mode=ro&immutable=1", uri=True) as db:
        assert db.execute("SELECT count(*) FROM reading").fetchone()[0] == 55
    db.close()


def damage_pages(path):
    raw = bytearray(path.read_bytes())
    for start in range(4096, len(raw), 8192):
        raw[start : start + 4096] = os.urandom(4096)
    path.write_bytes(bytes(raw))


BAD = {
    "damaged": damage_pages,
    "cut": lambda p: p.write_bytes(p.read_bytes()[:9000]),
    "junk": lambda p: p.write_bytes(b"what is this " * 999),
    "empty": lambda p: p.write_bytes(b""),
    "newer": lambda p: sqlite3.connect(p).execute("PRAGMA user_version = 99").connection.close(),
    "foreign": lambda p: p.write_bytes(b"SQLite format 3\0" + b"\0" * 84),
}


@pytest.mark.parametrize("how", BAD)
def test_a_bad_file_is_refused_kept_and_mended_from_its_copy(filled, how):
    keep_copy(filled, NOW)
    BAD[how](filled)
    bad = filled.read_bytes()
    with pytest.raises(WorkshopRefused) as refused:
        Workshop(filled)
    assert refused.value.fault
    assert refused.value.todo
    assert filled.read_bytes() == bad
    aside = go_back(filled, copies(filled)[0].path, NOW)
    assert aside.read_bytes() == bad
    mended = Workshop(filled)
    assert len(Session(mended).trials()) == 1
    mended.close()


def test_a_newer_file_can_be_looked_at_and_stays_as_it_is(filled):
    BAD["newer"](filled)
    before = filled.read_bytes()
    look = Workshop(filled, look=True)
    assert [t.name for t in Session(look).trials()] == ["Motions on hard"]
    with pytest.raises(LoamError, match="opened to look at"):
        Session(look).run(TakeInTrial(motions()))
    look.close()
    assert filled.read_bytes() == before


@pytest.mark.parametrize("make", [os.mkfifo, os.mkdir, lambda p: os.symlink("/dev/zero", p)])
def test_only_an_ordinary_file_is_opened(tmp_path, make):
    path = tmp_path / "x.loam"
    make(path)
    with pytest.raises(WorkshopRefused, match="no ordinary file"):
        Workshop(path)


def test_a_folder_that_takes_no_writing_gives_a_look(filled, monkeypatch):
    """As root every folder takes writing, so the refusal of the lock is played."""
    real = os.access
    monkeypatch.setattr(os, "access", lambda p, m: m != os.W_OK and real(p, m))
    look = Workshop(filled)
    assert look.why == "folder"
    assert len(Session(look).trials()) == 1
    with reading_apart(look.reads) as db:
        assert db.execute("SELECT count(*) FROM reading").fetchone()[0] == 55
    look.close()


def test_an_empty_file_without_copies_becomes_a_workshop(tmp_path):
    path = tmp_path / "new.loam"
    path.touch()
    Workshop(path).close()
    assert path.stat().st_size > 0


def test_moving_it_while_open_is_noticed_and_nothing_is_lost(filled, tmp_path):
    workshop = Workshop(filled)
    session = Session(workshop)
    elsewhere = tmp_path / "moved.loam"
    filled.rename(elsewhere)
    assert not workshop.in_place
    cell = session.cells()[30]
    with (
        pytest.raises(WorkshopRefused, match="moved or replaced") as refused,
        workshop.transaction() as db,
    ):
        add_reading(db, Reading(0, cell.id, "gloss20", 80.0), "")
    assert "Move it back" in refused.value.todo
    elsewhere.rename(filled)
    with workshop.transaction() as db:
        add_reading(db, Reading(0, cell.id, "gloss20", 80.0), "")
    workshop.close()
    again = Workshop(filled)
    count = "SELECT count(*) FROM reading"
    assert again.connection.execute(count).fetchone()[0] == 56
    again.close()


def test_copies_are_made_when_something_changed_and_only_a_few_stay(filled):
    assert keep_copy(filled, NOW) is not None
    workshop = Workshop(filled)
    workshop.close()
    assert keep_copy(filled, NOW + timedelta(hours=1)) is None
    for day in range(9):
        for hour in range(2):
            workshop = Workshop(filled)
            session = Session(workshop)
            session.remember("n", day * 10 + hour)
            workshop.close()
            keep_copy(filled, NOW + timedelta(days=day, hours=hour + 2))
    kept = copies(filled)
    assert len(kept) == 6
    assert [c.at.day for c in kept] == [4, 4, 3, 2, 1, 30]
    assert kept == sorted(kept, key=lambda c: c.at, reverse=True)


def test_a_copy_made_beside_an_open_writer_is_whole(filled):
    workshop = Workshop(filled)
    session = Session(workshop)
    session.remember("fresh", 1)
    copy = keep_copy(filled, NOW)
    workshop.close()
    found = Workshop(copy)
    assert Session(found).recall("fresh") == 1
    found.close()


def test_a_damaged_file_is_not_copied_over_good_copies(filled):
    keep_copy(filled, NOW)
    damage_pages(filled)
    with pytest.raises(LoamError, match="damaged"):
        keep_copy(filled, NOW + timedelta(hours=1))
    assert len(copies(filled)) == 1


def test_a_reader_sees_one_moment_while_rows_come_and_go(filled):
    workshop = Workshop(filled)
    with reading_apart(filled) as db:
        before = db.execute("SELECT count(*) FROM reading").fetchone()[0]
        with workshop.transaction() as writer:
            cell = writer.execute("SELECT min(id) FROM cell").fetchone()[0]
            add_reading(writer, Reading(0, cell, "gloss20", 80.0, ordinal=9), "")
        assert db.execute("SELECT count(*) FROM reading").fetchone()[0] == before
    workshop.close()


def test_a_lock_held_by_someone_else_is_said_with_a_way_on(filled, monkeypatch):
    workshop = Workshop(filled)
    workshop.connection.execute("PRAGMA busy_timeout = 1")
    other = sqlite3.connect(filled, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    with (
        pytest.raises(WorkshopRefused, match="writing to the workshop just now") as refused,
        workshop.transaction(),
    ):
        pass
    assert "again" in refused.value.todo
    other.execute("ROLLBACK")
    other.close()
    with workshop.transaction() as db:
        db.execute("INSERT INTO person(name) VALUES ('Runa')")
    workshop.close()


def test_the_lock_file_of_one_who_closed_does_not_let_two_in(filled):
    first = Workshop(filled)
    second = Workshop(filled)
    assert second.why == "window"
    first.close()
    third = Workshop(filled)
    assert third.why == ""
    fourth = Workshop(filled)
    assert fourth.why == "window"
    for workshop in (second, third, fourth):
        workshop.close()
    assert [p.name for p in filled.parent.iterdir()] == ["bench.loam"]
