"""Layouts against textbook designs, forecasts against worked values, and their properties."""

import itertools

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers.reference import load_json
from loam.core.design import PanelPlan, Plan, Spreads, forecast, lay_out, search
from loam.core.design.blocks import Ground, mean_variance
from loam.core.design.forecast import detectable, power, quantile
from loam.core.design.hands import share_out
from loam.core.design.lay import efficiency
from loam.core.design.search import Search
from loam.core.errors import LoamError, NotEnough, ValueRefused

NAMES = "ABCDEFGHIJKLMNOPQRSTUVWX"


def panels(count, rows, columns, hardness="soft", **more):
    return tuple(PanelPlan(f"{hardness}{i}", hardness, rows, columns, **more) for i in range(count))


def made(v, on, **more):
    return lay_out(Plan(tuple(NAMES[:v]), on, **more))


def table(layout):
    return {(c.panel, c.row, c.column): c.assigned for c in layout.cells}


def clashes(layout):
    found = table(layout)
    return sum(
        found.get(beside) == what and what in NAMES
        for (p, r, c), what in found.items()
        for beside in ((p, r + 1, c), (p, r, c + 1))
    )


# John and Williams 1995, Cyclic and Computer Generated Designs; reference/layout/SPEC.md
@pytest.mark.parametrize(
    ("v", "on", "trends", "value"),
    [
        (7, panels(7, 1, 3), False, 7 / 9),
        (6, panels(10, 1, 3), False, 4 / 5),
        (4, panels(4, 2, 2), False, 1.0),
        (4, panels(4, 1, 3), False, 8 / 9),
        (5, panels(1, 5, 5), True, 1.0),
        (4, panels(1, 4, 4), True, 1.0),
    ],
)
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_textbook_designs_are_reached(v, on, trends, value, seed):
    found = made(v, on, trends=trends, seed=seed).efficiency
    assert len(found) == 1
    assert found[0].value == pytest.approx(value, abs=1e-9)
    cells = sum(p.rows * p.columns for p in on)
    assert found[0].mean_variance == pytest.approx(2 * v / cells / value)


def test_no_textbook_design_is_reached_by_dealing_alone():
    """The search has something to do: an even deal of 7 on 7 panels of 3 is worse."""
    plan = Plan(tuple(NAMES[:7]), panels(7, 1, 3))
    turned = {(p, 0, c): NAMES[(p + c) % 7] for p in range(7) for c in range(3)}
    assert efficiency(plan, turned)[0].value < 0.77


def test_the_forecast_is_the_worked_one():
    example = load_json("layout", "example.json")
    given_sd = example["plan"]["sd"]
    sd = Spreads(given_sd["panel"], given_sd["cell"], given_sd["reading"])
    layout = made(4, panels(3, 2, 2), readings_per_cell=5, sd=sd)
    found = forecast(layout.plan, table(layout), sd)
    assert len(found) == 6
    for pair in found:
        for name, value in example["expected"]["forecast_each_pair"].items():
            assert getattr(pair, name) == pytest.approx(value, rel=1e-8)


def test_the_forecast_agrees_with_dense_least_squares():
    layout = made(5, panels(4, 1, 4), seed=3)
    sd = Spreads(0.8, 0.5, 0.6)
    found = forecast(layout.plan, table(layout), sd)
    cells = [c for c in layout.cells]
    x = np.array([[c.assigned == n for n in NAMES[:5]] for c in cells], float)
    z = np.array([[c.panel == p for p in range(4)] for c in cells], float)
    v = 0.8**2 * z @ z.T + (0.5**2 + 0.6**2) * np.eye(len(cells))
    covariance = np.linalg.inv(x.T @ np.linalg.inv(v) @ x)
    df = len(cells) - np.linalg.matrix_rank(np.hstack([x, z]))
    for pair, (i, j) in zip(found, itertools.combinations(range(5), 2), strict=True):
        d = np.eye(5)[i] - np.eye(5)[j]
        assert pair.se == pytest.approx(np.sqrt(d @ covariance @ d))
        assert pair.df == df


def test_what_cannot_be_known_is_not_forecast():
    layout = made(3, panels(1, 1, 3))
    found = forecast(layout.plan, table(layout), Spreads(0.5, 0.5, 0.5))
    assert {f.df for f in found} == {0}
    assert all(f.half_width_90 is None and f.detectable_80 is None for f in found)
    alone = efficiency(layout.plan, {(0, 0, 0): "A", (0, 0, 1): "B"})
    assert (alone[0].value, alone[0].mean_variance) == (0.0, None)  # C is nowhere


def test_power_is_that_of_simulated_t_tests():
    rng = np.random.default_rng(5)
    df, shift = 6, detectable(6)
    t = (rng.standard_normal(400_000) + shift) / np.sqrt(rng.chisquare(df, 400_000) / df)
    assert (np.abs(t) > quantile(df)).mean() == pytest.approx(0.8, abs=0.003)
    assert power(0.0, df) == pytest.approx(0.10)
    assert power(200.0, 3) == pytest.approx(1.0)  # SciPy gives no number there
    assert detectable(1) > detectable(2) > detectable(50) > 2.4


@pytest.mark.parametrize("trends", [False, True])
def test_swaps_are_priced_as_if_they_were_made(trends):
    rng = np.random.default_rng(2)
    v, where = 4, [(p, r, c) for p in range(3) for r in range(2) for c in range(3)]
    at = np.array([w for w in where if w != (1, 0, 1)])
    ground = Ground(at[:, 0], at[:, 1], at[:, 2], trends)
    label = rng.permutation(np.arange(len(at)) % v)
    search = Search(ground, v, np.ones(len(at), bool), True, rng)
    now, price, clash = search._priced(label, np.arange(len(at)), True)
    assert 2 / (v - 1) * (now - 1) == pytest.approx(
        mean_variance(ground.information(label, v)), rel=1e-5
    )
    clashes_now = ground.conflicts(label)
    priced = 0
    for s, t in itertools.combinations(range(len(at)), 2):
        swapped = label.copy()
        swapped[s], swapped[t] = label[t], label[s]
        assert clash[s, t] == ground.conflicts(swapped) - clashes_now or label[s] == label[t]
        wanted = mean_variance(ground.information(swapped, v))
        if np.isinf(wanted):
            assert price[s, t] > 1e5
        elif np.isfinite(price[s, t]):
            priced += 1
            assert 2 / (v - 1) * (price[s, t] - 1) == pytest.approx(wanted, rel=1e-4)
    assert priced > 50


@pytest.fixture
def short_search(monkeypatch):
    """Rules hold however long the search is."""
    monkeypatch.setattr(search, "MOST_STEPS", 40)


@settings(
    max_examples=30, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(
    v=st.integers(1, 6),
    count=st.integers(1, 4),
    rows=st.integers(1, 3),
    columns=st.integers(2, 4),
    damaged=st.integers(0, 1),
    untouched=st.integers(0, 1),
    trends=st.booleans(),
    apart=st.booleans(),
    grouped=st.booleans(),
    seed=st.integers(0, 99),
)
def test_every_layout_keeps_its_rules(
    short_search, v, count, rows, columns, damaged, untouched, trends, apart, grouped, seed
):
    names = tuple(NAMES[:v])
    groups = {n: "xyz"[i % 3] for i, n in enumerate(names)} if grouped else {}
    on = (*panels(count, rows, columns), *panels(1, 3, 4, "hard", closed=frozenset({(0, 1)})))
    try:
        plan = Plan(names, on, untouched, damaged, trends, groups, apart, seed=seed)
    except NotEnough:
        return
    layout = lay_out(plan)
    assert layout == lay_out(plan)
    found = table(layout)
    assert set(found) == {(p, r, c) for p, q in enumerate(on) for r, c in q.open_cells()}
    for hardness in ("soft", "hard"):
        own = [w for (p, _, _), w in found.items() if on[p].hardness == hardness]
        sizes = [own.count(n) for n in names]
        assert max(sizes) - min(sizes) <= 1
    for p, panel in enumerate(on):
        own = [c for c in layout.cells if c.panel == p]
        assert sum(c.assigned == "damaged" for c in own) == damaged
        assert sum(c.assigned == "untouched" for c in own) == untouched
        turns = sorted((c.run_order, c.assigned) for c in own if c.run_order is not None)
        assert len(turns) == plan.worked(panel)
        order = [t for t, _ in turns]
        assert order == list(range(order[0], order[0] + len(order))) if order else True
        if grouped:
            runs = [k for k, _ in itertools.groupby(groups[w] for _, w in turns)]
            assert len(runs) == len(set(runs))
    assert all(e.value is None or 0.0 <= e.value <= 1.0 + 1e-9 for e in layout.efficiency)


@pytest.mark.parametrize("trends", [False, True])
@pytest.mark.parametrize(
    ("v", "on"), [(3, panels(4, 3, 3)), (12, panels(8, 4, 4)), (2, panels(2, 3, 4))]
)
def test_equals_are_kept_apart(v, on, trends):
    assert clashes(made(v, on, trends=trends, apart=True)) == 0


def test_a_seed_changes_the_places_but_not_how_good_they_are():
    a, b = (made(6, panels(3, 2, 4), seed=s) for s in (1, 2))
    assert table(a) != table(b)
    assert a.efficiency[0].value == pytest.approx(b.efficiency[0].value, rel=0.02)


def test_the_order_of_work_is_random_over_places_and_combinations(short_search):
    """Over 300 seeds each place comes first about as often; chi-square at 1 in 10,000."""
    first_place, first_what = np.zeros(6), np.zeros(3)
    for seed in range(300):
        layout = made(3, panels(1, 2, 3), seed=seed)
        first = next(c for c in layout.cells if c.run_order == 1)
        first_place[first.row * 3 + first.column] += 1
        first_what[NAMES.index(first.assigned)] += 1
    assert ((first_place - 50) ** 2 / 50).sum() < 25.7
    assert ((first_what - 100) ** 2 / 100).sum() < 18.4


def test_cells_that_stay_stay_and_the_rest_makes_up_for_them():
    kept = {(0, 0, 0): "A", (0, 0, 1): "A", (1, 1, 1): "damaged"}
    layout = made(3, panels(2, 2, 4), damaged=1, fixed=kept, seed=4)
    found = table(layout)
    assert {k: found[k] for k in kept} == kept
    worked = [w for w in found.values() if w in NAMES]
    assert sorted(worked.count(n) for n in "ABC") == [4, 5, 5]
    assert sum(w == "damaged" for (p, _, _), w in found.items() if p == 1) == 1


def test_progress_is_told_and_a_search_can_be_ended():
    told = []

    def stop(share):
        told.append(share)
        return share == 0.0

    layout = lay_out(Plan(tuple(NAMES[:12]), panels(8, 4, 4)), stop)
    assert told == sorted(told)
    assert layout.efficiency[0].value > 0.9  # the best so far is whole


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"combinations": ()}, "no combination"),
        ({"combinations": ("A", "A")}, "two combinations called 'A'"),
        ({"combinations": ("A", "damaged")}, "called like a control"),
        ({"panels": ()}, "no panel"),
        ({"panels": panels(1, 1, 1)}, "soft has 1 free cells for 2 combinations"),
        ({"damaged": 5}, "It has 4 free cells for 5 controls"),
        ({"untouched": -1}, "-1 untouched controls"),
        ({"groups": {"Z": "Mill"}}, "no combination 'Z'"),
        ({"seed": -1}, "A seed of -1"),
        ({"readings_per_cell": 0}, "0 readings a cell"),
        ({"fixed": {(0, 5, 5): "A"}}, "is closed"),
        ({"fixed": {(0, 0, 0): "Q"}}, "'Q' cannot be kept"),
    ],
)
def test_impossible_plans_are_refused_in_words(change, said):
    usual = {"combinations": ("A", "B"), "panels": panels(1, 2, 2)}
    with pytest.raises(LoamError, match=said):
        Plan(**{**usual, **change})


def test_impossible_panels_and_spreads_are_refused():
    with pytest.raises(ValueRefused, match="row 3, column 1"):
        PanelPlan("P", "soft", 2, 2, frozenset({(2, 0)}))
    with pytest.raises(ValueRefused, match="0 rows"):
        PanelPlan("P", "soft", 0, 2)
    for wrong in ((-1, 1, 1), (1, float("nan"), 1), (1, 0, 0)):
        with pytest.raises(ValueRefused):
            Spreads(*wrong)


@pytest.mark.parametrize("panel_sd", [0.0, 0.5, 1e4, 1e8])
def test_panels_that_vary_without_bound_leave_no_false_certainty(panel_sd):
    """Two pairs on panels of their own: within a pair as ever, across only through the panels."""
    plan = Plan(tuple("ABCD"), panels(2, 2, 2))
    where = {(0, r, c): "AB"[c] for r in range(2) for c in range(2)}
    where |= {(1, r, c): "CD"[c] for r in range(2) for c in range(2)}
    found = {(f.a, f.b): f for f in forecast(plan, where, Spreads(panel_sd, 0.6, 0.0))}
    assert found["A", "B"].se == pytest.approx(0.6, rel=1e-6)
    across = found["A", "C"].se
    if panel_sd == 1e8:
        assert across is None or across > 1e7
    else:
        assert across == pytest.approx(np.sqrt(2 * panel_sd**2 + 0.36), rel=1e-4)
    assert found["A", "B"].df == 4


def test_whoever_waits_no_more_ends_it_at_once():
    def gone(_share):
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        lay_out(Plan(tuple(NAMES[:12]), panels(8, 4, 4), apart=True), gone)


@given(
    hardness=st.lists(st.sampled_from(["soft", "hard"]), min_size=1, max_size=12),
    people=st.lists(st.sampled_from("abcde"), min_size=1, max_size=5, unique=True),
    seed=st.integers(0, 99),
)
def test_panels_are_shared_out_evenly(hardness, people, seed):
    found = share_out(hardness, people, seed, {})
    assert found == share_out(hardness, people, seed, {})
    for here in {*hardness}:
        count = [
            sum(w == p for w, h in zip(found, hardness, strict=True) if h == here) for p in people
        ]
        assert max(count) - min(count) <= 1
        assert sum(count) == hardness.count(here)
    count = [found.count(p) for p in people]
    assert max(count) - min(count) <= 2  # at most one a hardness, and the second evens out


def test_who_gets_a_panel_is_drawn_and_what_was_begun_stays():
    first = [share_out(["soft"] * 2, ["Tam", "Mira"], seed, {})[0] for seed in range(400)]
    assert 160 < first.count("Tam") < 240
    kept = share_out(["soft"] * 4, ["Tam", "Mira"], 3, {2: "Ode", 0: "Tam"})
    assert (kept[0], kept[2]) == ("Tam", "Ode")
    assert "Mira" in (kept[1], kept[3])  # she comes first: Tam has one already
    assert share_out(["soft", "hard"], [], 1, {1: "Tam"}) == ("", "Tam")


def test_what_is_left_is_numbered_after_what_is_done():
    on = panels(3, 2, 3)
    before = made(3, on, seed=4)
    done = {(c.panel, c.row, c.column): c.run_order for c in before.cells if c.run_order > 14}
    fixed = {place: table(before)[place] for place in done}
    after = made(3, on, seed=5, fixed=fixed, done=done)
    order = {(c.panel, c.row, c.column): c.run_order for c in after.cells}
    assert {place: order[place] for place in done} == done
    left = sorted(number for place, number in order.items() if place not in done)
    assert left == list(range(19, 33))
    begun = min(done)[0]
    assert all(order[p] < 22 for p in order if p[0] == begun and p not in done)
    assert table(after).items() >= fixed.items()
