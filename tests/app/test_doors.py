"""Loam without a window: bring-in, write-out, check."""

import csv
import io
import json
import os
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

from loam.__main__ import main
from loam.app.headless import DOORS
from loam.demo.scenario import cut_and_finish, one_steps
from loam.store.datapackage import write_package
from loam.store.flat import write_flat
from loam.store.schema import MIGRATIONS
from loam.store.workshop import Workshop

REFERENCE = Path(__file__).parent.parent / "reference"
SMALL = REFERENCE / "trials" / "small" / "small.csv"
OLD = REFERENCE / "workshops"


def told(capsys, *arguments):
    status = main([str(a) for a in arguments])
    out = capsys.readouterr()
    return status, json.loads(out.out) if out.out.startswith(("{", "[")) else out.out, out.err


def test_files_are_taken_whole_or_not_at_all(tmp_path, capsys):
    bad = tmp_path / "bad.csv"
    bad.write_text("panel,hardness,combo,cell,gloss20\nHeron,soft,A,K1,84\nHeron,soft,A,K1,x\n")
    package = tmp_path / "p.zip"
    write_package(cut_and_finish(), package)
    work = tmp_path / "w.loam"
    status, found, _ = told(
        capsys, "bring-in", SMALL, bad, package, tmp_path / "none.csv", "--workshop", work, "--json"
    )
    assert status == 2
    assert [f["taken"] for f in found] == [True, False, True, False]
    rows = found[0].pop("rows")
    assert found[0] == {"file": str(SMALL), "taken": True, "trial": "small", "readings": 360}
    assert (rows["reading"], rows["panel"], rows["cell"]) == (360, 2, 24)
    assert "line 3, column gloss20, 'x'" in found[1]["error"]
    assert set(found[1]) == {"file", "taken", "error"}
    status, state, _ = told(capsys, "check", work, "--json")
    assert (status, state["ok"], state["schema"], state["problems"]) == (
        0,
        True,
        len(MIGRATIONS),
        [],
    )
    assert [t.pop("rows")["reading"] for t in state["trials"]] == [
        360,
        len(cut_and_finish().readings),
    ]
    assert state["trials"] == [
        {"name": "small", "panels": 2, "cells": 24, "readings": 360},
        {
            "name": "Cut and finish",
            "panels": 8,
            "cells": 96,
            "readings": len(cut_and_finish().readings),
        },
    ]
    assert sorted(p.name for p in tmp_path.iterdir()) == ["bad.csv", "p.zip", "w.loam"]


def test_all_taken_is_status_0_and_text_is_for_people(tmp_path, capsys):
    status, said, _ = told(capsys, "bring-in", SMALL, "--workshop", tmp_path / "w.loam")
    assert status == 0
    assert said == f"{SMALL}: 360 readings, trial small\n"


@pytest.mark.parametrize("ending", ["zip", "csv"])
def test_what_goes_out_comes_in_the_same(tmp_path, capsys, ending):
    one, two = tmp_path / "1.loam", tmp_path / "2.loam"
    out, back = tmp_path / f"trial.{ending}", tmp_path / f"back.{ending}"
    told(capsys, "bring-in", OLD / "format1-2.zip", "--workshop", one)
    assert told(capsys, "write-out", "Typed", out, "--workshop", one)[0] == 0
    assert told(capsys, "bring-in", out, "--workshop", two)[0] == 0
    assert told(capsys, "write-out", "1", back, "--workshop", two)[0] == 0
    assert out.read_bytes() == back.read_bytes()


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["write-out", "nobody", "x.zip"], "There is no trial 'nobody'"),
        (["write-out", "small", "x.doc"], "not written as .doc"),
        (["write-out", "small", "pipe.csv"], "no ordinary file"),
        (["write-out", "small", "none/x.zip"], "could not be written"),
    ],
)
def test_write_out_says_what_is_wrong(tmp_path, capsys, monkeypatch, arguments, said):
    monkeypatch.chdir(tmp_path)
    os.mkfifo("pipe.csv")
    told(capsys, "bring-in", SMALL, "--workshop", "w.loam")
    status, _, error = told(capsys, *arguments, "--workshop", "w.loam")
    assert status == 2
    assert said in error
    assert sorted(p.name for p in tmp_path.iterdir()) == ["pipe.csv", "w.loam"]


def test_a_device_or_pipe_is_never_replaced(tmp_path, capsys):
    work, pipe = tmp_path / "w.loam", tmp_path / "pipe.zip"
    told(capsys, "bring-in", SMALL, "--workshop", work)
    os.mkfifo(pipe)
    link = tmp_path / "link.zip"
    link.symlink_to("/dev/null")
    for place in (pipe, link):
        status, _, error = told(capsys, "write-out", "small", place, "--workshop", work)
        assert status == 2
        assert "no ordinary file" in error
    assert pipe.is_fifo()
    status, found, _ = told(capsys, "bring-in", pipe, "--workshop", work, "--json")
    assert status == 2
    assert found[0]["taken"] is False


def test_a_link_to_a_file_is_written_through(tmp_path, capsys):
    work, real, link = tmp_path / "w.loam", tmp_path / "real.csv", tmp_path / "link.csv"
    told(capsys, "bring-in", SMALL, "--workshop", work)
    real.write_text("old")
    link.symlink_to(real)
    assert told(capsys, "write-out", "small", link, "--workshop", work)[0] == 0
    assert link.is_symlink()
    assert real.read_text().startswith("panel,")


def test_check_never_touches_the_file_and_says_what_is_wrong(tmp_path, capsys):
    old = tmp_path / "old.loam"
    db = sqlite3.connect(old)
    db.executescript((OLD / "v1.sql").read_text())
    db.execute('UPDATE trial SET measurands = \'["sparkle", "gloss20"]\' WHERE id = 2')
    db.commit()
    db.close()
    before = old.read_bytes()
    status, found, _ = told(capsys, "check", old, "--json")
    assert (status, found["schema"]) == (2, 1)
    assert found["problems"] == ["Trial Typed reads sparkle, which this Loam does not know."]
    assert old.read_bytes() == before
    for name, content in (("junk", b"junk " * 500), ("empty", b"")):
        path = tmp_path / name
        path.write_bytes(content)
        status, found, _ = told(capsys, "check", path, "--json")
        assert (status, found["ok"], found["trials"]) == (2, False, [])
        assert found["problems"]
        assert path.read_bytes() == content


def test_a_workshop_that_is_open_takes_nothing_in(tmp_path, capsys):
    path = tmp_path / "w.loam"
    open_one = Workshop(path)
    status, found, _ = told(capsys, "bring-in", SMALL, "--workshop", path, "--json")
    assert status == 2
    assert "open in another window" in found[0]["error"]
    assert told(capsys, "check", path, "--json")[1]["ok"]
    open_one.close()


def test_every_door_has_help_and_no_door_needs_a_screen():
    for door in DOORS:
        done = subprocess.run(
            [
                sys.executable,
                "-c",
                "import sys; from loam.__main__ import main\n"
                "try: main(sys.argv[1:])\n"
                "except SystemExit: pass\n"
                "assert not any(m.startswith('PyQt') for m in sys.modules)",
                door,
                "--help",
            ],
            capture_output=True,
            text=True,
            check=True,
        )
        assert f"loam {door}" in done.stdout


def test_files_are_named_as_they_were_given(tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    odd = os.fsdecode(b"lat\xe9.csv")
    for name in ("a.csv", odd, "new\nline.csv"):
        (tmp_path / name).write_bytes(SMALL.read_bytes())
    given = ["./a.csv", odd, "new\nline.csv", "", "none.csv"]
    status, found, _ = told(capsys, "bring-in", *given, "--workshop", "w.loam", "--json")
    assert status == 2
    assert [f["file"] for f in found] == given
    assert [f["taken"] for f in found] == [True, True, True, False, False]
    assert [f.get("trial") for f in found[:3]] == ["a", "lat", "newline"]
    assert told(capsys, "bring-in", odd, "--workshop", "w.loam")[0] == 0


@pytest.fixture(scope="module")
def judged(tmp_path_factory):
    """The window's own judgement of two files at once, as printed."""
    medium = REFERENCE / "trials" / "medium" / "medium.csv"
    done = subprocess.run(
        [
            sys.executable,
            "-m",
            "loam",
            "judge",
            str(SMALL),
            str(medium),
            "--json",
            "--delta",
            "gloss20=0.8",
            "--delta",
            "haze=1.2",
        ],
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, "PYTHONPATH": str(REFERENCE.parent.parent / "src")},
    )
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


def test_judge_prints_one_entry_a_file_and_measurand(judged):
    assert [Path(e["file"]).name for e in judged] == ["small.csv", "medium.csv"]
    for entry in judged:
        assert entry["doubts"] == []
        assert [(m["measurand"], m["scale"]) for m in entry["measurands"]] == [
            ("gloss20", "identity"),
            ("haze", "log1p"),
            ("defects", "logit"),
            ("removed", "identity"),
        ]
        deltas = {m["measurand"]: m["delta"] for m in entry["measurands"]}
        assert deltas["gloss20"] == {"value": 0.8, "kind": "difference", "source": "given"}
        assert deltas["haze"] == {"value": 1.2, "kind": "ratio", "source": "given"}
        assert deltas["defects"] == {"value": 1.5, "kind": "ratio", "source": "default"}
        for m in entry["measurands"]:
            terms = {"panel", "panel:combination", "operator", "day", "cell", "residual"}
            assert set(m["sd"]) == terms
            assert set(m["assumed"]) <= terms
            assert m["floor"] > 0


def test_judge_says_each_class_in_the_order_of_hardness(judged):
    medium = judged[1]["measurands"][0]
    assert [c["hardness"] for c in medium["classes"]] == ["soft", "medium", "hard"]
    for c in medium["classes"]:
        names = [e["combination"] for e in c["effects"]]
        assert c["leader"] == max(c["p_best"], key=c["p_best"].get) == names[0]
        assert sum(c["p_best"].values()) == pytest.approx(1.0)
        assert set(c["rank"]) == set(names)
        assert {(p["a"], p["b"]) for p in c["pairs"]} == {
            (a, b) for a in names for b in names if a < b
        }
        by_name = {e["combination"]: e["estimate"] for e in c["effects"]}
        for p in c["pairs"]:
            assert p["low"] <= p["estimate"] <= p["high"]
            assert p["estimate"] == pytest.approx(by_name[p["a"]] - by_name[p["b"]], abs=1.2)
            assert p["verdict"] in {
                "equal",
                "better",
                "worse",
                "clearly better",
                "clearly worse",
                "open",
            }
        assert c["leader"] in c["sentence"]
        assert c["sentence"].startswith(c["hardness"].capitalize())


@pytest.mark.parametrize(
    ("options", "said"),
    [
        (["--delta", "gloss20=nan"], "cannot be what matters"),
        (["--delta", "gloss20=-1"], "cannot be what matters"),
        (["--delta", "haze=0.5"], "ratio"),
        (["--delta", "haze=inf"], "ratio"),
        (["--delta", "gloss20"], "does not say what matters"),
        (["--delta", "shine=1"], "no measurand 'shine'"),
        (["--seed", "-1"], "seed of -1"),
        (["--measurand", "clarity"], "holds no clarity"),
        (["/nowhere.csv"], "nowhere.csv"),
    ],
)
def test_judge_refuses_in_words(capsys, options, said):
    status, out, err = told(capsys, "judge", SMALL, *options)
    assert (status, out) == (2, "")
    assert said in err
    assert "Traceback" not in err


def test_judge_takes_one_measurand_and_columns_it_does_not_know(tmp_path, capsys):
    rows = [
        "panel,hardness,cell,combo,reading,reader,read_order,pad_id,worked_sets,gloss20,"
        "gloss20_unwiped,removed_by"
    ]
    for k, (cell, combo) in enumerate([("K1", "A"), ("K2", "B"), ("K3", "A"), ("K4", "B")]):
        level = 83 if combo == "B" else 80
        rows += [
            f"P,soft,{cell},{combo},{i + 1},Tam,{4 * k + i},p{k},{k},{level}.{i},95.{i},wipe"
            for i in range(4)
        ]
    file = tmp_path / "e.csv"
    file.write_text("\n".join(rows))
    status, out, _ = told(capsys, "judge", file, "--measurand", "gloss20", "--json")
    assert status == 0
    (only,) = out[0]["measurands"]
    (c,) = only["classes"]
    assert c["leader"] == "B"
    assert max(e["estimate"] for e in c["effects"]) < 90  # unwiped readings are not ranked
    status, text, _ = told(capsys, "judge", file)
    assert "What matters: 1.0 GU (default)" in text
    assert "behind" in text or "not settled" in text


def written(path, value):
    path.write_text(json.dumps(value))
    return path


def test_a_layout_is_printed_as_its_specification_says(tmp_path, capsys):
    example = json.loads((REFERENCE / "layout" / "example.json").read_text())
    file = written(tmp_path / "plan.json", example["plan"])
    status, found, _ = told(capsys, "layout", file, "--json")
    assert status == 0
    assert list(found) == ["seed", "cells", "efficiency", "forecast"]
    assert len(found["cells"]) == 12
    assert set(found["cells"][0]) == {"panel", "row", "column", "assigned", "run_order"}
    assert min(c["row"] for c in found["cells"]) == 1
    assert sorted(c["run_order"] for c in found["cells"]) == list(range(1, 13))
    expected = example["expected"]
    assert found["efficiency"][0]["value"] == pytest.approx(expected["efficiency"][0]["value"])
    for name, value in expected["forecast_each_pair"].items():
        assert found["forecast"][0][name] == pytest.approx(value, rel=1e-8)
    assert told(capsys, "layout", file, "--json")[1] == found
    status, said, _ = told(capsys, "layout", file)
    assert "soft: efficiency 1.0000" in said
    assert "A - B within 0.993, finds 1.44 (6 df)" in said


def test_what_cannot_be_forecast_is_null_and_noted(tmp_path, capsys):
    plan = {
        "combinations": ["A", "B", "C"],
        "seed": 3,
        "sd": {"panel": 1, "cell": 1, "reading": 1},
        "panels": [{"name": "P", "hardness": "soft", "rows": 1, "columns": 4, "closed": [[1, 2]]}],
    }
    status, found, _ = told(capsys, "layout", written(tmp_path / "p.json", plan), "--json")
    assert status == 0
    assert [c["column"] for c in found["cells"]] == [1, 3, 4]
    assert {(f["df"], f["half_width_90"]) for f in found["forecast"]} == {(0, None)}
    assert "Add cells" in found["notes"][0]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"colour": "red"}, "no field colour"),
        ({"panels": 3}, "'panels' is 3, not a list"),
        ({"combinations": ["A", 2]}, "not a list of texts"),
        ({"seed": 1.5}, "not a whole number"),
        ({"controls": {"wet": 1}}, "no field wet"),
        ({"controls": {"damaged": 9}}, "9 controls"),
        ({"groups": {"Q": "Mill"}}, "no combination 'Q'"),
        ({"sd": {"panel": 1}}, "'cell' is missing"),
        ({"combinations": list("ABCDE")}, "soft has 4 free cells for 5 combinations"),
        ({"trends": "yes"}, "not true or false"),
        ({"seed": -1}, "A seed of -1"),
        ({"panels": [{"name": "P", "hardness": "soft", "rows": 0, "columns": 2}]}, "panel P"),
        (
            {
                "panels": [
                    {"name": "P", "hardness": "soft", "rows": 2, "columns": 2, "closed": [[3, 1]]}
                ]
            },
            "row 3, column 1",
        ),
    ],
)
def test_a_plan_that_cannot_be_is_refused_with_status_2(tmp_path, capsys, change, said):
    plan = {
        "combinations": ["A", "B"],
        "panels": [{"name": "P", "hardness": "soft", "rows": 2, "columns": 2}],
    }
    status, out, error = told(
        capsys, "layout", written(tmp_path / "p.json", plan | change), "--json"
    )
    assert (status, out) == (2, "")
    assert said in error


def test_a_dose_is_printed_with_the_keys_of_its_case(tmp_path, capsys):
    case = json.loads((REFERENCE / "optics" / "dose_cases.json").read_text())["cases"][1]
    status, found, _ = told(capsys, "dose", written(tmp_path / "c.json", case["inputs"]), "--json")
    assert status == 0
    assert list(found) == list(case["expected"])
    assert found["total_time_s"] == pytest.approx(282.0)
    status, said, _ = told(capsys, "dose", written(tmp_path / "d.json", case))
    assert status == 0
    assert "total_time_s: 282.0" in said
    for change, words in (
        ({"machine": "saw"}, "no kind of machine"),
        ({"speed": 3}, "no field speed"),
        ({"force_N": "40"}, "not a number"),
        ({"section_mm": [600]}, "not two numbers"),
        ({"overlap": 1.0}, "overlap"),
    ):
        file = written(tmp_path / "e.json", case["inputs"] | change)
        status, out, error = told(capsys, "dose", file, "--json")
        assert (status, out) == (2, "")
        assert words in error


@pytest.mark.parametrize("door", ["dose", "layout"])
@pytest.mark.parametrize(
    "text",
    [
        "",
        "[1]",
        "{",
        "[" * 100_000,
        '{"seed": NaN}',
        '{"force_N": 1e999}',
        "\xff",
        '{"a": 1' + "0" * 5000 + "}",
    ],
)
def test_no_file_of_settings_breaks_a_door(tmp_path, capsys, door, text):
    file = tmp_path / "x.json"
    file.write_bytes(text.encode("latin-1"))
    status, out, error = told(capsys, door, file, "--json")
    assert (status, out) == (2, "")
    assert error.startswith("loam: ")
    assert "Traceback" not in error
    assert told(capsys, door, tmp_path / "none.json")[0] == 2
    assert told(capsys, door, tmp_path)[0] == 2


def test_judge_lists_its_doubts_from_a_table(tmp_path, capsys):
    file = tmp_path / "one.csv"
    write_flat(one_steps(), file)
    assert main(["judge", str(file), "--measurand", "gloss20", "--json"]) == 0
    (entry,) = json.loads(capsys.readouterr().out)
    found = {(d["kind"], d["subject"]): d for d in entry["doubts"]}
    assert {("masking", "B"), ("masking", "D"), ("class", "Teal"), ("hand", "Tam")} == set(found)
    for doubt in entry["doubts"]:
        assert set(doubt) == {"kind", "subject", "readings", "p", "effect", "sentence"}
        assert 0.0 < doubt["p"] < 0.05
        assert doubt["sentence"].endswith(").")
        assert doubt["effect"].endswith(".")
    rows = list(csv.DictReader(io.StringIO(file.read_text())))
    teal = {i for i, row in enumerate(rows) if row["panel"] == "Teal"}
    assert len(found["class", "Teal"]["readings"]) >= len(teal)
    assert main(["judge", str(file), "--measurand", "gloss20"]) == 0
    assert "Doubt: Panel Teal answers like a harder class" in capsys.readouterr().out


def test_judge_finds_a_fading_pad_and_a_drift_from_their_columns(tmp_path, capsys):
    file = tmp_path / "pads.csv"
    head = "panel,hardness,cell_row,cell_col,combo,operator,day,reading,gloss20,defects_removed_pct"
    lines = [head + ",read_order,pad_id,worked_sets"]
    order, sets = 0, {c: 0 for c in "ABC"}
    for p in range(4):
        for i in range(9):
            code = "ABC"[(i + p) % 3]
            own = sets[code]
            sets[code] += 1
            for k in range(1, 4):
                order += 1
                wear = own / 12 if code == "A" else 0.0
                gloss = 84 + "ABC".index(code) + 0.2 * ((i * 7 + k) % 3) - 4.0 * wear
                removed = 85 - 25 * wear + 5 * ((i + k + p) % 2)
                lines.append(
                    f"P{p},soft,{i // 3 + 1},{i % 3 + 1},{code},Ivo,D1,{k},{gloss:.1f},"
                    f"{removed:.0f},{order},pad {code},{own}"
                )
    file.write_text("\n".join(lines) + "\n")
    assert main(["judge", str(file), "--json"]) == 0
    (entry,) = json.loads(capsys.readouterr().out)
    pads = [d for d in entry["doubts"] if d["kind"] == "pad"]
    assert [d["subject"] for d in pads] == ["pad A"]
    file.write_text("\n".join(lines).replace(",1,pad A,0", ",one,pad A,0") + "\n")
    assert main(["judge", str(file), "--json"]) == 2
    assert "a whole number from 0" in capsys.readouterr().err
