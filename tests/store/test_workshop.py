"""The workshop file: opening, refusing, upgrading, and readings that stand."""

import random
import signal
import sqlite3
import subprocess
import sys

import pytest

from loam.app.commands import TakeInTrial, take_reading
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.trial import Reading
from loam.demo.scenario import motions
from loam.store.cells import cells
from loam.store.copies import copies
from loam.store.database import WorkshopRefused
from loam.store.readings import readings_of_cells
from loam.store.schema import MIGRATIONS
from loam.store.workshop import Workshop


@pytest.fixture
def workshop(tmp_path):
    opened = Workshop(tmp_path / "bench.loam")
    yield opened
    opened.close()


def test_a_new_file_is_a_workshop_with_the_promised_safety(workshop):
    db = workshop.connection
    assert db.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
    assert db.execute("PRAGMA synchronous").fetchone()[0] == 2  # FULL
    assert db.execute("PRAGMA foreign_keys").fetchone()[0] == 1
    for name, sql in db.execute("SELECT name, sql FROM sqlite_master WHERE type = 'table'"):
        assert "STRICT" in sql, name


def test_a_second_window_may_only_look(workshop):
    second = Workshop(workshop.path)
    assert second.read_only
    with pytest.raises(WorkshopRefused, match="another window"):
        Session(second).run(TakeInTrial(motions()))
    second.close()
    assert not workshop.read_only


def test_closing_the_first_lets_the_next_write(tmp_path):
    first = Workshop(tmp_path / "a.loam")
    first.close()
    second = Workshop(tmp_path / "a.loam")
    assert not second.read_only
    second.close()


def test_a_newer_file_is_refused_and_left_alone(tmp_path):
    path = tmp_path / "new.loam"
    Workshop(path).close()
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version = 99")
    db.close()
    before = path.read_bytes()
    with pytest.raises(WorkshopRefused, match=r"newer Loam.*Update Loam"):
        Workshop(path)
    assert path.read_bytes() == before


@pytest.mark.parametrize(
    "content", [b"not a database at all, just words " * 40, b"\x89PNG" + b"\0" * 4000]
)
def test_what_is_no_database_is_refused(tmp_path, content):
    path = tmp_path / "x.loam"
    path.write_bytes(content)
    with pytest.raises(WorkshopRefused, match="cannot be read as a workshop"):
        Workshop(path)
    assert path.read_bytes() == content


def test_another_programs_database_is_refused(tmp_path):
    path = tmp_path / "other.loam"
    with sqlite3.connect(path) as db:
        db.execute("CREATE TABLE recipe(name TEXT)")
    db.close()
    with pytest.raises(WorkshopRefused, match="not a Loam workshop"):
        Workshop(path)


def test_an_older_file_is_upgraded_after_a_backup(tmp_path):
    path = tmp_path / "old.loam"
    old = Workshop(path)
    Session(old).run(TakeInTrial(motions()))
    old.close()
    step = ("ALTER TABLE panel ADD COLUMN primer TEXT NOT NULL DEFAULT ''",)
    new = Workshop(path, migrations=(*MIGRATIONS, step))
    assert new.version == len(MIGRATIONS) + 1
    assert new.connection.execute("SELECT primer FROM panel").fetchone() == ("",)
    new.close()
    (copy,) = copies(path)
    assert "before" in copy.path.name
    backup = Workshop(copy.path)
    assert backup.connection.execute("SELECT count(*) FROM reading").fetchone()[0] == 55
    backup.close()


def test_a_failed_upgrade_leaves_the_old_version_whole(tmp_path):
    path = tmp_path / "old.loam"
    Workshop(path).close()
    bad = ("CREATE TABLE extra(id INTEGER PRIMARY KEY) STRICT", "THIS IS NOT SQL")
    with pytest.raises(LoamError):
        Workshop(path, migrations=(*MIGRATIONS, bad))
    again = Workshop(path)
    assert again.version == len(MIGRATIONS)
    names = {r[0] for r in again.connection.execute("SELECT name FROM sqlite_master")}
    assert "extra" not in names
    again.close()


def test_readings_can_be_neither_changed_nor_deleted(workshop):
    Session(workshop).run(TakeInTrial(motions()))
    for sql in (
        "UPDATE reading SET value = 1",
        "DELETE FROM reading",
        "DELETE FROM strike WHERE 1",
        "UPDATE strike SET reason = ''",
    ):
        table = "strike" if "strike" in sql else "reading"
        if table == "strike":
            workshop.connection.execute(
                "INSERT INTO strike(reading_id, struck, reason, at) VALUES (1, 1, 'x', '')"
            )
        with pytest.raises(sqlite3.IntegrityError, match="strike it instead"):
            workshop.connection.execute(sql)


def test_nothing_of_a_broken_transaction_stays(workshop):
    def broken():
        with workshop.transaction() as db:
            db.execute("INSERT INTO person(name) VALUES ('Ivo')")
            raise RuntimeError("power")

    with pytest.raises(RuntimeError):
        broken()
    assert workshop.connection.execute("SELECT count(*) FROM person").fetchone()[0] == 0


TYPIST = """
import sys
from pathlib import Path
from loam.app.commands import take_reading
from loam.app.session import Session
from loam.core.trial import Reading
from loam.store.workshop import Workshop
session = Session(Workshop(Path(sys.argv[1])))
cell = session.cells()[20]
for i in range(10_000):
    value = round(60 + (i % 300) / 10, 1)
    reading = Reading(0, cell.id, "gloss20", value, ordinal=i + 1)
    session.run(take_reading(session.trial_id, reading))
    print(i, value, flush=True)
"""


def test_every_accepted_reading_survives_a_kill_at_any_moment(tmp_path):
    path = tmp_path / "kill.loam"
    workshop = Workshop(path)
    Session(workshop).run(TakeInTrial(motions()))
    workshop.close()
    rng = random.Random(5)
    before = 0
    for _ in range(6):
        stop_after = rng.randint(1, 60)
        typist = subprocess.Popen(
            [sys.executable, "-c", TYPIST, str(path)], stdout=subprocess.PIPE, text=True
        )
        told = []
        for line in typist.stdout:
            told.append(float(line.split()[1]))
            if len(told) == stop_after:
                typist.send_signal(signal.SIGKILL)
                break
        rest = typist.stdout.read().splitlines()
        told += [float(line.split()[1]) for line in rest if len(line.split()) == 2]
        typist.stdout.close()
        assert typist.wait() == -signal.SIGKILL
        found = Workshop(path)
        assert not found.read_only, "the lock of a killed window must not linger"
        cell = cells(found.connection, 1)[20]
        kept = [r.value for r in readings_of_cells(found.connection, [cell.id], "gloss20")]
        new = kept[before:]
        assert new[: len(told)] == told
        assert len(new) - len(told) <= 1, "at most the one that was not yet told"
        assert found.connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        before = len(kept)
        found.close()


def test_a_full_disk_is_said_and_everything_before_is_safe(workshop):
    session = Session(workshop)
    session.run(TakeInTrial(motions()))
    db = workshop.connection
    pages = db.execute("PRAGMA page_count").fetchone()[0]
    db.execute(f"PRAGMA max_page_count = {pages + 1}")
    cell = session.cells()[30]
    taken = []

    def fill():
        for i in range(5000):
            reading = Reading(0, cell.id, "gloss20", 80.0 + i % 9, ordinal=i + 1)
            session.run(take_reading(session.trial_id, reading))
            taken.append(reading.value)

    said = r"disk did not take it.*Everything before this is safe"
    with pytest.raises(WorkshopRefused, match=said):
        fill()
    assert taken
    assert session.undo_name == "take a reading"
    db.execute("PRAGMA max_page_count = 1000000")
    assert [r.value for r in readings_of_cells(db, [cell.id])] == taken
    session.run(take_reading(session.trial_id, Reading(0, cell.id, "gloss20", 81.0)))
    assert len(readings_of_cells(db, [cell.id])) == len(taken) + 1
