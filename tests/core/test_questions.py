"""What Judge answers beside the ranking, against planted truths and plain algebra."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import kendalltau, norm

from helpers.questions import crossing, parts, two_level
from loam.core.drivers import factors, take_apart
from loam.core.errors import NotEnough
from loam.core.judging import judge_readings
from loam.core.judging.further_cells import (
    Further,
    chance_to_settle,
    footing,
    pairs_on,
    variance_after,
    variance_with_pairs,
)
from loam.core.next_test import Minutes, advise, loss
from loam.core.panel import Taping
from loam.core.pool import TRIAL, disagreements, pool
from loam.core.pool_fit import fit_pool
from loam.core.price import chance_beaten, on_frontier, price
from loam.core.prior import default_priors, pooled_priors
from loam.core.readings import GLOSS20 as GLOSS
from loam.core.scale import Scale
from loam.core.sides import hold, shared_shift
from loam.core.snapshot import Snapshot, columns_of
from loam.core.stages import BELOW, LOST, SEEN, UNSETTLED, one_more, stage_gains
from loam.core.trends import concordance, trend
from loam.core.trial import Cell, Combination, Panel, Reading, Stage
from loam.core.verdicts import bayes_factor

IDENTITY = Scale("identity", -np.inf, np.inf)


# what drives it


def test_what_always_changes_together_is_one_factor():
    found = factors(
        {
            "pad": list("xxyy"),
            "machine": list("1122"),
            "passes": ["4"] * 4,
            "compound": list("abab"),
        }
    )
    assert [f.names for f in found] == [("pad", "machine"), ("compound",)]
    assert found[0].levels == ("x, 1", "y, 2")


def test_a_plain_sum_is_taken_apart_and_predicts_what_was_not_tried():
    rng = np.random.default_rng(3)
    columns, drawn, truth, out = crossing(rng, together=0.0, error=0.1)
    found = take_apart(columns, drawn, rng)
    pad = truth.mean(axis=1) - truth.mean()
    effect = found.effects[0] - found.effects[0].mean(axis=1, keepdims=True)
    low, high = np.quantile(effect, (0.005, 0.995), axis=0)
    assert ((low <= pad) & (pad <= high)).all()
    drawn_out = found.predict([out[0], out[1]], rng) - found.means.mean()
    tried = [truth[p, c] for p in range(3) for c in range(3) if (p, c) != out]
    low, high = np.quantile(drawn_out, (0.01, 0.99))
    assert low <= truth[out] - np.mean(tried) <= high
    assert found.shares().mean(axis=0).sum() == pytest.approx(1.0)
    assert found.shares().mean(axis=0)[-1] < 0.2, "nothing is only together"


def test_interplay_is_found_where_it_is_all_there_is():
    rng = np.random.default_rng(5)
    columns, drawn, _, _ = crossing(rng, each=0.05, together=3.0, error=0.2)
    found = take_apart(columns, drawn, rng)
    assert found.shares().mean(axis=0)[-1] > 0.4
    assert found.labels[-1] == "pad and compound"


def test_interplay_that_nothing_can_tell_has_no_share():
    """Every combination is needed to tell the levels: interplay was given a third there."""
    rng = np.random.default_rng(2)
    columns = {"pad": [*"xxyz"], "compound": [*"abbb"]}
    found = take_apart(columns, rng.normal([84.0, 85.0, 86.0, 87.0], 0.4, (512, 4)), rng)
    assert not found.told[-1]
    assert found.shares()[:, -1].max() == 0.0
    assert found.shares().mean(axis=0)[:2].sum() == pytest.approx(1.0)
    alone = take_apart({"pad": [*"wxyz"]}, rng.normal(84.0, 0.4, (512, 4)), rng)
    assert list(alone.told) == [True, False]


def test_a_level_that_was_not_seen_is_predicted_more_widely():
    rng = np.random.default_rng(8)
    columns, drawn, _, out = crossing(rng)
    found = take_apart(columns, drawn, rng)
    known, unknown = found.predict([out[0], out[1]], rng), found.predict([-1, out[1]], rng)
    assert unknown.std() > 1.2 * known.std()


def test_too_few_or_nothing_said_is_refused():
    rng = np.random.default_rng(1)
    with pytest.raises(NotEnough, match="3 to 60 combinations"):
        take_apart({"pad": ["a", "b"]}, rng.normal(size=(64, 2)), rng)
    with pytest.raises(NotEnough, match="made of"):
        take_apart({"pad": ["a", "a", "a"]}, rng.normal(size=(64, 3)), rng)


def test_predictions_cover_as_often_as_they_say(monkeypatch):
    monkeypatch.setattr("loam.core.drivers.KEPT", 100)
    rng = np.random.default_rng(11)
    hits = []
    for _ in range(24):
        each, together = rng.choice([0.5, 1.0, 2.0]), rng.choice([0.1, 0.4])
        columns, drawn, truth, out = crossing(rng, each=each, together=together, draws=512)
        found = take_apart(columns, drawn, rng)
        tried = [truth[p, c] for p in range(3) for c in range(3) if (p, c) != out]
        low, high = np.quantile(found.predict([*out], rng) - found.means.mean(axis=1), (0.05, 0.95))
        hits.append(low <= truth[out] - np.mean(tried) <= high)
    assert sum(hits) >= 18, "of 24 at 90 %"


# what it costs


@given(st.lists(st.tuples(st.integers(0, 6), st.integers(0, 6)), min_size=1, max_size=9))
def test_the_frontier_is_whom_nobody_beats(points):
    gain, cost = (np.array(x, float) for x in zip(*points, strict=True))
    front = on_frontier(gain, cost)
    assert front.any()
    for k, (g, c) in enumerate(points):
        beaten = any(x >= g and y <= c and (x > g or y < c) for x, y in points)
        assert bool(front[k]) != beaten


def test_who_is_surely_beaten_is_said_with_its_chance():
    rng = np.random.default_rng(2)
    gain = np.array([1.0, 3.0, 3.1]) + rng.normal(0, 0.1, (4000, 3))
    cost = np.array([3.0, 1.0, 2.0]) + rng.normal(0, 0.1, (4000, 3))
    found = {p.name: p for p in price(["A", "B", "C"], gain, cost)}
    assert found["A"].beaten_by in ("B", "C")
    assert found["A"].beaten > 0.99
    assert not found["A"].frontier
    assert found["B"].frontier
    assert not found["C"].beaten_by, "it costs more but may give more"
    assert chance_beaten(gain, cost).diagonal().max() == 0.0
    assert [p.name for p in price(["A", "B", "C"], gain, cost)] == ["B", "C", "A"]
    for i, name in enumerate("ABC"):
        for shown, drawn in ((found[name].gain, gain), (found[name].cost, cost)):
            ends = np.quantile(drawn[:, i], (0.05, 0.95))
            assert shown == pytest.approx((drawn[:, i].mean(), *ends))
    alike = price(["C", "D"], gain[:, [1, 2]], np.tile([2.0, 2.0], (4000, 1)))
    assert [p.name for p in alike] == ["D", "C"], "of equal cost who gives more stands first"


# what next


def _judged(means, seed=4, **how):
    data = two_level(np.random.default_rng(seed), means, **how)
    return data, judge_readings(data)


def test_variance_after_further_cells_is_that_of_fitting_them():
    data, judged = _judged([84.0, 84.4, 82.0])
    foot = footing(data, judged.sd, "soft")
    cells = (Further("A", 0), Further("B", 0), Further("A", -1), Further("B", -1), Further("B", -1))
    before, after = variance_after(foot, "A", "B", cells)

    def by_hand(extra):
        """Dense generalised least squares on cell means."""
        cell = np.unique(data.factors["cell"].codes, return_index=True)[1]
        k = [int(x) for x in data.combination.codes[cell]] + [k for k, _ in extra]
        p = [int(x) for x in data.factors["panel"].codes[cell]] + [p for _, p in extra]
        sd, n = judged.sd, len(k)
        v = np.eye(n) * foot.own
        for i in range(n):
            for j in range(n):
                if p[i] == p[j]:
                    v[i, j] += sd["panel"] ** 2
                    v[i, j] += sd["panel:combination"] ** 2 * (k[i] == k[j])
        x = np.eye(3)[k]
        covariance = np.linalg.inv(x.T @ np.linalg.solve(v, x))
        q = np.array([1.0, -1.0, 0.0])
        return q @ covariance @ q

    assert before == pytest.approx(by_hand([]), rel=1e-6)
    assert after == pytest.approx(by_hand([(0, 0), (1, 0), (0, 9), (1, 9), (1, 9)]), rel=1e-6)


@pytest.mark.parametrize("room", [2, 3, 7, 12])
@pytest.mark.parametrize("count", [1, 5, 12, 24])
def test_pairs_on_new_panels_are_weighed_as_each_cell_by_itself(count, room):
    data, judged = _judged([84.0, 84.4, 82.0])
    foot = replace(footing(data, judged.sd, "soft"), room=room)
    cells = pairs_on(("A", "B"), count, {}, room)
    assert variance_with_pairs(foot, "A", "B", count) == pytest.approx(
        variance_after(foot, "A", "B", cells), rel=1e-9
    )


def _unsettled():
    """Two that no verdict parts, and what a forecast for them stands on."""
    data, judged = _judged([84.0, 84.9, 82.0])
    found = judged.on("soft")
    assert found.open_pair is not None, "the draw is fixed: it leaves two unsettled"
    return found, footing(data, judged.sd, "soft")


def test_more_cells_settle_more_often_and_take_longer():
    found, foot = _unsettled()
    minutes = Minutes(dict.fromkeys("ABC", 5.0), 30.0)
    cell, panel, trial = advise(foot, found, {}, 12, minutes)
    assert cell.minutes < panel.minutes <= trial.minutes
    assert cell.ratio > panel.ratio >= trial.ratio
    assert len(panel.cells) == 12
    assert {c.combination for c in trial.cells} == set(found.open_pair)


def test_what_a_cell_saves_is_the_loss_now_less_the_loss_then():
    """m (phi(u) - u Phi(-u)) against draws of what will be known then."""
    rng = np.random.default_rng(8)
    for mean, sd, ratio in ((0.3, 0.6, 0.4), (-0.8, 0.5, 0.7), (0.0, 1.2, 0.2)):
        there = rng.normal(mean, sd * np.sqrt(1 - ratio), 400_000)
        now, then = max(mean, 0.0), np.maximum(there, 0.0).mean()  # of taking the better of d and 0
        assert loss(mean, sd * np.sqrt(1 - ratio)) == pytest.approx(then - now, abs=0.003)
    d = rng.normal(0.4, 0.9, 400_000)
    assert loss(0.4, 0.9) == pytest.approx(np.maximum(-d, 0.0).mean(), abs=0.003)


def test_what_is_advised_pays_for_the_leader_not_for_a_line():
    """Two as good as level save far more than one that lies just short of a verdict."""
    found = []
    for gap in (0.05, 0.5):
        data, judged = _judged([84.0, 84.0 - gap, 78.0], seed=5, cells=1)
        own = judged.on("soft")
        foot = footing(data, judged.sd, "soft")
        minutes = Minutes(dict.fromkeys("ABC", 5.0), 30.0)
        one = advise(foot, own, {}, 12, minutes)
        if one is not None:
            found.append((own.expected_loss, one[1].gain, one[1].left))
    assert found
    for loses, gain, left in found:
        assert 0.0 < gain <= loses
        assert 0.0 <= left <= loses


@pytest.mark.parametrize("seed", range(12))
def test_no_more_is_saved_than_is_lost(seed):
    """A panel of few cells has draws with heavy tails: a normal of their spread loses more."""
    data, judged = _judged([84.0, 83.7, 81.0], seed=seed, cells=1)
    own = judged.on("soft")
    minutes = Minutes(dict.fromkeys("ABC", 5.0), 30.0)
    told = advise(footing(data, judged.sd, "soft"), own, {}, 6, minutes)
    if told is None:
        return
    gains = [one.gain for one in told]
    assert all(0.0 <= g <= own.expected_loss for g in gains)
    assert gains == sorted(gains), "more cells save no less"
    for one in told:
        lead, other = own.columns[own.open_pair[0]], own.columns[own.open_pair[1]]
        if {c.combination for c in one.cells} == set(own.open_pair):
            lost = float(np.maximum(own.draws[:, other] - own.draws[:, lead], 0.0).mean())
            assert one.gain + one.left == pytest.approx(lost, rel=1e-9)


def test_what_is_saved_is_the_share_of_what_is_lost_that_a_normal_loses_less():
    """m (phi(u) - u Phi(-u)) of s (phi(v) - v Phi(-v)), u = |mean| / m, v = |mean| / s."""
    found, foot = _unsettled()
    lead, other = (found.columns[c] for c in found.open_pair)
    d = found.draws[:, lead] - found.draws[:, other]
    lost, mean, sd = float(np.maximum(-d, 0.0).mean()), abs(float(d.mean())), float(d.std())

    def usual(s):
        return s * norm.pdf(mean / s) - mean * norm.cdf(-mean / s)

    _, panel, trial = advise(foot, found, {}, 12, Minutes(dict.fromkeys("ABC", 5.0), 30.0))
    for one in (panel, trial):
        assert 0.0 < one.ratio < 1.0
        share = usual(sd * np.sqrt(1.0 - one.ratio)) / usual(sd)
        assert one.gain == pytest.approx(lost * share, rel=1e-9)
        assert 0.0 < one.gain < lost
        assert one.left == pytest.approx(lost - one.gain, rel=1e-9)
        assert one.per_minute == pytest.approx(one.gain / one.minutes)


def test_the_count_of_further_cells_is_one_number():
    found, foot = _unsettled()
    _, _, whole = advise(foot, found, {}, 12, Minutes(dict.fromkeys("ABC", 5.0), 30.0))
    assert len(whole.cells) == 2 * min(found.cells_to_settle, 24)


def test_nothing_is_advised_where_all_is_settled():
    data, judged = _judged([84.0, 70.0, 60.0])
    found = judged.on("soft")
    minutes = Minutes(dict.fromkeys("ABC", 5.0), 30.0)
    assert found.open_pair is None
    assert advise(footing(data, judged.sd, "soft"), found, {}, 12, minutes) is None


@given(st.integers(1, 20), st.lists(st.integers(0, 7), max_size=4), st.integers(2, 12))
def test_pairs_stand_side_by_side_and_nowhere_twice(count, free, room):
    cells = pairs_on(("A", "B"), count, dict(enumerate(free)), room)
    assert len(cells) == 2 * count
    for p in {c.panel for c in cells}:
        own = [c.combination for c in cells if c.panel == p]
        assert own.count("A") == own.count("B")
        assert len(own) <= (free[p] if p >= 0 else max(room, 2))


def test_the_chance_to_settle_is_that_of_draws():
    rng = np.random.default_rng(6)
    d = rng.normal(0.5, 0.6, 4096)
    chance, equal = chance_to_settle(d, 0.3, 1.0)
    moved = 0.5 + 0.6 * np.sqrt(0.7) * rng.standard_normal(4000)
    after = 0.6 * np.sqrt(0.3)
    settled = 0
    for there in moved:
        own = there + after * np.linspace(-4, 4, 801)
        weight = np.exp(-0.5 * np.linspace(-4, 4, 801) ** 2)
        weight /= weight.sum()
        up = (own > 0) @ weight
        same = (np.abs(own) < 1) @ weight
        ahead = max(up, 1 - up) >= 0.95 and bayes_factor(there, after, 1.0) >= 10.0
        settled += same >= 0.95 or ahead
    assert chance == pytest.approx(settled / 4000, abs=0.03)
    assert 0.0 <= equal <= chance
    assert chance_to_settle(d, 1.0, 1.0)[0] == 0.0, "nothing new is learnt"


# stages


def _staged(gain, cells=6, readings=4, seed=3, noise=0.2):
    rng = np.random.default_rng(seed)
    stages = (Stage("x", "y", "z"), Stage("u", "v", "w"))
    panel = Panel(1, 1, "Heron", "soft", Taping(760, 560, 3, 5, 14, 40))
    own, rows = [], []
    for i in range(1, cells + 1):
        own.append(Cell(i, 1, (i - 1) // 5, (i - 1) % 5, 1, i))
        level = 80.0 + rng.normal(0, 1.0)
        for done, add in ((1, 0.0), (2, gain)):
            rows += [
                Reading(
                    len(rows) + n,
                    i,
                    "gloss20",
                    level + add + rng.normal(0, noise),
                    "after",
                    n,
                    done,
                )
                for n in range(1, readings + 1)
            ]
    return Snapshot((panel,), (Combination(1, "A", "", stages),), tuple(own), columns_of(rows))


@pytest.mark.parametrize(
    ("gain", "verdict"), [(4.0, SEEN), (0.02, BELOW), (-3.0, LOST), (0.5, UNSETTLED)]
)
def test_a_stage_is_seen_below_lost_or_open(gain, verdict):
    (found,) = stage_gains(_staged(gain), "gloss20", IDENTITY, 0.5, 1.0)
    (own,) = found.gains
    assert own.verdict == verdict
    assert own.low <= gain <= own.high
    assert [s.done for s in found.states] == [1, 2]
    assert own.cells == 6


def test_one_cell_a_stage_settles_nothing():
    (found,) = stage_gains(_staged(4.0, cells=1), "gloss20", IDENTITY, 0.5, 1.0)
    assert found.gains[0].verdict == UNSETTLED
    assert not np.isfinite(found.gains[0].low)


def test_pairs_that_differ_by_one_stage_are_found():
    cut, polish, finish = (Stage(n, n, n, passes=4) for n in ("cut", "polish", "finish"))
    two, three = (
        Combination(1, "A", "", (cut, finish)),
        Combination(2, "B", "", (cut, polish, finish)),
    )
    other = Combination(3, "C", "", (polish,))
    found = one_more([two, three, other, Combination(4, "X", "", (), "damaged")])
    assert [(m.code, f.code, at) for m, f, at in found] == [("B", "A", 2)]


# many trials


def test_recipes_not_letters_are_what_is_the_same():
    found, _ = parts(np.random.default_rng(1), 3, recipes=4, each=4)
    pooled = pool(found)
    assert sum(len(letters) for letters in pooled.letters.values()) == 12
    assert len(pooled.letters) == 4
    for letters in pooled.letters.values():
        recipes = {dict((p.trial, p.recipes) for p in found)[t][letter] for t, letter in letters}
        assert len(recipes) == 1
    assert pooled.data.y.size == sum(p.data.y.size for p in found)
    assert pooled.workshops == 2


def test_one_trial_alone_is_judged_as_it_is():
    found, _ = parts(np.random.default_rng(2), 1)
    alone = judge_readings(found[0].data, seed=3)
    pooled = judge_readings(
        pool(found).data, priors=pooled_priors(default_priors(GLOSS)), seed=3, fit=fit_pool
    )
    for s in alone.classes[0].standings:
        other = pooled.classes[0].standing(s.combination)
        assert other.figures.estimate == pytest.approx(s.figures.estimate, abs=1e-6)
        assert other.p_best == pytest.approx(s.p_best, abs=0.03)


def test_two_steps_say_what_the_whole_model_says(monkeypatch):
    found, _mean = parts(np.random.default_rng(4), 8, recipes=10, each=5, cells=4)
    pooled = pool(found)
    priors = pooled_priors(default_priors(GLOSS))
    whole = judge_readings(pooled.data, priors=priors, fit=fit_pool).classes[0]
    monkeypatch.setattr("loam.core.pool_fit.BIG", 100)
    steps = judge_readings(pooled.data, priors=priors, fit=fit_pool).classes[0]
    for s in whole.standings:
        other = steps.standing(s.combination)
        wide = s.figures.own_high - s.figures.own_low
        assert other.figures.estimate == pytest.approx(s.figures.estimate, abs=0.1 * wide)
        assert other.figures.own_high - other.figures.own_low == pytest.approx(wide, rel=0.25)
        assert other.p_best == pytest.approx(s.p_best, abs=0.12)


def test_a_trial_that_disagrees_is_named_and_no_other():
    found, _ = parts(np.random.default_rng(6), 8, recipes=5, each=4, odd=(2, 3, 4.0), cells=4)
    pooled = pool(found)
    judged = judge_readings(pooled.data, priors=pooled_priors(default_priors(GLOSS)), fit=fit_pool)
    apart = disagreements(pooled.data, judged, judged.scale, TRIAL)
    assert apart
    code = next(
        c
        for c, letters in pooled.letters.items()
        if any(found[2].recipes[letter] == ("recipe", 3) for t, letter in letters if t == "trial 2")
    )
    assert (apart[0].where, apart[0].combination) == ("trial 2", code)
    assert apart[0].by > 1.0
    quiet, _ = parts(np.random.default_rng(7), 8, recipes=5, each=4)
    pooled = pool(quiet)
    judged = judge_readings(pooled.data, priors=pooled_priors(default_priors(GLOSS)), fit=fit_pool)
    assert not disagreements(pooled.data, judged, judged.scale, TRIAL)


def test_scales_never_mix_and_nothing_is_refused():
    with pytest.raises(NotEnough):
        pool([])


def test_two_sides_differ_where_one_was_moved():
    rng = np.random.default_rng(12)
    data = two_level(rng, [84.0, 82.0, 85.0], panels=4, cells=4, sd=(0.1, 0.1, 0.3, 0.2))
    panel = data.factors["panel"].codes
    side = (panel >= 2).astype(np.intp)
    data.y[(side == 1) & (data.combination.codes == 1)] -= 4.0
    judged = judge_readings(data)
    held = {h.combination: h for h in hold(data, judged, side)}
    assert held["B"].verdict in ("clearly worse", "worse")
    assert held["B"].low <= -4.0 <= held["B"].high
    for name in "AC":
        assert held[name].low <= 0.0 <= held[name].high
        assert held[name].verdict in ("equal", "open")
    assert abs(shared_shift(list(held.values()))) < 1.0
    assert hold(data, judged, np.zeros(data.y.size, dtype=np.intp)) == []


# what else


def test_a_planted_trend_is_covered_and_nothing_is_not():
    rng = np.random.default_rng(9)
    data = two_level(rng, [84.0, 82.0, 85.0], cells=5)
    cells = data.factors["cell"].codes
    x = rng.permutation(int(cells.max()) + 1)[cells].astype(float)
    priors = default_priors(GLOSS)
    still = trend("x", data, IDENTITY, priors, x, rng)
    assert not still.sure
    data.y[:] += 3.0 * (x - x.min()) / np.ptp(x)
    found = trend("x", data, IDENTITY, priors, x, rng)
    assert found.sure
    assert found.low <= 3.0 <= found.high
    assert trend("x", data, IDENTITY, priors, np.full(x.size, 2.0), rng) is None
    assert trend("x", data, IDENTITY, priors, np.full(x.size, np.nan), rng) is None


@given(st.lists(st.integers(0, 5), min_size=3, max_size=7), st.integers(0, 1000))
def test_concordance_is_kendalls_tau_b(claimed, seed):
    if len(set(claimed)) < 2:
        return
    measured = np.random.default_rng(seed).normal(size=len(claimed))
    middle, low, high = concordance(claimed, measured[None, :])
    assert middle == low == high
    assert middle == pytest.approx(kendalltau(claimed, measured).statistic, abs=1e-9)
