"""The engine of the mixed model: exact reduction, exact slopes, optimum, against dense algebra."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.stats.chain import Chain, nested_in, split_chain
from loam.core.stats.dense import Dense, information
from loam.core.stats.likelihood import Likelihood
from loam.core.stats.optimise import minimise
from loam.core.stats.posterior import _Objective
from loam.core.stats.prior import Prior
from loam.core.stats.reduce import compact, cross, reduce_to_units

SEEDS = st.integers(0, 10**6)


def layout(seed, panels=3, cells=4, most=4):
    """Unbalanced readings of cells in panel:combination in panel, with a crossed operator."""
    rng = np.random.default_rng(seed)
    rows = []
    for p in range(panels):
        for c in range(cells):
            combination = int(rng.integers(0, 3)) if p or c > 2 else c
            operator = int(rng.integers(0, 3))
            for _ in range(int(rng.integers(1, most + 1))):
                rows.append((p * cells + c, p * 3 + combination, p, combination, operator))
    table = np.array(rows, dtype=np.intp)
    y = rng.normal(80, 2, len(rows)) + table[:, 3] + rng.normal(0, 1, panels)[table[:, 2]]
    covariate = rng.normal(0, 1, panels * cells)[table[:, 0]]
    return y, *table.T, covariate


def likelihood_of(seed):
    y, cell, pair, panel, combination, operator, covariate = layout(seed)
    groups, _ = compact(combination)
    factors = [compact(f)[0] for f in (cell, pair, panel, operator)]
    units = reduce_to_units(y, [*factors, groups], [covariate])
    wide = covariate[units.first][:, None]
    like = Likelihood(units, groups[units.first], wide, [f[units.first] for f in factors])
    return like, y, groups, factors, covariate


def dense(y, groups, factors, covariate, gamma):
    """The same criterion from the full covariance matrix of all readings."""
    x = np.column_stack([np.eye(int(groups.max()) + 1)[groups], covariate])
    v = np.eye(y.size)
    for f, g in zip(factors, gamma, strict=True):
        v += g * (f[:, None] == f[None, :])
    inverse = np.linalg.inv(v)
    xvx = x.T @ inverse @ x
    beta = np.linalg.solve(xvx, x.T @ inverse @ y)
    rest = y - x @ beta
    r2 = float(rest @ inverse @ rest)
    n, p = x.shape
    logdet = np.linalg.slogdet(v)[1] + np.linalg.slogdet(xvx)[1]
    return logdet + (n - p) * (1 + np.log(2 * np.pi * r2 / (n - p))), beta, r2


@given(SEEDS, st.lists(st.sampled_from([0.0, 0.01, 0.7, 5.0, 300.0]), min_size=4, max_size=4))
def test_the_absorbed_likelihood_is_the_dense_one(seed, gamma):
    like, y, groups, factors, covariate = likelihood_of(seed)
    point = like.at(np.array(gamma))
    wanted, beta, r2 = dense(y, groups, factors, covariate, gamma)
    assert point.criterion == pytest.approx(wanted, abs=1e-6)
    assert point.r2 == pytest.approx(r2, rel=1e-8)
    got, _ = like.fixed(point)
    shifted = got.copy()
    shifted[: int(groups.max()) + 1] += like.units.shift
    np.testing.assert_allclose(shifted, beta, rtol=1e-6, atol=1e-6)


@given(SEEDS, st.lists(st.sampled_from([0.0, 1e-6, 0.7, 5.0, 300.0]), min_size=4, max_size=4))
def test_few_units_give_the_same_from_one_dense_factor(seed, gamma):
    like, *_ = likelihood_of(seed)
    gamma = np.array(gamma)
    point, few = like.at(gamma), Dense(like)
    assert few.holds(gamma)
    found = few.at(gamma)
    assert found.logdet == pytest.approx(point.logdet, abs=1e-8)
    assert found.r2 == pytest.approx(point.r2, rel=1e-8)
    np.testing.assert_allclose(found.trace, point.trace, rtol=1e-6, atol=1e-8)
    np.testing.assert_allclose(found.norm, point.norm, rtol=1e-6, atol=1e-8)
    for j, own in enumerate(information(like, gamma, range(4))):
        wanted = like.information(point, j)
        np.testing.assert_allclose(own, wanted, rtol=1e-6, atol=1e-8 * max(1.0, wanted.max()))


@given(SEEDS, st.lists(st.floats(-2.0, 2.0), min_size=4, max_size=4))
def test_the_curvature_of_few_units_is_that_of_their_slope(seed, u):
    like, *_ = likelihood_of(seed)
    objective = _Objective(like, [Prior(0.6, 3.0)] * 4, Prior(0.4, 3.0))
    u = np.array(u)
    exact = objective.bent(u)
    for j in range(4):
        step = np.eye(4)[j] * 1e-5
        by_steps = (objective.at(u + step)[1] - objective.at(u - step)[1]) / 2e-5
        np.testing.assert_allclose(exact[j], by_steps, rtol=1e-4, atol=1e-5)


def test_ratios_too_steep_for_a_dense_factor_are_told():
    like, *_ = likelihood_of(3)
    assert not Dense(like).holds(np.array([1.0, 1e9, 1.0, 1.0]))


@given(SEEDS, st.lists(st.floats(0.05, 20), min_size=4, max_size=4))
def test_the_slope_is_exact(seed, gamma):
    like, *_ = likelihood_of(seed)
    gamma = np.array(gamma)
    slope = like.gradient(like.at(gamma))
    for j in range(4):
        step = 1e-5 * gamma[j]
        up, down = gamma.copy(), gamma.copy()
        up[j] += step
        down[j] -= step
        numeric = (like.at(up).criterion - like.at(down).criterion) / (2 * step)
        assert slope[j] == pytest.approx(numeric, rel=1e-4, abs=1e-4)


@given(SEEDS)
def test_the_optimum_is_one(seed):
    """No slope left inside, none pointing inward at the bound, nothing lower nearby."""
    like, *_ = likelihood_of(seed)
    found = minimise(like)
    gamma = found.point.gamma
    slope = like.gradient(found.point) * (1 + gamma * like.typical) / like.typical
    inside = gamma > 0
    assert found.converged
    assert np.all(np.abs(slope[inside]) < 1e-4)
    assert np.all(slope[~inside] >= -1e-7)
    rng = np.random.default_rng(seed)
    for _ in range(12):
        other = np.maximum(gamma * rng.uniform(0.5, 2, 4) + rng.uniform(0, 0.05, 4), 0)
        assert like.at(other).criterion >= found.point.criterion - 1e-7


def test_a_start_elsewhere_ends_at_the_same_place():
    like, *_ = likelihood_of(8)
    here = minimise(like).point.criterion
    for start in (np.full(4, 1e-6), np.full(4, 1e4), np.array([0.0, 0.0, 0.0, 0.0])):
        assert minimise(like, start).point.criterion == pytest.approx(here, abs=1e-6)


@given(SEEDS)
def test_reduction_keeps_every_sum(seed):
    y, cell, *_, covariate = layout(seed)
    units = reduce_to_units(y, [cell], [covariate])
    assert units.count.sum() == y.size
    total = units.within_ss + float(units.count @ units.mean**2)
    assert total == pytest.approx(float(((y - y.mean()) ** 2).sum()), rel=1e-10)
    for u in range(units.count.size):
        own = y[units.of_row == u]
        assert units.mean[u] + units.shift == pytest.approx(own.mean())
        assert units.count[u] == own.size


@given(st.lists(st.integers(0, 10**9), min_size=1, max_size=60))
def test_compact_codes_keep_order_and_count(codes):
    found, k = compact(np.array(codes))
    assert k == len(set(codes))
    assert sorted(set(found.tolist())) == list(range(k))
    order = np.argsort(codes, kind="stable")
    assert np.all(np.diff(found[order]) >= 0)


def test_crossing_numbers_only_pairs_that_occur():
    pairs, k = cross(np.array([0, 0, 1, 1]), np.array([5, 5, 5, 2]))
    assert k == 3
    assert pairs.tolist() == [0, 0, 2, 1]


def test_the_chain_takes_what_is_nested_and_leaves_what_is_crossed():
    cell = np.arange(12)
    panel = cell // 4
    operator = cell % 2
    assert nested_in(cell, panel)
    assert not nested_in(panel, operator)
    chain, crossed = split_chain([operator, panel, cell])
    assert chain == [2, 1]
    assert crossed == [0]


@pytest.mark.parametrize("groups", ["none", "of their own", "split"])
@pytest.mark.parametrize("levels", [1, 2, 3])
def test_scores_of_every_level_agree_with_dense_algebra(groups, levels):
    rng = np.random.default_rng(4)
    cell = np.arange(18)
    pair, panel = cell // 3, cell // 9
    count = rng.integers(1, 6, 18).astype(float)
    columns = rng.normal(size=(18, 6))
    group, span = None, None
    if groups != "none":  # a group lies in whole pairs, or pairs are split between groups
        group, span = (pair % 3 if groups == "of their own" else cell % 3), slice(1, 4)
        columns[:, span] = np.eye(3)[group]
    factors = (cell, pair, panel)[:levels]
    gamma = np.array([0.7, 0.3, 2.0])[:levels]
    chain = Chain(count, columns, factors, group, span)
    v = np.diag(1 / count)
    for f, g in zip(factors, gamma, strict=True):
        v += g * (f[:, None] == f[None, :])
    inverse = np.linalg.inv(v)
    value = chain.at(gamma)
    np.testing.assert_allclose(value.cross, columns.T @ inverse @ columns, rtol=1e-9)
    several, _ = chain.many(np.vstack([gamma, 2.0 * gamma]))
    np.testing.assert_allclose(several[0], value.cross, rtol=1e-12)
    np.testing.assert_allclose(several[1], chain.at(2.0 * gamma).cross, rtol=1e-12)
    for level, f in enumerate(factors):
        z = np.eye(int(f.max()) + 1)[f]
        b, diagonal = chain.scores(gamma, level)
        wanted = z.T @ inverse @ columns
        np.testing.assert_allclose(b, wanted[chain.groups[level]], rtol=1e-9, atol=1e-12)
        square = z.T @ inverse @ z
        np.testing.assert_allclose(diagonal, np.diag(square)[chain.groups[level]], rtol=1e-9)
        assert value.trace[level] == pytest.approx(np.trace(square))
        np.testing.assert_allclose(value.squares[level], wanted.T @ wanted, rtol=1e-8, atol=1e-10)
