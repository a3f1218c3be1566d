"""Walks, spots, tile checks, masking and inspection against published values and plain rules."""

import math
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.dates import minutes_between, seconds_of
from loam.core.errors import LoamError, NotEnough, ValueRefused
from loam.core.gauge import readings_needed
from loam.core.inspection import EYE, GRID, Looked, advice, agreement, jeffreys
from loam.core.masking import CellMasked, cells_masked, masking
from loam.core.readings.slip import alike, swapped_digits
from loam.core.snapshot import columns_of
from loam.core.tiles import (
    DOUBTFUL,
    GOOD,
    OFF,
    ReadAt,
    TileCheck,
    check_tile,
    corrections,
    doubtful,
    due,
)
from loam.core.trial import Reading
from loam.core.walk import drawn, length, shortest_walk, spot


def grid(rows, columns, holes=()):
    return [
        (r * columns + c + 1, r, c)
        for r in range(rows)
        for c in range(columns)
        if (r, c) not in holes
    ]


def walked(walk, places, width=1.0, height=1.0):
    at = {i: (c * width, r * height) for i, r, c in places}
    return length([at[i] for i in walk])


@pytest.mark.parametrize("rows", [1, 2, 4, 5])
@pytest.mark.parametrize("columns", [1, 3, 5])
def test_on_a_whole_grid_every_step_goes_to_a_neighbour(rows, columns):
    places = grid(rows, columns)
    walk = shortest_walk(places)
    assert sorted(walk) == sorted(i for i, _, _ in places)
    assert walked(walk, places) == pytest.approx(rows * columns - 1)


def test_a_walk_round_holes_is_nearly_as_short_as_any():
    places = grid(3, 3, {(1, 1), (0, 2)})
    best = min(walked(p, places) for p in permutations(i for i, _, _ in places))
    assert walked(shortest_walk(places), places) <= 1.25 * best


def test_a_walk_goes_along_the_nearer_neighbours():
    places = grid(3, 3)
    walk = shortest_walk(places, width=10.0, height=1.0)
    assert walked(walk, places, 10.0, 1.0) == pytest.approx(6 * 1.0 + 2 * 10.0)


@given(st.integers(0, 60), st.integers(0, 2**40))
def test_a_drawn_order_holds_every_cell_once_and_is_the_same_for_a_seed(n, seed):
    ids = list(range(100, 100 + n))
    assert sorted(drawn(ids, seed)) == ids
    assert drawn(ids, seed) == drawn(ids, seed)
    assert all(type(i) is int for i in drawn(ids, seed))


@given(st.integers(0, 200), st.floats(10, 200))
def test_the_meter_stays_on_even_ground_and_turns_a_quarter(number, zone):
    (x, y), turn = spot(number, zone)
    assert math.hypot(x, y) <= zone / 4 + 0.2
    assert turn == number % 4 * 90


def check(off, at, *, calibrated=False, measurand="gloss20", named=92.6, celsius=None):
    return TileCheck(
        1, "Glim", measurand, named, (named + off,) * 3, f"2026-09-26T{at}:00", calibrated, celsius
    )


@pytest.mark.parametrize(
    ("measurand", "named", "off", "verdict"),
    [
        ("gloss20", 92.6, 0.5, GOOD),
        ("gloss20", 92.6, -0.6, OFF),
        ("gloss20", 92.6, 1.1, DOUBTFUL),
        ("haze", 8.0, 3.0, GOOD),
        ("haze", 8.0, -3.5, OFF),
        ("haze", 8.0, 6.5, DOUBTFUL),
        ("film", 50.0, 1.9, GOOD),
        ("film", 50.0, 2.1, OFF),
        ("film", 250.0, 4.9, GOOD),
        ("film", 250.0, 5.1, OFF),
        ("film", 250.0, -10.1, DOUBTFUL),
    ],
)
def test_a_tile_is_good_off_or_doubtful_by_the_rules(measurand, named, off, verdict):
    assert check(off, "10:00", measurand=measurand, named=named).verdict == verdict


def test_a_check_is_due_at_the_start_after_a_while_and_after_warmth():
    assert due(None, "2026-09-26T10:00:00") == "not checked yet"
    good = check(0.1, "10:00", celsius=21.0)
    assert due(good, "2026-09-26T10:45:00", 22.0) == ""
    assert "46 min" in due(good, "2026-09-26T10:46:00")
    assert "6 K" in due(good, "2026-09-26T10:05:00", 27.0)
    assert due(check(0.7, "10:00"), "2026-09-26T10:01:00")


def test_readings_since_the_last_good_check_are_doubtful_and_no_others():
    checks = [check(0.1, "10:00"), check(0.2, "11:00"), check(1.4, "12:00"), check(0.0, "12:05")]
    readings = [ReadAt(i, 84.0, f"2026-09-26T{h}:30:00") for i, h in enumerate((9, 10, 11, 12), 1)]
    readings[0] = ReadAt(1, 84.0, "2026-09-26T09:30:00")
    assert [r.id for r in doubtful(checks, readings)] == [3]
    assert doubtful(checks[:2], readings) == []
    assert [r.id for r in doubtful([check(1.4, "10:45")], readings)] == [1, 2]


def test_a_drift_is_taken_as_even_in_time_and_as_a_share_of_gloss():
    first, last = check(0.0, "10:00"), check(0.926, "11:00")
    read = [
        ReadAt(1, 80.8, "2026-09-26T11:00:00"),
        ReadAt(2, 80.4, "2026-09-26T10:30:00"),
        ReadAt(3, 80.0, "2026-09-26T11:30:00"),
    ]
    assert corrections(first, last, read, 1) == [(1, 80.0), (2, 80.0)]


def test_a_drift_of_film_is_taken_off():
    first = check(0.0, "10:00", measurand="film", named=125.0)
    last = check(3.0, "11:00", measurand="film", named=125.0)
    read = [ReadAt(1, 112.0, "2026-09-26T10:30:00")]
    assert corrections(first, last, read, 1) == [(1, 110.5)]


def test_checks_that_do_not_belong_together_correct_nothing():
    with pytest.raises(ValueRefused, match="one after the other"):
        corrections(check(0, "11:00"), check(1.2, "10:00"), [], 1)
    with pytest.raises(ValueRefused, match="not of one meter"):
        corrections(check(0, "10:00"), check(3, "11:00", measurand="film"), [], 1)
    for measurand, named, read in (
        ("clarity", 90, [1] * 3),
        ("haze", 0.0, [1] * 3),
        ("haze", 8.0, [8.0]),
    ):
        with pytest.raises(ValueRefused):
            check_tile(measurand, named, read)


def test_times_without_a_clock():
    assert seconds_of("1970-01-02T00:00:01") == 86_401.0
    assert minutes_between("2026-02-28T23:59:00", "2026-03-01T00:01:30") == 2.5
    assert minutes_between("", "2026-03-01T00:01:30") == minutes_between("x", "y") == 0.0


def masked(group, value, error=0.25, gain=20.0, cell=1):
    return CellMasked(cell, group, 90.0, 90.0 - value, value, error, gain)


def test_a_filler_is_seen_and_one_lucky_cell_is_not():
    rng = np.random.default_rng(4)
    cells = [masked("A", 4.2 + rng.normal(0, 0.25), cell=i) for i in range(3)]
    cells += [masked(g, rng.normal(0, 0.25), cell=i) for g in "BCD" for i in range(3)]
    found = masking(cells, 0.4)
    assert found[0].group == "A"
    assert found[0].seen
    assert found[0].low < 4.2 < found[0].high
    assert found[0].share == pytest.approx(0.21, abs=0.03)
    assert not any(m.seen for m in found[1:])
    lucky = [masked(g, 0.0, cell=i) for g in "BCDE" for i in range(3)] + [masked("A", 0.55)]
    alone = next(m for m in masking(lucky, 0.4) if m.group == "A")
    assert alone.masked < 0.55
    assert not alone.seen


def test_intervals_of_masking_hold_what_they_say():
    rng = np.random.default_rng(11)
    hits = total = 0
    for _ in range(60):
        truth = rng.normal(1.0, 1.5, 4)
        cells = [
            masked(str(g), truth[g] + rng.normal(0, 0.3) + rng.normal(0, 0.25), cell=i)
            for g in range(4)
            for i in range(4)
        ]
        for m in masking(cells, 0.4):
            hits += m.low <= truth[int(m.group)] <= m.high
            total += 1
    assert 0.84 <= hits / total <= 0.96


def test_masking_pairs_cells_and_follows_the_way_that_is_better():
    def read(cell, measurand, phase, values):
        return [Reading(0, cell, measurand, v, phase, k) for k, v in enumerate(values, 1)]

    readings = [
        *read(1, "gloss20", "before", [60.0]),
        *read(1, "gloss20", "unwiped", [88, 88.4]),
        *read(1, "gloss20", "after", [84, 84.4]),
        *read(2, "gloss20", "unwiped", [80.0]),
        *read(1, "haze", "unwiped", [10.0]),
        *read(1, "haze", "after", [14.0]),
    ]
    columns = columns_of(readings)
    (one,) = cells_masked(
        columns, "gloss20", {1: "A", 2: "B"}, higher_is_better=True, repeatability=0.4
    )
    assert (one.masked, one.gain) == (pytest.approx(4.0), pytest.approx(28.2))
    assert 0.35 < one.error < 0.45
    (haze,) = cells_masked(columns, "haze", {1: "A"}, higher_is_better=False, repeatability=1.0)
    assert (haze.masked, haze.gain) == (4.0, None)
    assert masking([], 0.4) == []


def test_agreement_is_shrout_and_fleiss():
    """Shrout and Fleiss 1979, table 2: ICC(2,1) = .29; McGraw and Wong's 95 % interval as in R."""
    table = np.array(
        [[9, 2, 5, 8], [6, 1, 3, 2], [8, 4, 6, 8], [7, 1, 2, 6], [10, 5, 6, 9], [6, 2, 4, 7]], float
    )
    found = agreement(table, ("a", "b", "c", "d"), 0.95)
    assert found.icc == pytest.approx(0.2898, abs=5e-5)
    assert (found.low, found.high) == (
        pytest.approx(0.0188, abs=1e-3),
        pytest.approx(0.761, abs=1e-3),
    )
    assert "a, b, c, d agree" in found.words()


def test_agreement_is_1_for_the_same_and_lower_for_one_who_sees_more():
    same = np.repeat(np.arange(0, 60, 10.0)[:, None], 2, axis=1)
    assert agreement(same).icc == 1.0
    assert agreement(same + np.array([[0.0, 15.0]])).icc < 0.85
    with pytest.raises(NotEnough):
        agreement(same[:3])
    with pytest.raises(NotEnough, match="alike"):
        agreement(np.full((6, 2), 10.0))


@pytest.mark.parametrize(
    ("hits", "n", "low", "high"),
    [(0, 10, 0.0, 0.2172), (5, 10, 0.2235, 0.7765), (10, 10, 0.7828, 1.0)],
)
def test_the_interval_of_a_counted_share(hits, n, low, high):
    """Jeffreys' 95 % interval: Brown, Cai and DasGupta (2001), table 5."""
    assert jeffreys(hits, n, 0.95) == (pytest.approx(low, abs=6e-4), pytest.approx(high, abs=6e-4))


def test_an_inspection_says_what_it_is_and_refuses_what_cannot_be():
    counted = Looked("swirls", "point", "several", GRID, None, 8, 64)
    assert counted.percent == 12.5
    assert counted.interval()[0] < 12.5 < counted.interval()[1]
    assert "8 of 64 squares" in counted.words()
    aside = Looked("swirls", "point", "several", GRID, None, 8, 62, (6, 7))
    assert "2 squares are not counted" in aside.words()
    with pytest.raises(ValueRefused, match="numbered from 0"):
        Looked("swirls", "point", "several", GRID, None, 8, 62, (-1,))
    by_eye = Looked("swirls", "sun", "one", EYE, 15.0)
    assert by_eye.interval() is None
    assert "by eye" in by_eye.words()
    deep = Looked("deep", "point", "one", "")
    assert deep.percent is None
    assert "not counted as failure" in deep.words()
    for wrong in (
        ("swirls", "point", "one", EYE, 101.0),
        ("swirls", "point", "one", EYE, None),
        ("swirls", "point", "one", EYE, math.nan),
        ("smell", "point", "one", EYE, 1.0),
        ("swirls", "moon", "one", EYE, 1.0),
        ("swirls", "point", "one", "nose", 1.0),
        ("swirls", "point", "one", GRID, None, 65, 64),
        ("swirls", "point", "one", GRID, None, 1, 0),
        ("deep", "point", "one", "", 5.0),
    ):
        with pytest.raises(LoamError):
            Looked(*wrong)


def test_each_light_shows_its_own_defects():
    assert "strip light" in advice("texture", "point", "one")
    assert "point light" in advice("swirls", "strip", "one")
    assert "more than one angle" in advice("holograms", "point", "one")
    assert advice("holograms", "point", "several") == advice("texture", "strip", "one") == ""


def test_two_swapped_digits_and_copied_figures_are_noticed():
    assert 84.6 in swapped_digits(48.6, 1)
    assert swapped_digits(77.7, 1) == []
    assert "same figure four times" in alike([80.1, 84.6, 84.6, 84.6, 84.6], [])
    assert "cell before" in alike([84.6, 84.9, 85.0], [84.6, 84.9, 85.0, 84.2])
    assert alike([84.6, 84.9, 85.0], [84.6, 84.9]) == alike([84.6] * 3, [84.6] * 3) == ""


def test_readings_that_tell_two_cells_apart():
    """ISO 5725: means of n differ by 2.8 s / sqrt(n) in 5 % of cases."""
    assert readings_needed(0.4, 0.5) == math.ceil((2.8 * 0.4 / 0.5) ** 2)
    assert readings_needed(0.05, 1.0) == 3
    assert readings_needed(5.0, 0.5) == 12
