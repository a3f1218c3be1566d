"""The judgement: against values worked elsewhere, its faults, its bands, and that it never
contradicts itself."""

import tracemalloc
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from scipy.special import digamma
from scipy.stats import rankdata

from helpers.reference import trial_data
from helpers.simulate import Design, designs, run, trial
from loam.core.errors import LoamError, NotEnough, ValueRefused
from loam.core.judging import judge_readings
from loam.core.matter import matters, parse_matters
from loam.core.plain_rank import judge
from loam.core.prior import RESIDUAL, default_priors, learnt
from loam.core.readings import BY_KEY, kind_of
from loam.core.readings.haze import from_log_haze, to_log_haze
from loam.core.scale import scale_for, step_of
from loam.core.stats.pooling import FEW, PRIOR_A, places, prior_b
from loam.core.stats.prior import Prior, df_of_log_variance, summed
from loam.core.trial_rows import Coded, TrialData
from loam.core.verdicts import (
    BETTER,
    CLEARLY_BETTER,
    CLEARLY_WORSE,
    EQUAL,
    OPEN,
    WORSE,
    verdict_of,
)
from loam.core.words.verdict import about, notes, sentence


def coded(values):
    names, at = np.unique(values, return_inverse=True)
    return Coded(at.astype(np.intp), tuple(str(n) for n in names))


def small(values, cells, combinations, panels=None, measurand="gloss20"):
    n = len(values)
    factors = {"cell": coded(cells)}
    factors["panel"] = coded(panels if panels is not None else ["P"] * n)
    better = kind_of(measurand).higher_is_better
    return TrialData(
        measurand,
        np.array(values, float),
        coded(["soft"] * n),
        coded(combinations),
        factors,
        None,
        better,
    )


# ---- values worked elsewhere -------------------------------------------------------------------


def test_one_cell_each_is_the_convolution_of_priors_by_quadrature():
    """Two combinations, a cell each with many readings: the difference is d plus two cell
    effects, whose variance has the prior of cell plus panel:combination alone. Its 90 % interval
    by brute force over both inverse chi-squares."""
    values = [*np.repeat(85.0, 400), *np.repeat(87.0, 400)]
    values = np.array(values) + 0.1 * np.tile([-1.0, 1.0], 400)
    found = judge_readings(small(values, np.repeat([0, 1], 400), np.repeat(["A", "B"], 400)))
    c = found.classes[0].compare("B", "A")
    rng = np.random.default_rng(2)
    one = [3 * s**2 / rng.chisquare(3, 400_000) for s in (0.6, 0.3)]
    d = np.sqrt(2 * (one[0] + one[1])) * rng.standard_normal(400_000)
    half = np.quantile(np.abs(d), 0.9)
    assert 0.97 * half < 0.5 * (c.high - c.low) < 1.18 * half  # the tenth of `summed`
    assert 1.8 < c.estimate < 2.0  # two are hardly pooled
    assert found.assumed == ("cell", "panel:combination")
    assert "one cell each" in " ".join(notes(found))


def test_ample_data_give_the_plain_contrasts():
    """With many cells the priors fade: estimates as REML's, to a small share of their error."""
    data = trial_data("medium", "gloss20")
    plain, full = judge(data), judge_readings(data)
    for r, c in zip(plain.results, full.classes, strict=True):
        for contrast in r.contrasts:
            mine = c.compare(contrast.a, contrast.b)
            assert abs(mine.estimate - contrast.estimate) < 0.8 * contrast.se
            assert 0.5 * (mine.high - mine.low) == pytest.approx(1.7 * contrast.se, rel=0.25)
        # each class is levelled to its own mean start, the plain ranking to that of all
        apart = [
            c.standing(e.combination).figures.estimate
            - e.estimate
            - np.mean([c.standing(o.combination).figures.estimate - o.estimate for o in r.effects])
            for e in r.effects
        ]
        assert np.abs(apart).max() < 0.5 * min(e.se for e in r.effects)


def test_a_balanced_one_way_trial_has_its_textbook_variance():
    """k cells of n readings, no other term: E[MS between] = n cell^2 + residual^2. With a loose
    prior the posterior of the cell SD centres there."""
    rng = np.random.default_rng(5)
    cells, n = 200, 4
    y = 85 + np.repeat(0.7 * rng.standard_normal(cells), n) + 0.3 * rng.standard_normal(cells * n)
    cell = np.repeat(np.arange(cells), n)
    combination = np.repeat(np.arange(cells) % 4, n)
    data = small(y, cell, combination)
    found = judge_readings(data)
    means = np.array([y[cell == i].mean() for i in range(cells)])
    own = (
        means
        - np.array([means[np.arange(cells) % 4 == k].mean() for k in range(4)])[
            np.arange(cells) % 4
        ]
    )
    between = (own**2).sum() / (cells - 4)
    within = sum(y[cell == i].var(ddof=1) for i in range(cells)) / cells
    assert found.sd["cell"] == pytest.approx(np.sqrt(between - within / n), rel=0.04)
    assert found.sd[RESIDUAL] == pytest.approx(np.sqrt(within), rel=0.01)
    assert found.df["cell"] > 100
    assert "cell" not in found.assumed


def test_the_sum_of_two_variances_lies_where_draws_lie():
    rng = np.random.default_rng(1)
    parts = [3 * s**2 / rng.chisquare(3, 1_000_000) for s in (0.6, 0.3)]
    log = np.log(parts[0] + parts[1])
    got = summed([Prior(0.6), Prior(0.3)])
    back = np.log(got.df * got.sd**2 / rng.chisquare(got.df, 1_000_000))
    assert back.mean() == pytest.approx(log.mean() + 2 * np.log(1.1), abs=0.02)
    for q in (0.05, 0.5, 0.95):  # in SD; the upper tail a little wide, never narrow
        assert 0.9 < np.exp(0.5 * (np.quantile(back, q) - np.quantile(log, q))) < 1.22
    assert np.quantile(back, 0.99) > np.quantile(log, 0.99) - 0.05
    assert df_of_log_variance(np.array([np.log(rng.chisquare(7, 1_000_000)).var()]))[
        0
    ] == pytest.approx(7, rel=0.02)


def test_a_sum_of_many_variances_needs_no_more_room_than_one_of_three():
    """Five parts were 48^5 numbers, two gigabytes, for a trial of eleven readings."""
    parts = [Prior(0.6), Prior(0.3, 5.0), Prior(1.4, 2.0), Prior(0.2, 8.0)]
    middles = (np.arange(48) + 0.5) / 48
    each = [p.df * p.sd**2 / stats.chi2.isf(middles, p.df) for p in parts]
    whole = np.log(sum(np.ix_(*each)))
    was = 1.1 * np.exp(0.5 * (whole.mean() - np.log(1.0) + digamma(1.0)))
    assert summed(parts).sd == pytest.approx(was, rel=1e-6)
    rng = np.random.default_rng(2)
    seven = [
        Prior(s, d) for s, d in zip(np.linspace(0.2, 1.4, 7), (3, 5, 2, 8, 3, 4, 6), strict=True)
    ]
    drawn = np.log(sum(p.df * p.sd**2 / rng.chisquare(p.df, 400_000) for p in seven))
    tracemalloc.start()
    got = summed(seven)
    assert tracemalloc.get_traced_memory()[1] < 20e6
    tracemalloc.stop()
    usual = np.exp(0.5 * (drawn.mean() + digamma(0.5 * got.df) - np.log(0.5 * got.df)))
    assert got.sd == pytest.approx(1.1 * usual, rel=0.01)


def test_ranks_against_counting_by_hand():
    merit = np.array([[3.0, 2.0, 1.0], [1.0, 2.0, 3.0], [2.0, 2.0, 0.0], [5.0, 1.0, 4.0]])
    got = places(merit)
    assert got.p_best.tolist() == pytest.approx([2.5 / 4, 0.5 / 4, 1 / 4])
    assert got.expected.tolist() == pytest.approx(
        [(1 + 3 + 1.5 + 1) / 4, (2 + 2 + 1.5 + 3) / 4, (3 + 1 + 3 + 2) / 4]
    )
    assert got.low.tolist() == [1, 1, 1]
    assert got.high.tolist() == [3, 3, 3]


@pytest.mark.parametrize("k", [2, FEW, FEW + 1])
def test_equals_share_ranks_among_few_and_among_many(k):
    merit = np.random.default_rng(k).integers(0, 6, (300, k)).astype(float)
    got = places(merit)
    first = merit == merit.max(axis=1, keepdims=True)
    assert got.p_best == pytest.approx((first / first.sum(axis=1, keepdims=True)).mean(axis=0))
    assert got.expected == pytest.approx(rankdata(-merit, axis=1).mean(axis=0))


@pytest.mark.parametrize(
    ("chances", "verdict"),
    [
        ((0.99, 0.96, 0.0, 0.0), EQUAL),
        ((0.99, 0.0, 0.95, 0.0), CLEARLY_BETTER),
        ((0.01, 0.0, 0.0, 0.95), CLEARLY_WORSE),
        ((0.95, 0.2, 0.8, 0.0), BETTER),
        ((0.05, 0.2, 0.0, 0.8), WORSE),
        ((0.949, 0.949, 0.0, 0.0), OPEN),
        ((0.5, 0.95, 0.0, 0.0), EQUAL),
    ],
)
def test_verdicts_in_their_order(chances, verdict):
    assert verdict_of(*chances) == verdict


# ---- scales -------------------------------------------------------------------------------------


@pytest.mark.parametrize("key", list(BY_KEY))
@given(share=st.floats(0.0, 1.0), step=st.sampled_from([0.01, 0.1, 1.0, 5.0]))
def test_a_scale_goes_there_and_back(key, share, step):
    kind = kind_of(key)
    low, high = max(kind.low, -10.0), min(kind.high, 1000.0)
    y = np.array([low + share * (high - low)])
    y = np.clip(np.round(y / step) * step, kind.low, kind.high)
    for meter in ("", *kind.scales):
        scale = scale_for(kind, y, meter)
        there = scale.to(y)
        assert np.isfinite(there).all()
        wanted = y if kind.least is None else np.maximum(y, kind.least)
        assert scale.back(there) == pytest.approx(wanted, abs=1e-6, rel=1e-9)


def test_scales_as_they_are_defined():
    """logit((y + 2.5) / (102.5 - y)) in steps of 5; log(haze + 1); log haze by 1285 log10."""
    y = np.array([0.0, 85.0, 100.0])
    assert step_of(y) == 5.0
    want = np.log((y + 2.5) / (102.5 - y))
    assert scale_for(kind_of("defects"), y).to(y) == pytest.approx(want)
    assert scale_for(kind_of("haze"), y).to(y) == pytest.approx(np.log(y + 1))
    assert to_log_haze(np.array([1.0, 3.0, 10.0, 100.0])) == pytest.approx(
        [27, 78, 226, 1000], abs=0.9
    )
    assert from_log_haze(to_log_haze(y)) == pytest.approx(y)
    log = scale_for(kind_of("haze"), y, "log")
    assert log.to(to_log_haze(y)) == pytest.approx(np.log(y + 1))


@pytest.mark.parametrize("design", ["k", "l"])
def test_intervals_stay_inside_the_possible(design):
    for seed in range(6):
        data, _ = trial(designs()[design], seed)
        found = judge_readings(data)
        kind = kind_of(data.measurand)
        for s in found.classes[0].standings:
            f = s.figures
            inside = [f.low, f.own_low, f.own_low50, f.estimate, f.own_high50, f.own_high, f.high]
            assert inside[0] >= kind.low
            assert inside[-1] <= kind.high
            assert inside[1:-1] == sorted(inside[1:-1])


# ---- what the data cannot say --------------------------------------------------------------------


def test_combinations_that_share_no_panel_rest_on_how_panels_vary():
    data, _ = trial(designs()["j"], 3)
    found = judge_readings(data)
    c = found.classes[0]
    assert set(c.apart) == {("c0", "c2"), ("c0", "c3"), ("c1", "c2"), ("c1", "c3")}
    wide, near = c.compare("c0", "c2"), c.compare("c0", "c1")
    assert wide.high - wide.low > 1.1 * (near.high - near.low)
    said = " ".join(notes(found))
    assert "never shared a panel" in said
    assert "panel" in found.assumed


def test_a_chain_of_panels_links_all():
    layout = [(0, 0), (0, 1), (1, 1), (1, 2), (2, 2), (2, 3)] * 2
    found = judge_readings(trial(Design("chain", layout, (0, 0, 0)), 1)[0])
    assert found.classes[0].apart == ()


def test_a_lesson_is_what_the_readings_taught_and_not_what_was_assumed():
    found = judge_readings(trial(designs()["a"], 2)[0])
    taught = found.lessons("the trial X")
    assert taught[RESIDUAL].df == 12.0
    assert taught[RESIDUAL].source == "the trial X"
    alone = judge_readings(trial(designs()["g"], 2)[0]).lessons("y")
    assert "cell" not in alone
    assert learnt(0.5, 1.0, "z").df == 3.0


def test_a_prior_fades_as_readings_come():
    """A silly prior moves a trial of one cell each, and hardly one of forty."""
    silly = {**default_priors(kind_of("gloss20")), "cell": Prior(6.0)}
    gaps = []
    for times in (1, 40):
        layout = [(p, c) for p in range(2) for c in range(3) for _ in range(times)]
        data, _ = trial(Design("x", layout, (0, 0), fixed={"panel:combination": 0.01}), 8)
        plain, odd = judge_readings(data), judge_readings(data, priors=silly)
        a, b = (j.classes[0].compare("c0", "c1") for j in (plain, odd))
        gaps.append((b.high - b.low) / (a.high - a.low))
    assert gaps[0] > 3
    assert gaps[1] < 1.25


def test_the_unit_changes_nothing():
    """Readings and priors times 1000: the same chances and verdicts, figures times 1000.

    To the last digits: neither the unit nor the basis that a build of the linear algebra chooses
    among equal directions may move what is said.
    """
    data, _ = trial(designs()["a"], 4)
    other = replace(data, measurand="other")
    plain = judge_readings(other)
    large = judge_readings(replace(other, y=data.y * 1000))
    for a, b in zip(plain.classes, large.classes, strict=True):
        assert a.names == b.names
        for s, t in zip(a.standings, b.standings, strict=True):
            assert s.p_best == pytest.approx(t.p_best, abs=1e-3)
            assert 1000 * s.figures.low == pytest.approx(t.figures.low, rel=1e-9)
    assert plain.df == pytest.approx(large.df, rel=1e-6)


@pytest.mark.parametrize("name", ["a", "b", "g"])
def test_the_basis_of_equal_directions_changes_nothing(name, monkeypatch):
    """Another build of the linear algebra may turn eigenvectors and their signs: nothing moves."""
    data, _ = trial(designs()[name], 4)
    plain = judge_readings(data)
    eigh = np.linalg.eigh

    def turned(a, **kwargs):
        values, vectors = eigh(a, **kwargs)
        return values, vectors * np.where(np.arange(vectors.shape[-1]) % 2, 1.0, -1.0)

    monkeypatch.setattr(np.linalg, "eigh", turned)
    for a, b in zip(plain.classes, judge_readings(data).classes, strict=True):
        for s, t in zip(a.standings, b.standings, strict=True):
            assert s.p_best == pytest.approx(t.p_best, abs=1e-3)
            assert s.figures.low == pytest.approx(t.figures.low, rel=1e-9)


# ---- faults --------------------------------------------------------------------------------------


@pytest.mark.parametrize("wrong", [np.nan, np.inf, -np.inf, 1e100, -5.0])
def test_what_cannot_be_a_reading_is_refused(wrong):
    data, _ = trial(designs()["b"], 1)
    y = data.y.copy()
    y[3] = wrong
    with pytest.raises(ValueRefused, match="cannot be judged"):
        judge_readings(replace(data, y=y))
    if not np.isnan(wrong):  # a cell without a reading before work has none
        with pytest.raises(ValueRefused):
            judge_readings(replace(data, baseline=y))
    if abs(wrong) > 1e15 or np.isnan(wrong):
        with pytest.raises(ValueRefused):
            judge_readings(replace(data, y=y, measurand="unknown"))


@pytest.mark.parametrize(("level", "size"), [(1e12, 0.0), (1e12, 1.0), (0.0, 1e-12), (1e-12, 0.0)])
def test_odd_levels_give_a_right_answer(level, size):
    data, _ = trial(designs()["b"], 1)
    y = level + size * np.round(data.y - 85.0, 1)
    found = judge_readings(replace(data, y=y, measurand="unknown"), delta=matters(None, 0.0))
    for s in found.classes[0].standings:
        assert np.isfinite([s.figures.low, s.figures.high, s.p_best]).all()
    if size == 0.0:
        assert max(s.p_best for s in found.classes[0].standings) < 0.5
    else:
        want = judge_readings(replace(data, y=np.round(data.y - 85.0, 1), measurand="unknown"))
        assert found.classes[0].names[0] == want.classes[0].names[0]


def test_a_single_reading_each_and_a_single_combination():
    found = judge_readings(small([85.0, 87.0], [0, 1], ["A", "B"]))
    c = found.classes[0].compare("B", "A")
    assert c.low < 0 < c.high
    alone = judge_readings(small([85.0, 86.0], [0, 1], ["A", "A"]))
    assert "only A was tested" in sentence(alone)
    assert alone.classes[0].standings[0].relation == ""
    with pytest.raises(NotEnough):
        judge_readings(small([], [], []))


def test_a_hundred_panels_and_sixty_thousand_readings():
    layout = [(p, c) for p in range(100) for c in range(12) for _ in range(10)]
    data, truth = trial(Design("large", layout, tuple(p % 3 for p in range(100))), 5)
    assert data.y.size == 60_000
    found = judge_readings(data)
    for c in found.classes:
        best = np.argmax(truth[int(c.hardness[1:])])
        assert c.standing(f"c{best}").p_best > 0.01


@pytest.mark.parametrize(
    ("value", "half", "decimals", "text"),
    [
        (1.234, 0.4, 1, "1.2"),
        (1.234, 2.0, 1, "1"),
        (0.04, 0.4, 1, "0.04"),
        (12.6, 3.0, 0, "13"),
        (0.3, 1.5, 0, "0.3"),
        (0.0, 1.0, 1, "0.00"),
        (-2.5, 0.2, 1, "−2.5"),
    ],
)
def test_a_lead_is_about(value, half, decimals, text):
    assert about(value, half, decimals) == text


@pytest.mark.parametrize("text", ["nan", "-1", "x", "1e999", ""])
def test_what_is_typed_as_mattering_must_be_able_to(text):
    with pytest.raises(LoamError):
        parse_matters(kind_of("gloss20"), text, "trial")


# ---- bands, in small (the bench runs a thousand trials a design) --------------------------------


@pytest.mark.parametrize("name", ["b", "c", "g", "i", "k"])
def test_bands_in_small(name):
    """Ninety-percent intervals cover; clear claims are true. Wide bands for few trials."""
    trials = 60
    tally = run(designs()[name], trials, seed=4)
    slack = 2.6 * np.sqrt(0.09 * (1 + 0.5 * (tally.pairs / trials - 1)) / tally.pairs)
    assert tally.coverage >= 0.87 - slack
    assert tally.coverage <= 0.96 + slack
    assert stats.binom.sf(tally.any_clear_false - 1, trials, 0.07) > 1e-3


def test_near_ties_make_few_claims():
    tally = run(designs()["f"], 40, seed=9)
    assert tally.any_clear_false <= 3
    assert tally.coverage > 0.9


def test_the_prior_of_pooling_is_the_stated_one():
    # docs/statistics.md: Beta(0.5, 0.3 + 40 / (k - 1)^2)
    assert PRIOR_A == 0.5
    assert [prior_b(k) for k in (1, 2, 3, 6, 21)] == pytest.approx([40.3, 40.3, 10.3, 1.9, 0.4])
