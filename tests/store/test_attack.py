"""The attack, small: broken files, kills in the middle of an import, a full disk, two hands."""

import json
import random
import signal
import threading
import time

import pytest

from helpers.attack import Target, mutant_csv, mutant_package, numbered, start_victim
from loam.app.commands import TakeInTrial, take_reading
from loam.app.headless.check import check
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.trial import Reading
from loam.demo.scenario import motions
from loam.store.datapackage import read_package, write_package
from loam.store.flat import flat_text
from loam.store.take_out import read_draft
from loam.store.turns import Turn, turn_of
from loam.store.workshop import Workshop


@pytest.mark.parametrize("seed", range(4))
def test_broken_tables_are_taken_whole_or_refused_in_words(tmp_path, seed):
    import csv
    import io

    rows = list(csv.reader(io.StringIO(flat_text(motions()))))[:30]
    target = Target(tmp_path)
    for i in range(40):
        target.throw("mutant.csv", mutant_csv(numbered(seed, "table", i), rows))
    assert target.refused > 5
    assert target.taken > 3


@pytest.mark.parametrize("seed", range(3))
def test_broken_packages_are_taken_whole_or_refused_in_words(tmp_path, seed):
    package = tmp_path / "whole.zip"
    write_package(motions(), package)
    whole = package.read_bytes()
    target = Target(tmp_path)
    for i in range(60):
        target.throw("mutant.zip", mutant_package(numbered(seed, "package", i), whole))
    assert target.refused > 20
    assert target.throw("whole.zip", whole)


def filled(path):
    workshop = Workshop(path)
    Session(workshop).run(TakeInTrial(motions()))
    workshop.close()
    return path


def kept(path):
    found = check(path)
    assert found["ok"], found["problems"]
    whole = len(motions().readings)
    assert {t["readings"] for t in found["trials"] if t["name"].startswith("in ")} <= {whole}
    workshop = Workshop(path)
    readings = dict(
        workshop.connection.execute("SELECT ordinal, value FROM reading WHERE ordinal >= 100")
    )
    names = {t.name for t in Session(workshop).trials()}
    notes = {
        json.loads(row[0])["n"]
        for row in workshop.connection.execute("SELECT facts FROM noted WHERE sort='tile'")
    }
    workshop.close()
    return readings, names, notes


def lines_of(output):
    return [line.split(maxsplit=2) for line in output.splitlines(True) if line.endswith("\n")]


def test_a_kill_in_the_middle_of_an_import_leaves_no_half_and_loses_no_reading(tmp_path):
    path = filled(tmp_path / "kill.loam")
    rng = random.Random(3)
    told = 0
    for seed in range(1, 6):
        process = start_victim(path, seed)
        output = process.stdout.readline()
        time_over = time.monotonic() + rng.uniform(0.02, 0.3)
        while time.monotonic() < time_over:
            output += process.stdout.readline()
        process.send_signal(signal.SIGKILL)
        output += process.communicate()[0]
        readings, names, notes = kept(path)
        for words in lines_of(output):
            if words[0] == "READ":
                assert readings[int(words[1])] == float(words[2])
                told += 1
            elif words[0] == "NOTED":
                assert int(words[1]) in notes
            elif words[0] == "TAKEN":
                assert f"{words[1]} {words[2].strip()}" in names
    assert told > 5


@pytest.mark.parametrize("room", [0, 20_000, 90_000, 400_000])
def test_an_import_that_a_full_disk_stops_is_not_there(tmp_path, room):
    path = filled(tmp_path / "full.loam")
    process = start_victim(path, 1, path.stat().st_size + room)
    output, errors = process.communicate(timeout=60)
    assert "Traceback" not in errors
    _, names, _ = kept(path)
    said = [words for words in lines_of(output) if words[0] in ("TAKEN", "FAILED")]
    assert len(said) == 1
    assert ("in 1 0" in names) is (said[0][0] == "TAKEN")


def test_who_types_goes_before_an_import(tmp_path):
    """A reading is taken between two steps of an import, and both are whole at the end."""
    path = filled(tmp_path / "two.loam")
    workshop = Workshop(path)
    session = Session(workshop)
    cell = session.cells()[0].id
    before = len(read_draft(workshop.connection, 1).readings)
    typed, steps = [], []
    command = TakeInTrial(motions())

    def tell(_share):
        steps.append(len(typed))

    worker = threading.Thread(
        target=lambda: command.write_apart(path, workshop.now(), tell), daemon=True
    )
    worker.start()
    while worker.is_alive():
        reading = Reading(0, cell, "gloss20", 80.0, ordinal=100 + len(typed))
        session.run(take_reading(1, reading))
        typed.append(reading.ordinal)
    worker.join()
    assert typed
    assert len(read_draft(workshop.connection, 1).readings) == before + len(typed)
    assert len(read_draft(workshop.connection, command.id).readings) == len(motions().readings)
    workshop.close()


def test_the_gate_lets_the_one_who_came_first_for_itself_before_the_later():
    gate, order, inside = Turn(), [], threading.Event()
    go = threading.Event()

    def hold():
        with gate.passed(later=True):
            inside.set()
            go.wait(5)
        with gate.passed(later=True):
            order.append("later")

    def typist():
        with gate.passed():
            order.append("first")

    holder, other = threading.Thread(target=hold), threading.Thread(target=typist)
    holder.start()
    inside.wait(5)
    other.start()
    while not gate._waiting:
        pass
    go.set()
    holder.join(5)
    other.join(5)
    assert order == ["first", "later"]


def test_one_gate_a_file_whatever_the_path(tmp_path):
    file = tmp_path / "a.loam"
    file.touch()
    (tmp_path / "b.loam").symlink_to(file)
    assert turn_of(file) is turn_of(tmp_path / "b.loam")
    assert turn_of(file) is not turn_of(tmp_path / "c.loam")


def test_an_import_that_is_cancelled_leaves_nothing(tmp_path):
    path = filled(tmp_path / "c.loam")
    workshop = Workshop(path)

    def tell(share):
        if share > 0.2:
            raise LoamError("enough")

    with pytest.raises(LoamError, match="enough"):
        TakeInTrial(motions()).write_apart(path, workshop.now(), tell)
    counts = [
        workshop.connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0]
        for table in ("trial", "taping", "panel", "combination")
    ]
    workshop.close()
    assert counts == [1, 2, 2, len(motions().combinations)]


BOMBS = {
    "deep": b'{"a":' * 100_000,
    "long": b'{"loam_format": 2, "title": "' + b"x" * 5_000_000 + b'"}',
    "number": b'{"loam_format": ' + b"9" * 5000 + b"}",
}


@pytest.mark.parametrize("name", BOMBS)
def test_a_deep_or_endless_description_is_refused(tmp_path, name):
    import zipfile

    file = tmp_path / "bomb.zip"
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("datapackage.json", BOMBS[name])
    with pytest.raises(LoamError) as refused:
        read_package(file)
    assert "Nothing was taken" in str(refused.value)


def test_a_member_that_unpacks_without_end_is_refused_early(tmp_path, monkeypatch):
    import zipfile

    from loam.store import package_source

    monkeypatch.setattr(package_source, "MAX_UNPACKED", 1_000_000)
    package, file = tmp_path / "p.zip", tmp_path / "bomb.zip"
    write_package(motions(), package)
    with (
        zipfile.ZipFile(package) as source,
        zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as bomb,
    ):
        for name in source.namelist():
            raw = source.read(name)
            if name == "readings.csv":
                head, line = raw.split(b"\r\n")[:2]
                rest = line.partition(b",")[2]
                raw = b"\r\n".join([head, *(b"%d,%s" % (i, rest) for i in range(1, 40_000))])
            bomb.writestr(name, raw)
    with pytest.raises(LoamError, match="unpacks to more than a trial can be"):
        read_package(file)
