"""The readings before work level what was read after it; and "clearly" is earned in the trial."""

from dataclasses import replace

import numpy as np
import pytest

from helpers.simulate import designs, trial
from loam.core.judging import judge_readings
from loam.core.prior import RESIDUAL
from loam.core.readings import kind_of
from loam.core.scale import scale_for
from loam.core.trial_rows import Coded, TrialData
from loam.core.verdicts import BETTER, CLEARLY_BETTER, EQUAL, OPEN
from loam.core.words.verdict import notes, sentence


def coded(values):
    names, at = np.unique(values, return_inverse=True)
    return Coded(at.astype(np.intp), tuple(str(n) for n in names))


def small(values, cells, combinations):
    n = len(values)
    factors = {"cell": coded(cells), "panel": coded(["P"] * n)}
    return TrialData(
        "gloss20", np.array(values, float), coded(["soft"] * n), coded(combinations), factors
    )


def test_the_start_is_used_only_when_it_says_something():
    data, _ = trial(designs()["a"], 3)
    flat = judge_readings(replace(data, baseline=np.full(data.y.size, 60.0)))
    assert flat.starts.became == "no spread"
    assert "the same everywhere" in " ".join(notes(flat))
    none = judge_readings(replace(data, baseline=np.full(data.y.size, np.nan)))
    assert not none.starts.used
    assert none.classes == judge_readings(data).classes
    rng = np.random.default_rng(1)
    before = 60 + rng.normal(0, 3, data.factors["cell"].codes.max() + 1)[data.factors["cell"].codes]
    used = judge_readings(replace(data, y=data.y + 0.5 * (before - 60), baseline=before))
    plain = judge_readings(data)
    a, b = used.classes[0], plain.classes[0]
    assert a.compare(*b.names[:2]).estimate == pytest.approx(
        b.compare(*b.names[:2]).estimate, abs=0.35
    )
    assert abs(used.starts.slope - 0.5) < 2.5 * used.starts.slope_sd < 0.65


def with_starts(values, starts, combinations, classes=None):
    """Two readings a cell, one cell a value; starts by cell, NaN for none."""
    n = len(values)
    y = np.repeat(np.array(values, float), 2) + np.tile([-0.1, 0.1], n)
    data = small(y, np.repeat(np.arange(n), 2), np.repeat(combinations, 2))
    classes = coded(np.repeat(classes or ["soft"] * n, 2))
    return replace(data, hardness=classes, baseline=np.repeat(np.array(starts, float), 2))


def test_classes_that_start_apart_stay_within_their_readings():
    """Starts of 70 and 40: centred over all, a soft A read 88.3 to 90.3 was shown as 95.8."""
    found = judge_readings(
        with_starts(
            [88.3, 90.3, 89.0, 89.4, 70.0, 71.0, 70.4, 70.9],
            [70, 70.5, 69, 71, 40, 41, 39, 40.5],
            [*"AABBAABB"],
            ["soft"] * 4 + ["hard"] * 4,
        )
    )
    read = {"soft": (88.2, 90.4), "hard": (69.9, 71.1)}
    for c in found.classes:
        for s in c.standings:
            low, high = read[c.hardness]
            assert low <= s.figures.estimate <= high
    assert found.starts.at["soft"] == pytest.approx(70.125)
    assert "soft 70.1" in " ".join(notes(found))


def test_two_starts_say_nothing_of_the_slope():
    """Starts 0.1 apart and results 0.7 apart: the free slope was -6.6, A read 84.4 became 89.9."""
    found = judge_readings(
        with_starts([84.4, 85.1, 86.0, 86.2], [41.0, 41.1, np.nan, np.nan], [*"AABB"])
    )
    assert abs(found.starts.slope) < 0.25
    assert found.classes[0].standing("A").figures.plain == pytest.approx(84.75, abs=0.1)
    assert (found.starts.missing, found.starts.cells) == (2, 4)
    said = " ".join(notes(found))
    assert "2 of 4 cells that count lack it and count at that mean start" in said
    assert "ranked without" not in said


def test_the_slope_has_the_posterior_of_one_more_row():
    """One class, cells alone: with the variance known, b ~ N(0, 0.25) and the readings' own
    least squares within combinations, weighed by their precisions."""
    rng = np.random.default_rng(4)
    cells, per = 60, 6
    start = rng.normal(50, 4, cells)
    combination = np.arange(cells) % 3
    level = 80 + combination + 0.3 * (start - 50) + 0.6 * rng.standard_normal(cells)
    y = np.repeat(level, per) + 0.4 * rng.standard_normal(cells * per)
    data = replace(
        small(y, np.repeat(np.arange(cells), per), np.repeat([*"ABC"] * 20, per)),
        baseline=np.repeat(start, per),
    )
    found = judge_readings(data)
    mean = y.reshape(cells, per).mean(axis=1)
    x = start - np.array([start[combination == k].mean() for k in range(3)])[combination]
    noise = found.sd["cell"] ** 2 + found.sd[RESIDUAL] ** 2 / per
    own = float(x @ x) / noise
    assert found.starts.slope == pytest.approx(float(x @ mean) / noise / (own + 4.0), abs=0.004)
    assert found.starts.slope_sd == pytest.approx((own + 4.0) ** -0.5, rel=0.06)
    assert not found.starts.corrected


def test_starts_that_differ_by_combination_are_noticed_and_said():
    rng = np.random.default_rng(2)
    combinations = [*"ABCD"] * 4
    apart = np.array([{"A": 40, "B": 48, "C": 44, "D": 52}[c] for c in combinations])
    starts = apart + rng.normal(0, 1, 16)
    found = judge_readings(with_starts(85 + rng.normal(0, 0.6, 16), starts, combinations))
    assert found.starts.p < 0.01
    assert "levelled to one start" in sentence(found)
    even = judge_readings(
        with_starts(85 + rng.normal(0, 0.6, 16), 45 + rng.normal(0, 1, 16), combinations)
    )
    assert even.starts.p > 0.01
    assert "start" not in sentence(even)


# ---- clearly is earned in the trial -------------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "said"),
    [
        ("m2", "on this panel"),
        ("n", "on this panel"),
        ("o", "by this person"),
        ("p", "on this day"),
        ("g", "on this panel"),
    ],
)
def test_clearly_is_not_said_of_one_panel_person_or_day(name, said):
    design = replace(designs()[name], spread=8.0)
    for seed in range(6):
        found = judge_readings(trial(design, seed)[0]).classes[0]
        leads = [s for s in found.standings if s.relation in (BETTER, CLEARLY_BETTER)]
        assert all(s.relation == BETTER and s.rests for s in leads if s.rests)
        resting = [s for s in leads if s.rests]
        if resting:
            assert said in sentence(judge_readings(trial(design, seed)[0]))
            assert all(s.look == "assumed" for s in resting)
    assert resting


@pytest.mark.parametrize("name", ["a", "d", "k", "l"])
def test_a_full_trial_earns_it(name):
    for seed in range(4):
        for c in judge_readings(trial(designs()[name], seed)[0]).classes:
            assert not any(s.rests for s in c.standings)


def test_own_df_are_the_ranks_that_the_layout_leaves():
    from loam.core.judging.model import fit_model
    from loam.core.judging.rests import own_df

    def of(name):
        data, _ = trial(replace(designs()[name], operators=1), 2)
        model = fit_model(data, scale_for(kind_of("gloss20"), data.y), None)
        usual = np.exp(model.mixture.weight @ np.log(model.mixture.gamma))
        found = own_df(model.likelihood, usual, [True] * len(model.terms))
        return {"+".join(t.names): x for t, x in zip(model.terms, found, strict=True)}

    a = of("a")  # two classes of 2 panels x 5 combinations x 2 cells
    assert a["panel"] == pytest.approx(2, abs=0.05)
    assert a["panel:combination"] == pytest.approx(2 * 1 * 4, abs=0.05)
    assert a["cell"] == pytest.approx(20, abs=0.05)
    assert of("m1")["panel:combination"] == pytest.approx(0, abs=0.01)
    assert of("c")["cell+panel:combination"] == pytest.approx(3, abs=0.05)
    assert of("n")[
        "panel+panel:combination"
        if "panel+panel:combination" in of("n")
        else "panel:combination+panel"
    ] == pytest.approx(0, abs=0.01)


def test_after_a_look_ahead_needs_ten_to_one():
    data, _ = trial(designs()["a"], 3)
    found, looked = judge_readings(data), judge_readings(replace(data, looked=True))
    assert "added after a look" in " ".join(notes(looked))
    for c, d in zip(found.classes, looked.classes, strict=True):
        for a in c.names:
            for b in c.names:
                if a == b:
                    continue
                x, y = c.compare(a, b), d.compare(a, b)
                gap = d.plain[:, d.columns[a]] - d.plain[:, d.columns[b]]
                s2, t2 = gap.var(), 4.0
                bf = np.sqrt(s2 / (s2 + t2)) * np.exp(gap.mean() ** 2 * t2 / (2 * s2 * (s2 + t2)))
                if x.verdict in (EQUAL, OPEN) or bf >= 10:
                    assert y.verdict == x.verdict
                else:
                    assert y.verdict == OPEN
