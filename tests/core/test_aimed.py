"""Single lines that could be changed without a word: what each is for, held by a test."""

from dataclasses import replace

import numpy as np
import pytest

from helpers.faults import Shape, make
from loam.core.dataset import trial_data
from loam.core.doubts import doubts, find
from loam.core.film import Spot, Survey
from loam.core.film.budget import budget
from loam.core.film.build import FilmBuild
from loam.core.judging import judge_readings
from loam.core.masking import CellMasked, masking
from loam.core.panel import Taping
from loam.core.snapshot import Snapshot, columns_of
from loam.core.tiles import TileCheck
from loam.core.trial import Cell, Combination, Panel, Reading, Stage
from loam.core.verdict import NoLessons, Record, Taught, judge


def trial(panels=4, each=2, readings=4, seed=3):
    """Make a plain trial: panels that differ, combinations two apart."""
    rng = np.random.default_rng(seed)
    taping = Taping(400, 300, 2, 4, 10, 20)
    own = [Panel(i, 1, f"P{i}", "soft", taping) for i in range(1, panels + 1)]
    combos = [Combination(i, "ABCD"[i - 1], "", (Stage("p", "c", "m"),)) for i in range(1, 5)]
    cells, taken = [], []
    for p in own:
        level = rng.normal(0, 1.5)
        for k in range(4 * each):
            c = Cell(len(cells) + 1, p.id, k // 4, k % 4, k % 4 + 1, k + 1)
            cells.append(c)
            mean = 80 + 2 * c.combination_id + level + rng.normal(0, 0.4)
            taken += [
                Reading(
                    len(taken) + i,
                    c.id,
                    "gloss20",
                    round(mean + rng.normal(0, 0.3), 1),
                    ordinal=i,
                    reader="Lise",
                    day="2026-09-05",
                )
                for i in range(1, readings + 1)
            ]
    return Snapshot(tuple(own), tuple(combos), tuple(cells), columns_of(taken))


def test_absolute_figures_carry_the_panels_and_own_ones_do_not():
    judged = judge_readings(trial_data(trial(), "gloss20"))
    for s in judged.classes[0].standings:
        f = s.figures
        assert f.low < f.own_low < f.own_low50 < f.estimate < f.own_high50 < f.own_high < f.high
        assert f.high - f.low > 1.3 * (f.own_high - f.own_low), "which panels were at hand counts"
        assert abs((f.own_low + f.own_high) / 2 - f.estimate) < 0.2 * (f.own_high - f.own_low)


def test_what_a_gauge_study_found_sets_what_the_meter_cannot_see():
    class Study(NoLessons):
        def of(self, measurand, data):
            return Taught(repeat=2.0)

    plain = judge(Record(trial()), NoLessons(), "gloss20").judgement
    told = judge(Record(trial()), Study(), "gloss20").judgement
    assert told.repeat == 2.0
    assert told.floor > 3.0 * plain.floor


def test_a_hard_panel_that_answers_as_a_softer_is_doubted_as_such():
    made = make(5, how="demo", shape=Shape(("hard",) * 5))
    columns = made.snapshot.columns
    odd = made.snapshot.panels[1]
    softer = [c.id for c in made.snapshot.cells if c.panel_id == odd.id]
    rows, value = np.isin(columns.cell, softer), columns.value.copy()

    def of(measurand):
        return rows & (columns.measurand == columns.measurands.index(measurand))

    value[of("gloss20")] += 4.5
    value[of("haze")] = (1 + value[of("haze")]) * np.exp(-0.14) - 1
    share = np.clip(value[of("defects")], 1, 99) / 100
    value[of("defects")] = np.round(100 / (1 + np.exp(-0.9) * (1 - share) / share))
    moved = replace(made.snapshot, columns=replace(columns, value=value))
    own = [d for d in doubts(moved, made.extras) if d.kind == find.CLASS]
    assert [d.subject for d in own] == [odd.name]
    assert own[0].harder is False


def test_the_parts_of_a_share_of_false_alarms_make_the_whole():
    for kind, parts in find._SPLIT.items():
        assert sum(1.0 / part for part in parts) == pytest.approx(1.0), kind
    assert 0.0 < find._FADING < 1.0
    assert sum(find.ALPHA.values()) < 0.05


@pytest.mark.parametrize("day", [0, 1, 2])
def test_a_drift_is_found_on_whichever_day_it_is(day):
    plain = make(40 + day, how="demo")
    columns = plain.snapshot.columns
    other = sorted(columns.days)[day]
    order, value = plain.extras.order, columns.value.copy()
    rows = (columns.day == columns.days.index(other)) & (
        columns.measurand == columns.measurands.index("gloss20")
    )
    value[rows] += 6.0 * order[rows] / max(order[rows].max(), 1.0)
    moved = replace(plain.snapshot, columns=replace(columns, value=value))
    subjects = [d.subject for d in doubts(moved, plain.extras) if d.kind == find.DRIFT]
    assert len(subjects) == 1
    assert other in subjects[0]


def test_the_error_of_what_fell_back_has_both_sides():
    fell = (2.0, 2.4, 1.8)
    few = [CellMasked(i, "A", 85.0, 85.0 - f, f, 0.3, None) for i, f in enumerate(fell)]
    wide = [CellMasked(i, "A", 85.0, 85.0 - f, f, 3.0, None) for i, f in enumerate(fell)]
    (sure,), (unsure,) = masking(few, 0.4), masking(wide, 0.4)
    assert sure.low < sure.masked < sure.high
    assert unsure.masked - unsure.low > sure.masked - sure.low
    assert unsure.high - unsure.masked > sure.high - sure.masked


def test_the_thinnest_spot_is_what_may_go_rests_on():
    build = FilmBuild(clear_um=50.0)
    spots = [Spot(0.0, 0.0, 120.0), Spot(10.0, 0.0, 118.0), Spot(20.0, 0.0, 95.0)]
    mean = sum(s.film_um for s in spots) / 3
    found = budget(build, Survey(tuple(spots), mean, 12.0, spots[2], ()))
    assert found.low == pytest.approx(50.0 - (mean - 95.0))
    assert found.may_go == pytest.approx(min(25.0, found.low - 15.0))


@pytest.mark.parametrize(
    ("read", "verdict"),
    [
        (92.5, "good"),
        (92.6, "off"),
        (93.0, "off"),
        (93.1, "doubtful"),
        (91.5, "good"),
        (91.0, "off"),
        (90.9, "doubtful"),
    ],
)
def test_a_tile_at_its_very_limit_is_still_within(read, verdict):
    check = TileCheck(1, "Glim", "gloss20", 92.0, (read,) * 3, "2026-09-26T10:00:00")
    assert check.verdict == verdict
