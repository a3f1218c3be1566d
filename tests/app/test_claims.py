"""Makers' claims: held against what was measured, each scale for itself, and drawn."""

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter
from scipy.stats import kendalltau

from helpers.questions import two_level
from loam.app.questions.influences.claims import (
    AGAINST,
    AGREES,
    NEITHER,
    OPEN,
    OnClass,
    find_claims,
)
from loam.core.judging import judge_readings
from loam.core.panel import Taping
from loam.core.readings import kind_of
from loam.core.snapshot import Snapshot, columns_of
from loam.core.trial import Cell, Combination, Panel, Reading, Stage
from loam.ui.views.judge.influences.claims_paint import draw_claims, heights

NAMES = ("Loess", "Grist", "Silt", "Chalk")
GLOSS = kind_of("gloss20")


def _combinations():
    return tuple(
        Combination(i, "ABCD"[i - 1], "", (Stage("Fen", name, "Mill", passes=4),))
        for i, name in enumerate(NAMES, 1)
    )


def _judged(levels, sd=(0.2, 0.1, 0.1, 0.1), seed=4):
    """Judge four compounds by gloss, of which more is better."""
    return judge_readings(two_level(np.random.default_rng(seed), levels, panels=4, sd=sd))


def _found(levels, figures, scales=None, readings=(), **how):
    facts = {
        name.casefold(): {"finish": f, "scale": (scales or {}).get(name, "10"), "clears_grit": 1500}
        for name, f in zip(NAMES, figures, strict=True)
    }
    panel = Panel(1, 1, "Heron", "soft", Taping(700, 700, 4, 4, 12, 40))
    cells = tuple(Cell(i, 1, (i - 1) // 4, (i - 1) % 4, i, i) for i in range(1, 5))
    trial = Snapshot((panel,), _combinations(), cells, columns_of(readings))
    return find_claims(trial, {"gloss20": _judged(levels, **how)}, facts, None, GLOSS)


@pytest.mark.parametrize(
    ("levels", "verdict"),
    [
        ([80.0, 82.0, 84.0, 86.0], AGREES),
        ([86.0, 84.0, 82.0, 80.0], AGAINST),
        ([83.0, 83.02, 83.01, 83.03], OPEN),
    ],
)
def test_a_makers_scale_is_held_against_what_was_measured(levels, verdict):
    figures = [2.0, 4.0, 6.0, 8.0]
    (scale,) = _found(levels, figures).scales
    (own,) = scale.classes
    assert own.verdict == verdict
    assert list(scale.figures) == ["Chalk", "Silt", "Grist", "Loess"], "by the maker, most first"
    assert verdict in scale.words(own)
    for place, low, high in own.places.values():
        assert 1 <= low <= place <= high <= 4
    if verdict != OPEN:
        by_place = [-own.places[name][0] for name in NAMES]
        assert own.tau == pytest.approx(kendalltau(figures, by_place).statistic)
        assert own.low == own.high, "the order is sure"


def test_what_is_sure_to_have_no_order_in_common_is_not_called_open():
    own = OnClass("soft", {}, 0.0, 0.0, 0.0, ())
    assert own.verdict == NEITHER
    assert replace(own, high=0.3).verdict == OPEN


def test_two_makers_are_never_put_on_one_scale():
    scales = {"Loess": "5", "Grist": "5"}
    claims = _found([80.0, 82.0, 84.0, 86.0], [1.0, 2.0, 9.0, 10.0], scales)
    assert claims.scales == (), "two on each: too few to compare"
    words = dict(claims.lines())["makers' finish"]
    assert "3 compounds with figures on one maker's scale" in words


def test_a_grit_is_cleared_by_the_first_stage_not_by_what_follows():
    rows = [
        (1, 1, 96.0, "after"),
        (1, 2, 99.0, "after"),
        (2, 1, 80.0, "after"),
        (2, 2, 100.0, "after"),
        (3, 2, 95.0, "after"),
        (4, 1, 90.0, "stage1"),
        (4, 2, 100.0, "after"),
    ]
    readings = [
        Reading(0, cell, "defects", value, phase, 1, stage=stage)
        for cell, stage, value, phase in rows
    ]
    claims = _found([80.0, 82.0, 84.0, 86.0], [1.0, 2.0, 3.0, 4.0], readings=readings)
    hits = {g.compound: (g.hits, g.cells) for g in claims.grits}
    assert hits == {"Loess": (1, 1), "Grist": (0, 1), "Silt": (1, 1), "Chalk": (0, 1)}
    for g in claims.grits:
        assert g.low <= g.hits / g.cells <= g.high
    assert "Loess (claims P1500) cleared 1 of 1 cells" in dict(claims.lines())["grit claims"]


def test_every_claim_is_drawn_and_opens_what_it_rests_on(qapp):
    readings = [Reading(0, 1, "defects", 96.0, "after", 1)]
    claims = _found([80.0, 82.0, 84.0, 86.0], [1.0, 2.0, 3.0, 4.0], readings=readings)
    sources = claims.sources()
    assert all(source.codes for own in sources.values() for source in own)
    for wide in (900.0, 300.0):
        area = QRectF(0, 0, wide, heights(claims, wide)[0])
        image = QImage(area.size().toSize(), QImage.Format.Format_RGB32)
        painter = QPainter(image)
        spots = draw_claims(painter, area, claims)
        painter.end()
        assert {s.key for s in spots} == set(sources)
        for i, spot in enumerate(spots):
            assert area.contains(spot.box)
            assert spot.told
            assert not any(spot.box.intersects(other.box) for other in spots[:i])
    assert heights(claims, 300.0)[0] > 1.9 * heights(claims, 900.0)[0], "one below the other"
    assert heights(replace(claims, grits=(), scales=()), 900.0) == (0.0, 0.0), "nothing to draw"
