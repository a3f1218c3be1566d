"""The advice says what the ranking and the priorities say, in short sentences, on any trial."""

import re
import shutil
from dataclasses import replace

import pytest

from helpers.odd_trials import odd_trial
from loam.app.advising import DAILY, advised, aim_words, carried, kept_aim
from loam.app.questions.priorities.find import AIMS, Making, find_map, point_of, with_time
from loam.app.questions.ranking.find import judge_trial
from loam.core.advice import CLOSE, Chance, Wanted, advise, gaps
from loam.core.errors import LoamError
from loam.core.units import percent
from loam.core.verdicts import EQUAL, OPEN, SURE
from loam.store.combinations import combinations
from loam.store.panels import panels
from loam.store.take_in import write_draft
from loam.store.trials import trials
from loam.store.workshop import Workshop

WORDS = 25


def short(text: str) -> bool:
    """Whether no sentence is longer than 25 words."""
    return all(len(s.split()) <= WORDS for s in re.split(r"[.:;] ", text))


def rankings_of(path, trial):
    found = {}
    for m in (*trial.measurands, "removed"):
        try:
            found[m] = judge_trial(path, trial.id, m, trial.seed)
        except LoamError:
            continue
    return found


@pytest.fixture(scope="module")
def demo_rankings(demo_file, tmp_path_factory):
    path = tmp_path_factory.mktemp("advice") / "demo.loam"
    shutil.copy(demo_file, path)
    workshop = Workshop(path)
    try:
        every = trials(workshop.connection)
        making = {
            t.id: Making(
                combinations(workshop.connection, t.id),
                {p.hardness: p.taping for p in panels(workshop.connection, t.id)},
            )
            for t in every
        }
        return {t.name: (rankings_of(workshop.reads, t), making[t.id]) for t in every}
    finally:
        workshop.close()


def check(rankings, making, measurand, aim):
    """Hold every line of the advice against the ranking and the map below it."""
    ranking = rankings[measurand]
    found = advised(rankings, measurand, aim, AIMS, making)
    assert list(found) == [s.hardness for s in ranking.strips]
    mapped = None
    if aim is not None and carried(rankings):
        try:
            base = find_map({m: r.judgement for m, r in rankings.items()}, making)
            mapped = with_time(base, aim[1][3]) if base.timed or not aim[1][3] else None
        except LoamError:
            mapped = None
    for hardness, advice in found.items():
        own = ranking.judgement.on(hardness)
        assert short(advice.said()), advice.said()
        assert advice.among[0] == advice.use
        if mapped is not None and hardness in mapped.maps:
            goals = mapped.goals(hardness, point_of(aim[1]))
            first, chance = goals[0].combination, goals[0].p_best
            assert aim_words(aim[0]) in advice.surely or "Only" in advice.headline
        else:
            first, chance = own.leader.combination, own.leader.p_best
        assert advice.use == first
        if len(own.standings) > 1:
            assert str(percent(chance)).lower() in advice.surely.lower()
        if advice.headline.startswith("Use"):
            assert advice.headline.startswith(f"Use {first}")
            assert chance >= CLOSE or len(advice.among) == 1
    return found


def test_the_demo_is_advised_on_as_it_is_ranked(demo_rankings):
    rankings, making = demo_rankings["Cut and finish"]
    for aim in (*AIMS, None):
        for m in rankings:
            check(rankings, making, m, aim)
    daily = advised(rankings, "gloss20", DAILY, AIMS, making)
    assert daily["hard"].headline == "Use D, medium cut, polish."
    assert daily["hard"].because == (
        "B shines 0.7 GU more, which is not sure, but takes 1.6 µm more clear."
    )
    assert "show car" in daily["hard"].change
    assert daily["soft"].paid == "1.8 µm, 2 min a cell"
    alone = advised(rankings, "gloss20", None, AIMS, making)
    assert alone["hard"].use == "B"
    assert "for gloss 20°" in alone["hard"].surely
    close = advised(*demo_rankings["One-steps on soft"][:1], "gloss20", DAILY)
    assert close["soft"].headline == "A or E: too close to call."


def test_a_thin_film_enters_the_aim(demo_rankings):
    """What takes all that may go keeps nothing: it is not advised where clear is to be kept."""
    rankings, making = demo_rankings["Cut and finish"]
    judged = {m: r.judgement for m, r in rankings.items()}
    thin = next(a for a in AIMS if a[0] == "thin coat")
    wide = find_map(judged, replace(making, may_go=60.0))
    assert wide.criteria == find_map(judged, making).criteria, "so much never binds"
    tight = replace(making, may_go=2.0)
    assert find_map(judged, tight).criteria["removed"].nothing == pytest.approx(2.0)
    for hardness, advice in advised(rankings, "gloss20", thin, AIMS, tight).items():
        taken = rankings["removed"].judgement.on(hardness).standing(advice.use)
        assert taken.figures.estimate < 2.0
    none = find_map(judged, replace(making, may_go=0.0)).criteria["removed"]
    assert none.nothing > none.full, "the mildest is still worth something"
    chosen = find_map(judged, tight, limits={"removed": (9.0, 0.0)}).criteria["removed"]
    assert chosen.nothing == pytest.approx(9.0), "what the trainer chose holds"


def test_a_leader_with_filler_on_it_is_not_advised(demo_rankings):
    rankings, making = demo_rankings["Which wipe takes the fillers off"]
    found = advised(rankings, "gloss20", DAILY, AIMS, making)["soft"]
    assert found.headline == "Wipe A again before you choose."
    assert "is filler that Rinse A left" in found.because


def test_what_rests_on_one_panel_is_said_so(demo_rankings):
    rankings, making = demo_rankings["Motions on hard"]
    found = advised(rankings, "gloss20", DAILY, AIMS, making)["hard"]
    assert found.change.startswith("Seen on this panel")


@pytest.mark.parametrize("seed", [s for s in range(24) if s != 17])  # 26 combinations: slow
def test_odd_trials_are_advised_on_as_they_are_ranked(seed, tmp_path):
    path = tmp_path / "odd.loam"
    workshop = Workshop(path)
    with workshop.transaction() as db:
        trial_id = write_draft(db, odd_trial(seed).draft, workshop.now())
    trial = next(t for t in trials(workshop.connection) if t.id == trial_id)
    making = Making(
        combinations(workshop.connection, trial_id),
        {p.hardness: p.taping for p in panels(workshop.connection, trial_id)},
    )
    workshop.close()
    rankings = rankings_of(path, trial)
    for m in rankings:
        for aim in (DAILY, AIMS[4], None):
            check(rankings, making, m, aim)


def test_a_gap_points_the_way_of_its_figures(demo_rankings):
    for rankings, _ in demo_rankings.values():
        judged = {m: r.judgement for m, r in rankings.items()}
        kinds = {m: r.kind for m, r in rankings.items()}
        for m, judgement in judged.items():
            for own in judgement.classes:
                for a in own.standings[:3]:
                    for b in own.standings[:3]:
                        if a is b:
                            continue
                        gap = next(
                            g
                            for g in gaps(judged, kinds, own.hardness, a.combination, b.combination)
                            if g.measurand == m
                        )
                        more = a.figures.estimate > b.figures.estimate
                        assert gap.advised_higher == more
                        if gap.verdict not in (EQUAL, OPEN):
                            assert gap.better == (more == judgement.higher_is_better)


def test_close_chances_name_all_that_may_be_it():
    five = Wanted(
        "for daily work",
        tuple(Chance(c, p) for c, p in zip("ABCDE", (0.3, 0.25, 0.2, 0.15, 0.1), strict=True)),
    )
    found = advise("soft", five, {}, {}, {})
    assert found.headline == "A, B, C or two more: too close to call."
    assert found.surely == "A 30 %, B 25 % and C 20 % for daily work."
    sure = replace(five, chances=(Chance("A", 0.96), Chance("B", 0.04)))
    other = Wanted("for a show car", (Chance("B", 0.9), Chance("A", 0.1)))
    found = advise("soft", sure, {}, {}, {"A": "one-step"}, [sure, other])
    assert found.headline == "Use A, one-step."
    assert found.change == "For a show car rather B (90 %)."
    assert advise("soft", sure, {}, {}, {}, [sure]).change == "Every other aim chooses it too."
    assert SURE > CLOSE


@pytest.mark.parametrize(
    ("kept", "name"),
    [
        (None, "daily"),
        (["show", [0.7, 0.2, 0.1, 0.0]], "show"),
        (["", []], None),
        (["x", [1, 2]], "daily"),
        ("nonsense", "daily"),
        (["x", [float("inf"), 0, 0, 0]], "daily"),
        ([["a"], [0, 0, 0, 0]], "daily"),
    ],
)
def test_a_kept_aim_is_read_or_daily(kept, name):
    found = kept_aim(kept)
    assert (found[0] if found is not None else None) == name
