"""The search for doubts: planted faults are found and said, and trials that are well are let be."""

from dataclasses import replace

import numpy as np
import pytest

from helpers.faults import KIND, PLANTS, make
from loam.core.dataset import cell_means, counted, trial_data
from loam.core.doubts import Extras, doubts, without
from loam.core.doubts.find import ALPHA
from loam.core.doubts.heavy import Contrast, heavy_chance
from loam.core.doubts.probe import Probe
from loam.core.doubts.slips import _without_each, slips
from loam.core.doubts.values import Doubt
from loam.core.panel import Taping
from loam.core.snapshot import Snapshot, columns_of
from loam.core.trial import Cell, Combination, Panel, Reading
from loam.core.words.doubts import chance_words, doubt_sentence


def test_false_alarms_have_their_shares():
    """What all raise together is counted by `./run bench`."""
    shy = ALPHA["class"] + ALPHA["hand"] + ALPHA["pad"] + ALPHA["reader"]
    assert sum(ALPHA.values()) - shy <= 0.02
    assert sum(ALPHA.values()) <= 0.05


USUAL = {"gloss20": 0.3, "haze": 0.04, "removed": 0.2, "defects": 0.15}
NOISE = {"gloss20": 0.18, "haze": 0.01, "removed": 0.1, "defects": 0.055}
PATTERN = {"gloss20": -0.5, "haze": 0.03, "removed": 0.8, "defects": 0.1, "clarity": -0.5}


def _contrasts(estimates):
    return {
        m: Contrast(e, NOISE[m], 1.22 * USUAL[m], 3.0)
        for (m, e) in zip(USUAL, estimates, strict=True)
    }


def _p(estimates):
    return heavy_chance(_contrasts(estimates), PATTERN, np.random.default_rng(1))


def test_a_hand_is_heavy_by_its_pattern_not_by_its_size():
    pattern = [PATTERN[m] for m in USUAL]
    assert _p(pattern) < 0.01
    assert _p([2.0 * v for v in pattern]) < _p(pattern)
    assert _p([0.0] * 4) > 0.2
    light = [-v for v in pattern]
    assert _p(light) > 0.2, "a light hand is no heavy one"
    only_removed = [0.5, 0.0, 0.8, 0.0]  # much clear goes, but the gloss is better for it
    assert _p(only_removed) > 10.0 * _p(pattern)


def test_the_chance_of_a_heavy_hand_is_one():
    """People who differ as is assumed look so heavy just as often as is said."""
    rng = np.random.default_rng(5)
    usual, noise = (np.array([of[m] for m in USUAL]) for of in (USUAL, NOISE))
    found = []
    for _ in range(160):
        spread = 1.22 * usual * np.sqrt(3.0 / rng.chisquare(3.0, 4))
        found.append(_p(spread * rng.standard_normal(4) + noise * rng.standard_normal(4)))
    for share in (0.05, 0.2, 0.5):
        count = sum(p <= share for p in found)
        assert abs(count - 160 * share) < 3.0 * np.sqrt(160 * share * (1 - share))


@pytest.mark.parametrize("plant", PLANTS)
def test_a_planted_fault_is_found(plant):
    """One trial each; `./run bench` counts over many."""
    made = make(3, plant, "demo")
    found = doubts(made.snapshot, made.extras)
    own = [d for d in found if d.kind == KIND.get(plant, plant)]
    assert [d for d in own if made.subject in ("", d.subject)]
    assert own[0].p < ALPHA[own[0].kind]
    assert doubt_sentence(own[0], "P1 K1", "GU").endswith(").")


@pytest.mark.parametrize("seed", range(3))
def test_a_trial_that_is_well_is_let_be(seed):
    made = make(500 + seed)
    assert doubts(made.snapshot, made.extras) == []


def test_a_panel_is_left_out_whole_and_a_slope_is_taken_off():
    made = make(3, "order")
    (found,) = [d for d in doubts(made.snapshot, made.extras) if d.kind == "order"]
    rest, extras = without(made.snapshot, made.extras, [found])
    assert extras.order.size == rest.columns.value.size == made.snapshot.columns.value.size
    before, after = (cell_means(s.columns, "gloss20") for s in (made.snapshot, rest))
    late = {c.id: c.run_order for c in rest.cells}
    moved = np.array([[late[c], after[c] - before[c]] for c in before])
    assert np.corrcoef(moved.T)[0, 1] > 0.99
    gone = Doubt("class", "P1", 0.0, panels=frozenset({1}))
    rest, extras = without(made.snapshot, made.extras, [gone])
    assert {c.panel_id for c in rest.cells} == set(range(2, 9))
    assert (
        counted(rest.columns, "gloss20").y.size
        == counted(made.snapshot.columns, "gloss20").y.size * 7 // 8
    )
    assert extras.order.size == rest.columns.value.size


def test_two_slips_are_left_out_at_once_and_drift_stays_for_the_rest():
    made = make(4)
    two = [Doubt("slip", "", 0.0, readings=(r,), likely=(1.0,)) for r in (3, 900)]
    rest, _ = without(made.snapshot, made.extras, two)
    keep = np.delete(np.arange(made.snapshot.columns.value.size), [3, 900])
    assert np.array_equal(rest.columns.value, made.snapshot.columns.value[keep])


def cell_of(values, measurand="gloss20", cell=1):
    return [Reading(0, cell, measurand, v, "after", k) for k, v in enumerate(values, 1)]


@pytest.mark.parametrize(
    ("values", "likely"),
    [
        ([84.6, 84.9, 846.0, 84.4], 84.6),
        ([84.6, 48.6, 84.9, 84.4], 84.6),
        ([84.6, 8.5, 84.9, 84.4], 85.0),
        ([84.6, 82.0, 84.9, 84.4], None),
        ([84.6, 60.0, 84.9, 84.4], None),
        ([84.6, 846.0], None),
    ],
)
def test_a_slip_is_a_figure_whose_digits_fit_elsewhere(values, likely):
    around = [r for c in range(2, 9) for r in cell_of([83.9, 84.3, 84.6, 84.8], cell=c)]
    found = slips(columns_of([*cell_of(values), *around]), 0.003)
    assert [s.meant for s in found] == ([] if likely is None else [pytest.approx(likely)])


def test_a_trial_without_anything_to_compare_has_no_doubts():
    made = make(3)
    one = replace(made.snapshot, cells=made.snapshot.cells[:1])
    assert doubts(one) == []
    none = replace(made.snapshot, columns=columns_of([]))
    assert doubts(none, Extras.unknown(0)) == []


def test_a_search_can_be_stopped():
    class Stop(Exception):
        pass

    def tell(_share):
        raise Stop

    made = make(3)
    with pytest.raises(Stop):
        doubts(made.snapshot, made.extras, told=tell)


def test_chances_are_said_plainly():
    assert chance_words(0.0068) == "by chance in 6.8 of 1000 trials"
    assert "less than once" in chance_words(1e-9)


def test_a_reading_is_held_against_the_median_of_the_others():
    """As leaving each out by hand, whatever the size of the cell."""
    rng = np.random.default_rng(8)
    for size in range(3, 10):
        values = np.sort(np.round(rng.normal(84.0, 2.0, (20, size)), 1), axis=1)
        by_hand = [[np.median(np.delete(v, i)) for i in range(size)] for v in values]
        assert np.array_equal(_without_each(values), by_hand)


def test_the_quick_look_is_that_of_the_whole_matrices():
    """P = V^-1 - V^-1 X (X'V^-1 X)^-1 X'V^-1, written out."""
    made = make(3)
    probe = Probe(trial_data(made.snapshot, "gloss20"))
    model, units = probe.model, probe.units
    gamma = np.exp(model.mixture.weight @ np.log(model.mixture.gamma))
    v = np.diag(1.0 / units.count)
    for term, g in zip(model.terms, gamma, strict=True):
        codes = term.codes[units.first]
        v += g * (codes[:, None] == codes)
    groups = model.groups[units.first]
    fixed = (groups[:, None] == np.unique(groups)).astype(float)
    inverse = np.linalg.inv(v)
    through = inverse @ fixed
    p = inverse - through @ np.linalg.inv(fixed.T @ through) @ through.T
    panels = made.snapshot.columns.cell[probe.rows] // 13
    for x in (panels == 1, panels == 3, np.sin(np.arange(panels.size))):
        own = np.asarray(x, float)
        found = probe.glance(own)
        under = float(own @ p @ own)
        assert found.estimate == pytest.approx(float(own @ p @ units.mean) / under, rel=1e-8)
        sigma = model.mixture.residual_sd
        assert found.error == pytest.approx(sigma / np.sqrt(under), rel=1e-8)
    assert probe.glance(fixed[:, 0]) is None, "the combinations hide it"


def test_an_odd_panel_is_found_among_two_hundred():
    """A trial of 3,200 cells is looked through in a moment, and for one panel among many."""
    rng = np.random.default_rng(6)
    taping = Taping(720, 560, 4, 4, 14, 44)
    panels = tuple(
        Panel(i, 1, f"P{i}", ("soft", "medium", "hard")[i % 3], taping) for i in range(1, 201)
    )
    combos = tuple(Combination(i, "ABCDEFGH"[i - 1]) for i in range(1, 9))
    cells, readings = [], []
    for p in panels:
        level = rng.normal(85.0, 0.5) - 4.0 * (p.id == 78)
        for k in range(16):
            n = len(cells) + 1
            cells.append(Cell(n, p.id, k // 4, k % 4, k % 8 + 1, k + 1))
            mean = level + 0.3 * (k % 8) + rng.normal(0.0, 0.4)
            for o in range(2):
                value = round(mean + rng.normal(0.0, 0.3), 1)
                readings.append(Reading(0, n, "gloss20", value, "after", o + 1))
    shares = []
    trial = Snapshot(panels, combos, tuple(cells), columns_of(readings))
    found = doubts(trial, told=shares.append)
    assert [(d.kind, d.subject) for d in found] == [("class", "P78")]
    assert len(shares) > 2 * len(panels), "it can be stopped at every panel"


def _haze_of(*cells):
    taping = Taping(720, 560, 1, len(cells), 14, 44)
    panels = (Panel(1, 1, "P1", "soft", taping),)
    combos = tuple(Combination(i, "ABCDEFGH"[i - 1]) for i in range(1, len(cells) + 1))
    laid = tuple(Cell(i, 1, 0, i - 1, i, i) for i in range(1, len(cells) + 1))
    readings = [
        Reading(0, c, "haze", v, "after", k, 1, "linear")
        for c, own in enumerate(cells, 1)
        for k, v in enumerate(own, 1)
    ]
    return Snapshot(panels, combos, laid, columns_of(readings))


def test_a_figure_of_one_digit_is_no_slip_by_chance():
    """Of small figures one is soon near ten times another: heavy tails are the likelier reason."""
    well = [(0.8, 0.8, 0.9, 0.8), (0.6, 0.6, 0.5, 0.6), (1.2, 1.2, 1.2, 1.3), (0.5, 0.5, 0.5, 0.5)]
    odd = _haze_of((0.1, 0.8, 0.9, 0.8, 0.8), *well)
    assert not [d for d in doubts(odd) if d.kind == "slip"]
    typed = _haze_of((14.0, 1.4, 1.5, 1.4, 1.3), *well)
    assert [d.likely for d in doubts(typed) if d.kind == "slip"] == [(1.4,)]


def test_what_a_meter_cannot_show_was_not_meant():
    """85 % of marks gone is not 850 % less a digit."""
    columns = columns_of(
        [
            Reading(0, 1, "defects", v, "after", k)
            for k, v in enumerate((100.0, 95.0, 100.0, 100.0, 85.0), 1)
        ]
    )
    assert slips(columns, 1.0) == []


def test_a_slip_is_found_in_the_smallest_trial():
    """One cell of three readings: half of those off its middle are the slip itself."""
    taping = Taping(720, 560, 1, 4, 14, 44)
    panels = (Panel(1, 1, "P1", "soft", taping),)
    combos = tuple(Combination(i, "ABCD"[i - 1]) for i in range(1, 5))
    cells = tuple(Cell(i, 1, 0, i - 1, i, i) for i in range(1, 5))
    rows = [(1, 84.2), (1, 84.4), (2, 82.2), (2, 82.1), (3, 88.1), (3, 880.5), (3, 88.2)]
    readings = [Reading(0, c, "gloss20", v, "after", k) for k, (c, v) in enumerate(rows, 1)]
    (found,) = doubts(Snapshot(panels, combos, cells, columns_of(readings)))
    assert (found.kind, found.likely, found.readings) == ("slip", (88.0,), (5,)) or (
        found.kind == "slip" and found.likely[0] == pytest.approx(88.05, abs=0.06)
    )
