"""Ranking against reference/ranking (exact by quadrature, Monte Carlo as stated)."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers.reference import load_json
from loam.core.stats.ranking import (
    A_BETTER,
    B_BETTER,
    NOT_SETTLED,
    TIE,
    best_group,
    compare,
    draw_means,
    rank_draws,
)

DRAWS = 200_000
EXAMPLE = load_json("ranking", "example.json")
EXACT = load_json("ranking", "exact", "expected.json")["rank"]


def close(got, want, draws=DRAWS):
    want = np.asarray(want)
    assert np.all(np.abs(got - want) <= 4 * np.sqrt(want * (1 - want) / draws) + 1e-3)


@pytest.mark.parametrize(("block", "df"), [("ranks_t", 24), ("ranks_normal", None)])
def test_worked_example_ranks(block, df):
    given_, want = EXAMPLE["inputs"], EXAMPLE["expected"][block]
    mean, covariance = np.array(given_["adjusted_means"]), np.array(given_["covariance"])
    draws = draw_means(mean, covariance, df, np.random.default_rng(7), DRAWS)
    ranks = rank_draws(draws, given_["rope_delta"])
    close(ranks.p_best, want["p_best"])
    close(ranks.p_rank, want["rank_probabilities"])
    assert np.abs(ranks.expected - want["expected_rank"]).max() < 4 * 4 / (2 * np.sqrt(DRAWS))
    assert np.column_stack([ranks.low, ranks.high]).tolist() == want["rank_interval_90"]
    if df:
        close(ranks.as_good, EXAMPLE["expected"]["p_as_good_as_best_within_delta"]["values"])


def test_worked_example_pairs_and_best_group():
    given_, want = EXAMPLE["inputs"], EXAMPLE["expected"]
    mean, covariance = np.array(given_["adjusted_means"]), np.array(given_["covariance"])
    pairs = compare(mean, covariance, given_["nu"], given_["rope_delta"])
    for pair, expected in zip(pairs, want["pairs"], strict=True):
        assert (pair.a, pair.b, pair.verdict) == (expected["a"], expected["b"], expected["verdict"])
        assert pair.se == pytest.approx(expected["se"], rel=1e-8)
        assert pair.p_a_better == pytest.approx(expected["p_a_better_by_delta"], rel=1e-8)
        assert pair.p_tie == pytest.approx(expected["p_tie"], rel=1e-8)
        assert pair.p_b_better == pytest.approx(expected["p_b_better_by_delta"], rel=1e-8)
    assert best_group(mean, pairs) == want["best_group"]


@pytest.mark.parametrize("form", ["t", "normal"])
def test_second_example_is_exact(form):
    mean, covariance = np.array(EXACT["estimate"]), np.array(EXACT["cov"])
    df = EXACT["df"] if form == "t" else None
    want = EXACT[form]
    ranks = rank_draws(
        draw_means(mean, covariance, df, np.random.default_rng(3), DRAWS), EXACT["delta"]
    )
    close(ranks.p_best, want["p_best"])
    close(ranks.p_rank, want["p_rank"])
    close(ranks.as_good, want["p_within_delta_of_best"])
    assert np.column_stack([ranks.low, ranks.high]).tolist() == want["rank_interval90"]
    words = {
        A_BETTER: "row better",
        B_BETTER: "column better",
        TIE: "same",
        NOT_SETTLED: "undecided",
    }
    pairs = compare(mean, covariance, df or 1e12, EXACT["delta"], level=0.95)
    for pair in pairs:
        assert words[pair.verdict] == want["pair_verdict"][pair.a][pair.b]
        assert pair.p_tie == pytest.approx(want["p_practically_equal"][pair.a][pair.b], rel=1e-5)


def test_equal_draws_share_the_ranks_they_span():
    ranks = rank_draws(np.array([[1.0, 1.0, 0.0], [2.0, 3.0, 3.0]]))
    assert ranks.p_best.tolist() == [0.25, 0.5, 0.25]
    assert ranks.p_rank.sum(axis=1).tolist() == [1, 1, 1]
    assert ranks.expected.tolist() == [2.25, 1.5, 2.25]


def test_a_tie_is_shown_and_too_few_cells_are_not_a_tie():
    mean, tight, wide = np.array([10.0, 9.9]), np.eye(2) * 0.01, np.eye(2)
    assert compare(mean, tight, 50, 1.0)[0].verdict == TIE
    assert compare(mean, wide, 50, 1.0)[0].verdict == NOT_SETTLED


@given(st.integers(2, 6), st.integers(0, 2**32 - 1), st.floats(-50, 50))
def test_a_shift_shared_by_all_changes_nothing(k, seed, shift):
    rng = np.random.default_rng(seed)
    root = rng.normal(size=(k, k))
    covariance, mean = root @ root.T + np.eye(k), rng.normal(size=k) * 2
    a = compare(mean, covariance, 9, 0.5)
    b = compare(mean + shift, covariance + 3.0, 9, 0.5)
    for p, q in zip(a, b, strict=True):
        assert p.verdict == q.verdict or abs(max(p.p_tie, p.p_a_better, p.p_b_better) - 0.9) < 1e-6
        assert p.p_tie == pytest.approx(q.p_tie, abs=1e-7)


@given(st.integers(1, 7), st.integers(0, 2**32 - 1))
def test_rank_shares_are_a_doubly_stochastic_table(k, seed):
    draws = np.random.default_rng(seed).integers(0, 3, size=(50, k)).astype(float)
    ranks = rank_draws(draws)
    np.testing.assert_allclose(ranks.p_rank.sum(axis=0), 1)
    np.testing.assert_allclose(ranks.p_rank.sum(axis=1), 1)
    for i in range(k):
        inside = ranks.p_rank[i, ranks.low[i] - 1 : ranks.high[i]].sum()
        assert inside >= 0.9 - 1e-9, "the rank interval holds its share"
        assert ranks.p_rank[i, : ranks.low[i] - 1].sum() < 0.05
        assert ranks.p_rank[i, ranks.high[i] :].sum() <= 0.05 + 1e-9
