"""A panel's film: surveys, budgets, build records and what they ask for."""

import math
from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import norm

from loam.core.dates import day_after
from loam.core.errors import ValueRefused
from loam.core.film import FilmBuild, Spot, budget, cautions, survey, usual_spots
from loam.core.film.budget import Rule, share_words
from loam.core.readings import FILM
from loam.core.words.film import budget_words, survey_words
from loam.store.builds import build_of, build_text


def spots(*films):
    return [Spot(10.0 * i, 20.0, film) for i, film in enumerate(films)]


def test_a_survey_is_summed_up():
    found = survey(spots(118.0, 120.0, 116.0, 119.0, 122.0))
    assert found.mean == pytest.approx(119.0)
    assert found.sd == pytest.approx(math.sqrt(5.0))
    assert found.low.film_um == 116.0
    assert (found.odd, found.enough) == ((), True)
    assert survey([]) is None
    assert math.isnan(survey(spots(118.0)).sd)
    assert "4 more at least" in survey_words(survey(spots(118.0)), FILM)


def test_what_is_unlike_the_rest_is_told():
    found = survey(spots(118.0, 120.0, 116.0, 119.0, 152.0))
    assert [s.film_um for s in found.odd] == [152.0]
    assert "Unlike the rest: 152.0 µm" in survey_words(found, FILM)
    close = survey(spots(118.0, 118.0, 118.0, 118.0, 120.0))
    assert close.odd == ()  # within what a gauge scatters


def test_places_to_read_lie_on_the_panel_middle_first():
    found = usual_spots(720.0, 560.0, 44.0)
    assert found[0] == (360.0, 280.0)
    assert len(set(found)) == 9
    assert all(44.0 <= x <= 676.0 and 44.0 <= y <= 516.0 for x, y in found)


def test_a_budget_rests_on_the_record_or_says_that_it_is_assumed():
    found = survey(spots(118.0, 120.0, 109.0, 119.0, 124.0))
    known = budget(FilmBuild(clear_um=60.0, clear_spread_um=4.0), found)
    assert (known.thick, known.sd, known.assumed) == (60.0, 4.0, False)
    assert known.low == pytest.approx(60.0 - (118.0 - 109.0))
    assert known.may_go == pytest.approx(30.0)  # half of the clear
    assumed = budget(FilmBuild(), None)
    assert (assumed.thick, assumed.sd, assumed.assumed) == (40.0, 8.0, True)
    assert assumed.may_go == pytest.approx(20.0)
    assert "assumed" in budget_words(assumed, FILM)
    thin = budget(FilmBuild(clear_um=24.0), found)
    assert thin.low == pytest.approx(15.0)
    assert thin.may_go == 0.0
    assert budget_words(thin, FILM).endswith("nothing may go.")
    bounded = budget(FilmBuild(primer_um=70.0, base_um=20.0), found)
    assert bounded.thick == pytest.approx(28.0)  # no more than the gauge reads above the base


def test_a_single_stage_has_a_budget_of_its_own():
    usual = budget(FilmBuild(single_stage=True), None)
    assert (usual.coat, usual.thick, usual.assumed) == ("colour", 60.0, True)
    assert usual.may_go == pytest.approx(30.0)
    thin = budget(FilmBuild(single_stage=True, colour_um=40.0), survey(spots(90, 95, 75)))
    assert thin.low == pytest.approx(40.0 - (260.0 / 3 - 75.0))
    assert thin.may_go == pytest.approx(thin.low - 15.0)
    assert budget_words(thin, FILM).endswith("never below 15.0 µm above the primer.")
    assert "clear" not in budget_words(thin, FILM)
    other = budget(FilmBuild(single_stage=True, base_um=15.0, clear_um=40.0), None)
    assert other == usual  # a base and a clear noted before say nothing of it


def test_the_chance_above_the_floor_is_normal():
    found = budget(FilmBuild(clear_um=40.0, clear_spread_um=3.0), None)
    wanted = norm.sf((15.0 - (40.0 - 20.0)) / math.sqrt(9.0 + 4.0 + 1.0))
    assert found.chance_above_floor(20.0, 2.0) == pytest.approx(wanted)
    chances = [found.chance_above_floor(x) for x in range(0, 40, 4)]
    assert chances == sorted(chances, reverse=True)


@given(
    st.lists(st.floats(20.0, 400.0), min_size=1, max_size=30),
    st.one_of(st.none(), st.floats(0.0, 200.0)),
)
def test_no_budget_goes_below_the_floor_or_beyond_half(films, clear):
    found = survey(spots(*films))
    allowed = budget(FilmBuild(clear_um=clear), found)
    assert 0.0 <= allowed.may_go <= 0.5 * allowed.thick + 1e-9
    assert allowed.low - allowed.may_go >= min(allowed.floor, allowed.low) - 1e-9
    assert allowed.low <= allowed.thick + 1e-9


@pytest.mark.parametrize(
    ("build", "said"),
    [
        (FilmBuild(), "old paint may hold lead"),
        (FilmBuild("steel", clear_um=50.0), "old paint may hold lead"),
        (FilmBuild(single_stage=True), "old paint may hold lead"),
        (FilmBuild(age="old"), "Old paint may hold lead"),
        (FilmBuild(substrate="plastic"), "only ultrasound"),
        (FilmBuild(single_stage=True), "must not be reached is the primer"),
    ],
)
def test_cautions_stand_where_they_matter(build, said):
    assert said in told(build, None)


def told(build, days):
    return " ".join(c.said for c in cautions(build, days))


def test_lead_is_warned_of_until_paint_is_known_to_be_recent():
    for recent in (
        told(FilmBuild(age="recent", single_stage=True), None),
        told(FilmBuild(single_stage=True, cured_on="2024-01-01"), 900),
    ):
        assert "lead" not in recent
    assert "lead" in told(FilmBuild(cured_on="1999-05-01"), 9900)
    assert "lead" in told(FilmBuild(cured_on="2024-01-01", age="old"), 900)


@pytest.mark.parametrize(
    ("days", "said"),
    [(25, "Cured 25 days ago"), (1, "Cured 1 day ago"), (0, "Cured today"), (-97, "Not cured yet")],
)
def test_fresh_paint_is_said(days, said):
    build = FilmBuild(cured_on="2026-09-01")
    assert said in told(build, days)
    assert "maker's time" in told(build, days)
    assert cautions(build, 400) == []


def test_polishing_and_sealing_have_times_of_their_own():
    build = FilmBuild(cured_on="2026-09-01", polish_days=7, seal_days=90)
    early, later, late = (told(build, days) for days in (3, 30, 90))
    assert "sanded or polished before 2026-09-08" in early
    assert "polished" not in later
    assert "sealed or waxed only once it has gassed off, from 2026-11-30" in later
    assert late == ""


@given(st.dates())
def test_every_day_is_a_date_and_the_one_after_the_last_of_a_month_is_none(day):
    FilmBuild(cured_on=day.isoformat())
    with pytest.raises(ValueRefused):
        FilmBuild(cured_on=f"{day.year:04d}-{day.month:02d}-32")
    with pytest.raises(ValueRefused):
        FilmBuild(cured_on=f"{day.year:04d}-02-30")


def test_a_known_cured_panel_needs_no_caution():
    assert cautions(FilmBuild("steel", clear_um=50.0, cured_on="2026-01-05"), 260) == []


@given(
    st.builds(
        FilmBuild,
        substrate=st.sampled_from(["", "steel", "aluminium", "plastic"]),
        clear_um=st.one_of(st.none(), st.floats(0, 2000)),
        primer_um=st.one_of(st.none(), st.floats(0, 2000)),
        single_stage=st.booleans(),
        lightness=st.sampled_from(["", "dark", "mid", "pale"]),
        colour=st.text("abc äß", max_size=20),
        cured_on=st.sampled_from(["", "2026-02-28"]),
        colour_um=st.one_of(st.none(), st.floats(0, 2000)),
        age=st.sampled_from(["", "recent", "old"]),
        polish_days=st.one_of(st.none(), st.integers(0, 3650)),
    )
)
def test_a_record_is_written_and_read_back(build):
    assert build_of(build_text(build)) == build


@pytest.mark.parametrize(
    "text",
    [
        "[1]",
        "{",
        '{"clear_um": "x"}',
        '{"clear_um": true}',
        '{"colour": 3}',
        '{"taste": 1}',
        '{"substrate": "wood"}',
        '{"clear_um": -1}',
        '{"clear_um": NaN}',
        '{"cured_on": "soon"}',
        '{"age": "young"}',
        '{"polish_days": 1.5}',
        '{"seal_days": -1}',
        '{"polish_days": true}',
        '{"colour_um": 3000}',
        '{"single_stage": 1}',
        "[" * 100_000,
    ],
)
def test_records_that_cannot_be_are_refused(text):
    with pytest.raises(ValueRefused):
        build_of(text)


def test_a_bare_edge_is_kept_away_from_when_a_panel_is_surveyed():
    assert usual_spots(1000.0, 800.0, 0.0)[1] == (64.0, 64.0)
    assert usual_spots(1000.0, 800.0, 90.0)[1] == (90.0, 90.0)


@given(st.dates(max_value=date(9000, 1, 1)), st.integers(0, 3650))
def test_a_day_so_many_days_later_is_that_of_the_calendar(day, days):
    assert day_after(day.isoformat(), days) == (day + timedelta(days=days)).isoformat()


@pytest.mark.parametrize(
    ("rule", "may_go", "bound"),
    [
        (Rule(), 20.0, "share"),
        (Rule(share=0.25), 10.0, "share"),
        (Rule(floor_um=30.0), 10.0, "floor"),
        (Rule(share=0.9, floor_um=15.0), 25.0, "floor"),
        (Rule(floor_um=50.0), 0.0, "floor"),
    ],
)
def test_how_much_may_go_is_a_rule_and_what_binds_is_known(rule, may_go, bound):
    found = budget(FilmBuild(clear_um=40.0), None, rule)
    assert (found.may_go, found.bound) == (pytest.approx(may_go), bound)
    assert (found.floor, found.share) == (rule.floor_um, rule.share)
    assert share_words(0.5) == "half"
    assert share_words(0.33) == "33 %"
