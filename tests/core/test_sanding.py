"""Sanding: the law of the grit, what a stage takes, and whether former marks are gone."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import beta

from loam.core.design.costs import costs, plateau, taken_off
from loam.core.dose.stage import heavy_sets, removed_range
from loam.core.errors import ValueRefused
from loam.core.kit.grit import GRAINS, finer, grain_um, grit_named, grit_of, sanding_kp
from loam.core.panel import Taping
from loam.core.removal import Kp, recipe_of
from loam.core.sanding import DAMAGE, Answer, former_marks, marks_left, marks_words, shown_by
from loam.core.trial import Combination, Stage

SIZE = (150.0, 150.0)


def sands(grit, **more):
    return Stage("", "", "m", disc=f"P{grit}", grit=float(grit), passes=4, pad_mm=50.0, **more)


CUT = Stage("Fen firm", "Grist 9", "m", compound_class="coarse", passes=4, pad_mm=50.0)


@pytest.mark.parametrize(("grit", "grain"), [(400, 35.0), (1200, 15.3), (2500, 8.4), (5000, 4.0)])
def test_grain_of_the_standard_grits(grit, grain):
    assert grain_um(grit) == pytest.approx(grain)


@given(st.floats(16, 10_000), st.floats(16, 10_000))
def test_a_finer_grit_has_the_smaller_grain_and_takes_less(a, b):
    a, b = sorted((a, b))
    assert grain_um(a) >= grain_um(b) - 1e-9
    assert sanding_kp(a, damp=False)[1] >= sanding_kp(b, damp=False)[1] - 1e-9
    assert sanding_kp(a, damp=True)[0] == pytest.approx(0.7 * sanding_kp(a, damp=False)[0])


def test_the_law_grows_with_the_square_of_the_grain():
    low, high = sanding_kp(400, damp=False)
    base = sanding_kp(1200, damp=False)
    assert low / base[0] == pytest.approx((35.0 / 15.3) ** 2)
    assert high / low == pytest.approx(4.0)  # a factor of two either way


@pytest.mark.parametrize("grit", [0, 15.9, 10_001, math.nan, -400])
def test_what_is_no_grit_is_refused(grit):
    with pytest.raises(ValueRefused):
        grain_um(grit)


@pytest.mark.parametrize(
    ("name", "grit"),
    [
        ("P1500 film", 1500),
        ("p 800", 800),
        ("3000", 3000),
        ("damp 2500 disc", 2500),
        ("P80", 80),
        ("disc 150 mm", None),
        ("disc 150", None),
        ("75mm 5000", 5000),
        ("no grit", None),
        ("", None),
        ("P99999", None),
    ],
)
def test_the_grit_that_a_name_says(name, grit):
    assert grit_named(name) == grit
    assert grit_of(name, None) == grit
    assert grit_of(name, 1000.0) == 1000.0


def test_a_ladder_goes_finer_to_its_end():
    ladder, grit = [], None
    for _ in range(7):
        grit = finer(grit)
        ladder.append(grit)
    assert ladder == sorted(ladder)
    assert (ladder[0], ladder[-1]) == (1500, max(GRAINS))


def test_p400_takes_several_times_what_p1200_takes_and_p5000_tenths_of_a_micron():
    taken = {}
    for grit in (400, 1200, 5000):
        stage = replace(sands(grit), pad_mm=150.0)
        taken[grit] = removed_range(stage, plateau(stage, 400.0, 400.0), "medium")
    assert 3.0 < taken[400][0] / taken[1200][0] < 8.0
    assert 0.05 < taken[5000][0] < taken[5000][1] < 1.0


def test_a_stage_measured_by_itself_counts_where_it_tells_more():
    stages = (sands(1200), sands(3000))
    doses = [plateau(s, *SIZE) for s in stages]
    plain = taken_off(stages, SIZE, "medium", {})
    assert plain[2] == 0
    sharp = {(recipe_of([stages[0]]), "medium"): Kp(10.0, 9.0, 11.0, 6)}
    low, high, cells = taken_off(stages, SIZE, "medium", sharp)
    rest = removed_range(stages[1], doses[1], "medium")
    assert low == pytest.approx(9e-3 * doses[0] + rest[0])
    assert high == pytest.approx(11e-3 * doses[0] + rest[1])
    assert cells == 0  # the rest is assumed
    blunt = {(recipe_of([stages[1]]), "medium"): Kp(1.0, -90.0, 92.0, 2)}
    assert taken_off(stages, SIZE, "medium", blunt) == plain
    both = sharp | {(recipe_of([stages[1]]), "medium"): Kp(1.0, 0.9, 1.1, 4)}
    assert taken_off(stages, SIZE, "medium", both)[2] == 4


def test_discs_are_used_up_and_nothing_is_spread_on_them():
    taping = Taping(400.0, 400.0, 2, 2, 14.0, 20.0)
    assigned = {(0, r, c): "A" for r in range(2) for c in range(2)}
    found = costs(assigned, {"A": (sands(1200), CUT)}, [(taping, "medium")], 3)
    assert found.discs == {"P1200": 4}
    assert dict(found.pads) == {("Fen firm", 50.0): 4}
    assert set(found.grams) == {"Grist 9"}


def test_former_marks_are_asked_after_each_grit_and_after_the_first_compound():
    stages = (sands(1200), sands(3000), CUT, CUT)
    asked = [former_marks(stages, n) for n in range(1, 5)]
    assert asked == [DAMAGE, "P1200", "P3000", None]
    assert [shown_by(s) for s in stages] == ["strip", "strip", "point", "point"]
    assert former_marks((CUT,), 1) is None


def test_marks_that_are_left_are_counted_with_the_interval_of_a_share():
    answers = [Answer("soft", "A", 2, "P1200", gone) for gone in (True, True, False, True)]
    answers += [Answer("soft", "B", 2, "P1200", gone=True, sets=2)] * 3
    first, second = marks_left(answers)
    assert (first.left, first.cells, first.more) == (1, 4, 0)
    assert first.low == pytest.approx(beta.ppf(0.05, 1.5, 3.5))
    assert first.high == pytest.approx(beta.ppf(0.95, 1.5, 3.5))
    assert (second.left, second.cells, second.more, second.low) == (0, 3, 3, 0.0)
    combinations = {"A": Combination(1, "A", stages=(sands(1200), sands(3000)))}
    said = marks_words([first, second], combinations)
    assert said.startswith("A leaves P1200 marks after P3000 on 1 of 4 cells (")
    assert said.endswith("; B took more sets than planned")
    assert "gone after every step" in marks_words([second], {})
    assert marks_words([], {}) == ""


def test_heavy_sets_are_counted():
    fine = Stage("Down", "Silt 1", "m", compound_class="fine", passes=4)
    assert heavy_sets((sands(1200), sands(3000), CUT, fine)) == 2
    assert heavy_sets((replace(CUT, passes=12),)) == 3
    assert heavy_sets((replace(CUT, passes=5),)) == 2
    assert heavy_sets(()) == 0
