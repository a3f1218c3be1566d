"""A workshop that something else has changed: said by name, put back where no rows are lost."""

import sqlite3
from contextlib import closing

import pytest

from loam.app.commands import TakeInTrial
from loam.app.headless.check import check
from loam.app.session import Session
from loam.demo.scenario import motions
from loam.store.database import WorkshopRefused, said_plainly
from loam.store.schema import MIGRATIONS
from loam.store.structure import PLAIN, changed, digest_of
from loam.store.workshop import Workshop


@pytest.fixture
def path(tmp_path):
    workshop = Workshop(tmp_path / "bench.loam")
    Session(workshop).run(TakeInTrial(motions()))
    workshop.close()
    return workshop.path


def by_hand(path, *statements):
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        db.execute("PRAGMA writable_schema = ON")
        for sql in statements:
            db.execute(sql)


def test_a_workshop_as_loam_made_it_is_plain(path):
    with closing(sqlite3.connect(path)) as db:
        assert digest_of(db) == PLAIN
        assert changed(db) is None


def test_a_file_that_another_version_of_the_database_words_otherwise_is_alike(path):
    by_hand(
        path,
        "UPDATE sqlite_master SET sql = replace(sql, 'CREATE TABLE \"reading\"',"
        " 'CREATE TABLE reading') || ' '",
    )
    with closing(sqlite3.connect(path)) as db:
        assert digest_of(db) != PLAIN
        assert changed(db) is None
    Workshop(path).close()


def test_guards_that_were_taken_away_are_put_back_and_said(path):
    by_hand(
        path, "DROP TRIGGER reading_stands", "DROP TRIGGER strike_stays", "DROP INDEX noted_cell"
    )
    found = check(path)
    assert not found["ok"]
    assert sum("reading_stands" in p for p in found["problems"]) == 1
    workshop = Workshop(path)
    assert "put back" in workshop.said
    assert "reading_stands" in workshop.said
    with pytest.raises(sqlite3.IntegrityError, match="never changed"):
        workshop.connection.execute("UPDATE reading SET value = 1.0")
    workshop.close()
    assert check(path)["ok"]


def test_a_guard_that_guards_nothing_is_put_back(path):
    idle = "CREATE TRIGGER reading_stands BEFORE UPDATE ON reading BEGIN SELECT 1; END"
    by_hand(path, "DROP TRIGGER reading_stands", idle)
    workshop = Workshop(path)
    with pytest.raises(sqlite3.IntegrityError, match="never changed"):
        workshop.connection.execute("UPDATE reading SET value = 1.0")
    workshop.close()


def test_a_version_under_way_gets_its_tables(path):
    by_hand(path, "DROP TABLE decision", "DROP TABLE mark")
    workshop = Workshop(path)
    assert len(Session(workshop).trials()) == 1
    workshop.close()
    assert check(path)["ok"]


def test_a_mark_of_a_version_under_way_is_made_anew(path):
    by_hand(path, "DROP TABLE mark", "CREATE TABLE mark(id INTEGER PRIMARY KEY, token TEXT) STRICT")
    workshop = Workshop(path)
    assert workshop.said == "", "nothing of the trainer's was touched"
    workshop.close()
    assert check(path)["ok"]


BROKEN = {
    "no readings": ("DROP TABLE reading",),
    "no settings": ("DROP TABLE setting",),
    "a view": ("ALTER TABLE strike RENAME TO old", "CREATE VIEW strike AS SELECT * FROM old"),
    "a late view": ("ALTER TABLE decision RENAME TO o", "CREATE VIEW decision AS SELECT * FROM o"),
    "a column less": ("DROP TRIGGER reading_stands", "ALTER TABLE reading DROP COLUMN mark"),
    "a column otherwise": ("ALTER TABLE trial RENAME COLUMN name TO title",),
    "not strict": (
        "UPDATE sqlite_master SET sql = replace(sql, ') STRICT', ')') WHERE name = 'noted'",
    ),
    "a trigger of another": (
        "CREATE TRIGGER mine AFTER INSERT ON reading BEGIN DELETE FROM setting; END",
    ),
}


@pytest.mark.parametrize("how", BROKEN)
def test_tables_that_are_others_are_refused_by_name_and_checked(path, how):
    by_hand(path, *BROKEN[how])
    before = path.read_bytes()
    with pytest.raises(WorkshopRefused) as refused:
        Workshop(path)
    whole = how in ("not strict", "a trigger of another")
    assert refused.value.fault == ("changed" if whole else "damaged")
    assert "Something other than Loam" in refused.value.what
    assert "Free some space" not in refused.value.todo
    assert path.read_bytes() == before
    found = check(path)
    assert not found["ok"]
    assert any("other than Loam" in p for p in found["problems"])


def test_what_only_guards_lack_can_be_looked_at(path):
    by_hand(path, *BROKEN["a trigger of another"])
    look = Workshop(path, look=True)
    assert len(Session(look).trials()) == 1
    look.close()


def test_words_fit_what_is_missing(tmp_path):
    with closing(sqlite3.connect(tmp_path / "x.db")) as db:
        with pytest.raises(sqlite3.OperationalError) as error:
            db.execute("SELECT * FROM gone")
        said = said_plainly(error.value, tmp_path / "x.db")
    assert "Free some space" not in str(said)
    assert said.fault == "damaged"


def test_the_layout_is_of_the_newest_version():
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as db:
        for step in MIGRATIONS:
            for statement in step:
                db.execute(statement)
        assert digest_of(db) == PLAIN, "the layout changed: state its new digest"


def test_values_that_were_bent_are_named_and_the_rest_goes_on(path):
    by_hand(
        path,
        "DROP TRIGGER reading_stands",
        "PRAGMA ignore_check_constraints = ON",
        "UPDATE reading SET phase = 'later' WHERE id = 3",
        "UPDATE reading SET value = 1e300 WHERE id = 4",
        "UPDATE cell SET row = 77 WHERE id = 2",
        "UPDATE stage SET settings = '[1]' WHERE position = 0",
    )
    problems = " ".join(check(path)["problems"])
    assert "Readings that no meter says, not judged: 2." in problems
    assert "Cells off their panel, not shown: 1." in problems
    assert "Facts in stage that are none" in problems
    workshop = Workshop(path)
    session = Session(workshop)
    assert len(session.trials()) == 1
    assert {c.row for c in session.cells()} <= {0, 1, 2, 3, 4}
    assert session.combinations()
    workshop.close()
