"""Stage by stage: which steps cells share, in which order, and drawn by lot on each."""

from collections import Counter
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from loam.core.design.steps import (
    all_steps,
    lot,
    shares_a_pad,
    step_words,
    steps_of,
    usually_by_stage,
)
from loam.core.trial import Stage


def sands(grit):
    return Stage("", "", "m", disc=f"P{grit}", grit=float(grit))


def cuts(pad, compound):
    return Stage(pad, compound, "m")


CUT, POLISH = cuts("Bracken", "Grist 9"), cuts("Fen medium", "Loess 3")
LADDER = (sands(400), sands(1200), sands(3000), sands(5000), CUT, POLISH, cuts("Down", "Loess 2"))
STAGES = st.lists(
    st.sampled_from([sands(400), sands(1200), sands(3000), CUT, POLISH]), min_size=1, max_size=8
)


def test_a_ladder_and_a_shorter_one_share_their_steps():
    short = (sands(1200), CUT)
    steps = all_steps([LADDER, short])
    assert len(steps) == 7
    assert steps_of(short)[0] == steps_of(LADDER)[1]
    assert steps_of(short)[1] == steps_of(LADDER)[4]
    assert step_words(steps[1], [LADDER, short]) == "P1200"
    assert step_words(steps[4], [LADDER, (sands(1200), POLISH)]) == "Grist 9, Loess 3"


@given(STAGES)
def test_no_stage_comes_before_the_one_before_it(stages):
    assert all(a <= b for a, b in pairwise(steps_of(stages)))
    assert len(steps_of(stages)) == len(stages)


@given(st.lists(STAGES, min_size=1, max_size=5))
def test_every_step_is_said(combinations):
    for step in all_steps(combinations):
        assert step_words(step, combinations)


def test_the_lot_is_the_same_everywhere_and_another_on_each_step():
    one, two = steps_of(LADDER)[:2]
    orders = [sorted(range(12), key=lambda p, s=s: lot(7, s, p)) for s in (one, two)]
    assert orders[0] != orders[1]
    assert orders[0] != list(range(12))
    assert sorted(range(12), key=lambda p: lot(7, one, p)) == orders[0]
    without = [p for p in orders[0] if p != 5]
    assert sorted((p for p in range(12) if p != 5), key=lambda p: lot(7, one, p)) == without


def test_every_place_comes_first_about_as_often():
    firsts = Counter(
        min(range(4), key=lambda p, s=seed: lot(s, (0, -15.3), p)) for seed in range(4000)
    )
    assert all(abs(firsts[p] - 1000) < 110 for p in range(4))


def test_what_sands_or_shares_a_pad_is_usually_worked_stage_by_stage():
    assert usually_by_stage([LADDER])
    assert usually_by_stage([(CUT, POLISH), (cuts("Tussock", "Grist 9"), POLISH)])
    assert not usually_by_stage([(CUT,), (POLISH,)])
    assert not usually_by_stage([(sands(1200),), ()])
    assert not usually_by_stage([(CUT, POLISH), (cuts("Tussock", "Grist 6"), cuts("Down", "x"))])
    assert not shares_a_pad([(CUT,), (CUT,)])
