"""Cars travel with the trial that they rest on, join by identity, and damaged notes are refused."""

import csv
import io
import itertools
import zipfile

import pytest

from helpers.lived import lived
from loam.app.applying.at_hand import all_jobs, jobs_in
from loam.app.commands import NoteJob
from loam.app.headless.check import check
from loam.app.session import Session
from loam.store.datapackage import read_package, write_package
from loam.store.job_travel import jobs_out
from loam.store.join import join
from loam.store.table_file import FileRefused
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop


@pytest.fixture
def there(tmp_path):
    workshop = Workshop(tmp_path / "there.loam")
    session = Session(workshop)
    trial = lived(session)
    yield session, trial
    session.close()


def brought(tmp_path, draft, name="here"):
    workshop = Workshop(tmp_path / f"{name}.loam")
    with workshop.transaction() as db:
        write_draft(db, draft, workshop.now())
    return workshop


def test_a_car_comes_as_it_went(there, tmp_path):
    session, trial = there
    path = tmp_path / "t.zip"
    write_package(read_draft(session.workshop.connection, trial), path)
    here = brought(tmp_path, read_package(path))
    mine = [job for _, job in jobs_in(session.workshop.connection)]
    theirs = [job for _, job in jobs_in(here.connection)]
    assert mine == theirs
    assert theirs[0].part("roof").film == (118.5,), "what was taken back stays taken back"
    again = tmp_path / "again.zip"
    write_package(read_draft(here.connection, 1), again)
    names = ("jobs.csv", "job-notes.csv", "job-strikes.csv")
    with zipfile.ZipFile(path) as a, zipfile.ZipFile(again) as b:
        assert all(a.read(n) == b.read(n) for n in names)
    here.close()
    found = check(tmp_path / "here.loam")
    assert found["ok"]
    assert found["jobs"][0]["name"] == "Lived"
    assert found["jobs"][0]["surveyed"] == 1


def test_two_benches_read_one_car_and_join_in_any_order(there, tmp_path):
    session, trial = there
    draft = read_draft(session.workshop.connection, trial)
    drafts = []
    for i, part in enumerate(("bonnet", "roof", "left wing")):
        bench = Session(brought(tmp_path, draft, f"bench{i}"))
        bench.choose(bench.trials()[0].id)
        row, _ = all_jobs(bench)[0]
        facts = {"part": part, "film_um": 101.0 + i}
        bench.run(NoteJob(row.id, [("film", facts)], "film"))
        if part == "roof":
            bench.undo()
        drafts.append(read_draft(bench.workshop.connection, bench.trials()[0].id))
        bench.close()
    seen = []
    for n, order in enumerate(itertools.permutations(range(3))):
        whole = brought(tmp_path, draft, f"whole{n}")
        for _ in range(2):
            for i in order:
                with whole.transaction() as db:
                    join(db, 1, drafts[i], whole.now())
        ((_, job),) = jobs_in(whole.connection)
        seen.append(tuple((p.key, p.film) for p in job.parts))
        whole.close()
    assert len(set(seen)) == 1
    films = dict(seen[0])
    assert films["bonnet"] == (101.0,)
    assert films["roof"] == (118.5,), "taken back at its bench is taken back here"


def test_a_name_that_is_taken_gets_a_number(there, tmp_path):
    session, trial = there
    draft = read_draft(session.workshop.connection, trial)
    rest = {k: list(v) for k, v in draft.rest.items()}
    other = Workshop(tmp_path / "other.loam")
    with other.transaction() as db:
        db.execute("INSERT INTO job(uid, name, created_at) VALUES (?, 'Lived', '')", ("0" * 32,))
        write_draft(db, draft, other.now())
    assert sorted(r.name for r, _ in jobs_in(other.connection)) == ["Lived", "Lived (2)"]
    assert len(rest["job"]) == 1
    assert jobs_out(other.connection, "no such trial")["job"] == []
    other.close()


@pytest.mark.parametrize(
    "facts", ['{"part": "roof", "film_um": "thick"}', "[1]", '{"part": "roof"}', "nothing"]
)
def test_a_note_that_cannot_be_is_refused_whole_with_its_line(there, tmp_path, facts):
    session, trial = there
    path, bent = tmp_path / "t.zip", tmp_path / "bent.zip"
    write_package(read_draft(session.workshop.connection, trial), path)
    with zipfile.ZipFile(path) as a, zipfile.ZipFile(bent, "w") as b:
        for name in a.namelist():
            data = a.read(name)
            if name == "job-notes.csv":
                rows = list(csv.DictReader(io.StringIO(data.decode())))
                for row in rows:
                    if row["sort"] == "film":
                        row["facts"] = facts
                out = io.StringIO()
                writer = csv.DictWriter(out, rows[0].keys())
                writer.writeheader()
                writer.writerows(rows)
                data = out.getvalue().encode()
            b.writestr(name, data)
    with pytest.raises(FileRefused) as refused:
        read_package(bent)
    assert "job-notes.csv" in str(refused.value)
    assert "line" in str(refused.value)
