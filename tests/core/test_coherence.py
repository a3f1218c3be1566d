"""Nothing that is said of a class contradicts another: chance, rank, verdict, sentence."""

import re

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers.simulate import Design, trial
from loam.core.judging import ClassJudgement, Standing, TrialJudgement, judge_readings
from loam.core.judging.judge import figures_of, led
from loam.core.judging.starts import Starts
from loam.core.matter import matters
from loam.core.readings import kind_of
from loam.core.scale import Scale
from loam.core.verdicts import (
    BETTER,
    CLEARLY_BETTER,
    CLEARLY_WORSE,
    EQUAL,
    OPEN,
    WORSE,
)
from loam.core.words.verdict import class_sentence, sentence

LETTERS = re.compile(r"\bc\d+\b")


def said_of(text):
    """Return what a sentence says of each combination: a relation by name, and the leader."""
    said, lead = {}, None
    body = text.split(": ", 1)[1].rstrip(".")
    for clause in re.split(r"; ", body):
        names = LETTERS.findall(clause)
        if "not settled between" in clause:
            lead, *rest = names
            said |= dict.fromkeys(rest, OPEN)
        elif "are equally good" in clause:
            lead, other = names
            said[other] = EQUAL
        elif " as good as " in clause:
            lead = names[-1]
            said |= dict.fromkeys(names[:-1], EQUAL)
        elif "hardly the best, but not settled against" in clause:
            *rest, against = names
            assert lead == against
            said |= dict.fromkeys(rest, OPEN)
        elif "which may not matter" in clause or "rests on what is assumed of" in clause:
            said |= dict.fromkeys(names, BETTER)
        elif "all others are clearly behind" in clause:
            said["all"] = CLEARLY_BETTER
        elif "clearly behind" in clause:
            said |= dict.fromkeys(names, CLEARLY_BETTER)
        elif "is best" in clause or "is ahead of each" in clause or " leads, best of all" in clause:
            lead = lead or names[0]
    return lead, said


shapes = st.tuples(
    st.integers(1, 3),
    st.integers(2, 7),
    st.integers(1, 2),
    st.integers(1, 4),
    st.sampled_from(["gloss20", "haze", "defects", "removed"]),
    st.floats(0.0, 4.0),
    st.floats(0.0, 0.5),
    st.integers(0, 10**6),
)


def drawn_from(shape):
    panels, combinations, cells, readings, measurand, spread, lost, seed = shape
    kind = kind_of(measurand)
    centre = {"gloss20": 85.0, "haze": 2.7, "defects": 1.8, "removed": 3.0}[measurand]
    layout = [(p, c) for p in range(panels) for c in range(combinations) for _ in range(cells)]
    factor = 1.0 if kind.scale == "identity" else 0.2
    design = Design(
        "any",
        layout,
        tuple(p % 2 for p in range(panels)),
        readings,
        2,
        measurand,
        spread * factor,
        centre,
        lost=lost,
    )
    return trial(design, seed)[0], seed


@settings(max_examples=120, suppress_health_check=[HealthCheck.too_slow], deadline=None)
@given(shapes, st.floats(0.0, 3.0))
def test_nothing_said_of_a_class_contradicts_another(shape, delta):
    """Chance, rank, verdict, interval and sentence, over thousands of comparisons."""
    data, seed = drawn_from(shape)
    kind = kind_of(data.measurand)
    value = delta if kind.scale == "identity" else 1.0 + delta / 4
    found = judge_readings(data, delta=matters(kind, value), seed=seed)
    for c in found.classes:
        p = {s.combination: s.p_best for s in c.standings}
        assert sum(p.values()) == pytest.approx(1.0)
        assert c.leader.p_best == max(p.values())
        relations = {s.combination: s.relation for s in c.standings[1:]}
        for s in c.standings:
            assert 1 <= s.rank[0] <= s.rank[1] <= len(c.standings)
            if s.p_best > 0.05:
                assert s.rank[0] == 1
            f = s.figures
            assert f.low <= f.estimate <= f.high
        names = list(p)
        for i, a in enumerate(names):
            for b in names[i + 1 :]:
                _coherent(c, a, b, p, found.higher_is_better)
        for b, relation in relations.items():
            assert c.compare(c.leader.combination, b).verdict == relation
        _picture_agrees(c, 1.0 if found.higher_is_better else -1.0, found.scale)
        _sentence_agrees(found, c, relations)
    again = found.with_matters(found.matters)
    assert again.classes == found.classes


def class_of(draws, delta, sign, seed):
    """A class from bare draws, as a fit would have given them."""
    k = draws.shape[1]
    draws, got, lead = led(draws, sign)
    merit = sign * draws.mean(axis=0)
    order = [lead, *(i for i in np.argsort(-merit, kind="stable") if i != lead)]
    figures = figures_of(draws, draws, Scale("identity", -1e9, 1e9), lead)
    standings = tuple(
        Standing(
            f"c{i}",
            figures[i],
            float(got.p_best[i]),
            float(got.expected[i]),
            (int(got.low[i]), int(got.high[i])),
            "",
            1 + (seed + i) % 4,
            10,
        )
        for i in order
    )
    columns = {f"c{i}": i for i in range(k)}
    return ClassJudgement("hard", standings, (), 2, (), delta, sign, draws, draws, columns).decided(
        delta
    )


@settings(max_examples=1200, suppress_health_check=[HealthCheck.too_slow], deadline=None)
@given(
    st.integers(2, 24),
    st.floats(0.0, 4.0),
    st.floats(0.05, 3.0),
    st.floats(0.0, 3.0),
    st.sampled_from([1.0, -1.0]),
    st.integers(0, 10**6),
    st.sampled_from([False] * 7 + [True]),
)
def test_a_thousand_judgements_agree_with_themselves(k, spread, noise, delta, sign, seed, odd):
    """From bare draws: unequal widths, copies of one another, one class, any delta."""
    rng = np.random.default_rng(seed)
    width = noise * np.exp(rng.standard_normal(k))
    z = rng.standard_normal((100, k)) * width
    draws = spread * rng.standard_normal(k) + np.vstack([z, -z])
    if odd:
        draws[:, -1] = draws[:, 0]
    c = class_of(draws, delta, sign, seed)
    relations = {s.combination: s.relation for s in c.standings[1:]}
    assert set(relations.values()) <= {EQUAL, OPEN, BETTER, CLEARLY_BETTER}
    if c.leader.p_best > 0.05:
        assert c.leader.p_best == max(s.p_best for s in c.standings)
    p = {s.combination: s.p_best for s in c.standings}
    for s in c.standings[1:4]:
        _coherent(c, c.leader.combination, s.combination, p, sign > 0)
    _picture_agrees(c, sign, Scale("identity", -1e9, 1e9))
    shell = TrialJudgement(
        "gloss20" if sign > 0 else "removed",
        sign > 0,
        Scale("identity", 0.0, 1e4),
        matters(None, delta),
        0.5,
        0.4,
        {},
        {},
        {},
        (),
        (),
        Starts(),
        (c,),
        9,
        99,
        {},
    )
    _sentence_agrees(shell, c, relations)


def _coherent(c, a, b, p, higher):
    x, y = c.compare(a, b), c.compare(b, a)
    assert (x.estimate, x.low, x.high) == pytest.approx((-y.estimate, -y.high, -y.low))
    assert x.p_better == pytest.approx(1 - y.p_better)
    assert {x.verdict: y.verdict}.items() <= {
        EQUAL: EQUAL,
        OPEN: OPEN,
        BETTER: WORSE,
        WORSE: BETTER,
        CLEARLY_BETTER: CLEARLY_WORSE,
        CLEARLY_WORSE: CLEARLY_BETTER,
    }.items()
    assert p[a] <= x.p_better + 1e-9
    assert p[b] <= y.p_better + 1e-9
    low, high = (x.low, x.high) if higher else (-x.high, -x.low)
    if x.p_better >= 0.951:
        assert low >= 0
    if x.p_better <= 0.949:
        assert low <= 0
    if x.verdict == CLEARLY_BETTER:
        assert low >= c.delta - 1e-9
        assert p[b] <= 0.05 + 1e-9
    if x.verdict == EQUAL:
        assert -c.delta <= x.estimate <= c.delta
    assert high >= low


def _picture_agrees(c, sign, scale):
    """What is drawn says what the verdicts say: swatches, bars and what matters (JUDGE.md 8.3)."""

    def place(value):
        return sign * float(scale.to(np.array([value]))[0])

    lead = c.leader.figures
    at = place(lead.estimate)
    bar = sorted((place(lead.own_low), place(lead.own_high)))
    edge = 1e-6 * max(abs(at), 1.0)
    for s in c.standings[1:]:
        f = s.figures
        own = sorted((place(f.own_low), place(f.own_high)))
        assert place(f.estimate) <= at + edge, "a swatch ahead of the leader"
        if s.relation == OPEN:
            assert own[1] >= bar[0] - edge, "bars apart under torn tape"
        if s.relation == EQUAL:
            assert at - place(f.estimate) <= c.delta + edge, "as good drawn beyond what matters"
        drawn = place(f.estimate) - at
        d = sign * c.compare(s.combination, c.leader.combination).estimate
        if (
            scale.least
            < min(f.estimate, lead.estimate)
            <= max(f.estimate, lead.estimate)
            < scale.most
        ):
            assert drawn == pytest.approx(d, abs=1e-6 + edge), "told otherwise than drawn"


def _sentence_agrees(found, c, relations):
    text = class_sentence(found, c)
    if not relations:
        assert "only" in text
        assert "best" not in text
        return
    lead, said = said_of(text)
    assert lead == c.leader.combination
    if "all" in said:
        assert set(relations.values()) == {CLEARLY_BETTER}
    for name, relation in said.items():
        if name != "all":
            assert relations[name] == relation, text
    hidden = [int(n) for n in re.findall(r"and (\d+) more", text)]
    if "all" not in said:
        assert len(said) + sum(hidden) == len(relations), text
    if re.search(r" is best \(", text):
        assert c.leader.p_best >= 0.95
    assert sentence(found).count(text) >= 1
