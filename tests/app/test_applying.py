"""A job on the demo's panels: what is promised, advised, learnt; alike everywhere it is said."""

import re
import shutil
from dataclasses import replace

import numpy as np
import pytest

from helpers.odd_trials import odd_trial
from loam.app.applying import stairs as worked_out
from loam.app.applying.again import notes_again
from loam.app.applying.at_hand import all_jobs, choose_job, job_at_hand, others_on, start_job
from loam.app.applying.cards import wall_cards
from loam.app.applying.doubted import cars_doubted
from loam.app.applying.rests import rests_on, trial_uid
from loam.app.applying.stairs import grounds_of, learnt_from, limits_of, work_out
from loam.app.applying.told import PRICES, alike, going_on, shown_words
from loam.app.commands import NoteJob, PutJobAway, StartJob
from loam.app.session import Session
from loam.core.errors import LoamError, NotEnough
from loam.core.ladder import Ladder, Rung
from loam.core.units import fixed
from loam.core.vehicle.adding import job_of
from loam.core.vehicle.day import Day, in_order, late, plan_day
from loam.core.vehicle.events import Note
from loam.core.vehicle.job import Reading
from loam.core.vehicle.particles import (
    CLEAR_TAKEN,
    DRAWS,
    READINGS_A_SPOT,
    measured_of,
    particles,
)
from loam.core.vehicle.supply import supply
from loam.demo.cars import ALLOTMENTS, LIFEBOAT, NORTH
from loam.store import jobs as job_store
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop
from loam.ui.views.apply.day_drawing import clock, late_words, shaken_words
from loam.ui.views.apply.stairs_drawing import price_words


@pytest.fixture(scope="module")
def told(demo_file):
    """The demo's cars and their ladders, worked out once."""
    session = Session(Workshop(demo_file))
    found = {}
    for row, job in all_jobs(session):
        rests = rests_on(demo_file, job.trial, [w.measurand for w in job.aim], job.chances)
        others = others_on(session, (row, job))
        found[row.name] = (job, rests, work_out(job, rests, others))
    session.close()
    return found


def test_the_demo_has_one_car_finished_one_at_its_second_spot_one_surveyed(told):
    assert set(told) == {NORTH, LIFEBOAT, ALLOTMENTS}
    assert told[NORTH][0].finished
    assert len(told[LIFEBOAT][0].spots) == 2
    assert not told[ALLOTMENTS][0].spots
    assert told[ALLOTMENTS][0].part("right wing").state == "again"
    hard = told[LIFEBOAT][2].classes
    assert hard["hard"] == max(hard.values()), "its clear answers like the hard one"


def test_what_is_said_beside_each_other_agrees(told):
    for job, rests, stairs in told.values():
        what, code = stairs.decision
        if what in ("take", "try"):
            assert f"{what.capitalize()} {code}" in stairs.advice
            assert stairs.schools[0].stairs[0].code == code, "the first stair is what is advised"
        chance = re.search(r"does this vehicle with (\S+ %)", stairs.advice)
        if chance:
            stair = stairs.schools[0].stairs[0]
            assert chance[1].replace("\u00a0", " ") == f"{round(100 * stair.reach)} %"
        for school in stairs.schools:
            assert school.stairs or school.why
            for s in school.stairs:
                assert s.low <= s.clear <= s.high
                assert s.clear == pytest.approx(stairs.removed[s.code][0])
        for spot in stairs.spots:
            out = [r.label for r in spot.rows if not r.inside]
            assert (" lie outside" in spot.words) == (len(out) > 1 and not spot.unlike)
            assert spot.words.startswith("As the panels promised") == (not out and not spot.unlike)
        shown = [r for s in stairs.spots for r in s.rows]
        count, inside = stairs.covered
        assert count >= len(shown)
        assert inside >= sum(r.inside for r in shown)
        assert sum(stairs.classes.values()) == pytest.approx(1.0)
        assert rests.codes
        if job.finished:
            assert going_on(job, stairs).startswith("Finished with D")


def test_what_takes_longer_than_wanted_or_was_not_wiped_says_so(told):
    job, rests, stairs = told[LIFEBOAT]
    assert not any("more than the" in n for n in stairs.notes)
    short = work_out(replace(job, minutes=60.0), rests)
    assert short.notes[0].startswith("It takes about ")
    assert "1.0 h that were wanted" in short.notes[0]
    spots = (*job.spots[:-1], replace(job.spots[-1], wiped=False))
    unwiped = work_out(replace(job, spots=spots), rests)
    assert "not wiped" in unwiped.spots[-1].words
    assert "not wiped" not in stairs.spots[-1].words


def test_what_lies_below_the_stairs_is_the_panel_with_least_room(told):
    for job, _, stairs in told.values():
        least = min(
            r.may_go for k, r in stairs.rooms.items() if r.may_go is not None and job.part(k).works
        )
        assert stairs.least.may_go == least


def test_simulated_vehicles_are_reached_as_often_as_is_said_and_cost_what_is_said(told):
    """200 vehicles drawn from the particles, and each way followed as it stands."""
    job, rests, _ = told[ALLOTMENTS]
    ground = grounds_of(job, rests, (25.0, 8.0), {})
    cloud = particles(ground, np.random.default_rng(3), DRAWS)
    rungs = [Rung(c, 6.0, 600.0) for c in rests.codes]
    ladder = Ladder(cloud, measured_of(ground), limits_of(job, rests), rungs, PRICES)
    plan = ladder.start().best
    assert plan.sequence
    rng = np.random.default_rng(4)
    costs, mild, reached = [], [], []
    least = ladder.schools()["least first"].sequence
    for _ in range(200):
        i = rng.choice(len(cloud.weights), p=cloud.weights)
        for sequence, held in ((plan.sequence, costs), (least, mild)):
            cost, got = 0.0, 0.0
            for k in sequence:
                cost += ladder.spot[i, k]
                if rng.random() < ladder.passes[i, k]:
                    cost += ladder.take[i, k]
                    got = ladder.met[i, k]
                    break
            else:
                cost += PRICES.give_up
            held.append(cost)
            if held is costs:
                reached.append(got)
    assert np.mean(reached) == pytest.approx(plan.reach, abs=0.1)
    assert abs(np.mean(costs) - plan.cost) < 3.0 * np.std(costs) / np.sqrt(200)
    assert np.mean(costs) <= np.mean(mild) + 2.0 * np.std(mild) / np.sqrt(200)


def test_nine_of_ten_simulated_spots_lie_where_they_should(told):
    """Coverage of what is promised, for vehicles of the model: 90 % of 400 readings."""
    job, rests, _ = told[ALLOTMENTS]
    ground = grounds_of(job, rests, None, {})
    cloud = particles(ground, np.random.default_rng(5), DRAWS)
    other = particles(ground, np.random.default_rng(6), 400)
    for q, own in enumerate(measured_of(ground)):
        noise = np.random.default_rng(7).standard_normal(len(cloud.weights)) * own.spot_sd
        seen = other.results[q][:, 0]
        seen = seen + own.spot_sd * np.random.default_rng(8).standard_normal(len(seen))
        low, high = np.quantile(cloud.results[q][:, 0] + noise, (0.05, 0.95))
        assert np.mean((seen >= low) & (seen <= high)) == pytest.approx(0.9, abs=0.05)


def test_a_class_of_no_chance_is_left_out(told):
    job, rests, _ = told[ALLOTMENTS]
    stairs = work_out(replace(job, chances={"hard": 1.0}, known=True), rests)
    assert stairs.classes == {"hard": 1.0}
    assert "Its clear is hard." in stairs.advice


def test_clear_is_assumed_from_the_dose_where_film_was_never_read(session, tmp_path):
    """Cut and finish as if nobody had had a gauge."""
    draft = read_draft(session.workshop.connection, session.trial_id)
    kept = tuple(r for r in draft.readings if r.measurand != "film")
    trial = replace(draft.trial, measurands=("gloss20", "haze", "defects"))
    cells = tuple(
        replace(c, baseline={m: v for m, v in c.baseline.items() if m != "film"})
        for c in draft.cells
    )
    workshop = Workshop(tmp_path / "no gauge.loam")
    with workshop.transaction() as db:
        copy = replace(draft, trial=trial, readings=kept, cells=cells)
        uid = trial_uid(db, write_draft(db, copy, workshop.now()))
    rests = rests_on(workshop.path, uid, ["defects", "haze"], {"medium": 1.0})
    assert CLEAR_TAKEN not in rests.promises
    assert set(rests.taken) == {"medium"}
    own = rests.taken["medium"]
    assert (own.mean > 0).all()
    assert (own.sd > 0).all()
    assert any("assumed from their dose" in n for n in rests.notes)
    uid_job = job_of("x", [Note("v", "vehicle", {"shape": "estate"})])
    stairs = work_out(replace(uid_job, chances={"medium": 1.0}), rests)
    k = rests.codes.index("D")
    assert stairs.removed["D"][0] == pytest.approx(own.mean[k], abs=0.2)
    workshop.close()


def test_aims_that_no_panel_answers_are_said(demo_file, told):
    job, _, _ = told[ALLOTMENTS]
    with pytest.raises(NotEnough, match="nothing is promised"):
        rests_on(demo_file, job.trial, ["clarity"], job.chances)
    rests = rests_on(demo_file, job.trial, ["defects", "clarity"], job.chances)
    assert rests.lacking == ("clarity",)
    with pytest.raises(NotEnough, match="not in this workshop"):
        rests_on(demo_file, "0" * 32, ["defects"], job.chances)
    none = replace(job, aim=())
    with pytest.raises(NotEnough, match="Nothing is wanted"):
        work_out(none, rests)


@pytest.mark.parametrize("seed", range(16))
def test_small_odd_trials_carry_a_car_or_say_what_they_lack(seed, tmp_path):
    workshop = Workshop(tmp_path / "odd.loam")
    with workshop.transaction() as db:
        trial = write_draft(db, odd_trial(seed).draft, workshop.now())
    session = Session(workshop)
    session.choose(trial)
    session.run(start_job(session, "Odd", "estate"))
    row, job = job_at_hand(session)
    said = ""
    try:
        rests = rests_on(workshop.path, job.trial, [w.measurand for w in job.aim], job.chances)
        said = work_out(job, rests).advice
    except LoamError as error:
        said = error.what
    else:
        assert "Survey its film" in said, "no film is read yet"
    assert said.strip()
    assert row.name == "Odd"
    session.close()


def test_what_is_noted_is_taken_back_and_done_again(session):
    row, job = job_at_hand(session)
    before = len(job.part("roof").film)
    session.run(NoteJob(row.id, [("film", {"part": "roof", "film_um": 119.0})], "film"))
    assert len(job_at_hand(session)[1].part("roof").film) == before + 1
    session.undo()
    assert len(job_at_hand(session)[1].part("roof").film) == before
    session.redo()
    assert len(job_at_hand(session)[1].part("roof").film) == before + 1
    session.run(PutJobAway(row.id))
    assert job_at_hand(session)[0].id != row.id
    session.undo()
    choose_job(session, row.id)
    assert job_at_hand(session)[0].id == row.id


def test_a_damaged_note_is_passed_over_and_named(session):
    db = session.workshop.connection
    row, _ = job_at_hand(session)
    with session.workshop.transaction():
        db.execute(
            "INSERT INTO job_note(uid, job_id, sort, facts, at) VALUES ('u', ?, 'film', ?, '')",
            (row.id, '{"part": "roof", "film_um": "thick"}'),
        )
        db.execute(
            "INSERT INTO job_note(uid, job_id, sort, facts, at) VALUES ('v', ?, 'film', '[1]', '')",
            (row.id,),
        )
    found = job_store.faults(db)
    assert any("roof" in f or "film" in f for f in found)
    assert len(found) == 2
    assert job_of("x", [Note("n", "unheard of", {})]).spots == ()


def test_a_car_that_comes_again_has_lost_what_was_taken(told):
    job, _, stairs = told[NORTH]
    again = job_of(
        "again", [Note(str(i), s, f) for i, (s, f) in enumerate(notes_again(job, stairs.removed))]
    )
    taken = stairs.removed["D"][0]
    roof = again.part("roof")
    assert roof.worked_um == pytest.approx(taken, abs=0.06)
    assert not roof.film, "film is read anew"
    assert again.part("left door") is None
    assert (again.trial, again.shape, again.keep_um) == (job.trial, job.shape, job.keep_um)
    third = job_of("third", [Note(str(i), s, f) for i, (s, f) in enumerate(notes_again(again, {}))])
    assert third.part("roof").worked_um == roof.worked_um
    odd, _, own = told[ALLOTMENTS]
    nailed = job_of(
        "x", [Note(str(i), s, f) for i, (s, f) in enumerate(notes_again(odd, own.removed))]
    )
    assert nailed.part("left sliding door").nails == odd.part("left sliding door").nails
    assert nailed.part("right wing").state == "again"


def test_earlier_cars_of_a_paint_line_say_how_hard_it_may_be(told):
    job, _, stairs = told[LIFEBOAT]
    north = replace(told[NORTH][0], paint="Fleet white")
    assert alike(job, [north], stairs) == {}, "no paint line is known of this one"
    like = alike(replace(job, paint=" fleet WHITE"), [north], stairs)
    assert like == pytest.approx(stairs.seen[NORTH])
    assert max(like, key=like.get) == "medium"


def test_what_comes_next_is_what_is_planned_next(told):
    """A roof that fits into no afternoon waits, and the sentence says so, as the strip shows it."""
    job, rests, stairs = told[LIFEBOAT]
    late_on = replace(
        job, decided=("take", "D", ""), day="2026-09-20", taken_at="2026-09-20T15:40:00"
    )
    said = going_on(late_on, stairs)
    order = in_order(late_on, plan_day(late_on, rests.paces))
    assert said.startswith(f"D is taken. Next: {order[0].key}, then {len(order) - 1} more.")
    assert order[0].key != "roof"
    assert "Roof waits for a morning: " in said
    early = replace(late_on, taken_at="2026-09-20T09:00:00")
    assert going_on(early, stairs).startswith("D is taken. Next: roof")
    unknown = tuple(replace(p, rung="Z") if p.key == "roof" else p for p in job.parts)
    said = going_on(replace(early, parts=unknown), stairs)
    assert "Roof waits: nobody knows how long it takes." in said


def test_where_two_days_meet_one_ends_and_the_other_begins():
    day = Day((), 90.0, 700.0, (0.0,), span=540.0)
    assert clock(day, 9.0, 539.0) == "17:59"
    assert clock(day, 9.0, 540.0) == "18:00"
    assert clock(day, 9.0, 540.0, starts=True) == "9:00 on day 2"
    assert clock(day, 8.5, 600.0) == "9:30 on day 2"
    assert (day.days, Day((), 90.0, 540.0, ()).days) == (2, 1)


def test_a_day_that_runs_late_says_so_early_and_what_could_be_left_out(told):
    job, rests, _ = told[NORTH]
    job = replace(job, parts=tuple(replace(p, done="") for p in job.parts))
    day = plan_day(job, rests.paces)
    first = day.turns[0]
    assert late(day, first.start + 1.0).minutes == 0.0
    assert late(day, first.start - 10.0).minutes == pytest.approx(-10.0)
    found = late(day, first.end + 40.0)
    assert found.minutes == pytest.approx(40.0)
    assert found.ends == pytest.approx(day.ends + 40.0)
    assert day.days > 1, "it is spread, so that nobody is shaken past the limit"
    assert all(a <= 5.0 for a in day.a8)
    assert sum(m for _, m in found.spare) >= 40.0
    assert late_words(day, 9.0, first.end + 40.0).startswith("40 min late: ends ")
    alone = plan_day(replace(job, people=1), rests.paces)
    assert alone.over
    assert "above the action value 2.5" in shaken_words(alone)
    assert shaken_words(replace(day, a8=(1.0, 2.4))) == ""
    done = replace(job, parts=tuple(replace(p, done="D") for p in job.parts))
    assert late(plan_day(done, rests.paces), 2000.0) is None
    pads, grams = supply(job, {"D": rests.rungs[rests.codes.index("D")].stages}, 150.0, 75.0)
    assert set(pads) == {"Bracken", "Fen medium", "Bracken of 75 mm", "Fen medium of 75 mm"}
    assert all(0.5 < g < 500 for g in grams.values())


def test_where_few_particles_are_left_more_are_drawn(told, monkeypatch):
    job, rests, _ = told[LIFEBOAT]
    rests = replace(rests)  # of its own: nothing of it is remembered
    drawn = []

    def counted(ground, rng, draws):
        drawn.append(draws)
        return particles(ground, rng, draws)

    monkeypatch.setattr(worked_out, "particles", counted)
    before = work_out(job, rests)
    assert drawn == [DRAWS, 8 * DRAWS], "two spots with film leave fewer than 50"
    monkeypatch.setattr(worked_out, "LEAST_ESS", 1.0)
    few = work_out(job, replace(rests))
    assert drawn[2:] == [DRAWS]
    work_out(replace(job, aim=job.aim[:1]), rests)
    assert drawn[3:] == [], "an aim that is moved draws nothing anew"
    assert few.decision == before.decision
    assert few.classes["hard"] == pytest.approx(before.classes["hard"], abs=0.2)


def test_panels_that_were_not_surveyed_are_named_and_the_thinnest_holds_the_others(told):
    job, rests, stairs = told[ALLOTMENTS]
    assert not any("Not surveyed" in n for n in stairs.notes)
    bare = replace(
        job, parts=tuple(replace(p, survey=()) if p.key == "roof" else p for p in job.parts)
    )
    assert any(
        n.startswith("Not surveyed, so nothing is said of roof")
        for n in work_out(bare, rests).notes
    )
    clear = {k: r.clear.mean for k, r in stairs.rooms.items() if r.may_go == stairs.least.may_go}
    assert stairs.least.clear.mean == min(clear.values())


def test_cards_for_the_wall_say_what_apply_says_and_cars_of_another_class_teach_nothing(
    told, demo_file
):
    job, _, stairs = told[LIFEBOAT]
    others = [told[NORTH][0]]
    cards = wall_cards(demo_file, job, others, "today", stairs.covered)
    assert [c.hardness for c in cards] == ["soft", "medium", "hard"]
    count, inside = stairs.covered
    for card in cards:
        assert f"{inside} of {count} readings" in card.sure
        first = card.stairs[0]
        assert card.start.code == first.code
        assert f"{first.code} does it" in card.sure
        assert len(card.settings) == len(card.start.stages)
        for step in card.stairs[1:]:
            assert step.code in card.more
            assert step.clear > first.clear
        assert "safety data sheet" in card.care.replace("\n", " ")
    measurands = [w.measurand for w in job.aim]
    hard = rests_on(demo_file, job.trial, measurands, {"hard": 1.0})
    known = replace(others[0], chances={"medium": 1.0}, known=True)
    assert learnt_from(hard, [known]) == {}, "a car of medium clear says nothing of hard"
    both = rests_on(demo_file, job.trial, measurands, {"hard": 0.5, "medium": 0.5})
    assert all(own.vehicles == 1 for own in learnt_from(both, [known]).values())


def test_photographs_count_as_readings_where_the_panels_were_read_by_them(told):
    """Otherwise they stand beside the promise, and move nothing."""
    job, rests, _ = told[LIFEBOAT]
    first = replace(job.spots[0], after=(), measured=(34.0, 5.0))
    seen = replace(job, spots=(first,))
    apart = work_out(seen, rests)
    assert [(r.label, r.low, r.error) for r in apart.spots[0].rows] == [
        ("by photographs", None, 5.0)
    ]
    assert apart.spots[0].rows[0].inside
    assert not apart.spots[0].tells
    assert apart.classes == work_out(replace(job, spots=()), rests).classes
    assert apart.covered == (0, 0), "of what nothing was promised, nothing lies inside"
    same = work_out(seen, replace(rests, scales={"defects": "photograph"}))
    row = same.spots[0].rows[0]
    assert row.value == pytest.approx(34.0)
    assert row.low < row.high
    typed = replace(first, measured=None, after=(Reading("defects", 34.0),) * READINGS_A_SPOT)
    by_eye = work_out(replace(job, spots=(typed,)), rests)
    assert same.classes == pytest.approx(by_eye.classes)
    assert same.classes != apart.classes


def test_the_way_that_is_advised_costs_least_of_all(told):
    """What each way costs in all is said below it; of those that begin, the advised is cheapest."""
    for job, _, stairs in told.values():
        begun = [s for s in stairs.schools if s.stairs]
        assert min(begun, key=lambda s: s.cost).cost == pytest.approx(begun[0].cost), job.name
        for school in begun:
            assert price_words(school)[-1] == f"all in all {fixed(school.cost, 1)} µm"
            assert school.cost >= 0.0
    assert any(note.startswith("All in all: clear, hours (0.3 µm each)") for note in stairs.notes)


def unlike_car(session, name=LIFEBOAT):
    """Let a spot of a car have come far otherwise than promised: nothing of the marks went."""
    row, job = next(h for h in all_jobs(session) if h[0].name == name)
    spot = job.spots[-1].uid
    notes = [
        ("read", {"spot": spot, "measurand": m, "value": v, "phase": "after"})
        for m, v in (*(("defects", 1.0),) * 12, *(("haze", 48.0),) * 8)
    ]
    session.run(NoteJob(row.id, notes, "an odd spot"))
    return row.id


def test_a_car_unlike_its_class_is_a_doubt_and_may_teach_nothing(demo_file, tmp_path):
    """It is found with its spot; left out it teaches nothing, and is still shown as it came."""
    session = Session(Workshop(shutil.copy(demo_file, tmp_path / "d.loam")))
    trial = next(t.id for t in session.trials() if t.name == "Cut and finish")
    path = session.workshop.path
    assert cars_doubted(path, trial) == (), "the demo's cars are as their class"
    assert cars_doubted(path, trial + 1) == (), "no car rests on that"
    job_id = unlike_car(session)
    (found,) = cars_doubted(path, trial)
    assert found.head == f"{LIFEBOAT} was unlike its class."
    assert found.told.spot.number == 2
    assert f"{found.outside} of its {found.read} readings" in found.evidence
    assert "counts in what the next cars" in found.effect
    held = next(h for h in all_jobs(session) if h[0].name == NORTH)
    others = others_on(session, held)
    rests = rests_on(path, held[1].trial, ["defects", "haze"], held[1].chances)
    with_it = learnt_from(rests, [held[1], *others])["defects"]
    assert work_out(held[1], rests, others).spots
    assert any(
        "Unlike its class: " + LIFEBOAT in s for s in shown_words(_lain(held, rests, others))
    )
    session.run(NoteJob(job_id, [("apart", {"on": 1})], "it teaches nothing"))
    others = others_on(session, held)
    without = learnt_from(rests, [held[1], *others])["defects"]
    assert without.vehicles == with_it.vehicles - 1
    newest = StartJob(
        "Wants what no panel showed",
        [
            ("vehicle", {"shape": "van"}),
            ("basis", {"trial": held[1].trial}),
            ("aim", {"measurand": "defects"}),
            ("aim", {"measurand": "haze"}),
            ("aim", {"measurand": "clarity", "at_least": 90.0}),
            ("check", {"part": "roof", "measurand": "clarity", "value": 91.0}),
        ],
    )
    session.run(newest)
    (found,) = cars_doubted(path, trial)
    assert found.job.apart
    assert "teaches nothing" in found.effect
    session.close()


def _lain(held, rests, others):
    return work_out(held[1], rests, others).lain
