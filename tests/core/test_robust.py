"""The spread of repeat readings: right on clean readings, hardly moved by a slip or a copy."""

import numpy as np
import pytest

from loam.core.stats.robust import BEND, expected_square, repeat_sd


def cells(seed, m=12, n=5, sd=0.4):
    rng = np.random.default_rng(seed)
    return 85 + rng.normal(0, 1, m)[:, None] + sd * rng.standard_normal((m, n))


def of(y, resolution=0.1):
    return repeat_sd(y.ravel(), np.repeat(np.arange(y.shape[0]), y.shape[1]), resolution)


@pytest.mark.parametrize("n", [2, 3, 5, 10, 12, 17, 40])
def test_the_table_of_expected_squares(n):
    z = np.random.default_rng(n).standard_normal((400_000, n))
    away = z - np.median(z, axis=1, keepdims=True)
    seen = np.minimum(away**2, BEND**2).mean()
    assert expected_square(n) == pytest.approx(seen, abs=0.004)


@pytest.mark.parametrize("n", [2, 3, 5, 10])
def test_on_clean_readings_it_is_the_standard_deviation(n):
    found = [of(cells(s, 40, n), 0.0) for s in range(40)]
    assert np.mean(found) == pytest.approx(0.4, rel=0.04)
    pooled = [np.sqrt(cells(s, 40, n).var(axis=1, ddof=1).mean()) for s in range(40)]
    assert np.std(found) < 1.6 * np.std(pooled)


@pytest.mark.parametrize("m", [6, 12, 30])
def test_one_slip_moves_it_by_less_than_a_tenth(m):
    for seed in range(20):
        y = np.round(cells(seed, m), 1)
        clean = of(y)
        y[0, 2] = 846.0
        assert of(y) == pytest.approx(clean, rel=0.2 if m == 6 else 0.1)


@pytest.mark.parametrize("m", [6, 12, 30])
def test_copied_readings_move_it_by_less_than_a_tenth(m):
    moved = []
    for seed in range(20):
        y = np.round(cells(seed, m), 1)
        clean = of(y)
        y[1] = y[1, 0]
        moved.append(abs(of(y) / clean - 1))
    assert np.median(moved) < 0.06
    assert np.quantile(moved, 0.9) < (0.15 if m == 6 else 0.1)


def test_nothing_finer_than_the_meters_step_is_seen():
    assert of(np.full((8, 5), 85.0)) == pytest.approx(0.1 / np.sqrt(12))
    assert repeat_sd(np.array([1.0, 2.0]), np.array([0, 1]), 0.1) is None
