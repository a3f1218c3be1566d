"""What drives a result, as drawn: levels, and what two do only together."""

import numpy as np
import pytest

from helpers.questions import two_level
from loam.app.questions.drivers.find import find_drivers
from loam.app.questions.drivers.sources import of_drivers
from loam.core.judging import judge_readings
from loam.core.trial import Combination, Stage


def crossed(bump, seed=8):
    """Judge three pads with three compounds, the first of both better together by ``bump``."""
    rng = np.random.default_rng(seed)
    pads, compounds = [0.0, 0.8, 1.6], [0.0, 0.6, 1.0]
    cells = [(p, c) for p in range(3) for c in range(3)]
    means = [82.0 + pads[p] + compounds[c] + bump * (p == c == 0) for p, c in cells]
    data = two_level(rng, means, panels=3, sd=(0.5, 0.1, 0.2, 0.3))
    made = [
        Combination(i, "ABCDEFGHI"[i], "", (Stage(f"pad {p}", f"grist {c}", "mill", passes=4),))
        for i, (p, c) in enumerate(cells)
    ]
    return find_drivers(judge_readings(data), made, 3)


def test_one_pad_good_with_one_compound_only_is_drawn():
    (own,) = crossed(5.0).classes
    both = next(lever for lever in own.levers if lever.together)
    first = both.levels[0]
    assert first.words == "pad 0 with grist 0"
    assert first.codes == ("A",)
    assert first.place - first.alone > 1.5, "together it reads more than each alone would give"
    assert first.place == pytest.approx(87.0, abs=1.2)
    assert first.low < first.place < first.high
    assert "what they do only together makes most of the difference" in own.sentence
    assert "pad 0 with grist 0 reads about" in own.sentence
    assert "more than each alone would give" in own.sentence


def test_where_levels_add_up_nothing_is_drawn_of_their_interplay():
    (own,) = crossed(0.0).classes
    assert [lever.levels for lever in own.levers if lever.together] == [()]
    pad = next(lever for lever in own.levers if lever.label == "pad")
    assert [level.words for level in pad.levels] == ["pad 2", "pad 1", "pad 0"]
    assert all(level.alone is None for level in pad.levels)


def test_the_source_of_an_interplay_says_what_each_alone_would_give():
    picture = crossed(5.0)
    (own,) = picture.classes
    i = next(i for i, lever in enumerate(own.levers) if lever.together)
    (source,) = of_drivers(picture)[f"soft:{i}:0"]
    assert source.codes == ("A",)
    assert "each alone: 8" in source.recipe


def test_what_was_not_tried_is_named_after_the_nearest_that_was():
    """The leader with what is changed, rather than a recipe that has to be compared by eye."""
    rng = np.random.default_rng(2)
    means = [82.0, 84.0, 83.0, 85.5]
    data = two_level(rng, means, panels=3, sd=(0.5, 0.1, 0.2, 0.3))
    recipes = [("down", "loess", 4), ("fen", "loess", 4), ("down", "grist", 6), ("fen", "grist", 6)]
    made = [
        Combination(i, "ABCD"[i], "", (Stage(pad, compound, "mill", passes=passes),))
        for i, (pad, compound, passes) in enumerate(recipes)
    ]
    made.append(Combination(4, "E", "", (Stage("fen", "chalk", "mill", passes=4),)))
    data = two_level(rng, [*means, 84.0], panels=3, sd=(0.5, 0.1, 0.2, 0.3))
    (own,) = find_drivers(judge_readings(data), made, 3).classes
    assert own.leader[0] == "D"
    shorts = {u.combination.words(): u.short for u in own.untried}
    assert shorts
    for words, short in shorts.items():
        code, _, change = short.partition(" with ")
        near = next(c for c in made if c.code == code)
        assert change, "something is changed"
        assert words != near.words()
        for part in change.replace(" and ", ", ").split(", "):
            assert part in words
            assert part not in near.words()
