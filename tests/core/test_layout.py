"""Dealing is random: told by its distribution over seeds, not by one example."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import pytest
from scipy.stats import chi2

from loam.core.design import PanelPlan, Plan, lay_out

SEEDS = 600


@dataclass(frozen=True)
class Dealt:
    cell_id: int
    combination_id: int
    run_order: int


def deals(across=6, codes=3):
    names = tuple("ABCDEF"[:codes])
    panel = PanelPlan("Heron", "soft", 1, across)
    for seed in range(SEEDS):
        cells = lay_out(Plan(names, (panel,), seed=seed)).cells
        yield [Dealt(c.column, names.index(c.assigned) + 1, c.run_order) for c in cells]


def even(counts, expected):
    """Chi-square against evenness; refuses at one in ten thousand."""
    statistic = float(((counts - expected) ** 2 / expected).sum())
    assert statistic < chi2.ppf(1 - 1e-4, counts.size - 1)


@pytest.mark.parametrize("cell", range(6))
def test_every_cell_gets_every_combination_equally_often(cell):
    counts = np.zeros(3)
    for dealt in deals():
        counts[next(d.combination_id for d in dealt if d.cell_id == cell) - 1] += 1
    even(counts, SEEDS / 3)


@pytest.mark.parametrize("cell", range(6))
def test_every_cell_comes_at_every_place_of_the_run_equally_often(cell):
    counts = np.zeros(6)
    for dealt in deals():
        counts[next(d.run_order for d in dealt if d.cell_id == cell) - 1] += 1
    even(counts, SEEDS / 6)


def test_where_a_combination_lies_says_nothing_of_when_it_is_worked():
    lie, work = [], []
    for dealt in deals():
        for d in dealt:
            if d.combination_id == 1:
                lie.append(d.cell_id)
                work.append(d.run_order)
    assert abs(np.corrcoef(lie, work)[0, 1]) < 4 / np.sqrt(len(lie))


def test_what_does_not_go_up_evenly_falls_on_another_combination_each_time():
    """Seven cells for three combinations: the one that comes three times is drawn too."""
    counts = np.zeros(3)
    for dealt in deals(across=7):
        codes = [d.combination_id for d in dealt]
        counts[max(range(1, 4), key=codes.count) - 1] += 1
    even(counts, SEEDS / 3)


def test_the_same_seed_deals_the_same():
    first, again = (
        [(d.cell_id, d.combination_id, d.run_order) for d in dealt]
        for dealt in (next(iter(deals())), next(iter(deals())))
    )
    assert first == again


def test_the_run_does_not_go_through_the_combinations_in_turn():
    """Of six cells with two of each combination the next one worked is alike in one of five."""
    alike = total = 0
    for dealt in deals():
        run = [d.combination_id for d in sorted(dealt, key=lambda d: d.run_order)]
        alike += sum(a == b for a, b in pairwise(run))
        total += len(run) - 1
    assert abs(alike / total - 0.2) < 4 * np.sqrt(0.2 * 0.8 / total)
