"""The record that is declared is the workshop that is there."""

import sqlite3

import pytest

from loam.core.errors import ValueRefused
from loam.core.record import (
    BY_KEY,
    CHOICES,
    GROWING,
    INTEGER,
    NOTE,
    NUMBER,
    OBJECT,
    SORTS,
    TEXT,
    WORK,
    Field,
    counted_words,
)
from loam.store.rows import append, insert_sql, own_fields
from loam.store.schema import MIGRATIONS, V11, V12
from loam.store.workshop import Workshop


@pytest.fixture(scope="module")
def db():
    plain = sqlite3.connect(":memory:", isolation_level=None)
    for step in MIGRATIONS:
        for statement in step:
            plain.execute(statement)
    yield plain
    plain.close()


@pytest.mark.parametrize("sort", GROWING, ids=lambda s: s.key)
def test_every_column_of_what_only_grows_is_declared_and_every_declared_one_is_there(db, sort):
    table = {
        row[1]: (row[2], bool(row[3])) for row in db.execute(f"PRAGMA table_info({sort.table})")
    }
    declared = {
        f.stored: f for f in sort.fields if f.stored != "-" and f.name not in ("id", "uid", "made")
    }
    of_reading = {"work_id"} if sort.key == "reading" else set()
    assert set(table) == set(declared) | of_reading | {"id"} | (
        {"trial_id"} if "trial_id" in insert_sql(sort) else set()
    )
    for column, field in declared.items():
        kind, needed = table[column]
        if field.of in ("", "person", "day") and not kind.startswith("BLOB"):
            number = field.of or field.holds == INTEGER
            assert kind == ("INTEGER" if number else "REAL" if field.holds == NUMBER else "TEXT")
        if field.empty and field.holds in (INTEGER, NUMBER):
            assert not needed, (sort.key, column)


def test_whatever_a_field_refers_to_comes_before_it_in_a_file():
    seen = {"person", "day", "board"}
    for sort in SORTS:
        for field in sort.fields:
            assert not field.of or field.of in seen | {sort.key}, (sort.key, field.name)
            assert all(of in seen | {sort.key} for of in field.within.values()), sort.key
        seen.add(sort.key)


def test_the_log_of_changes_knows_every_choice_that_travels():
    logged = " ".join((*V11, *V12))
    assert all(f"'{key}:*'" in logged for key in CHOICES if key != "assumed")


def test_rows_are_added_by_the_names_of_the_record(tmp_path):
    workshop = Workshop(tmp_path / "w.loam")
    with workshop.transaction() as db:
        db.execute(
            "INSERT INTO trial(id, name, question, measurands, readings_per_cell, seed, note,"
            " created_at) VALUES (1, 'One', '', '[]', 5, 1, '', '')"
        )
        row = append(db, NOTE, trial=1, sort="wipe", facts="{}", at="2026-09-26T10:00:00")
        with pytest.raises(KeyError, match="colour"):
            append(db, NOTE, trial=1, sort="wipe", facts="{}", at="", colour="red")
        found = db.execute(
            "SELECT sort, cell_id, facts, at FROM noted WHERE id=?", (row,)
        ).fetchone()
    assert found == ("wipe", None, "{}", "2026-09-26T10:00:00")
    assert [f.name for f in own_fields(WORK)][:2] == ["cell", "stage"]
    workshop.close()


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        (Field("rows", INTEGER, low=1, high=9), 0, "rows lies between 1 and 9"),
        (Field("x_mm", NUMBER), float("nan"), "this is no number"),
        (Field("x_mm", NUMBER), True, "this is no number"),
        (Field("note", TEXT, high=3), "long", "has 4 letters; 3 is the most"),
        (Field("what", choices=("a", "b")), "c", "what is one of a, b"),
        (Field("facts", OBJECT), "x" * 30_000, "longer than it may be"),
        (Field("cell", INTEGER), None, "cell is missing"),
    ],
)
def test_a_value_that_cannot_be_is_refused_by_its_field(field, value, said):
    with pytest.raises(ValueRefused, match=said):
        field.check(value)


def test_a_field_may_be_left_out_where_that_is_declared():
    Field("cell", INTEGER, empty=True).check(None)
    Field("note", TEXT).check("")


def test_counts_are_said_as_people_say_them():
    assert counted_words("reading", 1) == "1 reading"
    assert counted_words("tile", 12) == "12 tile checks"
    assert counted_words("taken_back", 2) == "2 pieces of work taken back"
    assert all(counted_words(s.key, 2).startswith("2 ") for s in BY_KEY.values())
