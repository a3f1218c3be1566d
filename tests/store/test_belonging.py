"""What lies beside a workshop: plain copies are whole, and no strange log is ever played in."""

import os
import shutil
import sqlite3
from contextlib import closing, suppress
from datetime import datetime
from pathlib import Path

import pytest

from loam.app.commands import TakeInTrial
from loam.app.session import Session
from loam.core.trial import Reading
from loam.demo.scenario import motions
from loam.store.copies import copies, go_back, keep_copy
from loam.store.database import WorkshopRefused
from loam.store.readings import add_reading
from loam.store.settling import Settler
from loam.store.workshop import Workshop

NOW = datetime(2026, 9, 26, 14, 2, 11)


def filled(path):
    workshop = Workshop(path, clock=lambda: NOW)
    Session(workshop).run(TakeInTrial(motions()))
    return workshop


@pytest.fixture
def workshop(tmp_path):
    made = filled(tmp_path / "bench.loam")
    made.settle()
    yield made
    if made.is_open:
        made.close()


def type_in(workshop, *values):
    cell = Session(workshop).cells()[30].id
    for value in values:
        with workshop.transaction() as db:
            add_reading(db, Reading(0, cell, "gloss20", value), "")


def values(path):
    """Return what the file alone holds, whatever lies beside it."""
    with closing(sqlite3.connect(f"file:{path}?mode=ro&immutable=1", uri=True)) as db:
        return [r[0] for r in db.execute("SELECT value FROM reading ORDER BY id")][55:]


def cut_off(workshop, folder):
    """Copy what a kill at this moment would leave, and return the path of the file."""
    folder.mkdir()
    for part in ("", "-wal"):
        if os.path.exists(f"{workshop.path}{part}"):
            shutil.copyfile(f"{workshop.path}{part}", f"{folder / 'bench.loam'}{part}")
    return folder / "bench.loam"


def asides(path):
    return sorted(p.name for p in path.parent.iterdir() if "set-aside" in p.name)


def test_a_plain_copy_of_the_open_file_holds_what_was_typed(workshop, tmp_path, qtbot):
    type_in(workshop, 81.1, 82.2)
    assert values(workshop.path) == []
    workshop.settle_by_itself()
    settler = Settler(workshop.path, every=0.01)
    settler.start()
    qtbot.waitUntil(lambda: values(workshop.path) == [81.1, 82.2], timeout=10_000)
    log = f"{workshop.path}-wal"
    qtbot.waitUntil(lambda: os.path.getsize(log) == 0, timeout=10_000)
    type_in(workshop, 83.3)
    qtbot.waitUntil(lambda: values(workshop.path) == [81.1, 82.2, 83.3], timeout=10_000)
    settler.stop()
    by_hand = tmp_path / "copy.loam"
    shutil.copyfile(workshop.path, by_hand)
    alone = Workshop(by_hand)
    assert alone.connection.execute("PRAGMA quick_check").fetchone()[0] == "ok"
    assert alone.said == ""
    alone.close()
    workshop.close()
    assert sorted(p.name for p in tmp_path.iterdir()) == ["bench.loam", "copy.loam"]


@pytest.mark.parametrize("settled", [False, True])
def test_what_a_kill_left_is_played_in(workshop, tmp_path, settled):
    type_in(workshop, 81.1)
    if settled:
        workshop.settle()
        type_in(workshop, 82.2)
    path = cut_off(workshop, tmp_path / "killed")
    again = Workshop(path)
    assert again.said == ""
    again.close()
    assert values(path) == ([81.1, 82.2] if settled else [81.1])
    assert asides(path) == []


def test_a_copy_taken_while_this_log_was_written_takes_what_came_since(workshop, tmp_path):
    type_in(workshop, 81.1)
    early = tmp_path / "early.loam"
    shutil.copyfile(workshop.path, early)
    type_in(workshop, 82.2)
    path = cut_off(workshop, tmp_path / "killed")
    shutil.copyfile(early, path)
    Workshop(path).close()
    assert values(path) == [81.1, 82.2]


def _of_another(workshop, path, folder):
    other = filled(folder / "other.loam")
    type_in(other, 99.0)
    log = Path(f"{other.path}-wal").read_bytes()
    other.close()
    return log


def _of_later(workshop, path, folder):
    """An early copy was put back, and the log of much later stayed."""
    shutil.copyfile(workshop.path, folder / "early.loam")
    for value in (71.0, 72.0, 73.0):
        type_in(workshop, value)
        workshop.settle()
    type_in(workshop, 74.0)
    shutil.copyfile(folder / "early.loam", path)
    return Path(f"{workshop.path}-wal").read_bytes()


def _of_next(workshop, path, folder):
    """The copy of one settling before: the nearest that is foreign."""
    workshop.settle()
    type_in(workshop, 70.0)
    shutil.copyfile(workshop.path, folder / "early.loam")
    workshop.settle()
    type_in(workshop, 71.0)
    shutil.copyfile(folder / "early.loam", path)
    return Path(f"{workshop.path}-wal").read_bytes()


def _of_earlier(workshop, path, folder):
    type_in(workshop, 71.0)
    log = Path(f"{workshop.path}-wal").read_bytes()
    for value in (72.0, 73.0, 74.0):
        workshop.settle()
        type_in(workshop, value)
    workshop.settle()
    shutil.copyfile(workshop.path, path)
    return log


def _of_the_same_earlier(workshop, path, folder):
    """The log's own beginning, beside a file that has more of it."""
    type_in(workshop, 71.0)
    log = Path(f"{workshop.path}-wal").read_bytes()
    type_in(workshop, 72.0)
    workshop.settle()
    shutil.copyfile(workshop.path, path)
    return log


def _of_next_and_more(workshop, path, folder):
    """The next log, beside a file that has only half of the one before."""
    type_in(workshop, 70.0)
    workshop.settle()
    shutil.copyfile(workshop.path, folder / "early.loam")
    type_in(workshop, 71.0)
    workshop.settle()
    workshop.connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    type_in(workshop, 72.0)
    shutil.copyfile(folder / "early.loam", path)
    return Path(f"{workshop.path}-wal").read_bytes()


@pytest.mark.parametrize(
    "made", [_of_next_and_more, _of_another, _of_later, _of_next, _of_earlier, _of_the_same_earlier]
)
def test_a_log_that_does_not_belong_is_set_aside_and_said(workshop, tmp_path, made):
    path = cut_off(workshop, tmp_path / "killed")
    log = made(workshop, path, tmp_path)
    with open(f"{path}-wal", "wb") as file:
        file.write(log)
    before = values(path)
    again = Workshop(path, clock=lambda: NOW)
    assert "does not belong" in again.said
    assert again.connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    type_in(again, 88.8)
    again.close()
    assert values(path) == [*before, 88.8]
    (aside,) = asides(path)
    assert (path.parent / aside).read_bytes() == log


def test_a_log_of_noise_and_half_a_log_change_nothing(workshop, tmp_path):
    type_in(workshop, 81.1)
    workshop.settle()
    type_in(workshop, 82.2)
    path = cut_off(workshop, tmp_path / "killed")
    whole = Path(f"{path}-wal").read_bytes()
    for log in (os.urandom(9000), whole[: len(whole) // 3], b"", whole[:40]):
        trial = cut_off(workshop, tmp_path / f"t{len(log)}")
        with open(f"{trial}-wal", "wb") as file:
            file.write(log)
        Workshop(trial).close()
        assert values(trial)[:1] == [81.1]


def test_neither_whole_is_refused_and_left(workshop, tmp_path):
    type_in(workshop, 81.1)
    path = cut_off(workshop, tmp_path / "killed")
    raw = bytearray(path.read_bytes())
    for start in range(4096, len(raw), 8192):
        raw[start : start + 4096] = os.urandom(4096)
    path.write_bytes(bytes(raw))
    log = Path(f"{path}-wal").read_bytes()
    with pytest.raises(WorkshopRefused) as refused:
        Workshop(path)
    assert refused.value.fault == "damaged"
    assert path.read_bytes() == bytes(raw)
    assert Path(f"{path}-wal").read_bytes() == log


def test_a_strange_journal_is_not_rolled_back(workshop, tmp_path):
    workshop.close()
    other = tmp_path / "other.db"
    db = sqlite3.connect(other, isolation_level=None)
    db.execute("PRAGMA cache_spill = 1")
    db.execute("PRAGMA cache_size = 5")
    db.execute("CREATE TABLE t(a)")
    db.executemany("INSERT INTO t VALUES (?)", [("x" * 900,)] * 400)
    db.execute("BEGIN")
    db.execute("UPDATE t SET a = 'y' || a")
    journal = Path(f"{other}-journal").read_bytes()
    assert len(journal) > 4096
    db.execute("ROLLBACK")
    db.close()
    with open(f"{workshop.path}-journal", "wb") as file:
        file.write(journal)
    again = Workshop(workshop.path, clock=lambda: NOW)
    assert "does not belong" in again.said
    assert len(Session(again).trials()) == 1
    again.close()


def test_a_look_never_plays_in_a_strange_log(workshop, tmp_path):
    path = cut_off(workshop, tmp_path / "killed")
    log = _of_another(workshop, path, tmp_path)
    with open(f"{path}-wal", "wb") as file:
        file.write(log)
    look = Workshop(path, look=True)
    assert "does not belong" in look.said
    look.close()
    assert Path(f"{path}-wal").read_bytes() == log


def test_moved_while_open_the_moved_file_gets_what_was_typed(workshop, tmp_path):
    type_in(workshop, 81.1)
    moved = tmp_path / "moved.loam"
    workshop.path.rename(moved)
    workshop.settle()
    assert values(moved) == [81.1]


def test_moved_and_cut_off_the_old_name_says_where_it_is(workshop, tmp_path):
    type_in(workshop, 81.1)
    path = cut_off(workshop, tmp_path / "killed")
    path.rename(path.with_name("moved.loam"))
    with pytest.raises(WorkshopRefused, match="not here any more") as refused:
        Workshop(path)
    assert refused.value.fault == "missing"
    assert "bench.loam-wal" in refused.value.todo
    path.with_name("moved.loam").rename(path)
    Workshop(path).close()
    assert values(path) == [81.1]


def test_a_missing_workshop_with_copies_is_not_begun_anew(workshop):
    workshop.close()
    keep_copy(workshop.path, NOW)
    workshop.path.unlink()
    with pytest.raises(WorkshopRefused, match="not here any more") as refused:
        Workshop(workshop.path)
    assert refused.value.fault == "missing"
    assert not workshop.path.exists()
    go_back(workshop.path, copies(workshop.path)[0].path, NOW)
    again = Workshop(workshop.path)
    assert len(Session(again).trials()) == 1
    again.close()


def test_going_back_leaves_no_moment_without_a_workshop(workshop, monkeypatch):
    """A kill at each step of it leaves the old file or the copy, and never a mixture."""
    keep_copy(workshop.path, NOW)
    type_in(workshop, 81.1)
    folder = workshop.path.parent
    killed = cut_off(workshop, folder / "killed")
    copy = copies(workshop.path)[0].path
    steps = {"n": 0}
    stop_at = {"n": 0}

    class Killed(BaseException):
        pass

    def step():
        steps["n"] += 1
        if steps["n"] == stop_at["n"]:
            raise Killed

    for name in ("link", "replace", "unlink"):
        real = getattr(os, name)

        def wrapped(*a, _real=real, **k):
            step()
            return _real(*a, **k)

        monkeypatch.setattr(os, name, wrapped)
    seen = set()
    for at in range(1, 9):
        place = folder / f"at{at}"
        place.mkdir()
        for part in ("", "-wal"):
            shutil.copyfile(f"{killed}{part}", f"{place / 'bench.loam'}{part}")
        steps["n"], stop_at["n"] = 0, at
        with suppress(Killed):
            go_back(place / "bench.loam", copy, NOW)
        stop_at["n"] = 0
        assert (place / "bench.loam").exists()
        Workshop(place / "bench.loam", clock=lambda: NOW).close()
        seen.add(tuple(values(place / "bench.loam")))
    assert seen == {(81.1,), ()}


def test_only_whole_copies_are_listed_and_gone_back_to(workshop):
    workshop.close()
    whole = keep_copy(workshop.path, NOW)
    folder = whole.parent
    raw = whole.read_bytes()
    (folder / "2026-09-27 10.00.00.loam").write_bytes(b"")
    (folder / "2026-09-27 11.00.00 no 7.loam").write_bytes(raw[: len(raw) // 2])
    (folder / "2026-09-27 12.00.00 no 8.loam").write_bytes(b"SQLite format 3\0" + b"\0" * 9000)
    (folder / "2026-09-27 13.00.00 no 9.loam").symlink_to(whole)
    assert [c.path for c in copies(workshop.path)] == [whole]
    for bad in sorted(folder.glob("2026-09-27 1*")):
        if not bad.is_symlink():
            before = workshop.path.read_bytes()
            with pytest.raises(Exception, match="could not be put in place"):
                go_back(workshop.path, bad, NOW)
            assert workshop.path.read_bytes() == before


def test_copies_are_thinned_by_their_order_not_by_the_clock(workshop):
    """The clock was set back by a year: the newest copies stay the newest."""
    made = []
    for i in range(9):
        type_in(workshop, 80.0 + i)
        now = NOW.replace(day=20 + i) if i < 4 else NOW.replace(year=2025, day=10 + i)
        made.append(keep_copy(workshop.path, now))
    standing = [c.path for c in copies(workshop.path)]
    assert standing[:3] == made[:5:-1]
    assert values(standing[0])[-1] == 88.0


def test_nobody_else_reads_a_workshop_or_its_copies(workshop):
    type_in(workshop, 81.1)
    copy = keep_copy(workshop.path, NOW)
    for path in (workshop.path, f"{workshop.path}-wal", copy):
        assert os.stat(path).st_mode & 0o777 == 0o600
    assert os.stat(copy.parent).st_mode & 0o777 == 0o700


def test_no_lock_is_written_through_a_link(workshop, tmp_path):
    workshop.close()
    precious = tmp_path / "precious"
    precious.write_text("mine")
    (tmp_path / "bench.loam.lock").symlink_to(precious)
    with pytest.raises(WorkshopRefused, match="link"):
        Workshop(workshop.path)
    assert precious.read_text() == "mine"
    assert (tmp_path / "bench.loam.lock").is_symlink()


def test_one_that_was_cut_off_right_after_it_was_made_is_whole(tmp_path):
    newborn = filled(tmp_path / "new.loam")
    type_in(newborn, 81.1)
    path = cut_off(newborn, tmp_path / "killed")
    newborn.close()
    again = Workshop(path)
    assert again.said == ""
    again.close()
    assert values(path) == [81.1]
    assert asides(path) == []


def test_cut_off_while_the_log_moves_into_the_file_it_is_whole(workshop, tmp_path):
    """Half of the pages are there: alone the file is broken, with its log it is whole."""
    type_in(workshop, *(70.0 + i / 10 for i in range(120)))
    path = cut_off(workshop, tmp_path / "killed")
    workshop.settle()
    old, new = path.read_bytes(), workshop.path.read_bytes()
    assert len(new) > len(old)
    half = bytearray(old)
    for start in range(0, len(old), 8192):
        half[start : start + 4096] = new[start : start + 4096]
    path.write_bytes(bytes(half))
    again = Workshop(path)
    assert again.said == ""
    again.close()
    assert len(values(path)) == 120


def test_a_full_disk_during_an_upgrade_is_said_as_such(workshop, monkeypatch):
    workshop.close()
    with closing(sqlite3.connect(workshop.path, isolation_level=None)) as db:
        named = "SELECT name FROM sqlite_master WHERE type = 'trigger' AND name GLOB ?"
        for ending in ("*_named", "*_logged"):
            for (name,) in db.execute(named, (ending,)).fetchall():
                db.execute(f"DROP TRIGGER {name}")
        for table in ("job_strike", "job_note", "job", "mark", "identity", "change"):
            db.execute(f"DROP TABLE {table}")
        db.execute("ALTER TABLE panel_version DROP COLUMN facts")
        db.execute("PRAGMA user_version = 9")
    before = workshop.path.read_bytes()

    def full(*_):
        raise sqlite3.OperationalError("database or disk is full")

    monkeypatch.setattr("loam.store.copies._copied", full)
    with pytest.raises(WorkshopRefused, match="disk") as refused:
        Workshop(workshop.path)
    assert refused.value.fault == "place"
    assert "Free some space" in refused.value.todo
    assert copies(workshop.path) == []
    monkeypatch.undo()
    again = Workshop(workshop.path)
    assert len(Session(again).trials()) == 1
    again.close()
    after = workshop.path.read_bytes()
    assert before != after


def test_what_only_counts_makes_no_other_copy(workshop):
    """A start that writes what stood there already keeps the copies of earlier days."""
    assert keep_copy(workshop.path, NOW) is not None
    with workshop.transaction() as db:
        db.execute("UPDATE setting SET value = value")
    workshop.settle()
    with workshop.transaction() as db:
        db.execute("UPDATE setting SET value = value")
    assert keep_copy(workshop.path, NOW.replace(hour=15)) is None
    type_in(workshop, 81.1)
    assert keep_copy(workshop.path, NOW.replace(hour=16)) is not None
