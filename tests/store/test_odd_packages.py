"""A file for exchange with anything in it: refused in words or taken whole, and never half."""

import csv
import io
import os
import random
import zipfile

import pytest

from helpers.lived import lived
from loam.app.headless.check import check
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.record import SORTS
from loam.store.datapackage import read_package, write_package
from loam.store.join import join, trial_here
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop

ODD = (
    "",
    "0",
    "-1",
    "1",
    "2",
    "999999",
    "1e309",
    "nan",
    "x",
    "\x00",
    "\u202e",
    "{}",
    "[1]",
    "null",
    '{"of": {}}',
    '{"panels": [[1]]}',
    '{"of": 7, "panels": 3}',
    "put away",
    "a" * 32,
    "f" * 33,
    "9" * 25,
    "'=1+1",
    "ü" * 300,
    "2026-09-26",
    "taken back",
    "worked",
)


@pytest.fixture(scope="module")
def good(tmp_path_factory):
    folder = tmp_path_factory.mktemp("good")
    workshop = Workshop(folder / "w.loam")
    session = Session(workshop)
    trial = lived(session)
    write_package(read_draft(workshop.connection, trial), folder / "t.zip")
    workshop.close()
    return folder / "t.zip"


def bent(source, target, rng):
    """Write a package with one to three values, lines or members of it bent."""
    with zipfile.ZipFile(source) as old:
        members = {n: old.read(n) for n in old.namelist()}
    said = []
    for _ in range(rng.randint(1, 3)):
        sort = rng.choice([s for s in SORTS if s.file not in ("readings", "cells")])
        name = f"{sort.file}.csv"
        rows = list(csv.reader(io.StringIO(members[name].decode())))
        if len(rows) < 2:
            continue
        at = rng.randrange(1, len(rows))
        what = rng.choice(("value", "value", "value", "twice", "gone"))
        if what == "value":
            column = rng.randrange(len(rows[0]))
            rows[at][column] = rng.choice(ODD)
            said.append((name, at, rows[0][column], rows[at][column]))
        elif what == "twice":
            rows.append(rows[at])
            said.append((name, at, "twice", ""))
        else:
            del rows[at]
            said.append((name, at, "gone", ""))
        out = io.StringIO()
        csv.writer(out).writerows(rows)
        members[name] = out.getvalue().encode("utf-8", "surrogatepass")
    with zipfile.ZipFile(target, "w") as new:
        for name, data in members.items():
            new.writestr(name, data)
    return said


@pytest.mark.parametrize("seed", range(int(os.environ.get("SEEDS", "12"))))
def test_a_bent_package_is_refused_or_stands(good, tmp_path, seed):
    rng = random.Random(seed)
    path = tmp_path / "bent.zip"
    said = bent(good, path, rng)
    workshop = Workshop(tmp_path / "w.loam")
    with workshop.transaction() as db:
        write_draft(db, read_package(good), workshop.now())
    before = read_draft(workshop.connection, 1)
    try:
        draft = read_package(path)
        with workshop.transaction() as db:
            here = trial_here(db, draft)
            if here is None or seed % 2:
                write_draft(db, draft, workshop.now())
            else:
                join(db, here, draft, workshop.now(), "theirs" if seed % 4 else "mine")
    except LoamError:
        assert read_draft(workshop.connection, 1) == before, said
    db = workshop.connection
    assert db.execute("PRAGMA foreign_key_check").fetchall() == [], said
    for trial in Session(workshop).trials():
        draft = read_draft(db, trial.id)
        write_package(draft, tmp_path / "again.zip")
        read_package(tmp_path / "again.zip")
    workshop.close()
    assert check(workshop.path)["ok"], said
