"""Judging: layouts that cannot answer, words, numbers, geometry."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers.reference import coded, trial_data
from loam.core.errors import LoamError, NotEnough, ValueRefused
from loam.core.panel import Taping, cell_code
from loam.core.plain_rank import judge
from loam.core.readings import KINDS, kind_of
from loam.core.stats.freedom import KenwardRoger, Satterthwaite, freedom
from loam.core.trial_rows import TrialData
from loam.core.units import fixed, parse_number, percent
from loam.core.words.result import notes, sentence


def simulate(
    seed=1,
    panels=4,
    per=2,
    readings=3,
    hardness=("soft", "hard"),
    effect=None,
    sd_cell=0.5,
    one_panel=False,
    operators=3,
):
    rng = np.random.default_rng(seed)
    effect = effect or {"A": 0.0, "B": 3.0, "C": 3.05}
    rows = []
    count = len(hardness) if one_panel else panels
    for p in range(count):
        shift = rng.normal(0, 1)
        for c, name in enumerate(effect):
            for k in range(per):
                level = 80 + shift + effect[name] + rng.normal(0, sd_cell)
                for _ in range(readings):
                    operator = f"op{(c + p + k) % operators}"
                    rows.append(
                        (
                            hardness[p % len(hardness)],
                            name,
                            f"P{p}",
                            f"P{p}c{c}k{k}",
                            operator,
                            level + rng.normal(0, 0.2),
                        )
                    )
    h, c, p, cell, op, y = zip(*rows, strict=True)
    return TrialData(
        "gloss20",
        np.array(y),
        coded(h, hardness),
        coded(c),
        {"cell": coded(cell), "panel": coded(p), "operator": coded(op)},
    )


def test_a_clear_winner_is_said_in_one_sentence():
    result = judge(simulate(effect={"A": 0.0, "B": 5.0}))
    said = sentence(result)
    assert said.startswith("On hard clear, B is best for gloss, ")
    assert "GU ahead of A." in said


def test_equal_and_not_settled_read_differently():
    equal = judge(simulate(per=12, sd_cell=0.05), delta=1.0)
    assert "C and B are equal for gloss within 1.0 GU; both beat the rest" in sentence(equal)
    few = judge(simulate(per=1, sd_cell=1.0, readings=2), delta=0.1)
    assert "On hard clear, B and C cannot be told apart yet for gloss" in sentence(few)
    assert "equal" not in sentence(few)


def test_lower_is_better_turns_the_ranking_round():
    data = trial_data("medium", "haze", baseline=False, higher=False)
    result = judge(data)
    for r in result.results:
        values = [e.estimate for e in r.effects]
        assert values == sorted(values)
        assert r.ranks.p_best[0] == max(r.ranks.p_best)


def test_same_seed_same_figures_other_seed_others():
    data = simulate()
    one, two, three = judge(data, seed=4), judge(data, seed=4), judge(data, seed=5)
    assert one.results[0].ranks.p_best.tolist() == two.results[0].ranks.p_best.tolist()
    assert one.results[0].ranks.expected.tolist() != three.results[0].ranks.expected.tolist()


def test_untested_pairs_get_no_rank_and_are_named():
    data = simulate()
    drop = (data.hardness.codes == 1) & (data.combination.codes == 2)
    keep = np.flatnonzero(~drop)
    pick = lambda c: coded([c.names[i] for i in c.codes[keep]], c.names)  # noqa: E731
    result = judge(
        TrialData(
            "gloss20",
            data.y[keep],
            pick(data.hardness),
            pick(data.combination),
            {k: pick(v) for k, v in data.factors.items()},
        )
    )
    assert result.not_estimable == ("hard:C",)
    hard = next(r for r in result.results if r.hardness == "hard")
    assert [e.combination for e in hard.effects] == ["B", "A"]
    assert "C was not tested on hard." in notes(result)


def test_one_panel_a_hardness_keeps_contrasts_and_refuses_claims_across():
    many = simulate(one_panel=True, per=4)
    result = judge(many)
    assert "panel" in {d.term for d in result.fit.dropped}
    assert any("nothing is said across classes" in n for n in notes(result))
    without = judge(many, random=("cell", "operator"))
    a, b = result.results[0].contrasts[0], without.results[0].contrasts[0]
    assert a.estimate == pytest.approx(b.estimate, rel=1e-9)
    assert a.se == pytest.approx(b.se, rel=1e-6)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"operators": 1}, "Only one operator: what another operator would change is not known."),
        (
            {"readings": 1},
            "One reading a cell: cells cannot be told from the scatter of the meter.",
        ),
        ({"operators": 2}, "Only 2 operators: how much operators differ is hardly known."),
    ],
)
def test_what_the_layout_cannot_show_is_said(change, said):
    assert said in notes(judge(simulate(**change)))


def test_two_terms_with_the_same_levels_are_named():
    data = simulate()
    twin = TrialData(
        data.measurand,
        data.y,
        data.hardness,
        data.combination,
        {**data.factors, "day": data.factors["panel"]},
    )
    result = judge(twin, random=("cell", "panel", "operator", "day"))
    assert "Days cannot be told from panels." in notes(result)


def test_a_baseline_that_never_varies_is_left_out_and_said():
    data = simulate()
    flat = TrialData(
        data.measurand,
        data.y,
        data.hardness,
        data.combination,
        data.factors,
        np.full(data.y.size, 61.0),
    )
    assert "The reading before work was left out: it is the same everywhere." in notes(judge(flat))


def test_nothing_to_judge_by_is_refused():
    data = simulate()
    with pytest.raises(NotEnough, match="All readings are the same"):
        judge(
            TrialData(
                "gloss20", np.full(data.y.size, 80.0), data.hardness, data.combination, data.factors
            )
        )
    two = TrialData(
        "gloss20",
        np.array([80.0, 81.0]),
        coded(["soft", "soft"]),
        coded(["A", "B"]),
        {k: coded(["x", "y"]) for k in ("cell", "panel", "operator")},
    )
    with pytest.raises(NotEnough, match="2 readings cannot carry 2 averages"):
        judge(two)


def test_repeat_readings_that_are_all_alike_count_once():
    data = simulate(readings=1)
    twice = np.repeat(np.arange(data.y.size), 3)
    pick = lambda c: type(c)(c.codes[twice], c.names)  # noqa: E731
    tripled = TrialData(
        data.measurand,
        data.y[twice],
        pick(data.hardness),
        pick(data.combination),
        {k: pick(v) for k, v in data.factors.items()},
    )
    once, thrice = judge(data), judge(tripled)
    assert "Repeat readings of a cell are all alike, so each cell counts once." in notes(thrice)
    assert thrice.delta_source == once.delta_source == "scatter of cells of this trial"
    for a, b in zip(once.results[0].contrasts, thrice.results[0].contrasts, strict=True):
        assert (a.estimate, a.se, a.df) == pytest.approx((b.estimate, b.se, b.df), rel=1e-6)


def test_readings_that_leave_no_scatter_are_refused():
    data = simulate(sd_cell=0.0)
    flat = data.combination.codes.astype(float) + 80
    with pytest.raises(NotEnough, match="no scatter"):
        judge(TrialData("gloss20", flat, data.hardness, data.combination, data.factors))


def test_zero_panel_variance_is_ordinary_and_said():
    found = judge(trial_data("small", "removed_um", baseline=False, higher=False))
    assert found.fit.zero == ("panel",)
    assert "Panels differ no more than cells do." in notes(found)
    assert found.fit.variances["panel"] == 0.0


def test_small_trials_use_kenward_roger_and_say_so():
    assert judge(trial_data("small", "gloss20")).df_method == "kenward-roger"
    assert judge(trial_data("medium", "gloss20")).df_method == "satterthwaite"
    singular = judge(trial_data("small", "haze", baseline=False, higher=False))
    assert isinstance(freedom(singular.fit), Satterthwaite)
    assert not isinstance(freedom(singular.fit), KenwardRoger)


def test_intervals_cover_the_truth_about_as_often_as_they_say():
    """90 % intervals of a difference over simulated trials with a known truth of 3."""
    inside = 0
    for seed in range(150):
        found = judge(simulate(seed=seed, panels=3, hardness=("hard",), per=2, operators=3))
        c = found.results[0].contrast("B", "A")
        from scipy.special import stdtrit

        half = stdtrit(c.df, 0.95) * c.se
        inside += abs(c.estimate - 3.0) <= half
    assert 0.83 <= inside / 150 <= 0.96


@given(st.integers(0, 10**6), st.floats(-100, 100), st.floats(0.1, 50))
def test_shift_and_scale_of_the_readings_carry_through(seed, shift, scale):
    data = simulate(seed=seed % 7)
    moved = TrialData(
        data.measurand, data.y * scale + shift, data.hardness, data.combination, data.factors
    )
    a, b = judge(data).results[0], judge(moved).results[0]
    for x, y in zip(a.contrasts, b.contrasts, strict=True):
        assert y.estimate == pytest.approx(x.estimate * scale, rel=1e-6, abs=1e-7 * scale)
        assert y.se == pytest.approx(x.se * scale, rel=1e-4)


@pytest.mark.parametrize("unit", [1e-9, 1e-6, 1e6])
@pytest.mark.parametrize("method", ["small", "large"])
def test_degrees_of_freedom_do_not_depend_on_the_unit(unit, method):
    data = simulate(seed=3, per=2 if method == "small" else 8)
    moved = TrialData(data.measurand, data.y * unit, data.hardness, data.combination, data.factors)
    a, b = judge(data), judge(moved)
    assert a.df_method == b.df_method
    for x, y in zip(a.results[0].contrasts, b.results[0].contrasts, strict=True):
        assert y.df == pytest.approx(x.df, rel=1e-3)
    for f, g in ((a.fit, b.fit),):
        rows = np.zeros((1, f.beta.size))
        rows[0, :2] = 1.0, -1.0
        assert Satterthwaite(g).estimates(rows).df == pytest.approx(
            Satterthwaite(f).estimates(rows).df, rel=1e-3
        )


@pytest.mark.parametrize("delta", [float("nan"), float("inf"), -0.1])
def test_a_difference_that_is_none_is_refused(delta):
    with pytest.raises(ValueRefused, match="cannot be one that does not matter"):
        judge(simulate(), delta=delta)


def test_order_of_rows_does_not_matter():
    data = simulate()
    order = np.random.default_rng(0).permutation(data.y.size)
    pick = lambda c: type(c)(c.codes[order], c.names)  # noqa: E731
    mixed = TrialData(
        data.measurand,
        data.y[order],
        pick(data.hardness),
        pick(data.combination),
        {k: pick(v) for k, v in data.factors.items()},
    )
    assert judge(mixed).fit.criterion == pytest.approx(judge(data).fit.criterion, abs=1e-8)


@given(
    st.floats(20, 3000),
    st.floats(20, 3000),
    st.integers(1, 8),
    st.integers(1, 8),
    st.floats(0, 60),
    st.floats(0, 60),
)
def test_cells_lie_on_the_panel_and_never_overlap(w, h, rows, columns, gap, margin):
    try:
        taping = Taping(w, h, rows, columns, gap, margin)
    except ValueRefused:
        return
    cells = taping.cells()
    assert len(cells) == rows * columns
    assert len({c.code for c in cells}) == len(cells)
    for c in cells:
        assert c.x_mm >= margin - 1e-6
        assert c.x_mm + c.width_mm <= w - margin + 1e-6
        assert c.y_mm + c.height_mm <= h - margin + 1e-6
    for a, b in pairwise(cells):
        if a.row == b.row:
            assert b.x_mm - (a.x_mm + a.width_mm) == pytest.approx(gap, abs=1e-6)


def test_impossible_tapings_say_what_to_do():
    with pytest.raises(ValueRefused, match="fewer rows or columns"):
        Taping(300, 300, 20, 20, 10, 10)
    with pytest.raises(ValueRefused, match="width"):
        Taping(0, 300, 1, 1, 0, 0)


def test_codes_of_cells():
    assert [cell_code(r, c) for r, c in ((0, 0), (3, 4), (14, 0), (15, 1))] == [
        "K1",
        "N5",
        "Z1",
        "KK2",
    ]


@pytest.mark.parametrize(
    ("text", "value"), [("84.6", 84.6), ("84,6", 84.6), (" −1,5 ", -1.5), ("7", 7.0)]
)
def test_numbers_as_people_type_them(text, value):
    assert parse_number(text) == value


@pytest.mark.parametrize("text", ["", "abc", "1,234.5", "nan", "inf", "1_0", "8 4", "٣"])
def test_what_is_not_a_number_is_refused(text):
    with pytest.raises(LoamError):
        parse_number(text)


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_every_measurand_refuses_the_impossible_and_writes_its_own_digits(kind):
    assert kind_of(kind.key) is kind
    with pytest.raises(ValueRefused, match="impossible"):
        kind.check(kind.high + 1)
    text = kind.write(12.3456)
    assert len(text.partition(".")[2]) == kind.decimals


def test_figures_never_show_minus_zero_or_false_certainty():
    assert fixed(-0.04, 1) == "0.0"
    assert fixed(-1.25, 1) == "−1.2"
    assert (percent(0.999), percent(0.001), percent(0.42)) == ("over 99 %", "under 1 %", "42 %")
