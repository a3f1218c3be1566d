"""Gauge studies against R's aov and lme4, and their faults."""

import csv
import json
import math
import random

import numpy as np
import pytest

from helpers.reference import ROOT
from loam.app.headless import run
from loam.core.errors import NotEnough, ValueRefused
from loam.core.gauge import (
    critical_difference,
    judge_study,
    reads_apart,
    spread_interval,
    with_step,
)
from loam.core.words.gauge import offset_words, study_words

FOLDER = ROOT / "gauge"
FILM = FOLDER / "film_thickness.csv"
GLOSS = FOLDER / "gloss_cutoff" / "gauge_gloss20.csv"
COLUMNS = {
    FILM: ("part", "reader", "repeat_no", "thickness_um"),
    GLOSS: ("part", "operator", "repeat", "gloss20"),
}


def asked(path, columns, *more):
    part, reader, repeat, value = columns
    return [
        "gauge",
        str(path),
        "--part",
        part,
        "--reader",
        reader,
        "--repeat",
        repeat,
        "--value",
        value,
        "--json",
        *more,
    ]


def door(capsys, path, *more, columns=None):
    words = asked(path, columns or COLUMNS[path], *more)
    status = run(words[0], words[1:])
    return status, capsys.readouterr()


def agrees(found, wanted, rel, where=""):
    """Compare every figure of what is wanted with what was found."""
    if isinstance(wanted, dict):
        for key, value in wanted.items():
            agrees(found[key], value, rel, f"{where}.{key}")
    elif isinstance(wanted, list):
        for i, value in enumerate(wanted):
            agrees(found[i], value, rel, f"{where}[{i}]")
    else:
        assert found == pytest.approx(wanted, rel=rel, abs=1e-12), where


def test_the_worked_study_comes_out_as_in_r(capsys):
    wanted = json.loads((FOLDER / "expected.json").read_text())["gauge"]
    status, said = door(capsys, FILM, "--tolerance", "20")
    found = json.loads(said.out)
    assert status == 0
    assert found["method"] == "anova"
    for key in wanted:
        if not key.startswith("lme4"):
            agrees(found[key], wanted[key], 1e-8, key)


def test_another_study_with_a_reader_below_nothing_and_pooled_by_wish(capsys):
    wanted = json.loads((FOLDER / "gloss_cutoff" / "expected.json").read_text())
    for chosen, pool in (("with_interaction", "0.25"), ("pooled", "0")):
        _, said = door(capsys, GLOSS, "--tolerance", "10", "--pool", pool)
        found = json.loads(said.out)
        assert found["interaction_pooled"] is (chosen == "pooled")
        w, r = wanted[chosen], found["result"]
        for key, name in (
            ("EV_repeatability_sd", "repeatability"),
            ("operator_sd", "operator"),
            ("interaction_sd", "interaction"),
            ("AV_reproducibility_sd", "reproducibility"),
            ("GRR_sd", "gauge_rr"),
            ("PV_part_sd", "part"),
            ("TV_total_sd", "total"),
        ):
            assert r[key] == pytest.approx(w["sd"][name], rel=1e-9, abs=1e-12), key
        agrees(found["repeatability_sd_ci95"], w["repeatability_sd_ci95"], 1e-9)
        assert r["pct_tolerance_grr"] == pytest.approx(w["pct_tolerance"]["gauge_rr"])
        assert r["ndc"] == w["ndc"]
    table = found["anova"]
    for i, key in enumerate(("part", "reader", "interaction", "error")):
        line = table[key]
        want = wanted["anova"]
        assert line["df"] == want["df"][i]
        assert (line["ss"], line["ms"]) == pytest.approx((want["ss"][i], want["ms"][i]), rel=1e-9)


def rows(path):
    with path.open() as file:
        return list(csv.DictReader(file))


def write(tmp_path, table, name="study.csv"):
    path = tmp_path / name
    with path.open("w", newline="") as file:
        writer = csv.DictWriter(file, list(table[0]))
        writer.writeheader()
        writer.writerows(table)
    return path


def test_a_whole_study_by_likelihood_agrees_with_lme4(tmp_path, capsys):
    """A spot that one reader left out: REML; and of the whole study REML is lme4's."""
    wanted = json.loads((FOLDER / "gloss_cutoff" / "expected.json").read_text())["reml_check"]
    table = rows(GLOSS)
    extra = dict(table[0], repeat="4")  # one reading more: no longer balanced
    whole = judge_study(
        [r["part"] for r in table],
        [r["operator"] for r in table],
        np.array([float(r["gloss20"]) for r in table]),
    )
    assert whole.method == "anova"
    extra["gloss20"] = str(np.mean([float(r["gloss20"]) for r in table[:3]]))
    status, said = door(capsys, write(tmp_path, [*table, extra]), columns=COLUMNS[GLOSS])
    found = json.loads(said.out)
    assert status == 0
    assert found["method"] == "reml"
    assert "anova" not in found
    r = found["result"]
    # a reading at its cell's own mean hardly moves the variances
    assert r["PV_part_sd"] ** 2 == pytest.approx(wanted["part"], rel=0.01)
    assert r["interaction_sd"] ** 2 == pytest.approx(wanted["part:operator"], rel=0.03)
    assert r["operator_sd"] == pytest.approx(0.0, abs=1e-6)
    assert r["EV_repeatability_sd"] ** 2 == pytest.approx(wanted["Residual"], rel=0.03)


def test_likelihood_agrees_with_analysis_of_variance_where_both_hold():
    """Balanced and all estimates positive: REML = ANOVA (SPEC.md)."""
    from loam.core.gauge import _unbalanced

    table = rows(FILM)
    parts, p = np.unique([r["part"] for r in table], return_inverse=True)
    readers, o = np.unique([r["reader"] for r in table], return_inverse=True)
    y = np.array([float(r["thickness_um"]) for r in table])
    count = np.full((10, 3), 3)
    reml = _unbalanced(y, p, o, count, 0.25, parts, readers).raw
    anova = judge_study(parts[p], readers[o], y).raw
    for name in ("repeatability", "interaction", "reader", "part"):
        assert getattr(reml, name) == pytest.approx(getattr(anova, name), rel=1e-5), name


def test_a_missing_reading_is_an_empty_value_or_no_row(tmp_path, capsys):
    table = rows(FILM)
    blank = [dict(r, thickness_um="" if i == 7 else r["thickness_um"]) for i, r in enumerate(table)]
    answers = []
    for name, given in (("blank.csv", blank), ("short.csv", table[:7] + table[8:])):
        status, said = door(capsys, write(tmp_path, given, name), columns=COLUMNS[FILM])
        assert status == 0
        answers.append(json.loads(said.out))
    assert answers[0] == answers[1]
    assert answers[0]["method"] == "reml"


def test_order_and_names_of_readers_change_nothing():
    table = rows(FILM)
    random.Random(4).shuffle(table)
    y = np.array([float(r["thickness_um"]) for r in table])
    one = judge_study([r["part"] for r in table], [r["reader"] for r in table], y)
    named = {"R1": "Tam", "R2": "Mira", "R3": "Ode"}
    other = judge_study([r["part"] for r in table], [named[r["reader"]] for r in table], y)
    assert one.result.grr == pytest.approx(other.result.grr, rel=1e-12)
    assert one.result.grr == pytest.approx(1.05129549709975, rel=1e-9)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda t: [r for r in t if r["reader"] == "R1"], "1 reader"),
        (lambda t: [r for r in t if r["part"] == "S01"], "1 spot"),
        (lambda t: [r for r in t if r["repeat_no"] == "1"], "Nobody read a spot twice"),
        (lambda t: [*t, t[4]], "stands on line"),
        (lambda t: [dict(t[0], thickness_um="12x"), *t[1:]], "line 2"),
        (lambda t: [dict(t[0], part=""), *t[1:]], "Column part is empty"),
        (
            lambda t: [
                r for r in t if (r["reader"] == "R1") == (r["part"] in ("S01", "S02", "S03"))
            ],
            "share no spot",
        ),
    ],
)
def test_a_study_that_cannot_be_judged_is_refused_in_words(tmp_path, capsys, change, said):
    path = write(tmp_path, change(rows(FILM)))
    status, out = door(capsys, path, columns=COLUMNS[FILM])
    assert status == 2
    assert said in out.err
    assert "Traceback" not in out.err


@pytest.mark.parametrize(
    ("more", "said"),
    [
        (["--pool", "1.5"], "to pool by"),
        (["--tolerance", "0"], "tolerance"),
        (["--tolerance", "nan"], "tolerance"),
        (["--value", "gloss"], "no column 'gloss'"),
    ],
)
def test_odd_wishes_are_refused(capsys, more, said):
    status, out = door(capsys, FILM, *more)
    assert status == 2
    assert said in out.err


def test_no_scatter_at_all_is_a_right_answer():
    parts, readers = [str(i) for i in range(4) for _ in range(4)], list("aabb" * 4)
    still = judge_study(parts, readers, np.repeat([1.0, 2.0, 3.0, 4.0], 4))
    assert (still.result.grr, still.result.ev) == (0.0, 0.0)
    assert math.isinf(still.result.categories)
    with pytest.raises(ValueRefused):
        judge_study(parts, readers, np.full(16, math.nan))
    with pytest.raises(NotEnough):
        judge_study([], [], np.zeros(0))


def test_limits_and_intervals():
    low, high = spread_interval(0.745057790450577, 60)
    assert (low, high) == pytest.approx((0.632337802818787, 0.907059876656097), rel=1e-9)
    assert critical_difference(0.5, 1, 1) == pytest.approx(1.4)
    assert critical_difference(0.5, 3, 5) == pytest.approx(1.4 * math.sqrt(0.5 / 3 + 0.5 / 5))
    assert with_step(0.3, 0.5) == (0.3, False)
    value, hides = with_step(0.2, 0.5)
    assert hides
    assert value == pytest.approx(math.sqrt(0.04 + 0.25 / 12))


def test_what_a_study_says():
    table = rows(FILM)
    y = np.array([float(r["thickness_um"]) for r in table])
    said = study_words(
        judge_study([r["part"] for r in table], [r["reader"] for r in table], y), "µm"
    )
    assert said[0] == "10 spots, 3 readers, 3 readings each."
    assert "0.75 µm (s.d.; 95 %: 0.63 to 0.91)" in said[1]
    assert "more than 2.09 µm once in twenty" in said[1]
    assert said[2].endswith("(hardly known from so few).")
    assert said[3] == "Readers differ from spot to spot."
    pooled = judge_study([r["part"] for r in table], [r["reader"] for r in table], y, 0.0)
    assert "taken as repeat scatter" in study_words(pooled)[-1]


def test_who_reads_low_is_named():
    rng = np.random.default_rng(4)
    part, reader, values = [], [], []
    for spot in range(8):
        level = 80.0 + rng.normal(0, 3)
        for who, high in (("Glim", 0.0), ("Maren", 0.05), ("Tam", -0.4)):
            for _ in range(3):
                part.append(str(spot))
                reader.append(who)
                values.append(level + high + rng.normal(0, 0.1))
    found = reads_apart(part, reader, values)
    own = {o.reader: o for o in found}
    assert own["Tam"].middle == pytest.approx(-0.42, abs=0.08)
    assert own["Tam"].low < -0.42 < own["Tam"].high
    assert own["Tam"].p < 0.001
    said = study_words(judge_study(part, reader, np.array(values)), "GU", 1, found)
    assert [line for line in said if line.startswith("Tam reads 0.") and " GU low (" in line]
    alike = [v + 0.4 * (r == "Tam") for v, r in zip(values, reader, strict=True)]
    assert offset_words([o for o in reads_apart(part, reader, alike) if o.reader == "Tam"]) == []


def test_the_chance_that_a_reader_reads_apart_is_one():
    rng = np.random.default_rng(9)
    part = [str(s) for s in range(6) for _ in range(3)]
    reader = ["A", "B", "C"] * 6
    named = sum(
        any(o.p < 0.05 for o in reads_apart(part, reader, rng.normal(0, 1, 18))) for _ in range(600)
    )
    assert named <= 50
    assert reads_apart(["x"], ["A"], [1.0]) == []
    assert reads_apart(["x", "x"], ["A", "B"], [1.0, 2.0]) == []
