"""Desirability and acceptability against the worked example, and plain rules."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers.reference import load_json
from loam.core.errors import NotEnough, ValueRefused
from loam.core.judging.goal import Worths, judge_goal
from loam.core.priorities import (
    Criterion,
    acceptability,
    decide,
    even_weights,
    lattice,
    overall,
    priority_map,
)

EXAMPLE = load_json("ranking", "example.json")
GIVEN, WANTED = EXAMPLE["inputs"], EXAMPLE["expected"]
CRITERIA = [Criterion(c["name"], c["L"], c["T"], c["s"]) for c in GIVEN["criteria"]]
IMPORTANCE = np.array(GIVEN["importance"], float)
DRAWS = 200_000


def worth_of(y):
    return np.stack([c.worth(y[..., i]) for i, c in enumerate(CRITERIA)], axis=-1)


@pytest.fixture(scope="module")
def drawn():
    """Draws of section 4 of the reference's specification."""
    rng = np.random.default_rng(GIVEN.get("seed", 7001))
    mean, sd = (np.array(GIVEN[k]) for k in ("criteria_means", "criteria_sd"))
    root = np.linalg.cholesky(np.array(GIVEN["criteria_correlation"], float))
    z = rng.standard_normal((DRAWS, *mean.shape)) @ root.T
    s = np.sqrt(GIVEN["nu"] / rng.chisquare(GIVEN["nu"], DRAWS))
    return worth_of(mean + sd * s[:, None, None] * z), rng


def near(p):
    p = np.asarray(p)
    return 4.0 * np.sqrt(p * (1 - p) / DRAWS) + 1e-3


def test_worth_at_the_means():
    worth = worth_of(np.array(GIVEN["criteria_means"]))
    wanted = WANTED["desirability_at_means"]
    assert worth == pytest.approx(np.array(wanted["d"]), rel=1e-8)
    assert overall(worth, IMPORTANCE) == pytest.approx(np.array(wanted["D"]), rel=1e-8)


def test_a_decision_at_given_weights(drawn):
    found, wanted = decide(drawn[0][:50_000], IMPORTANCE), WANTED["decision"]
    assert found.mean == pytest.approx(np.array(wanted["mean_D"]), abs=2e-3)
    assert found.low == pytest.approx(np.array(wanted["D_q05"]), abs=4e-3)
    assert found.high == pytest.approx(np.array(wanted["D_q95"]), abs=4e-3)
    p = np.array(wanted["p_best_with_weights"])
    assert (np.abs(found.p_best - p) <= 2 * near(p)).all()
    assert found.expected_rank == pytest.approx(
        np.array(wanted["expected_rank_with_weights"]), abs=0.04
    )


def test_who_wins_over_all_weights(drawn):
    worth, rng = drawn
    found = acceptability(worth, even_weights(rng, DRAWS, 5))
    wanted = WANTED["decision"]["smaa"]
    p = np.array([row[0] for row in wanted["rank_acceptability"]])
    assert (np.abs(found.share - p) <= near(p)).all()
    assert found.central == pytest.approx(np.array(wanted["central_weights"]), abs=0.01)
    p = np.array(wanted["confidence_at_central_weights"])
    assert (np.abs(found.confidence - p) <= near(p) + 0.01).all()


@given(st.lists(st.floats(0.0, 1.0), min_size=3, max_size=3), st.integers(0, 2))
def test_more_of_anything_is_never_worth_less(values, at):
    more = list(values)
    more[at] = min(1.0, more[at] + 0.1)
    weights = np.array([0.2, 0.3, 0.5])
    assert overall(np.array(more), weights) >= overall(np.array(values), weights) - 1e-12


def test_nothing_spoils_all_unless_it_has_no_weight():
    worth = np.array([1.0, 0.0, 1.0])
    assert overall(worth, np.array([1.0, 1.0, 1.0])) == 0.0
    assert overall(worth, np.array([1.0, 0.0, 1.0])) == 1.0


def test_a_map_says_who_wins_where():
    assert lattice(4).shape == (15, 3)
    assert np.allclose(lattice(9).sum(axis=1), 1.0)
    worth = np.zeros((10, 3, 3)) + 0.1
    for k in range(3):
        worth[:, k, k] = 0.9
    found = priority_map(worth, "ABC", 12)
    for k in range(3):
        corner = found.nearest(np.eye(3)[k])
        assert found.chance[corner, k] == 1.0
        assert found.central(k).argmax() == k
    assert found.share() == pytest.approx([1 / 3] * 3, abs=0.01)


def test_limits_that_say_nothing_are_refused():
    for words in (("x", 1.0, 1.0), ("x", np.nan, 1.0), ("x", 0.0, 1.0, 0.0)):
        with pytest.raises(ValueRefused):
            Criterion(*words)


def _goal(draws, cells=4):
    names = "ABCDEF"[: draws.shape[1]]
    count = [cells] * draws.shape[1]
    return judge_goal([Worths("soft", names, draws, count, [5 * cells] * draws.shape[1])])


def test_a_goal_says_what_its_draws_say():
    rng = np.random.default_rng(4)
    worth = np.clip(rng.normal([0.2, 0.5, 0.52, 0.9], 0.05, (4000, 4)), 0.0, 1.0)
    (found,) = _goal(worth).classes
    given = decide(worth[:, :, None], np.ones(1))
    assert found.names == ("D", "C", "B", "A")
    for s in found.standings:
        k = "ABCD".index(s.combination)
        assert s.p_best == pytest.approx(given.p_best[k])
        assert s.figures.estimate == pytest.approx(given.mean[k])
        assert s.figures.low == pytest.approx(given.low[k], abs=0.003)
        assert s.figures.high == pytest.approx(given.high[k], abs=0.003)
    assert found.compare("D", "A").verdict == "clearly better"
    assert found.compare("C", "B").verdict == "open"


def test_what_is_worth_nothing_ties_and_stays_in_range():
    draws = np.zeros((500, 3))
    draws[:, 2] = 0.4
    (found,) = _goal(draws).classes
    assert found.leader.combination == "C"
    assert found.compare("A", "B").verdict == "equal"
    for s in found.standings:
        f = s.figures
        assert f.estimate == pytest.approx(0.4 if s.combination == "C" else 0.0)
        assert 0.0 <= f.low <= f.high <= 1.0
        assert 0.0 <= f.own_low <= f.own_high <= 1.0
        assert not f.moved
    with pytest.raises(NotEnough):
        judge_goal([])
