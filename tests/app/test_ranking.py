"""The ranking as drawn, in figures, places and words; what matters; lessons of earlier trials."""

import math
import shutil
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers.judged import judged
from helpers.simulate import Design, designs, simulate
from loam.app import learnt_priors as lessons
from loam.app.commands import SetMatters, StrikeReadings, TakeReadings
from loam.app.drawings import Rect
from loam.app.drawings.ranking import GAP, SIZES, RankingPlaces, strip_places
from loam.app.presenters.axis import marks_of, ticks
from loam.app.questions.ranking.find import (
    chance_words,
    figures,
    judge_trial,
    kept_matters,
    ranking_table,
    reflected,
    round_matters,
    standing_lines,
)
from loam.app.questions.ranking.picture import caption, draw_up, spoken, with_matters
from loam.app.reflection import light_of, reflection
from loam.app.session import Session
from loam.app.what_matters import key_of, matters_in
from loam.core.errors import ValueRefused
from loam.core.judging import judge_readings
from loam.core.matter import matters
from loam.core.readings import kind_of
from loam.core.scale import Scale, scale_for
from loam.core.trial import Reading
from loam.core.units import percent
from loam.core.words.verdict import RELATION_WORDS
from loam.store.readings import readings_of_cells
from loam.store.workshop import Workshop


def drawn(design, seed=3):
    data, _ = simulate(design, np.random.default_rng(seed))
    return draw_up(judge_readings(data), kind_of(data.measurand))


@pytest.mark.parametrize("measurand", ["gloss20", "haze", "defects", "removed"])
def test_what_is_drawn_agrees_with_the_judgement(session, measurand):
    picture = judged(session, measurand)
    j = picture.judgement
    for strip, found in zip(picture.strips, j.classes, strict=True):
        assert [s.combination for s in strip.swatches] == list(found.names)
        lead = strip.swatches[0]
        assert lead.relation == ""
        assert strip.lead[0] == f"{lead.combination} leads, {percent(found.leader.p_best)}"
        assert lead.place - strip.edge == pytest.approx(j.matters.on_scale)
        for s, standing in zip(strip.swatches, found.standings, strict=True):
            assert s.low < s.place < s.high
            assert s.relation == standing.relation
            assert RELATION_WORDS[s.relation] in s.told
            assert percent(standing.p_best) in s.told
            assert float(s.text) == pytest.approx(standing.figures.estimate, abs=0.051)
            if not s.parked:
                assert picture.window[0] <= s.place <= picture.window[1]
        places = [s.place for s in strip.swatches]
        assert max(places) <= places[0] + 0.5 * j.matters.on_scale  # better lies to the right
    assert spoken(picture).startswith(picture.sentence)
    assert "does not matter (the usual choice)" in caption(picture)


def test_another_thing_that_matters_turns_verdicts_and_words_but_no_chance(session):
    picture = judged(session)
    again = with_matters(picture, matters(picture.kind, 4.0, "trial"))
    assert again.window == picture.window
    for before, after in zip(picture.judgement.classes, again.judgement.classes, strict=True):
        for a, b in zip(before.standings, after.standings, strict=True):
            assert (a.p_best, a.rank, a.figures) == (b.p_best, b.rank, b.figures)
    soft = again.judgement.on("soft")
    assert {s.combination for s in soft.standings if s.relation == "equal"} == {"D", "F", "E"}
    assert "D, E and F are as good as A (one-step)" in again.sentence
    assert "chosen for this trial" in caption(again)
    assert "up to 4.0 GU" in caption(again)
    none = with_matters(picture, matters(picture.kind, 0.0))
    assert not any(s.relation == "equal" for c in none.judgement.classes for s in c.standings)


def test_a_judgement_says_how_a_combination_stands(session):
    picture = judged(session)
    assert chance_words(picture, "hard", "B").startswith("Best with ")
    assert chance_words(picture, "hard", "E") == "E was not tested on hard."
    lines = standing_lines(picture, "hard", "B")
    assert [line[0] for line in lines] == ["D", "C", "F", "A"]
    assert all(line[1].startswith("about +") for line in lines)
    assert [line[2] for line in lines] == ["not settled", *["clearly ahead"] * 3]
    worst = standing_lines(picture, "hard", "A")
    assert [line[2] for line in worst] == ["clearly behind"] * 3 + [worst[3][2]]
    few = standing_lines(picture, "soft", "A", 3)
    assert few[:2] == standing_lines(picture, "soft", "A")[:2]
    assert few[2] == ("", "", "and 3 more, all in the picture")
    assert standing_lines(picture, "hard", "E") == []


def test_absolute_figures_carry_panels_and_people(session):
    """What is said of a class of clear is wider than what is compared on it."""
    picture = judged(session, "gloss20")
    standing = picture.judgement.on("hard").standing("B").figures
    (figure,) = figures(picture, "hard", "B")
    value, half = figure.value.split(" ± ")
    assert float(value) == pytest.approx(standing.estimate, abs=0.051)
    assert float(half) == pytest.approx(0.5 * (standing.high - standing.low), abs=0.051)
    assert standing.high - standing.low > 1.5 * (standing.own_high - standing.own_low)
    assert figures(picture, "hard", "E") == []
    table = ranking_table(picture)
    assert len(table) == 1 + 17
    assert table[1][:2] == ["soft", "A"]


def test_other_units_are_shown_and_the_same_said(session):
    kind = session.kind("removed")
    micro = judge_trial(session.workshop.path, 2, "removed", 12, kind)
    session.choose_unit("film", "mil")
    mil = judge_trial(session.workshop.path, 2, "removed", 12, session.kind("removed"))
    assert mil.judgement.classes == micro.judgement.classes
    a, b = micro.strips[0].swatches[0], mil.strips[0].swatches[0]
    assert a.place == b.place
    assert float(b.text) == pytest.approx(float(a.text) / 25.4, abs=0.003)
    assert mil.unit == "mil"
    assert round_matters(mil, 0.508) == pytest.approx(0.508)


@pytest.mark.parametrize("size", [(906, 430), (642, 290), (1120, 900), (480, 220)])
def test_swatches_lie_where_they_can_be_seen(session, size):
    for measurand in ("gloss20", "haze", "defects"):
        picture = judged(session, measurand)
        places = RankingPlaces()
        for place in strip_places(Rect(5, 7, *size), picture):
            places.add(place)
            boxes = list(place.swatches.values())
            for i, a in enumerate(boxes):
                assert place.panel.x <= a.x
                assert a.right <= place.panel.right
                assert place.panel.y <= a.y
                assert a.bottom <= place.panel.bottom + 1
                for b in boxes[i + 1 :]:
                    apart = a.right <= b.x or b.right <= a.x or a.bottom <= b.y or b.bottom <= a.y
                    assert apart or place.size <= SIZES[-1], "one swatch covers another"
            for s in place.strip.swatches:
                x = place.x(s.place)
                assert place.place(x) == pytest.approx(s.place)
                if not s.parked:
                    assert place.bars[s.combination].holds(x, place.bars[s.combination].y + 1)
                key = (place.strip.hardness, s.combination)
                assert places.at(*place.swatches[s.combination].middle) == key
            edge = place.x(place.strip.edge)
            assert places.handle_at(edge, place.panel.bottom + GAP / 2) is place
            assert places.handle_at(edge + 20, place.panel.bottom) is None


def test_a_mean_that_pooling_moves_is_marked_and_said():
    picture = drawn(designs()["f"])
    found = picture.judgement.classes[0]
    moved = [s.combination for s in found.standings if s.figures.moved]
    assert moved
    for s in picture.strips[0].swatches:
        assert (s.plain is not None) == (s.combination in moved)
        assert ("(thin tick)" in s.told) == (s.combination in moved)


@pytest.mark.parametrize("count", [1, 2, 20, 60, 200])
def test_any_number_of_combinations_has_its_places(count):
    layout = [(0, c) for c in range(count)] * 2
    picture = drawn(Design("many", layout, (0,), spread=3.0))
    (place,) = strip_places(Rect(0, 0, 640, 300), picture)
    assert len(place.swatches) == count
    assert min(b.width for b in place.swatches.values()) >= 10
    if count <= 20:
        assert place.size >= 22


def test_what_lies_far_behind_is_parked_and_said(session):
    layout = [(p, c) for p in range(3) for c in range(4) for _ in range(9)]
    data, _ = simulate(
        Design("far", layout, (0, 0, 0), fixed={"cell": 0.01, "residual": 0.05}),
        np.random.default_rng(5),
    )
    y = data.y - np.where(data.combination.codes == 0, 60.0, 0.0)
    picture = draw_up(judge_readings(replace(data, y=y)), kind_of("gloss20"))
    last = picture.strips[0].swatches[-1]
    assert last.combination == "c0"
    assert last.parked
    (place,) = strip_places(Rect(0, 0, 900, 200), picture)
    assert place.swatches["c0"].x == min(b.x for b in place.swatches.values())
    widths = [s.high - s.low for s in picture.strips[0].swatches if not s.parked]
    span = picture.window[1] - picture.window[0]
    assert np.median(widths) / span > 0.02


def test_axes_look_like_their_scale_and_end_where_the_measurand_ends():
    scale = scale_for(kind_of("defects"), np.array([85.0, 90.0, 100.0]))
    marks = marks_of(scale, *scale.to(np.array([60.0, 100.0])), 10)
    assert marks[-1] == 100.0
    assert {90.0, 95.0} <= set(marks)
    places = scale.to(np.array(marks))
    gaps = np.diff(places) / np.diff(marks)
    assert gaps[-1] > 2 * gaps[0]
    assert scale.back(np.array([50.0, -50.0])).tolist() == [100.0, 0.0]
    haze = scale_for(kind_of("haze"), np.array([1.0, 30.0]))
    assert marks_of(haze, *haze.to(np.array([0.0, 40.0])))[0] == 0.0
    assert marks_of(Scale("identity", 0.0, 2000.0), 80.1, 80.5, 5) == pytest.approx(
        [80.1, 80.2, 80.3, 80.4, 80.5]
    )
    assert marks_of(Scale("identity", 0.0, 2000.0), 76.0, 92.0, 2) == [80.0, 90.0]
    picture = drawn(designs()["k"])
    assert picture.ends[1] is None or picture.ends[1] <= picture.window[1]


@given(st.floats(-1e4, 1e4), st.floats(1e-6, 1e4))
def test_axes_are_round_and_cover(low, span):
    a, b, step = ticks(low, low + span)
    assert a <= low + 1e-9 * max(1, abs(low)) + 1e-8 * step
    assert b >= low + span - 1e-9 * max(1, abs(low) + span) - 1e-8 * step
    assert (b - a) / step <= 7.001
    assert float(f"{step:.0e}") == pytest.approx(step, rel=0.26)


@pytest.mark.parametrize(
    ("low", "high", "axis"),
    [
        (0, 1, (0, 1, 0.2)),
        (0, 11, (0, 12.5, 2.5)),
        (3, 4.3, (3, 4.5, 0.5)),
        (-23, 0, (-25, 0, 5)),
        (80.1, 80.5, (80.1, 80.5, 0.1)),
        (0, 7, (0, 8, 2)),
    ],
)
def test_the_usual_axes(low, high, axis):
    assert ticks(low, high) == pytest.approx(axis)


def test_a_reflection_changes_one_way_with_each_reading():
    """More haze, more marks left: never darker anywhere. More gloss: a tighter, brighter core."""
    plain = light_of(85.0, 15.0, 80.0)
    base = reflection(plain, 48)
    assert (reflection(light_of(85.0, 25.0, 80.0), 48) >= base).all()
    assert (reflection(light_of(85.0, 15.0, 60.0), 48) >= base).all()
    sharp = reflection(light_of(92.0, 15.0, 80.0), 48)
    assert sharp[24, 24] > base[24, 24]
    far = np.hypot(*(np.indices((48, 48)) - 23.5)) > 6
    assert sharp[far].sum() <= base[far].sum()
    assert np.array_equal(base, reflection(light_of(85.0, 15.0, 80.0), 48))
    assert base.min() >= 0
    assert base.max() <= 1
    close = np.abs(reflection(light_of(85.4, 15.2, 80.5), 48) - base)
    assert close.mean() < 0.004, "what is equal must look equal"
    assert close.max() < 0.4


def test_a_swatch_reflects_what_was_read(session):
    found = {k: judged(session, k) for k in ("gloss20", "haze", "defects")}
    good, poor = reflected(found, "soft", "A"), reflected(found, "soft", "C")
    assert good.sharp > poor.sharp
    assert good.haze < poor.haze
    assert reflected({}, "soft", "A") == light_of(None, None, None)


def test_what_matters_is_the_trials_else_the_workshops_else_the_default(session):
    db = session.workshop.connection
    assert matters_in(db, 2, "gloss20").source == "default"
    session.run(SetMatters(2, None, "gloss20", None, 0.8))
    session.run(SetMatters(2, 2, "gloss20", None, 2.0))
    assert (matters_in(db, 2, "gloss20").value, matters_in(db, 2, "gloss20").source) == (
        2.0,
        "trial",
    )
    assert matters_in(db, 1, "gloss20").value == 0.8
    assert judged(session).judgement.matters.value == 2.0
    assert session.undo() == "change what matters"
    assert matters_in(db, 2, "gloss20").source == "workshop"
    session.undo()
    assert kept_matters(session, None) == {}
    session.redo()
    assert kept_matters(session, None) == {"gloss20": 0.8}


ODD = [
    [],
    3,
    {"gloss20": "x"},
    {"gloss20": -1},
    {"haze": 0.5},
    {"gloss20": True},
    {"nothing": 1},
    {"gloss20": 1e999},
]


@pytest.mark.parametrize("odd", ODD)
def test_an_odd_choice_in_the_file_counts_as_none(session, odd):
    session.remember(key_of(2), odd)
    assert judged(session).judgement.matters.source == "default"
    assert judged(session, "haze").judgement.matters.source == "default"


@pytest.mark.parametrize(
    ("key", "value"),
    [
        ("gloss20", -0.1),
        ("gloss20", float("nan")),
        ("gloss20", float("inf")),
        ("haze", 0.9),
        ("defects", 1e9),
    ],
)
def test_what_cannot_matter_is_refused(key, value):
    with pytest.raises(ValueRefused, match="cannot be what matters"):
        SetMatters(1, 1, key, None, value)


def test_earlier_trials_teach_how_readings_vary(session, monkeypatch):
    db = session.workshop.connection
    first = lessons.priors_for(db, 1, "gloss20")
    assert {p.source for p in first.values()} == {"default"}
    taught = lessons.priors_for(db, 2, "gloss20")
    assert taught["cell"].source == "the trial One-steps on soft"
    assert 3.0 <= taught["cell"].df <= 12.0
    assert taught["residual"].df == 12.0
    monkeypatch.setattr(lessons, "judge", lambda *_: pytest.fail("judged again"))
    assert lessons.priors_for(db, 2, "gloss20") == taught
    monkeypatch.undo()
    cell = session.workshop.connection.execute(
        "SELECT c.id FROM cell c JOIN taping t ON t.id = c.taping_id WHERE t.trial_id = 1"
    ).fetchone()[0]
    read = readings_of_cells(db, [cell], "gloss20")
    reading = next(r for r in read if r.phase == "after")
    session.run(StrikeReadings(1, [reading.id], "hair"))
    again = lessons.priors_for(db, 2, "gloss20")
    assert again["residual"].sd != taught["residual"].sd


def test_a_trial_that_is_too_large_or_empty_teaches_nothing(session, monkeypatch):
    db = session.workshop.connection
    monkeypatch.setattr(lessons, "MOST_READINGS", 10)
    monkeypatch.setattr(lessons, "_known", {})
    assert {p.source for p in lessons.priors_for(db, 2, "gloss20").values()} == {"default"}


def test_a_ratio_that_matters_is_one_at_least(session):
    haze = judge_trial(session.workshop.path, 2, "haze", 12)
    assert round_matters(haze, math.log(1.25)) == 1.25
    assert round_matters(haze, 0.0) == round_matters(haze, -1.0) == 1.0


def test_controls_are_lines_and_never_win(tmp_path, demo_file):
    path = tmp_path / "controls.loam"
    shutil.copy(demo_file, path)
    session = Session(Workshop(path))
    claim = session.trials()[4]
    session.choose(claim.id)
    level = {"A": 80.0, "B": 78.0, "X": 30.0, "Y": 93.0}
    codes = {c.id: c.code for c in session.combinations()}
    rng = np.random.default_rng(1)
    session.run(
        TakeReadings(
            claim.id,
            [
                Reading(
                    0,
                    c.id,
                    "gloss60",
                    round(level[codes[c.combination_id]] + rng.normal(0, 0.4), 1),
                    "after",
                    k,
                )
                for c in session.cells()
                if c.combination_id
                for k in (1, 2, 3)
            ],
        )
    )
    picture = judge_trial(path, claim.id, "gloss60", 1)
    found = picture.judgement.on("hard")
    assert found.leader.combination == "A"
    assert set(found.names) == {"A", "B"}
    lines = {line.words.split()[0]: line for line in picture.controls["hard"]}
    assert set(lines) == {"damaged", "untouched"}
    assert lines["untouched"].place == pytest.approx(93.0, abs=0.5)
    turned = with_matters(picture, matters(kind_of("gloss60"), 3.0))
    assert turned.controls == picture.controls
    session.close()
