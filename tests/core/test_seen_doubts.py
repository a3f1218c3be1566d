"""Doubts about what the eye saw: known truths are found, honest classes are left alone."""

import numpy as np
import pytest
from scipy.stats import betabinom

from loam.core.inspection import EYE, GRID, Looked
from loam.core.seen import SeenIn, chances_beside
from loam.core.seen_doubts import CELL, READER, SeenDoubt, seen_doubts

READERS = ("Ana", "Bo", "Cy")


def look(k, n=64):
    return Looked("swirls", "point", "several", GRID, None, int(k), int(n))


def a_class(seed, readers=READERS, high=0.0, cells=6, scatter=0.3, odd=None):
    """Three combinations; each reader sees each cell's marks with an error of their own."""
    rng = np.random.default_rng(seed)
    found = []
    for c, share in enumerate((0.1, 0.25, 0.5)):
        for i in range(cells):
            cell = 100 * c + i
            own = 0.9 if (c, i) == odd else share
            logit = np.log(own / (1.0 - own)) + scatter * rng.normal()
            for r in readers:
                shift = high if r == readers[0] else 0.0
                p = 1.0 / (1.0 + np.exp(-(logit + shift)))
                found.append(SeenIn(cell, "soft", "ABC"[c], look(rng.binomial(64, p)), r))
    return found


def test_a_reader_who_sees_more_is_named_and_nobody_else():
    for seed in range(6):
        found = [d for d in seen_doubts(a_class(seed, high=0.8)) if d.kind == READER]
        assert [d.reader for d in found] == ["Ana"], seed
        assert found[0].points > 5.0
    said = found[0].words()
    assert said.startswith("Ana sees ")
    assert "points more than the others on the same 18 cells (swirls by point light)" in said


def test_honest_readers_and_cells_are_seldom_doubted():
    alarms = sum(bool(seen_doubts(a_class(1000 + seed))) for seed in range(80))
    assert alarms <= 5  # 1.5 % nominal; 6 of 80 and more has a chance below 0.002


def test_a_cell_unlike_the_rest_of_its_combination_is_named():
    found = seen_doubts(a_class(5, cells=7, odd=(0, 3)))
    assert [(d.kind, d.cell) for d in found] == [(CELL, 3)]
    assert "In Heron B2 " in found[0].words("Heron B2")
    assert found[0].points > 60


def test_few_cells_one_reader_and_percents_by_eye_are_taken_as_they_are():
    assert seen_doubts([]) == []
    assert seen_doubts(a_class(1, readers=("Ana",))) == []
    assert seen_doubts(a_class(1, high=3.0, cells=1)) == [], "three shared cells tell nothing"
    eye = [
        SeenIn(c, "soft", "A", Looked("swirls", "sun", "one", EYE, p), r)
        for c in range(8)
        for r, p in (("Ana", 30.0), ("Bo", 10.0))
    ]
    found = seen_doubts(eye)
    assert [d.kind for d in found] == [READER]
    assert found[0].points in (pytest.approx(20.0), pytest.approx(-20.0))
    deep = SeenIn(1, "soft", "A", Looked("deep", "point", "one", ""), "Ana")
    assert seen_doubts([deep] * 9) == []


def test_a_later_look_takes_the_place_of_an_earlier():
    found = a_class(5, cells=7, odd=(0, 3))
    again = [SeenIn(3, "soft", "A", look(6), r) for r in READERS]
    assert seen_doubts([*found, *again]) == []


def test_a_predicted_count_is_a_beta_binomial_tail():
    """With many cells the posterior is narrow: the tail is the beta-binomial's at the truth."""
    rng = np.random.default_rng(3)
    share, rho = 0.2, 0.1
    a, b = share * (1 - rho) / rho, (1 - share) * (1 - rho) / rho
    counts = betabinom.rvs(64, a, b, size=600, random_state=rng)
    for k in (1, 13, 40):
        law = betabinom(64, a, b)
        truth = min(1.0, 2.0 * min(law.cdf(k), law.sf(k - 1)))
        found = chances_beside([(k, 64), *((int(c), 64) for c in counts)])
        assert found[0] == pytest.approx(truth, abs=0.02 + 0.1 * truth)


def test_words_of_fewer():
    said = SeenDoubt(CELL, ("swirls", "sun", EYE), "", 3, 0.001, -30.4, 6).words("Rook A1")
    assert said.startswith("In Rook A1 30 points fewer remain")
