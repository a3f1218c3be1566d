"""The running mean of a cell, and figures that are asked back, against numbers worked by hand."""

import math

import pytest

from loam.core.readings import BY_KEY, KINDS
from loam.core.readings.slip import unlike
from loam.core.stats.summary import summarise
from loam.core.units import QUANTITIES, chosen_unit

GLOSS, HAZE, FILM = BY_KEY["gloss20"], BY_KEY["haze"], BY_KEY["film"]


def test_nothing_read_is_no_summary():
    assert summarise([], 0.4) is None


@pytest.mark.parametrize(
    ("values", "enough"),
    [
        ([80.3], False),
        ([80.3, 80.3], False),
        ([80.3, 80.3, 80.3], True),
        ([80.2, 80.3, 80.4], True),
        ([80.0, 80.4, 80.8], False),
        ([80.0, 80.4, 80.8, 80.4], True),
    ],
)
def test_three_that_agree_are_enough(values, enough):
    assert summarise(values, 0.4).enough is enough


def test_half_width_pools_the_cells_spread_with_the_meters():
    """sd of 80, 80.4, 80.8 is 0.4: pooled with 0.4 it stays 0.4; z 1.645 over root 3."""
    found = summarise([80.0, 80.4, 80.8], 0.4)
    assert found.sd == pytest.approx(0.4)
    assert found.half_width == pytest.approx(1.6448536 * 0.4 / math.sqrt(3), rel=1e-6)
    assert found.next_half == pytest.approx(1.6448536 * 0.4 / 2, rel=1e-6)
    alike = summarise([80.3] * 3, 0.4)
    assert alike.half_width == pytest.approx(1.6448536 * 0.4 * math.sqrt(10 / 12 / 3), rel=1e-6)
    assert (found.low, found.high) == pytest.approx((80.4 - 1.12, 80.4 + 1.12))


def test_scatter_is_told_at_the_five_percent_point():
    """Of two readings (n-1) sd² / s_r² is (d²/2)/s_r²: 3.841 at d = 2.772 s_r."""
    assert not summarise([80.0, 80.0 + 0.4 * 2.76], 0.4).scatters
    assert summarise([80.0, 80.0 + 0.4 * 2.78], 0.4).scatters
    assert not summarise([80.0], 0.4).scatters


def test_twelve_are_enough_whatever_they_are():
    wild = [80.0 + 3 * (i % 4) for i in range(12)]
    assert not summarise(wild[:11], 0.4).enough
    assert summarise(wild, 0.4).enough


@pytest.mark.parametrize(
    ("values", "odd"),
    [
        ([85.0, 80.0], ()),
        ([85.0, 85.1, 83.9], ()),
        ([85.0, 85.1, 83.92], (2,)),
        ([85.0, 85.1, 84.9, 80.0], (3,)),
    ],
)
def test_a_reading_beyond_the_repeatability_limit_of_the_others_stands_out(values, odd):
    """Limit 2.8 x 0.4 = 1.12 from the median of the others; never among two."""
    found = summarise([v + (1e-9 if v == 83.9 else 0) for v in values], 0.4)
    assert found.odd == (odd if values[-1] != 83.9 else (2,))
    assert not (found.odd and found.enough)


@pytest.mark.parametrize(
    ("value", "cell", "others", "asked", "meant"),
    [
        (846.0, [84.6, 84.8], [], True, 84.6),
        (8.5, [], [84.6, 85.2, 83.0], True, 85.0),
        (85.0, [], [84.6, 85.2, 83.0], False, None),
        (60.0, [], [84.6, 85.2, 83.0], True, None),
        (846.0, [], [], False, None),
        (48.6, [84.6, 84.8], [], True, 84.6),
        (79.0, [84.6], [84.6], False, None),
        (75.0, [84.6], [75.0], True, None),
        (75.0, [], [84.6, 66.0], False, None),
        (520.0, [], [600.0, 600.4], False, None),
        (505.0, [], [600.0, 600.4], True, 550.0),
    ],
)
def test_a_figure_unlike_the_rest_is_asked_back(value, cell, others, asked, meant):
    slip = unlike(value, cell, others, GLOSS)
    assert (slip is not None) is asked
    if asked:
        assert slip.meant == (pytest.approx(meant) if meant else None)
        assert not slip.low <= value <= slip.high


def test_the_reach_of_a_cell_is_four_limits_or_a_tenth():
    """84.6: a tenth is 8.46, four limits 4.48. Haze 12: four limits 11.2, a tenth 1.2."""
    assert unlike(84.6 - 8.45, [84.6], [], GLOSS) is None
    assert unlike(84.6 - 8.47, [84.6], [], GLOSS) is not None
    assert unlike(23.1, [12.0], [], HAZE) is None
    assert unlike(23.3, [12.0], [], HAZE) is not None


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_what_a_slip_expects_is_possible(kind):
    slip = unlike(kind.high, [kind.low], [], kind)
    assert slip is not None
    assert kind.low <= slip.low <= slip.high <= kind.high


@pytest.mark.parametrize(
    ("quantity", "symbol", "stored", "shown"),
    [
        ("film", "mil", 25.4, 1.0),
        ("size", "in", 254.0, 10.0),
        ("force", "kgf", 9.80665, 1.0),
        ("force", "lbf", 44.482216152605, 10.0),
        ("temperature", "°F", 100.0, 212.0),
        ("temperature", "°F", -40.0, -40.0),
        ("temperature", "°C", 20.0, 20.0),
    ],
)
def test_units_are_exact_both_ways(quantity, symbol, stored, shown):
    unit = chosen_unit(quantity, {quantity: symbol})
    assert unit.symbol == symbol
    assert unit.shown(stored) == pytest.approx(shown, rel=1e-12)
    assert unit.stored(shown) == pytest.approx(stored, rel=1e-12)


def test_an_unknown_choice_falls_back_to_the_stored_unit():
    for quantity, known in QUANTITIES.items():
        assert chosen_unit(quantity, {quantity: "furlong"}) == known[0]
        assert known[0].shown(3.25) == 3.25


def test_a_measurand_is_typed_and_written_in_its_chosen_unit():
    mil = FILM.in_unit(chosen_unit("film", {"film": "mil"}))
    assert mil.unit == "mil"
    assert mil.parse("4.40") == pytest.approx(111.76)
    assert mil.write(111.76) == "4.400"
    assert mil.write_span(25.4) == "1.000"
    with pytest.raises(Exception, match=r"between 0 and 196\.85 mil"):
        mil.parse("200")
    heat = BY_KEY["temperature"].in_unit(chosen_unit("temperature", {"temperature": "°F"}))
    assert heat.parse("104") == pytest.approx(40.0)
    assert heat.write(40.0) == "104.0"
    assert heat.write_span(1.0) == "1.8"
    assert FILM.in_unit(QUANTITIES["film"][0]) is FILM
