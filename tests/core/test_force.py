"""How hard a machine is pressed where nobody said, and what tilting it does to the dose."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.dose.footprint import contact_from, contact_share
from loam.core.dose.force import SANDING, tilt_of, usual_force_n, weight_n
from loam.core.dose.section import section_dose
from loam.core.dose.stage import PAD_PART, assumed_kp, settings_for
from loam.core.kit.product import drops, grams
from loam.core.machines import KINDS
from loam.core.trial import Stage

CLASSES = ("coarse", "polish", "fine", SANDING, "")


@pytest.mark.parametrize(
    ("kind", "low", "high"),
    [("free-orbital", 20, 40), ("forced-orbital", 25, 50), ("rotary", 20, 30)],
)
@given(pad=st.floats(125, 150), grade=st.sampled_from(CLASSES))
def test_large_machines_are_pressed_as_the_trade_does(kind, low, high, pad, grade):
    assert low <= usual_force_n(kind, pad, grade) <= high


@given(
    kind=st.sampled_from([k.key for k in KINDS]),
    pad=st.floats(25, 80),
    grade=st.sampled_from(CLASSES),
)
def test_a_small_machine_is_pressed_lightly(kind, pad, grade):
    assert 5 <= usual_force_n(kind, pad, grade) <= 20


@given(
    kind=st.sampled_from([k.key for k in KINDS]),
    pads=st.tuples(st.floats(25, 180), st.floats(25, 180)),
)
def test_a_larger_pad_is_never_pressed_less(kind, pads):
    small, large = sorted(pads)
    assert usual_force_n(kind, small, "coarse") <= usual_force_n(kind, large, "coarse")
    assert usual_force_n(kind, large, SANDING) <= usual_force_n(kind, large, "coarse")


def test_what_is_assumed_of_the_force_is_said():
    stage = Stage("Down", "", "", machine_kind="rotary", pad_mm=150.0, by_weight=1.0)
    found = settings_for(stage, 400.0, 400.0)
    assert found.section.force_n == pytest.approx(weight_n(None))
    assert "the machine's own weight as 25 N" in found.assumed
    known = settings_for(Stage("", "", "", pad_mm=150.0, by_weight=1.0, force_n=19.6), 400.0, 400.0)
    assert known.section.force_n == 19.6
    assert not any(" N" in said for said in known.assumed)
    plain = settings_for(Stage("", "", "", pad_mm=75.0, compound_class="coarse"), 400.0, 400.0)
    assert "8 N" in plain.assumed


def test_the_wedge_carries_the_whole_force():
    """The closed form of the contact against a sum over the disc."""
    step = 0.002
    x = np.arange(-1 + step / 2, 1, step)
    u, v = np.meshgrid(x, x)
    inside = u * u + v * v <= 1.0
    for tilt in (0.5, 1.0, 1.7, 5.0, 40.0):
        load = np.maximum(tilt * (u - contact_from(tilt)), 0.0)[inside]
        assert load.mean() == pytest.approx(1.0, rel=2e-3)
        assert (load > 0).mean() == pytest.approx(contact_share(tilt), abs=2e-3)


def test_at_ten_degrees_a_rotary_touches_with_a_part_of_its_pad():
    wedge = tilt_of(10.0, 150.0, 25.0, "foam-firm")
    assert 0.05 < contact_share(wedge) < 0.5
    assert contact_share(tilt_of(0.2, 150.0, 25.0, "foam-soft")) == 1.0
    stiff = tilt_of(5.0, 150.0, 25.0, "microfibre")
    assert contact_share(stiff) < contact_share(tilt_of(5.0, 150.0, 25.0, "foam-soft"))


def test_tilting_changes_the_dose_and_keeps_its_power():
    flat = Stage("Fen firm", "", "", "foam-firm", machine_kind="rotary", pad_mm=75.0, passes=4)
    tilted = Stage(
        "Fen firm", "", "", "foam-firm", machine_kind="rotary", pad_mm=75.0, passes=4, tilt_deg=8.0
    )
    doses = [section_dose(settings_for(s, 300.0, 300.0).section) for s in (flat, tilted)]
    assert doses[1].speed_m_s > 1.1 * doses[0].speed_m_s  # it turns on its rim
    assert doses[1].plateau == pytest.approx(doses[1].wide_plateau, rel=0.05)
    assert math.isfinite(doses[1].cv)
    assert "the pad's stiffness" in settings_for(tilted, 300.0, 300.0).assumed


@pytest.mark.parametrize("grade", ["coarse", "polish", "fine"])
def test_what_is_assumed_is_narrowed_by_the_pad(grade):
    whole = assumed_kp(grade, "")
    for material in PAD_PART:
        low, high = assumed_kp(grade, material)
        assert whole[0] <= low < high <= whole[1]
        assert high / low < whole[1] / whole[0]
    assert assumed_kp(grade, "microfibre")[0] > assumed_kp(grade, "foam-soft")[0]
    assert assumed_kp("", "microfibre") == (0.2, 14.0)


def test_compound_follows_the_pads_area_and_how_it_goes_on():
    assert grams(150.0) == pytest.approx(4.0 * grams(75.0))
    assert grams(None) == grams(125.0)
    assert grams(125.0, fresh=True) == pytest.approx(1.5 * grams(125.0))
    assert grams(125.0, 1.0, fresh=True) == grams(125.0, fresh=True)
    assert grams(125.0, 0.0, fresh=True) == grams(125.0, 0.0) < grams(125.0)
    assert drops(125.0, 0.0) < drops(125.0)
    assert drops(30.0, 0.0) == 2
