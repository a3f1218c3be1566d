"""Hand-arm vibration against the worked figures of the project's facts (2002/44/EC, ISO 5349-1)."""

import pytest

from loam.core.vibration import ACTION, LIMIT, daily_exposure, points

DAY = [(4.0, 2.5), (2.5, 1.0)]
WITH_K = [(5.5, 2.5), (4.0, 1.0)]


def test_the_worked_example():
    assert daily_exposure(DAY) == pytest.approx(2.40, abs=0.005)
    assert points(DAY) == pytest.approx(92.5)
    assert daily_exposure(WITH_K) == pytest.approx(3.38, abs=0.005)
    assert points(WITH_K) == pytest.approx(183.25)
    # the orbital alone: at the action value after 3.1 h, at the limit after 12.5 h
    assert daily_exposure([(4.0, 3.125)]) == pytest.approx(ACTION)
    assert daily_exposure([(4.0, 12.5)]) == pytest.approx(LIMIT)


def test_action_and_limit_are_100_and_400_points():
    for value, worth in ((ACTION, 100.0), (LIMIT, 400.0)):
        assert points([(value, 8.0)]) == pytest.approx(worth)
        assert daily_exposure([(value, 8.0)]) == pytest.approx(value)
    assert daily_exposure([]) == 0.0
