"""Several benches, one trial, no server: through the doors, as with a stick between laptops."""

import csv
import io
import json
import random
from itertools import permutations

import pytest

from loam.__main__ import main
from loam.demo.scenario import motions
from loam.store.datapackage import write_package
from loam.store.flat import flat_text

NAME = "Cut and finish"


@pytest.fixture
def door(capsys):
    def through(*arguments, status=0):
        found = main([str(a) for a in arguments])
        out = capsys.readouterr()
        assert found == status, out.err
        return json.loads(out.out) if "--json" in arguments else out.out or out.err

    return through


def judged(door, path, name=NAME):
    (found,) = door("judge", "--workshop", path, "--trial", name, "--json")
    found.pop("file")
    return found


def held(door, path):
    return {t["name"]: t["rows"] for t in door("check", path, "--json")["trials"]}


def test_the_demo_is_written_once_and_never_over_a_file(tmp_path, door):
    found = door("demo", tmp_path / "d.loam", "--json")
    assert NAME in found["trials"]
    assert door("check", tmp_path / "d.loam", "--json")["ok"]
    assert "already" in door("demo", tmp_path / "d.loam", status=2)


def test_a_verdict_is_the_same_wherever_its_file_is_brought(tmp_path, door):
    home, away, out = tmp_path / "h.loam", tmp_path / "a.loam", tmp_path / "t.zip"
    door("demo", home)
    for name in (NAME, "Motions on hard", "Stage by stage on medium"):
        door("write-out", name, out, "--workshop", home)
        (took,) = door("bring-in", out, "--workshop", away, "--json")
        assert took["readings"] == took["rows"]["reading"] > 0
        assert judged(door, home, name) == judged(door, away, name)
        assert held(door, home)[name] == held(door, away)[name]
        (again,) = door("bring-in", out, "--workshop", away, "--json")
        assert (again["taken"], again["readings"], again["rows"]) == (True, 0, {})
    assert len(held(door, away)) == 3


def parts_of(text, seed, count=3):
    """Deal the lines of a table of readings out at random; the first part also has the base."""
    header, *lines = list(csv.reader(io.StringIO(text)))
    rng = random.Random(seed)
    dealt = [[] for _ in range(count + 1)]
    seen = set()
    for line in lines:
        cell = (line[0], line[header.index("cell")])
        first = cell not in seen
        seen.add(cell)
        dealt[0 if first else rng.randrange(1, count + 1)].append(line)
    texts = []
    for part in dealt:
        out = io.StringIO()
        csv.writer(out).writerows([header, *part])
        texts.append(out.getvalue())
    return texts


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_trial_split_over_three_benches_is_whole_in_every_order(tmp_path, door, seed):
    base, *parts = parts_of(flat_text(motions()), seed)
    (tmp_path / f"{NAME}.csv").write_text(base)
    first = tmp_path / "first.loam"
    door("bring-in", tmp_path / f"{NAME}.csv", "--workshop", first)
    door("write-out", NAME, tmp_path / "base.zip", "--workshop", first)
    for i, part in enumerate(parts):
        (tmp_path / f"{i}.csv").write_text(part)
        bench = tmp_path / f"{i}.loam"
        door("bring-in", tmp_path / "base.zip", "--workshop", bench)
        for _ in range(2):
            (took,) = door(
                "bring-in", tmp_path / f"{i}.csv", "--into", NAME, "--workshop", bench, "--json"
            )
        assert took["rows"] == {}
        door("write-out", NAME, tmp_path / f"{i}.zip", "--workshop", bench)
    found = []
    for order in permutations(range(3)):
        bench = tmp_path / f"o{''.join(map(str, order))}.loam"
        files = [tmp_path / f"{i}.zip" for i in (*order, order[0])]
        assert all(f["taken"] for f in door("bring-in", *files, "--workshop", bench, "--json"))
        found.append((judged(door, bench), held(door, bench)))
    assert all(one == found[0] for one in found)
    assert found[0][1][NAME]["reading"] == len(motions().readings)


def test_what_both_changed_is_refused_until_somebody_says(tmp_path, door):
    from loam.app.commands import SetMatters
    from loam.app.session import Session
    from loam.store.workshop import Workshop

    write_package(motions(), tmp_path / "m.zip")
    one, two = tmp_path / "1.loam", tmp_path / "2.loam"
    door("bring-in", tmp_path / "m.zip", "--workshop", one)
    door("write-out", 1, tmp_path / "base.zip", "--workshop", one)
    door("bring-in", tmp_path / "base.zip", "--workshop", two)
    for path, value in ((one, 2.0), (two, 3.0)):
        workshop = Workshop(path)
        Session(workshop).run(SetMatters(1, 1, "gloss20", None, value))
        workshop.close()
    door("write-out", 1, tmp_path / "2.zip", "--workshop", two)
    before = held(door, one), judged(door, one, "1")
    refused = ["bring-in", tmp_path / "2.zip", "--workshop", one, "--json"]
    (said,) = door(*refused, status=2)
    assert said["taken"] is False
    assert "what matters" in said["error"]
    assert "--mine" in said["error"]
    assert (held(door, one), judged(door, one, "1")) == before
    (took,) = door(*refused, "--theirs")
    assert took["taken"]
    delta = judged(door, one, "1")["measurands"][0]["delta"]
    assert (delta["value"], delta["source"]) == (3.0, "trial")


def test_into_names_what_does_not_fit(tmp_path, door):
    work, table = tmp_path / "w.loam", tmp_path / "t.csv"
    head = "panel,hardness,combo,cell,reading,gloss20\n"
    table.write_text(f"{head}Heron,soft,A,K1,1,84\nHeron,soft,B,K2,1,86\n")
    door("bring-in", table, "--workshop", work)
    for lines, said in (
        ("Heron,soft,B,K1,1,84", "got A here and B in the file"),
        ("Heron,hard,A,K1,1,84", "soft here and hard in the file"),
        ("Heron,soft,A,K1,1,85", "is 84 here and 85 in the file"),
        ("Heron,soft,A,P7,1,85", "no cell P7"),
    ):
        table.write_text(f"{head}{lines}\n")
        (found,) = door("bring-in", table, "--into", "t", "--workshop", work, "--json", status=2)
        assert said in found["error"]
    table.write_text(f"{head}Heron,soft,A,K1,2,85\nTeal,hard,C,K1,1,70\n")
    (found,) = door("bring-in", table, "--into", "t", "--workshop", work, "--json")
    assert found["trial"] == "t"
    assert found["readings"] == 2
    assert found["rows"] == {"cell": 1, "combination": 1, "panel": 1, "reading": 2}
    other = tmp_path / "m.zip"
    door("bring-in", table, "--workshop", tmp_path / "o.loam")
    door("write-out", 1, other, "--workshop", tmp_path / "o.loam")
    (found,) = door("bring-in", other, "--into", "t", "--workshop", work, "--json", status=2)
    assert "of another trial" in found["error"]
