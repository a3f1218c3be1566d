"""Gates, cooling, what was done beside the plan, and Kp."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.as_done import StageDone, cell_share, unlike_words
from loam.core.cooling import LIMIT_C, SLOWNESS_S, check_temperature, slowness, wait_s
from loam.core.errors import ValueRefused
from loam.core.prepare import (
    BASELINE,
    DAMAGE,
    DONE,
    GATES,
    SKIPPED,
    Passed,
    baseline_words,
    check,
    consequences,
    gates_for,
    next_gate,
    standing,
)
from loam.core.removal import CellLoss, fit_kp
from loam.core.trial import Stage


def passed(*keys, what=DONE, **facts):
    return {k: Passed(k, what, facts=facts) for k in keys}


def test_gates_come_in_the_order_of_work_and_degreasing_comes_before_reading():
    keys = [g.key for g in GATES]
    assert keys == [
        "wash",
        "decontaminate",
        "feel",
        "inspect",
        "degrease",
        "mask",
        "damage",
        "again",
        "baseline",
    ]
    seen = {}
    for key in keys:
        assert next_gate(seen, missing=3).key == key
        seen |= passed(key)
    assert next_gate(seen, missing=3) is None


def test_the_last_gate_opens_by_itself_once_every_cell_is_read():
    all_but = passed(*[g.key for g in GATES if g.key != BASELINE])
    assert next_gate(all_but, missing=1).key == BASELINE
    assert next_gate(all_but, missing=0) is None
    assert next_gate({}, missing=0).key == "wash"


def test_a_trial_that_sands_first_asks_for_no_damage():
    sands, cuts = Stage("", "", "m", disc="P1200"), Stage("Down", "Loess 2", "m")
    for combinations in ([(sands, cuts), (), (sands,)], [(sands,)]):
        gates = gates_for(combinations)
        assert DAMAGE not in [g.key for g in gates]
        assert len(gates) == len(GATES) - 1
        done = passed(*[g.key for g in gates])
        assert next_gate(done, 3, gates) is None
    for combinations in ([(sands, cuts), (cuts,)], [()], []):
        assert gates_for(combinations) == GATES


def test_what_was_noted_last_counts():
    first, then = Passed("wash", SKIPPED, facts={"reason": "no time"}), Passed("wash", DONE)
    assert standing([first, then])["wash"] is then
    assert standing([then, first])["wash"] is first


def test_every_gate_says_what_leaving_it_out_does_and_solvents_carry_their_caution():
    for gate in GATES:
        assert gate.todo.endswith(".")
        assert not gate.skipped.endswith(".")
        said = consequences([("Heron", passed(gate.key, what=SKIPPED))])
        assert said == [f"{gate.name} was left out on Heron: {gate.skipped}."]
    cared = {g.key for g in GATES if "data sheet" in g.care}
    assert cared == {"degrease", "again"}


def test_consequences_name_the_panels_and_put_alike_ones_together():
    out = passed("degrease", what=SKIPPED)
    two = [("Heron", out), ("Teal", {}), ("Snipe", out)]
    assert consequences(two)[0].startswith("Degrease was left out on Heron, Snipe:")
    assert consequences([("Heron", out), ("Teal", out)])[0].startswith(
        "Degrease was left out on every panel:"
    )
    many = [(f"P{i}", out) for i in range(6)] + [("Q", {})]
    assert "on P0, P1, P2, P3 and 2 more:" in consequences(many)[0]
    assert consequences([("Heron", passed("degrease"))]) == []


def test_panels_that_were_damaged_unlike_each_other_are_said():
    alike = [("Heron", passed(DAMAGE, grit="P2000")), ("Teal", passed(DAMAGE, grit="P2000"))]
    assert consequences(alike) == []
    unlike = [*alike, ("Snipe", passed(DAMAGE, grit="P1500"))]
    assert consequences(unlike) == [
        "Panels were damaged unlike each other (grit: P1500, P2000): compare within a panel."
    ]
    skipped = [*alike, ("Snipe", passed(DAMAGE, what=SKIPPED, grit="P1500"))]
    assert not any("unlike" in said for said in consequences(skipped))


@pytest.mark.parametrize(
    ("gate", "what", "facts", "said"),
    [
        ("polish", DONE, {}, "no gate"),
        ("wash", "half", {}, "done or skipped"),
        ("wash", SKIPPED, {}, "for a reason"),
        ("wash", SKIPPED, {"reason": "  "}, "for a reason"),
    ],
)
def test_what_cannot_be_noted_of_a_gate_is_refused(gate, what, facts, said):
    with pytest.raises(ValueRefused, match=said):
        check(gate, what, facts)


def test_a_missing_baseline_is_counted():
    assert baseline_words("gloss 20°", 3, 24) == (
        "The gloss 20° before work is missing on 3 cells of 24: ranked without it."
    )
    assert "on 1 cell of" in baseline_words("haze", 1, 24)
    assert baseline_words("haze", 0, 24) == baseline_words("haze", 24, 24) == ""


def test_cooling_follows_newton():
    assert wait_s(50.0, 40.0, 20.0, 240.0) == pytest.approx(240.0 * math.log(1.5))
    assert wait_s(40.0, 40.0) == wait_s(12.0, 40.0) == 0.0
    assert wait_s(50.0, 20.0, 21.0) == math.inf


@given(
    warm=st.floats(41.0, 140.0),
    tau=st.floats(40.0, 3000.0),
    share=st.floats(0.2, 0.95),
    room=st.floats(5.0, 30.0),
)
def test_two_readings_tell_how_slowly_a_panel_cools(warm, tau, share, room):
    cool = room + (warm - room) * share
    after = -tau * math.log(share)
    assert slowness([(0.0, warm), (after, cool)], room) == pytest.approx(tau, rel=1e-6)
    left = wait_s(cool, LIMIT_C, room, tau)
    whole = wait_s(warm, LIMIT_C, room, tau)
    assert left == pytest.approx(max(whole - after, 0.0), abs=1e-6)


@pytest.mark.parametrize(
    "readings",
    [
        [],
        [(0.0, 50.0)],
        [(0.0, 50.0), (60.0, 51.0)],
        [(5.0, 50.0), (5.0, 45.0)],
        [(0.0, 50.0), (60.0, 15.0)],
    ],
)
def test_readings_that_do_not_fall_leave_what_is_assumed(readings):
    assert slowness(readings) == SLOWNESS_S


@pytest.mark.parametrize("value", [math.nan, -21.0, 151.0, math.inf])
def test_no_thermometer_shows_that(value):
    with pytest.raises(ValueRefused, match="panel"):
        check_temperature(value)


def test_a_share_of_the_dose_follows_passes_and_time():
    plain = StageDone(6, 6, 120.0, 120.0)
    assert (plain.share, plain.as_planned) == (1.0, True)
    short = StageDone(6, 4, 120.0, 80.0)
    assert short.share == pytest.approx(4 / 6)
    assert not short.as_planned
    slow = StageDone(6, 6, 120.0, 180.0, timed=True)
    assert slow.share == pytest.approx(1.5)
    both = StageDone(6, 3, 120.0, 90.0, timed=True)  # half the passes, each half as long again
    assert both.share == pytest.approx(0.75)
    assert StageDone(0, 3, 0.0, 9.0).share == 1.0


@pytest.mark.parametrize(
    ("mark", "fine"),
    [
        ("stalled", False),
        ("dry", False),
        ("hot", True),
        ("edge", True),
        ("pad", False),
        ("passes", False),
        ("lifted", False),
        ("missed", False),
    ],
)
def test_some_marks_spoil_a_cell(mark, fine):
    assert StageDone(6, 6, 120.0, 120.0, (mark,)).as_planned is fine


def test_the_edge_of_what_counts_as_planned():
    assert StageDone(10, 11, 100.0, 110.0).as_planned
    assert not StageDone(100, 89, 100.0, 89.0).as_planned


def test_a_cell_weighs_its_stages_by_their_time():
    long, short = StageDone(6, 3, 300.0, 150.0), StageDone(4, 4, 100.0, 100.0)
    assert cell_share([long, short]) == pytest.approx(0.625)
    assert cell_share([]) == 1.0
    said = unlike_words([("Heron K1", [long, short]), ("Heron K2", [short])])
    assert said == "Heron K1 (62 % of its dose) was not worked as planned."
    stalled = StageDone(4, 4, 100.0, 100.0, ("stalled",))
    assert unlike_words([("K1", [stalled]), ("K2", [stalled])]) == (
        "K1, K2 were not worked as planned."
    )
    assert unlike_words([("K1", [short])]) == ""
    assert "and 2 more" in unlike_words([(f"K{i}", [stalled]) for i in range(7)])


def test_kp_is_the_slope_through_nothing_with_a_pooled_spread():
    cells = [
        CellLoss("A", "hard", 1.0, 200.0),
        CellLoss("A", "hard", 1.4, 200.0),
        CellLoss("B", "hard", 3.1, 400.0),
        CellLoss("B", "hard", 2.9, 400.0),
    ]
    found = fit_kp(cells)
    a = found["A", "hard"]
    assert a.value == pytest.approx(6.0)  # 1.2 µm over 200 kPa m
    # by hand: residuals -0.2, 0.2, 0.1, -0.1; s² = 0.10/2; t(0.95, 2) = 2.91999; SE = s/(200√2)
    half = 1e3 * 2.919986 * math.sqrt(0.05) / (200.0 * math.sqrt(2.0))
    assert (a.low, a.high) == pytest.approx((6.0 - half, 6.0 + half), rel=1e-5)
    low, high = a.removed_um(100.0)
    assert (low, high) == pytest.approx((0.1 * (6.0 - half), 0.1 * (6.0 + half)))
    assert found["B", "hard"].cells == 2


def test_kp_holds_what_it_says_and_never_takes_off_less_than_nothing():
    rng = np.random.default_rng(5)
    held = 0
    for _ in range(400):
        doses = rng.uniform(100.0, 300.0, 6)
        cells = [CellLoss("A", "soft", 0.004 * d + rng.normal(0, 0.3), d) for d in doses]
        kp = fit_kp(cells)["A", "soft"]
        held += kp.low <= 4.0 <= kp.high
        assert kp.removed_um(200.0)[0] >= 0.0
    assert 340 <= held <= 378  # 90 % of 400, four standard errors either way


def test_kp_needs_two_cells_of_one_kind_and_real_figures():
    assert fit_kp([CellLoss("A", "soft", 1.0, 100.0), CellLoss("B", "soft", 1.0, 100.0)]) == {}
    assert fit_kp([]) == {}
    for lost, dose in ((math.nan, 100.0), (1.0, 0.0), (1.0, math.inf), (1.0, -3.0)):
        with pytest.raises(ValueRefused):
            fit_kp([CellLoss("A", "soft", lost, dose)])
