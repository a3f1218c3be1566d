"""The Data Package: lossless both ways, refused whole when broken."""

import json
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.app.commands import StrikeReadings, TakeInTrial
from loam.app.session import Session
from loam.core.stage_settings import SETTINGS
from loam.demo.scenario import cut_and_finish, motions, one_steps
from loam.store.combinations import combinations
from loam.store.datapackage import FORMAT, read_package, write_package
from loam.store.table_file import FileRefused
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop

REFERENCE = Path(__file__).parent.parent / "reference"


@pytest.mark.parametrize("make", [one_steps, cut_and_finish, motions])
def test_a_trial_goes_out_and_comes_back_the_same(tmp_path, make):
    workshop = Workshop(tmp_path / "a.loam")
    session = Session(workshop)
    command = TakeInTrial(make())
    session.run(command)
    session.run(StrikeReadings(command.id, [3, 5], 'hair, "dust"\nand more'))
    session.run(StrikeReadings(command.id, [5], "counts again", struck=False))
    out = tmp_path / "out.zip"
    write_package(read_draft(workshop.connection, command.id), out)
    other = Workshop(tmp_path / "b.loam")
    again = TakeInTrial(read_package(out))
    Session(other).run(again)
    back = tmp_path / "back.zip"
    write_package(read_draft(other.connection, again.id), back)
    assert out.read_bytes() == back.read_bytes()
    assert read_draft(workshop.connection, command.id) == read_draft(other.connection, again.id)
    workshop.close()
    other.close()


def test_a_trial_taken_in_twice_stands_twice_with_identities_of_its_own(tmp_path):
    workshop = Workshop(tmp_path / "a.loam")
    session = Session(workshop)
    session.run(TakeInTrial(motions()))
    out = tmp_path / "out.zip"
    write_package(read_draft(workshop.connection, 1), out)
    session.run(TakeInTrial(read_package(out)))
    first, second = (read_draft(workshop.connection, i) for i in (1, 2))
    assert first.uid != second.uid
    assert replace(first, side={}, rest={}) == replace(second, side={}, rest={})
    workshop.close()


def test_the_folder_of_an_unpacked_package_is_read_too(tmp_path):
    out = tmp_path / "out.zip"
    write_package(motions(), out)
    with zipfile.ZipFile(out) as archive:
        archive.extractall(tmp_path / "open")
    assert read_package(tmp_path / "open" / "datapackage.json") == read_package(out)


def test_the_descriptor_names_every_file_with_its_fields(tmp_path):
    out = tmp_path / "out.zip"
    write_package(motions(), out)
    with zipfile.ZipFile(out) as archive:
        head = json.loads(archive.read("datapackage.json"))
        for resource in head["resources"]:
            first = archive.read(resource["path"]).decode().splitlines()[0]
            assert first.split(",") == [f["name"] for f in resource["schema"]["fields"]]
        assert len(head["resources"]) == len(archive.namelist()) - 1


@given(
    st.floats(0, 2000, allow_nan=False),
    st.text(
        st.characters(codec="utf-8", exclude_categories=["Cc", "Cf", "Cs", "Zl", "Zp"]), max_size=30
    ),
)
def test_any_figure_and_any_words_survive(tmp_path_factory, value, text):
    draft = motions()
    reading = replace(draft.readings[0], value=value, operator=text)
    draft = replace(
        draft,
        readings=(reading, *draft.readings[1:]),
        trial=replace(draft.trial, id=1, question=text),
    )
    out = tmp_path_factory.mktemp("p") / "x.zip"
    write_package(draft, out)
    assert read_package(out) == draft


def rewrite(source, target, name, change):
    with zipfile.ZipFile(source) as old, zipfile.ZipFile(target, "w") as new:
        for entry in old.namelist():
            text = old.read(entry).decode()
            if entry == name:
                text = change(text)
            if text is not None:
                new.writestr(entry, text)


BROKEN = [
    ("readings.csv", lambda t: t.replace("79.", "x79.", 1), "not a number"),
    ("readings.csv", lambda t: t.replace(",after,", ",later,", 1), "phase is one of"),
    ("readings.csv", lambda t: None, "readings.csv is missing"),
    ("readings.csv", lambda t: t.replace("id,cell", "id,cel", 1), "other columns"),
    ("cells.csv", lambda t: t.replace("1,1,1,1,", "1,1,99,1,", 1), "off its panel"),
    ("cells.csv", lambda t: t.replace("1,1,1,1,", "1,77,1,1,", 1), "panels 77, which is not there"),
    ("panels.csv", lambda t: t.replace(",hard,", ",firm,", 1), "not a hardness class"),
    ("trial.csv", lambda t: t.splitlines()[0] + "\r\n", "exactly one trial"),
    ("datapackage.json", lambda t: "{", "datapackage.json"),
    (
        "datapackage.json",
        lambda t: t.replace(f'"loam_format": {FORMAT}', f'"loam_format": {FORMAT + 1}'),
        f"format {FORMAT + 1}",
    ),
]


@pytest.mark.parametrize(("name", "change", "said"), BROKEN)
def test_a_broken_package_is_refused_whole(tmp_path, name, change, said):
    write_package(motions(), tmp_path / "good.zip")
    rewrite(tmp_path / "good.zip", tmp_path / "bad.zip", name, change)
    with pytest.raises(FileRefused, match=said):
        read_package(tmp_path / "bad.zip")


def test_no_package_at_all_is_refused(tmp_path):
    path = tmp_path / "x.zip"
    path.write_bytes(b"PK\x03\x04 nonsense")
    with pytest.raises(FileRefused, match="not a readable file for exchange"):
        read_package(path)


def test_a_package_of_the_format_before_reads_as_it_did():
    old = read_package(REFERENCE / "workshops" / "format2.zip")
    now = motions()
    bare = dict.fromkeys(s.key for s in SETTINGS)
    assert list(old.combinations) == [
        replace(c, stages=tuple(replace(s, **bare) for s in c.stages)) for c in now.combinations
    ]
    assert (len(old.cells), len(old.readings)) == (40, 55)
    assert (old.cells[3].combination_id, old.cells[3].run_order) == (2, 18)
    assert old.cells[3].baseline == {"gloss20": 57.9}
    taken = [(r.value, r.cell_id, r.phase, r.operator) for r in old.readings[:2]]
    assert taken == [(79.5, 1, "after", "Tam"), (79.4, 1, "after", "Tam")]
    assert old.readings[-1].value == 81.7
    assert {s.pad_mm for c in old.combinations for s in c.stages} == {None}


def test_sizes_and_speeds_of_a_stage_come_back(tmp_path):
    draft = motions()
    stage = replace(
        draft.combinations[0].stages[0],
        pad_mm=150.0,
        orbit_mm=21.0,
        speed=4200.0,
        arm_mm_s=25.0,
        overlap=0.5,
        line_shift=0.5,
    )
    first = replace(draft.combinations[0], stages=(stage,))
    draft = replace(draft, combinations=(first, *draft.combinations[1:]))
    write_package(draft, tmp_path / "p.zip")
    assert read_package(tmp_path / "p.zip").combinations == draft.combinations
    workshop = Workshop(tmp_path / "w.loam")
    with workshop.transaction() as db:
        trial_id = write_draft(db, draft, workshop.now())
    found = combinations(workshop.connection, trial_id)
    assert [c.stages for c in found] == [c.stages for c in draft.combinations]
    workshop.close()
