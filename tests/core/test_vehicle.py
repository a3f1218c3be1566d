"""Vehicles, their notes, the room for clear, particles, follow-ups and the day."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from scipy.stats import multivariate_normal

from loam.core.errors import ValueRefused
from loam.core.film.sets import Guess
from loam.core.kit.product import grams
from loam.core.trial import Stage
from loam.core.vehicle.adding import job_of
from loam.core.vehicle.day import (
    PREPARE_MIN,
    REST_MIN,
    STRETCH_MIN,
    TIGHT_MM,
    Pace,
    checks_of,
    hour_of,
    late,
    machine_minutes,
    panel_minutes,
    plan_day,
    stretch_minutes,
    tight_m2,
)
from loam.core.vehicle.events import NOTES, Note, checked
from loam.core.vehicle.follow import ODD, Seen, learn, luck
from loam.core.vehicle.job import CarPart, FilmSpot
from loam.core.vehicle.places import near_edge, next_place, turned, usual_places
from loam.core.vehicle.room import (
    EDGE,
    NO_CLEAR,
    NO_GAUGE,
    NOT_READ,
    SEAM,
    budget_of,
    least_room,
    rooms_of,
    unlike_the_rest,
)
from loam.core.vehicle.shapes import SHAPES, area_mm2, box_of, inside
from loam.core.vehicle.supply import supply
from loam.core.vibration import LIMIT, daily_exposure


def note(sort, uid="", **facts):
    return Note(uid or f"{sort}{sorted(facts.items())}", sort, checked(sort, facts))


def car(*notes, shape="minibus"):
    return job_of("x", [note("vehicle", shape=shape), *notes])


def surveyed(part, *film):
    return [note("film", uid=f"{part}{i}", part=part, film_um=f) for i, f in enumerate(film)]


@pytest.mark.parametrize("shape", SHAPES, ids=lambda s: s.key)
def test_every_shape_can_be_drawn_and_worked(shape):
    keys = [p.key for p in shape.parts]
    assert len(set(keys)) == len(keys)
    turns = sorted(p.turn for p in shape.parts if not p.glass)
    assert turns == list(range(1, len(turns) + 1)), "every panel has a turn of its own"
    wide, high = shape.size_mm
    for p in shape.parts:
        assert all(0 <= x <= wide and 0 <= y <= high for x, y in p.outline), p.key
        assert p.area_m2 > 0.02, p.key
        x, y, w, h = box_of(p.outline)
        assert inside(p.outline, x + w / 2, y + h / 2), p.key
    for i, p in enumerate(shape.parts):
        for q in shape.parts[i + 1 :]:
            assert not any(inside(q.outline, x, y) for x, y in p.outline), (p.key, q.key)
    roof = shape.part("roof")
    assert roof is None or roof.turn == 1, "the roof first, then from the top down"
    assert abs(area_mm2(((0, 0), (10, 0), (10, 5), (0, 5)))) == 50


def test_notes_say_anew_and_those_of_another_vehicle_are_passed_over():
    job = car(
        note("part", part="bonnet", state="again", area_m2=1.5),
        note("part", part="bonnet", label="lid"),
        note("part", part="spoiler", own=1, area_m2=0.3),
        note("film", part="no such panel", film_um=100),
        note("nail", part="windscreen", x=0.1, y=0.1),
        note("damage", uid="1", part="roof", kind="swirls", level="heavy"),
        note("damage", uid="2", part="roof", kind="swirls", level=""),
    )
    bonnet = job.part("bonnet")
    assert (bonnet.state, bonnet.area_m2, bonnet.label) == ("again", 1.5, "lid")
    assert job.part("spoiler").own
    assert job.part("spoiler") in job.working
    assert not job.part("windscreen").nails, "glass is not worked, nor marked"
    assert job.part("roof").damage == {}
    assert job.assumed_aim
    assert not job.known
    assert sum(job.chances.values()) == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("sort", "facts", "said"),
    [
        ("film", {"part": "roof", "film_um": -1}, "between 0 and 2000"),
        ("film", {"part": "roof"}, "missing"),
        ("film", {"part": "roof", "film_um": "thick"}, "no number"),
        ("film", {"part": "roof", "film_um": float("nan")}, "no number"),
        ("vehicle", {"shape": "tank"}, "is one of"),
        ("hardness", {"soft": 0, "medium": 0, "hard": 0}, "chance above 0"),
        ("aim", {"measurand": "shine", "at_least": 3}, "no measurand"),
        ("aim", {"measurand": "defects", "at_least": 130}, "impossible"),
        ("read", {"spot": "a", "measurand": "defects", "value": 130, "phase": "after"}, "imposs"),
        ("spot", {"part": "roof", "rung": "A", "x": 2, "y": 0}, "between 0 and 1"),
        ("photo", {"part": "roof", "image": "bm90IGEganBlZw=="}, "no photograph"),
        ("photo", {"part": "roof", "image": "%%%"}, "no photograph"),
        ("measured", {"spot": "a", "removed_pct": 80, "image": "%%%"}, "no photograph"),
        ("measured", {"spot": "a", "removed_pct": 130}, "between -1000 and 100"),
        ("spell", {}, "nothing that is noted"),
        ("nail", {"part": "roof", "x": 0, "y": 0, "depth": 3}, "has no 'depth'"),
    ],
)
def test_a_note_that_cannot_be_is_refused_with_its_field(sort, facts, said):
    with pytest.raises(ValueRefused, match=said):
        checked(sort, facts)
    assert sort in NOTES or sort == "spell"


def test_room_is_that_of_the_thinnest_spot_with_what_was_taken_earlier():
    job = car(*surveyed("roof", 120, 122, 116, 121, 121))
    room = rooms_of(job, Guess(3.0, 1.0))["roof"]
    # by hand: clear 40 less (120 - 116); half of 40 may go, or what lies above 15
    assert room.clear.mean == pytest.approx(36.0)
    assert room.clear.sd == pytest.approx(np.sqrt(64 + 1 + 1 / 5))
    assert room.may_go == pytest.approx(20.0)
    taken = 3.0 * EDGE * SEAM
    z = (36.0 - taken - 15.0) / np.hypot(room.clear.sd, 1.0 * EDGE * SEAM)
    from scipy.special import ndtr

    assert room.chance == pytest.approx(float(ndtr(z)))
    earlier = car(
        *surveyed("roof", 120, 122, 116, 121, 121), note("part", part="roof", worked_um=9)
    )
    assert rooms_of(earlier)["roof"].clear.mean == pytest.approx(27.0)
    assert rooms_of(earlier)["roof"].may_go == pytest.approx(12.0)
    assert budget_of(rooms_of(earlier)["roof"], 15.0) == pytest.approx((12.0, room.clear.sd))


def test_what_no_gauge_reads_has_no_clear_or_is_not_read_says_so():
    job = car(
        note("part", part="left wing", state="single"),
        note("part", part="roof", state="fresh"),
        *surveyed("front bumper", 90.0),
        *surveyed("left wing", 90.0),
        *surveyed("bonnet", 110.0, 112.0),
    )
    rooms = rooms_of(job)
    assert rooms["front bumper"].lacks == NO_GAUGE
    assert rooms["left wing"].lacks == NO_CLEAR
    assert rooms["tailgate"].lacks == NOT_READ
    assert rooms["bonnet"].few == 3
    assert "roof" not in {p.key for p in job.working}, "fresh paint is not worked"
    assert least_room(job, rooms.values()).part == "bonnet"
    own = car(*surveyed("bonnet", 110.0), note("instead", part="bonnet", rung="A"))
    assert least_room(own, rooms_of(own).values()) is None, "it does not hold the others back"


def test_a_panel_unlike_the_rest_is_named_and_few_are_not_compared():
    means = {"a": 115.0, "b": 118.0, "c": 112.0, "d": 158.0, "e": 116.0}
    assert unlike_the_rest(means) == {"d"}
    assert unlike_the_rest({k: means[k] for k in "abd"}) == set()


def test_follow_ups_are_weighed_as_the_normals_say():
    """One vehicle, two spots, two classes: the grid's weights against a library's densities."""
    rng = np.random.default_rng(5)
    draws = {"soft": rng.normal([1.0, 2.0], 0.3, (400, 2)), "hard": rng.normal(0.0, 0.4, (400, 2))}
    seen = Seen(
        np.array([1.4, 2.2]), np.array([0, 1]), {"soft": 0.7, "hard": 0.3}, np.array([0.2, 0.3])
    )
    usual, panel, own = 0.5, 0.4, 0.25
    found = learn([seen], draws, usual, panel, own)
    for i, j in ((0, 0), (10, 10), (14, 6), (20, 20)):
        mu, s = found.mu[i], found.spread[j]
        prior = np.exp(-0.5 * (mu / usual) ** 2) * s**-3 * np.exp(-1.5 * (usual / s) ** 2)
        like = 0.0
        for name, chance in seen.chances.items():
            cov = np.cov(draws[name], rowvar=False) + np.diag(own**2 + seen.spot_sd**2)
            cov = cov + (panel**2 + s**2) * np.ones((2, 2))
            like += chance * multivariate_normal.pdf(seen.z, draws[name].mean(axis=0) + mu, cov)
        reference = prior * like
        if (i, j) == (0, 0):
            scale = found.weights[i, j] / reference
        assert found.weights[i, j] == pytest.approx(scale * reference, rel=1e-6)
    assert found.weights.sum() == pytest.approx(1.0)


def test_many_vehicles_teach_how_they_differ():
    rng = np.random.default_rng(8)
    draws = {"medium": rng.normal([0.0, 1.0], 0.05, (500, 2))}
    shift, spread = 0.8, 0.3
    seen = []
    for _ in range(40):
        level = shift + spread * rng.standard_normal()
        z = np.array([0.0, 1.0]) + level + 0.1 * rng.standard_normal(2)
        seen.append(Seen(z, np.array([0, 1]), {"medium": 1.0}, np.array([0.1, 0.1])))
    mean, sd = learn(seen, draws, 0.5, 0.0, 0.05).means
    assert mean == pytest.approx(shift, abs=0.15)
    assert sd == pytest.approx(spread, abs=0.12)


def test_the_day_deals_panels_out_in_their_order_and_says_how_it_shakes():
    job = replace(car(note("decided", what="take", rung="D")), people=2)
    day = plan_day(job, {"D": Pace(50.0, 2, 5.0)})
    assert {t.part for t in day.turns} == {p.key for p in job.working}
    assert day.turns[0].part == "roof"
    assert day.turns[0].start == PREPARE_MIN
    assert {t.who for t in day.turns} == {0, 1}
    for who in (0, 1):
        own = [t for t in day.turns if t.who == who]
        assert all(a.end <= b.start + 1e-9 for a, b in pairwise(own))
    minutes = [0.0] * day.days
    for t in day.turns:
        if t.who == 0:
            minutes[day.of(t.start)[0]] += machine_minutes(job.part(t.part), Pace(50.0, 2, 5.0))
    assert day.a8[0] == pytest.approx(5.0 * np.sqrt(max(minutes) / 60.0 / 8.0))
    alone = plan_day(replace(job, people=1), {"D": Pace(50.0, 2, 5.0)})
    assert alone.ends > day.ends
    assert plan_day(job, {}).lacking == tuple(p.key for p in job.working)
    roof = job.part("roof")
    with pytest.raises(ValueRefused, match="before a vehicle is washed"):
        plan_day(replace(job, hours=1.5), {"D": Pace(50.0, 2, 5.0)})
    assert panel_minutes(replace(roof, area_m2=2 * roof.area_m2), Pace(50, 2)) > panel_minutes(
        roof, Pace(50, 2)
    )


def test_every_panel_of_every_vehicle_is_read_on_itself():
    """Five places in the field and four at edges, all on the panel, the five away from its edge."""
    for shape in SHAPES:
        for part in shape.parts:
            corners, usual = turned(part.outline), usual_places(part.outline)
            assert [p.edge for p in usual] == [False] * 5 + [True] * 4
            assert len({(p.x, p.y) for p in usual}) == len(usual)
            for p in usual:
                assert inside(corners, p.x, p.y), (shape.key, part.key, p)
                assert p.edge or not near_edge(part.outline, p.x, p.y), (shape.key, part.key, p)


def test_the_next_place_is_the_first_that_was_not_read():
    roof = car(shape="van").part("roof")
    usual = usual_places(roof.outline)
    assert next_place(roof) == usual[0]
    read = replace(roof, survey=(FilmSpot(100.0, x=usual[0].x + 0.03, y=usual[0].y),))
    assert next_place(read) == usual[1]
    nowhere = replace(roof, survey=(FilmSpot(100.0), FilmSpot(101.0), FilmSpot(96.0, edge=True)))
    assert next_place(nowhere) == usual[2], "those without a place stand for as many"
    whole = replace(roof, survey=tuple(FilmSpot(99.0, p.edge, p.x, p.y) for p in usual))
    assert next_place(whole) == usual[-1]
    assert (whole.film, whole.edge) == ((99.0,) * 5, (99.0,) * 4)


@pytest.mark.parametrize("seed", range(12))
def test_nobody_works_past_a_day_nor_past_its_limit_of_vibration(seed):
    """However fast, shaky and short: what does not fit goes to another, or to the next day."""
    rng = np.random.default_rng(seed)
    pace = Pace(float(rng.uniform(5.0, 120.0)), 2, float(rng.uniform(1.0, 14.0)))
    shape = SHAPES[seed % len(SHAPES)].key
    job = replace(
        car(note("decided", what="take", rung="D"), shape=shape),
        people=int(rng.integers(1, 4)),
        hours=float(rng.uniform(5.0, 10.0)),
    )
    day = plan_day(job, {"D": pace})
    assert sorted(t.part for t in day.turns) == sorted(p.key for p in job.working)
    rest = stretch_minutes(pace.shake)
    for who in range(job.people):
        own = sorted((t for t in day.turns if t.who == who), key=lambda t: t.start)
        assert all(a.end <= b.start + 1e-6 for a, b in pairwise(own))
        shaken = {}
        since, free = 0.0, PREPARE_MIN
        for t in own:
            on, at = day.of(t.start)
            machine = machine_minutes(job.part(t.part), pace)
            longer = t.minutes > day.span + 1e-6
            assert at + t.minutes <= day.span + 1e-6 or longer, "it ends on its day"
            plain = panel_minutes(job.part(t.part), pace)
            breaks = round((t.minutes - plain) / REST_MIN)
            assert t.minutes == pytest.approx(plain + breaks * REST_MIN)
            if t.start - free >= REST_MIN - 1e-6 or at == 0.0:
                since = 0.0
            assert (since + machine) / (breaks + 1) <= rest + 1e-6, "a break comes in time"
            since, free = since + machine - breaks * rest, t.end
            if not longer and t.part not in day.beyond:
                shaken.setdefault(on, []).append((pace.shake, machine / 60.0))
        assert all(daily_exposure(s) <= LIMIT + 1e-9 for s in shaken.values())
        assert day.a8[who] >= max(map(daily_exposure, shaken.values()), default=0.0) - 1e-9
    assert day.days >= 1
    assert day.ends == max(t.end for t in day.turns)


def test_a_break_comes_after_a_days_worth_of_shaking():
    """8 m/s² comes to the action value in 47 minutes; what hardly shakes, after the usual time."""
    assert stretch_minutes(8.0) == pytest.approx(60.0 * 8.0 * (2.5 / 8.0) ** 2)
    assert stretch_minutes(2.0) == stretch_minutes(0.0) == STRETCH_MIN


def test_tight_places_are_worked_with_a_small_machine():
    job = car()
    roof, bumper = job.part("roof"), job.part("front bumper")
    assert tight_m2(bumper) == bumper.area_m2, "no open pad lies flat on it"
    box = box_of(roof.outline)[2:]
    assert tight_m2(roof) == pytest.approx(2 * sum(box) * TIGHT_MM / 1e6, rel=0.05)
    assert tight_m2(replace(roof, area_m2=2 * roof.area_m2)) == pytest.approx(2 * tight_m2(roof))
    slow = Pace(20.0, 1, 5.0, small=60.0)
    assert machine_minutes(bumper, slow) == pytest.approx(60.0 * bumper.area_m2)
    open_m2 = roof.area_m2 - tight_m2(roof)
    assert machine_minutes(roof, slow) == pytest.approx(20.0 * open_m2 + 60.0 * tight_m2(roof))
    assert plan_day(replace(job, decided=("take", "D", "")), {"D": slow}).tight_m2 == pytest.approx(
        sum(tight_m2(p) for p in job.working)
    )


def test_spot_checks_say_what_is_still_to_be_read():
    job = car(
        note("decided", what="take", rung="D"),
        note("done", part="left wing", rung="D"),
        note("check", part="left wing", measurand="haze", value=12.0),
    )
    checks = checks_of(job, plan_day(job, {"D": Pace(20.0, 1, 5.0)}))
    assert checks[0].part == "left wing", "the fourth in the order of work"
    assert checks[0].due
    assert checks[0].lacking == ("defects",)
    assert not checks[1].due
    assert checks[1].lacking == ("defects", "haze")


def test_a_day_begins_at_a_time_of_day_and_stays_once_a_panel_is_done():
    with pytest.raises(ValueRefused, match="no time of day"):
        checked("day", {"people": 2, "start": "25:00"})
    first = Note("a", "day", checked("day", {"people": 1, "start": "8:30"}), "2026-09-20T10:00:00")
    again = Note("b", "day", {"people": 2, "start": "08:30", "hours": 8.0}, "2026-09-22T07:00:00")
    done = Note("c", "done", {"part": "roof", "rung": "D"}, "2026-09-22T11:00:00")
    late = Note("d", "day", {"people": 3, "start": "08:30"}, "2026-09-23T08:00:00")
    assert job_of("x", [first, again]).day == "2026-09-22"
    assert job_of("x", [first, again]).hours == 8.0
    after = job_of("x", [first, again, done, late])
    assert (after.day, after.people, after.hours) == ("2026-09-22", 3, 9.0)


def test_luck_puts_one_car_in_fifty_off_its_promise_and_no_more():
    """Readings that lie as promised, drawn; and the figures by hand."""
    rng = np.random.default_rng(3)
    for n in (1, 3, 7, 16):
        p = rng.random((20_000, n))
        outside = ((p < 0.05) | (p > 0.95)).sum(axis=1)
        rarest = np.minimum(p, 1.0 - p).min(axis=1)
        found = [luck(n, int(k), float(r)) < ODD for k, r in zip(outside, rarest, strict=True)]
        assert np.mean(found) <= ODD + 0.003, n
    assert luck(3, 3) == pytest.approx(2 * 0.1**3)
    assert luck(10, 1) == 1.0
    assert luck(7, 1, 0.0001) == pytest.approx(2 * 2 * 7 * 0.0001), "one far outside is enough"


def squares(count, **more):
    """A job of so many panels of a square metre each, D taken."""
    box = ((0.0, 0.0), (1000.0, 0.0), (1000.0, 1000.0), (0.0, 1000.0))
    parts = tuple(CarPart(f"p{i}", "panel", box, area_m2=1.0, turn=i) for i in range(1, count + 1))
    return replace(car(), parts=parts, decided=("take", "D", ""), **more)


def test_days_worked_out_by_hand():
    """An hour of machine at 8 m/s² a square metre: breaks after 46.875 min, three panels a day."""
    pace = Pace(60.0, 1, 8.0, small=60.0)
    each = 60.0 + 1.0 + 1.0 / 0.36 + 2.0
    assert panel_minutes(squares(1).parts[0], pace) == pytest.approx(each)
    day = plan_day(squares(4), {"D": pace})
    first = 90.0
    second = first + each + 10.0 + 10.0  # a break within the first, one before the second
    third = second + each + 10.0 + 10.0
    assert [t.start for t in day.turns] == pytest.approx([first, second, third, 540.0])
    assert [t.minutes for t in day.turns] == pytest.approx([each + 10.0] * 4)
    assert (day.days, day.breaks, day.beyond) == (2, 6, ())
    assert day.a8[0] == pytest.approx(8.0 * np.sqrt(3.0 / 8.0))
    assert day.ends == pytest.approx(540.0 + each + 10.0)
    assert day.of(540.0) == (1, 0.0)
    assert day.of(539.0) == (0, 539.0)
    assert [t.checked for t in day.turns] == [False, False, False, True], "the fourth, and the last"
    more = [t.start for t in plan_day(squares(7), {"D": pace}).turns][3:]
    begun = [540.0, 540.0 + each + 20.0, 540.0 + 2 * (each + 20.0), 1080.0]
    assert more == pytest.approx(begun), "the second day as the first"
    two = plan_day(squares(4, people=2), {"D": pace})
    assert [(t.part, t.who, t.start) for t in two.turns][:2] == [("p1", 0, 90.0), ("p2", 1, 90.0)]
    assert two.days == 1
    assert [t.checked for t in plan_day(squares(5), {"D": pace}).turns][3:] == [True, True]
    left = plan_day(squares(4), {"D": pace}, still=["p3"])
    assert [t.part for t in left.turns] == ["p3"]
    calm = plan_day(squares(7), {"D": Pace(30.0, 1, 3.0, small=30.0)})
    gaps = [round(b.start - a.end) for a, b in pairwise(calm.turns)]
    assert gaps == [0, 0, 10, 0, 0, 10], "hardly shaking, a break after an hour and a half"
    wild = plan_day(squares(3), {"D": Pace(60.0, 1, 15.0, small=60.0)})
    assert wild.beyond == ("p1", "p2", "p3"), "each alone is past the limit"
    assert [t.start for t in wild.turns] == pytest.approx([540.0, 1080.0, 1620.0])
    assert wild.a8[0] == pytest.approx(15.0 / np.sqrt(8.0))
    just = plan_day(squares(2), {"D": Pace(60.0, 1, 14.0, small=60.0)})
    assert just.beyond == ()
    assert [t.start for t in just.turns] == pytest.approx([90.0, 540.0])


def test_panels_begin_once_a_combination_was_taken():
    """What is taken in the afternoon is no three hours late: panels are begun then."""
    pace = Pace(30.0, 1, 2.0, small=30.0)

    def begins(at, **more):
        job = squares(2, day="2026-09-20", taken_at=at, **more)
        day = plan_day(job, {"D": pace})
        return day.turns[0].start, day.prepare

    assert begins("2026-09-20T14:02:11") == (302.0, 302.0)
    assert begins("2026-09-20T09:10:00") == (90.0, 90.0), "not before it is prepared"
    assert begins("2026-09-20T21:00:00") == (540.0, 540.0), "the next morning"
    assert begins("2026-09-18T14:02:11") == (90.0, 90.0), "on another day, from its start"
    assert begins("2026-09-20T14:02:11", start="13:00") == (90.0, 90.0)
    noted = Note("a", "decided", {"what": "take", "rung": "D"}, "2026-09-20T14:02:11")
    assert job_of("x", [noted]).taken_at == "2026-09-20T14:02:11"


def test_a_panel_longer_than_a_day_goes_on_the_next():
    day = plan_day(squares(1, hours=3.0), {"D": Pace(300.0, 1, 2.0, small=300.0)})
    (turn,) = day.turns
    assert turn.start == 180.0, "it begins a day"
    assert turn.minutes > 180.0
    assert day.days == 3
    share = 180.0 / turn.minutes
    assert day.a8[0] == pytest.approx(2.0 * np.sqrt(share * 300.0 / 60.0 / 8.0))


def test_how_late_it_is_and_what_could_be_left_out_by_hand():
    pace = Pace(60.0, 1, 2.0, small=60.0)
    job = squares(3)
    day = plan_day(job, {"D": pace})
    first = day.turns[0]
    assert late(day, first.end).minutes == 0.0
    found = late(day, first.end + 30.0)
    assert (found.minutes, found.ends) == (30.0, pytest.approx(day.ends + 30.0))
    assert [part for part, _ in found.spare] == ["p3"], "the last one saves more than that"
    more = late(day, first.end + 70.0)
    assert [part for part, _ in more.spare] == ["p3", "p2"]
    assert late(day, first.start - 5.0).minutes == -5.0
    done = replace(job, parts=tuple(replace(p, done="D") for p in job.parts))
    assert late(plan_day(done, {"D": pace}), 9999.0) is None
    assert hour_of("08:30") == 8.5
    assert hour_of("noon") == 9.0
    assert hour_of("7") == 7.0


def test_where_a_square_panel_is_read():
    """The middle, near the corners, then the edges; what is near in one direction only is not."""
    part = squares(1).parts[0]
    assert [(p.x, p.y) for p in usual_places(part.outline)] == [
        *((0.5, 0.5), (0.2, 0.22), (0.8, 0.22), (0.8, 0.78), (0.2, 0.78)),
        *((0.5, 0.03), (0.97, 0.5), (0.5, 0.97), (0.03, 0.5)),
    ]
    beside = replace(part, survey=(FilmSpot(1.0, x=0.5, y=0.7), FilmSpot(1.0, x=0.3, y=0.5)))
    assert next_place(beside) == usual_places(part.outline)[0]
    half = replace(part, survey=(FilmSpot(1.0, x=0.5),))
    assert next_place(half) == usual_places(part.outline)[1], "half a place is none"
    assert near_edge(part.outline, 0.95, 0.5)
    assert not near_edge(part.outline, 0.9, 0.5)
    narrow = ((0.0, 0.0), (310.0, 0.0), (310.0, 2000.0), (0.0, 2000.0))
    bar = CarPart("bar", "bar", narrow, area_m2=0.62, turn=1)
    assert tight_m2(bar) == pytest.approx(0.04 * 4.62)
    slim = replace(bar, outline=((0.0, 0.0), (290.0, 0.0), (290.0, 2000.0), (0.0, 2000.0)))
    assert tight_m2(slim) == slim.area_m2


def test_what_is_to_be_laid_out_by_hand():
    """Open panels by clean pads of four sections each, tight places by small ones."""
    stage = Stage(pad="Fen", compound="Silt", machine="Mill", pad_mm=150.0)
    job = squares(3)
    tight = 3 * 0.04 * 4.0
    open_sections = math.ceil((3.0 - tight) / 0.36)
    small_sections = math.ceil(tight / (0.36 / 4))
    pads, weights = supply(job, {"D": [stage]}, 150.0, 75.0)
    assert pads == {
        "Fen": math.ceil(open_sections / 4),
        "Fen of 75 mm": math.ceil(small_sections / 4),
    }
    wanted = 0.0
    for size, sections in ((150.0, open_sections), (75.0, small_sections)):
        count = math.ceil(sections / 4)
        wanted += count * grams(size, fresh=True) + (sections - count) * grams(size)
    assert weights == pytest.approx({"Silt": wanted})
    assert supply(job, {"X": [stage]}, 150.0, 75.0) == ({}, {}), "nothing gets that"
    assert supply(replace(job, parts=()), {"D": [stage]}, 150.0, 75.0) == ({}, {})
