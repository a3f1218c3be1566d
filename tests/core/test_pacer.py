"""The pacer on a clock of its own: exact over ten minutes, whatever a screen misses."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.dose import SectionSettings, section_dose
from loam.core.errors import ValueRefused
from loam.core.pacer import DONE, EASE, HELD, READY, SPREAD, WORK, Pacer, track_of


class Clock:
    def __init__(self):
        self.now = 1000.0

    def __call__(self):
        return self.now


def settings(**changes):
    plain = {
        "machine": "free-orbital",
        "pad_mm": 125.0,
        "throw_mm": 21.0,
        "orbits_per_min": 4200.0,
        "rotation_rpm": 126.0,
        "force_n": 40.0,
        "width_mm": 600.0,
        "height_mm": 600.0,
        "overlap": 0.5,
        "passes": 6,
        "arm_mm_s": 25.0,
        "half_line_shift": True,
        "grid_mm": 4.0,
    }
    return SectionSettings(**(plain | changes))


def test_the_pacer_takes_as_long_as_the_dose_says():
    dose = section_dose(settings())
    track = track_of(settings(), 8.0)
    assert track.whole_s - 8.0 == pytest.approx(dose.time_s, rel=1e-12)
    assert dose.time_s > 600.0
    assert track.pass_start(1) == 8.0
    first = sum(way.length_mm for way in dose.ways[:2]) / 25.0
    assert track.pass_start(3) == pytest.approx(8.0 + first)


@given(st.lists(st.tuples(st.floats(0.001, 40.0), st.booleans()), min_size=20, max_size=120))
def test_it_is_exact_over_ten_minutes_whatever_is_missed_or_held(steps):
    clock = Clock()
    track = track_of(settings())
    pacer = Pacer(track, clock)
    moved = held = 0.0
    running = begun = False
    for seconds, turns in steps:
        if turns:
            ended = moved >= track.whole_s
            pacer.turn()
            running = not running and not ended if not ended else False
            begun = begun or running
        clock.now += seconds
        if running:
            moved += seconds
            if moved >= track.whole_s:
                running = False
        elif begun and moved < track.whole_s:
            held += seconds
        assert pacer.elapsed_s == pytest.approx(min(moved, track.whole_s), abs=1e-6)
    assert pacer.trigger_s == pacer.elapsed_s
    if pacer.running:
        assert pacer.held_s == pytest.approx(held, abs=1e-6)


def test_the_pad_is_on_the_path_at_the_arms_speed():
    clock = Clock()
    track = track_of(settings(passes=4), 5.0)
    pacer = Pacer(track, clock)
    assert pacer.moment().phase == READY
    pacer.start()
    clock.now += 2.0
    assert pacer.moment().phase == SPREAD
    clock.now += 3.0
    ways = section_dose(settings(passes=4)).ways
    legs = []
    for way in ways:
        legs += list(zip(way.points_mm[:-1], way.points_mm[1:], strict=True))
    before = None
    for _ in range(400):
        shown = pacer.moment()
        assert shown.phase in (WORK, DONE)
        spot = np.array([shown.x_mm, shown.y_mm])
        assert min(distance(spot, a, b) for a, b in legs) < 1e-6
        if before is not None and shown.done_passes == before[1] and shown.phase == WORK:
            assert np.hypot(*(spot - before[0])) <= 25.0 * 0.5 + 1e-6
        before = (spot, shown.done_passes)
        clock.now += 0.5
    assert track.whole_s > 205.0


def distance(p, a, b):
    d = b - a
    long = float(d @ d)
    t = min(max(float((p - a) @ d) / long, 0.0), 1.0) if long else 0.0
    return float(np.hypot(*(p - a - t * d)))


def test_passes_are_counted_and_a_pause_is_one():
    clock = Clock()
    track = track_of(settings(passes=3), 0.0)
    pacer = Pacer(track, clock)
    pacer.start()
    for number in (1, 2):
        clock.now = 1000.0 + track.pass_start(number + 1) - 0.01
        assert pacer.moment().done_passes == number - 1
        assert pacer.moment().left_in_pass_s == pytest.approx(0.01)
        clock.now += 0.02
        assert pacer.moment().done_passes == number
    pacer.hold()
    clock.now += 3600.0
    shown = pacer.moment()
    assert (shown.phase, shown.done_passes) == (HELD, 2)
    pacer.start()
    assert pacer.held_s == 3600.0
    clock.now += 1e6
    end = pacer.moment()
    assert (end.phase, end.done_passes, end.left_s) == (DONE, 3, 0.0)
    pacer.turn()
    assert pacer.moment().phase == DONE


def test_after_a_power_cut_it_goes_on_with_the_pass_that_was_not_done():
    clock = Clock()
    track = track_of(settings(passes=4))
    again = Pacer(track, clock, done_passes=2)
    shown = again.moment()
    assert (shown.phase, shown.done_passes) == (READY, 2)
    assert shown.left_s == pytest.approx(track.whole_s - track.pass_start(3))
    again.start()
    clock.now += 10.0
    assert again.trigger_s == pytest.approx(10.0)
    assert Pacer(track, clock, done_passes=4).moment().phase == DONE
    with pytest.raises(ValueRefused, match="5 passes cannot be done of 4"):
        Pacer(track, clock, done_passes=5)


def test_the_last_line_of_the_last_pass_eases_off():
    clock = Clock()
    track = track_of(settings(passes=2))
    pacer = Pacer(track, clock)
    pacer.start()
    line_s = float(track.at_s[-1] - track.at_s[-2])
    clock.now += track.whole_s - line_s - 0.5
    assert pacer.moment().phase == WORK
    clock.now += 1.0
    assert pacer.moment().phase == EASE
    clock.now += line_s
    assert pacer.moment().phase == DONE


def test_a_burst_ends_where_it_ends():
    clock = Clock()
    track = track_of(settings(passes=3))
    pacer = Pacer(track, clock)
    pacer.start()
    clock.now += track.pass_start(2) + 0.3
    pacer.hold_at(track.pass_start(2))
    assert pacer.elapsed_s == pytest.approx(track.pass_start(2))
    assert pacer.moment().phase == HELD
    clock.now += 50.0
    pacer.start()
    clock.now += 1.0
    assert pacer.elapsed_s == pytest.approx(track.pass_start(2) + 1.0)
    assert pacer.held_s == pytest.approx(50.0)
