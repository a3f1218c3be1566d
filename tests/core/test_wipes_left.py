"""What each wipe leaves of what each product hid: known truth, intervals, words."""

import numpy as np
import pytest

from loam.core.masking import CellMasked, wipes_left
from loam.core.readings import kind_of
from loam.core.words.masking import wipes_words

GLOSS = kind_of("gloss20")
SD, READINGS = 0.3, 5
WIPES = {"alcohol mix": 0.5, "tar remover": 0.9, "panel wipe": 0.8, "panel wipe twice": 1.0}
HIDES = {"Silt 2": 4.0, "Loess 4": 2.0, "Grist 9": 0.0}
"""Shares that wipes take, and what products hide, GU."""


def lesson(rng, cells=3, omega=0.2, hides=HIDES):
    found, named, n = [], {}, 0
    for product, hid in hides.items():
        for wipe, share in WIPES.items():
            name = f"{product}, {wipe}"
            named[name] = (product, wipe)
            for _ in range(cells):
                n += 1
                error = SD * np.sqrt(2.0 / READINGS)
                masked = hid * share + rng.normal(0, omega) + rng.normal(0, error)
                found.append(CellMasked(n, name, 90.0, 90.0 - masked, masked, error, None))
    return found, named


def test_what_a_wipe_leaves_is_found_and_said_in_one_sentence_a_product():
    cells, named = lesson(np.random.default_rng(2))
    found = wipes_left(cells, named, SD)
    own = {(f.product, f.wipe): f for f in found}
    assert {f.product for f in found} == {"Silt 2", "Loess 4"}, "what hides nothing is not told"
    left = own["Silt 2", "alcohol mix"]
    assert left.left == pytest.approx(2.0, abs=0.5)
    assert left.low < 2.0 < left.high
    assert left.seen
    best = [f for f in found if f.most]
    assert len(best) == 2
    assert all((f.left, f.low, f.high) == (0.0, 0.0, 0.0) for f in best)
    said = wipes_words(found, GLOSS)
    assert len(said) == 2
    assert said[0].startswith("Silt 2 hid ")
    assert "alcohol mix leaves " in said[0]
    assert all(line.endswith(".") for line in said)


def test_intervals_hold_the_truth_nine_times_in_ten():
    rng, inside, count = np.random.default_rng(7), 0, 0
    for _ in range(120):
        cells, named = lesson(rng)
        for f in wipes_left(cells, named, SD):
            if f.product == "Silt 2" and f.wipe == "alcohol mix":
                count += 1
                inside += f.low <= 2.0 <= f.high
    assert count == 120
    assert 0.83 <= inside / count <= 0.97


def test_where_nothing_is_hidden_no_wipe_is_blamed():
    rng, blamed = np.random.default_rng(8), 0
    for _ in range(100):
        cells, named = lesson(rng, hides={"Grist 9": 0.0, "Grist 6": 0.0})
        blamed += any(f.seen for f in wipes_left(cells, named, SD))
    assert blamed <= 10


def test_one_wipe_alone_leaves_nothing_to_compare():
    cells, named = lesson(np.random.default_rng(1))
    only = [c for c in cells if named[c.group][1] == "panel wipe"]
    assert wipes_left(only, named, SD) == []
    assert wipes_left([], {}, SD) == []
    assert wipes_words([], GLOSS) == []
