"""The headless door, run as a user runs it."""

import json
import os
import subprocess
import sys

import pytest

from helpers.reference import ROOT, load_json
from loam.app.headless.rank import run

SRC = ROOT.parent.parent / "src"
MEDIUM = ROOT / "trials" / "medium" / "medium.csv"


def loam(*arguments):
    return subprocess.run(
        [sys.executable, "-m", "loam", "rank", *map(str, arguments)],
        capture_output=True,
        text=True,
        env={**os.environ, "PYTHONPATH": str(SRC)},
        check=False,
    )


@pytest.mark.parametrize(
    ("dataset", "fit_id", "options"),
    [
        ("medium", "gloss20", ["--baseline", "baseline_gloss20"]),
        ("medium", "haze", []),
        ("medium", "removed_um", []),
        (
            "medium",
            "gloss20_rich",
            ["--baseline", "baseline_gloss20", "--random", "panel,operator,cell,panel:combo,day"],
        ),
        ("small", "gloss20", ["--baseline", "baseline_gloss20"]),
        ("small", "haze", ["--random", "panel,operator,cell"]),
    ],
)
def test_json_agrees_with_the_reference(capsys, dataset, fit_id, options):
    found = load_json("trials", dataset, "expected.json")
    expected = next(f for f in found["fits"] if f["id"] == fit_id)
    file = ROOT / "trials" / dataset / f"{dataset}.csv"
    measurand = fit_id.removesuffix("_rich")
    assert run([str(file), "--measurand", measurand, "--json", *options]) == 0
    (fit,) = json.loads(capsys.readouterr().out)["fits"]
    assert fit["measurand"] == measurand
    assert fit["n"] == expected["n"]
    assert fit["reml_criterion"] == pytest.approx(expected["reml_criterion"], abs=1e-6)
    assert fit["singular"] == expected["singular"]
    assert fit["not_estimable"] == found["not_estimable"]
    want = {(c["hardness"], *c["contrast"].split(" - ")): c for c in expected["contrasts"]}
    assert {(c["hardness"], c["a"], c["b"]) for c in fit["contrasts"]} == set(want)
    for c in fit["contrasts"]:
        w = want[c["hardness"], c["a"], c["b"]]
        kr = c["df_method"] == "kenward-roger"
        assert c["estimate"] == pytest.approx(w["estimate"], abs=1e-5 * w["se"])
        assert c["se"] == pytest.approx(w["se_kr" if kr else "se"], rel=1e-5)
        assert c["df"] == pytest.approx(w["df_kr" if kr else "df_satterthwaite"], rel=1e-3)
    for e in fit["effects"]:
        w = next(
            v
            for v in expected["adjusted_means"]["values"]
            if v["name"] == f"{e['hardness']}:{e['combination']}"
        )
        assert e["estimate"] == pytest.approx(w["estimate"], rel=1e-7)
    for hardness in {r["hardness"] for r in fit["ranking"]}:
        rows = [r for r in fit["ranking"] if r["hardness"] == hardness]
        assert sum(r["p_best"] for r in rows) == pytest.approx(1)
        assert all(r["rank_low"] <= r["rank_high"] for r in rows)


def test_it_runs_as_a_program_and_prints_a_table():
    done = loam(MEDIUM, "--measurand", "gloss20", "--baseline", "baseline_gloss20")
    assert done.returncode == 0
    assert done.stderr == ""
    assert "On hard clear, C08, C06, C07 and C09 cannot be told apart yet" in done.stdout
    assert "hard     C08*" in done.stdout


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["nowhere.csv", "--measurand", "gloss20"], "cannot be opened"),
        ([MEDIUM, "--measurand", "sparkle"], "no measurand 'sparkle'"),
        ([MEDIUM, "--measurand", "clarity"], "holds no clarity"),
        ([MEDIUM, "--measurand", "gloss20", "--baseline", "b"], "no column 'b'"),
        ([MEDIUM, "--measurand", "gloss20", "--random", "panel,moon"], "which moon they belong"),
        ([MEDIUM, "--measurand", "gloss20", "--delta", "nan"], "cannot be one that does not"),
        ([MEDIUM, "--measurand", "gloss20", "--delta", "-1"], "cannot be one that does not"),
        ([MEDIUM, "--measurand", "gloss20", "--seed", "-1"], "seed of -1"),
    ],
)
def test_errors_go_to_standard_error_with_status_2(arguments, said):
    done = loam(*arguments)
    assert done.returncode == 2
    assert done.stdout == ""
    assert said in done.stderr
    assert "Traceback" not in done.stderr


def test_a_bad_file_names_line_column_and_value(tmp_path, capsys):
    lines = MEDIUM.read_text().splitlines()
    lines[7] = lines[7].replace("soft", "hard", 1)
    bad = tmp_path / "bad.csv"
    bad.write_text("\n".join(lines))
    assert run([str(bad), "--measurand", "gloss20"]) == 2
    said = capsys.readouterr().err
    assert "line 8, column hardness, 'hard'" in said
    assert "a panel has one hardness" in said


def test_a_combination_missing_on_one_hardness_is_listed(tmp_path, capsys):
    lines = [x for x in MEDIUM.read_text().splitlines() if not (",hard," in x and ",C07," in x)]
    some = tmp_path / "some.csv"
    some.write_text("\n".join(lines))
    assert run([str(some), "--measurand", "gloss20", "--json"]) == 0
    (fit,) = json.loads(capsys.readouterr().out)["fits"]
    assert fit["not_estimable"] == ["hard:C07"]
    assert "C07 was not tested on hard." in fit["notes"]
