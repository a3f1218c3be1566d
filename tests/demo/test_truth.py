"""Does Loam find what the demo's generator knows to be true?"""

from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
from scipy.special import stdtrit

from loam.app.learnt_priors import priors_for
from loam.core.dataset import trial_data
from loam.core.doubts import doubts
from loam.core.judging import judge_readings
from loam.core.plain_rank import judge
from loam.demo import truth
from loam.demo.scenario import DAYS, cut_and_finish, make_demo, one_steps
from loam.store.circumstances import extras_in
from loam.store.database import reading_apart
from loam.store.snapshot import load_snapshot, snapshot_of


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    path = tmp_path_factory.mktemp("demo") / "demo.loam"
    make_demo(path)
    with reading_apart(path) as db:
        yield db


def test_the_same_seed_makes_the_same_workshop():
    assert cut_and_finish() == cut_and_finish()
    assert one_steps() == one_steps()


def test_trial_two_finds_the_leaders_of_every_class(demo):
    results = {r.hardness: r for r in judge(trial_data(load_snapshot(demo, 2), "gloss20")).results}
    assert results["soft"].effects[0].combination == "A"
    assert set(results["medium"].best) == {"B", "D"}
    assert set(results["hard"].best) == {"B", "D"}
    assert results["hard"].untested == ("E",)


@pytest.fixture(scope="module")
def repeats():
    """Repeats of trial 2 without the planted worn pad (F)."""
    found = []
    for seed in range(100, 116):
        made = snapshot_of(cut_and_finish(seed))
        worn = next(c.id for c in made.combinations if c.code == truth.WORN_PAD[0])
        cells = tuple(c for c in made.cells if c.combination_id != worn)
        found.append(replace(made, cells=cells))
    return found


@pytest.mark.parametrize("measurand", ["gloss20", "haze", "removed"])
def test_intervals_of_differences_hold_the_truth(measurand, repeats):
    """90 % intervals hold as often as they say."""
    true = {c.code: getattr(c, measurand) for c in truth.CUT_AND_FINISH}
    inside = total = 0
    for well in repeats:
        data = trial_data(well, measurand, baseline=measurand == "gloss20")
        for result in judge(data).results:
            for c in result.contrasts:
                wanted = true[c.a][result.hardness] - true[c.b][result.hardness]
                half = stdtrit(c.df, 0.95) * c.se
                inside += abs(c.estimate - wanted) <= half
                total += 1
    assert total == 16 * 26
    assert 0.84 <= inside / total <= 0.96, inside / total


def test_the_filler_trap_is_there_before_the_wipe_and_gone_after(demo):
    rows = demo.execute(
        "SELECT k.code, avg(CASE r.phase WHEN 'unwiped' THEN r.value END),"
        " avg(CASE r.phase WHEN 'after' THEN r.value END) FROM reading r"
        " JOIN cell c ON c.id = r.cell_id JOIN taping t ON t.id = c.taping_id"
        " JOIN combination k ON k.id = c.combination_id"
        " WHERE t.trial_id = 1 AND r.measurand = 'gloss20' GROUP BY k.code"
    ).fetchall()
    shown = {code: unwiped if unwiped is not None else after for code, unwiped, after in rows}
    real = {code: after for code, _, after in rows}
    assert max(shown, key=shown.get) == "B"
    assert max(real, key=real.get) == "A"
    assert shown["B"] - real["B"] == pytest.approx(4.2, abs=0.2)


def test_the_mislabelled_panel_answers_unlike_its_class(demo):
    fit = judge(trial_data(load_snapshot(demo, 1), "gloss20")).fit
    names, values, _ = fit.predictions("panel")
    assert names[values.argmin()] == truth.MISLABELLED_PANEL


def test_the_heavy_hand_takes_most_clear(demo):
    fit = judge(trial_data(load_snapshot(demo, 2), "removed")).fit
    names, values, _ = fit.predictions("operator")
    assert names[values.argmax()] == truth.HEAVY_HAND


@pytest.mark.parametrize("measurand", ["gloss20", "haze", "defects", "removed"])
def test_what_the_window_says_of_the_demo_is_true(demo, measurand):
    """Every verdict on every pair against the known truth; the planted worn pad is left out, and
    one in twenty may be wrong."""
    data = trial_data(load_snapshot(demo, 2), measurand)
    found = judge_readings(data, priors=priors_for(demo, 2, measurand, data), seed=12)
    true = {c.code: getattr(c, measurand) for c in truth.CUT_AND_FINISH}
    delta, wrong, total = found.matters.on_scale, 0, 0
    for c in found.classes:
        names = [n for n in c.names if n != truth.WORN_PAD[0]]
        on_scale = {n: float(found.scale.to(np.array([true[n][c.hardness]]))[0]) for n in names}
        assert c.leader.combination in names
        for a, b in combinations(names, 2):
            d = (on_scale[a] - on_scale[b]) * (1 if found.higher_is_better else -1)
            total += 1
            wrong += {
                "clearly better": d <= delta,
                "clearly worse": -d <= delta,
                "better": d <= 0,
                "worse": d >= 0,
                "equal": abs(d) >= delta,
                "open": False,
            }[c.compare(a, b).verdict]
    assert total == 26
    assert wrong <= 2


def said_of(path_db, trial_id):
    snapshot = load_snapshot(path_db, trial_id)
    return {(d.kind, d.subject) for d in doubts(snapshot, extras_in(path_db, trial_id, snapshot))}


def test_every_planted_fault_of_the_demo_is_found_and_nothing_else(demo):
    last = DAYS[-1]
    assert said_of(demo, 1) == {
        ("masking", "B"),
        ("masking", "D"),
        ("class", truth.MISLABELLED_PANEL),
        ("hand", truth.HEAVY_HAND),
    }
    assert said_of(demo, 2) == {
        ("masking", "E"),
        ("pad", f"{truth.WORN_PAD[0]} on {last}"),
        ("hand", truth.HEAVY_HAND),
    }
    assert said_of(demo, 3) == said_of(demo, 4) == set()
