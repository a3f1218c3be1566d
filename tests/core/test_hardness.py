"""How panels answer: what is said of a class must come true as often as it says."""

import numpy as np
import pytest

from loam.core.hardness import Response, answer, answer_said

PRIORS = {"removed": (0.4, 0.7), "defects": (0.35, 0.3)}
LEVEL = {"soft": 4.0, "medium": 3.2, "hard": 2.4}


def workshop(rng, classes, *, panel=0.4, cell=0.5, cells=3, recipes=3):
    """Return the responses of panels of these true classes."""
    found = []
    for number, hardness in enumerate(classes):
        offset = rng.normal(0, panel)
        for recipe in range(recipes):
            values = LEVEL[hardness] - 0.5 * recipe + offset + rng.normal(0, cell, cells)
            found.append(Response(number, hardness, recipe, "removed", tuple(values)))
    return found


def test_chances_come_true_as_often_as_they_say():
    rng = np.random.default_rng(7)
    said, true = [], []
    for _ in range(400):
        hardness = rng.choice(["soft", "medium", "hard"])
        found = workshop(rng, [hardness, *["soft", "medium", "hard"] * 2])
        chances = answer(found, 0, PRIORS).chances
        said += list(chances.values())
        true += [h == hardness for h in chances]
    said, true = np.array(said), np.array(true)
    for low, high in ((0.0, 0.1), (0.1, 0.3), (0.3, 0.7), (0.7, 1.0)):
        here = (said >= low) & (said <= high)
        assert here.sum() > 50
        assert abs(true[here].mean() - said[here].mean()) < 0.09


def test_a_panel_that_is_declared_otherwise_is_doubted_and_a_right_one_is_not():
    rng = np.random.default_rng(3)
    classes = ["soft", "soft", "soft", "medium", "medium", "hard", "hard"]
    found = workshop(rng, classes, panel=0.1, cell=0.1)
    wrong = [
        Response(r.panel, "soft" if r.panel == 5 else r.hardness, r.recipe, r.measurand, r.values)
        for r in found
    ]
    told = answer(wrong, 5, PRIORS)
    assert told.doubts("soft")
    assert max(told.chances, key=told.chances.get) == "hard"
    assert sum(told.chances.values()) == pytest.approx(1.0)
    assert answer_said(told, "soft").startswith(
        "This panel answers unlike its class, soft. Answers"
    )
    assert not answer(found, 5, PRIORS).doubts("hard")


def test_nothing_is_said_where_nothing_can_be():
    rng = np.random.default_rng(1)
    assert answer([], 0, PRIORS) is None
    assert answer(workshop(rng, ["soft", "soft", "soft"]), 0, PRIORS) is None
    alone = [r for r in workshop(rng, ["soft", "medium", "hard"]) if r.panel == 0]
    assert answer(alone, 0, PRIORS) is None
    strange = [
        Response(r.panel, r.hardness, (r.panel, r.recipe), r.measurand, r.values)
        for r in workshop(rng, ["soft", "medium", "hard"])
    ]
    assert answer(strange, 0, PRIORS) is None
    assert answer_said(None, "soft") == ""


def test_a_class_without_another_panel_is_said():
    told = answer(workshop(np.random.default_rng(2), ["hard", "soft", "medium"]), 0, PRIORS)
    assert set(told.chances) == {"soft", "medium"}
    assert "No other hard panel stands beside it" in answer_said(told, "hard")
    assert not told.doubts("hard")


def test_more_cells_make_surer():
    def surest(cells):
        rng = np.random.default_rng(11)
        classes = ["soft", *["soft", "medium", "hard"] * 2]
        return answer(workshop(rng, classes, cells=cells, panel=0.01), 0, PRIORS).chances["soft"]

    assert surest(30) > surest(1)
