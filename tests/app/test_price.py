"""What a result costs: its words against figures worked out here, and against the ranking."""

import re
import shutil
from dataclasses import replace
from types import SimpleNamespace

import pytest

from loam.app.advising import advised
from loam.app.presenters.depth import Allowed
from loam.app.questions.price import find
from loam.app.questions.price.find import CLEAR, MINUTES, PriceOf, PricePicture, find_price
from loam.app.questions.priorities.find import AIMS, Making
from loam.app.questions.ranking.find import judge_trial
from loam.core.price import Priced
from loam.core.units import percent
from loam.core.verdicts import BETTER, EQUAL, OPEN
from loam.store.combinations import combinations
from loam.store.panels import panels
from loam.store.trials import trials
from loam.store.workshop import Workshop

MEASURED = ("gloss20", "haze", "defects")


@pytest.fixture(scope="module")
def demo(demo_file, tmp_path_factory):
    """The demo's *Cut and finish*, judged: what its prices are made of."""
    path = tmp_path_factory.mktemp("price") / "demo.loam"
    shutil.copy(demo_file, path)
    workshop = Workshop(path)
    try:
        trial = next(t for t in trials(workshop.connection) if t.name == "Cut and finish")
        rankings = {
            m: judge_trial(workshop.reads, trial.id, m, trial.seed) for m in (*MEASURED, "removed")
        }
        made = combinations(workshop.connection, trial.id)
        tapings = {p.hardness: p.taping for p in panels(workshop.connection, trial.id)}
        yield SimpleNamespace(
            path=workshop.reads,
            trial=trial,
            rankings=rankings,
            combinations=made,
            making=Making(made, tapings),
        )
    finally:
        workshop.close()


def priced(demo, m, of=CLEAR, aim=AIMS[0]):
    advice = advised(demo.rankings, m, aim, AIMS, demo.making)
    return find_price(
        demo.path,
        demo.trial.id,
        demo.rankings[m].judgement,
        demo.rankings["removed"].judgement,
        demo.combinations,
        of,
        advice,
    )


def reads(judgement, hardness, code):
    return judgement.on(hardness).standing(code).figures.estimate


def near(said, wanted):
    """Whether a figure in words is another, to the digits that are said."""
    digits = len(said.partition(".")[2])
    return abs(float(said) - wanted) <= 0.51 * 10.0**-digits


@pytest.mark.parametrize("of", [CLEAR, MINUTES])
@pytest.mark.parametrize("m", MEASURED)
def test_what_a_step_gives_and_takes_is_what_the_ranking_says(demo, m, of):
    gained = r"([\d.]+) (?:GU|HU|points) (more|less)"
    steps = 0
    for aim in (*AIMS, None):
        found = priced(demo, m, of, aim)
        judged, removed = found.judgement, demo.rankings["removed"].judgement
        spent = r"([\d.]+) µm of clear more" if of == CLEAR else r"([\d.]+) min more"
        go = re.compile(rf"Go from (\w) to (\w) only where {gained} are worth {spent}\.")
        most = re.compile(rf"(\w) gives(?: most:)? {gained} than (\w), for {spent}\.")
        for own in found.classes:
            step = go.fullmatch(own.advice)
            if step:
                cheap, dear, amount, way, cost = step.groups()
            elif step := most.fullmatch(own.advice):
                dear, amount, way, cheap, cost = step.groups()
            else:
                continue
            steps += 1
            a, b = (reads(judged, own.hardness, c) for c in (cheap, dear))
            assert near(amount, found.kind.span(abs(b - a)))
            assert (way == "more") == (b > a)
            took = own.of(dear).cost[0] - own.of(cheap).cost[0]
            assert near(cost, took)
            if of == CLEAR:
                shown = [reads(removed, own.hardness, c) for c in (cheap, dear)]
                assert took == pytest.approx(shown[1] - shown[0], abs=0.02)
    assert steps >= 4


def test_how_often_it_lasts_is_what_may_go_over_what_it_takes(demo):
    for m in MEASURED:
        for own in priced(demo, m).classes:
            used = own.of(own.used)
            (times,) = re.findall(
                rf"^{own.used} lasts about (\d+) times on an assumed clear", own.lasts
            )
            assert int(times) == int(own.budget.may_go / used.cost[0])
            front = [p for p in own.priced if p.frontier]
            (left,) = re.findall(rf"lasts for {front[-1].name} about (\d+) times", own.sentence)
            assert int(left) == int(own.budget.may_go / front[-1].cost[0])
            beaten = [p for p in own.priced if p.beaten_by]
            if beaten:
                sure = percent(min(p.beaten for p in beaten))
                by = " and ".join(sorted({p.beaten_by for p in beaten}))
                assert f"beaten in both by {by} ({sure})" in own.sentence
            else:
                assert "beaten" not in own.sentence
        assert all(own.budget is None and not own.lasts for own in priced(demo, m, MINUTES).classes)


def made(demo, *each, used="", wanted="for daily work", may_go=None):
    """Return a picture of one hardness with combinations of (name, gain, cost, frontier, by)."""
    rows = tuple(
        Priced(n, (g, g - 0.6, g + 0.6), (c, c - 0.1, c + 0.1), front, by, 0.97 if by else 0.1)
        for n, g, c, front, by in each
    )
    budget = None if may_go is None else Allowed("Heron", "soft", may_go, "clear", True, 40.0)
    own = PriceOf("soft", "soft clear", rows, budget, True, "", used=used, wanted=wanted)
    return PricePicture(demo.rankings["gloss20"].judgement, CLEAR, (own,), ()), own


def ranked(*ties, verdict=OPEN):
    """Return what a ranking says of pairs: ties are open, or as given; all others lead."""

    def compare(a, b):
        return SimpleNamespace(verdict=verdict if {a, b} in ties else BETTER)

    return SimpleNamespace(compare=compare)


@pytest.mark.parametrize(
    ("each", "used", "ties", "said"),
    [
        (
            (("A", 88.0, 1.0, True, ""), ("B", 84.0, 2.0, False, "A")),
            "A",
            (),
            "Take A: it gives most and takes no more than any.",
        ),
        (
            (("A", 88.0, 1.0, True, ""), ("B", 87.9, 2.0, False, "")),
            "A",
            ({"A", "B"},),
            "A takes no more than any; whether it gives more than B is not settled.",
        ),
        (
            (("A", 84.0, 1.0, True, ""), ("B", 88.0, 2.5, True, "")),
            "A",
            (),
            "Go from A to B only where 4.0 GU more are worth 1.5 µm of clear more.",
        ),
        (
            (("A", 84.0, 1.0, True, ""), ("B", 84.2, 2.5, True, "")),
            "A",
            ({"A", "B"},),
            "Stay with A: whether B gives more than A for its 1.5 µm of clear more is not settled.",
        ),
        (
            (("A", 84.0, 1.0, True, ""), ("B", 84.2, 2.5, True, "")),
            "B",
            ({"A", "B"},),
            "Whether B gives more than A for its 1.5 µm of clear more is not settled.",
        ),
        (
            (("A", 84.0, 1.0, True, ""), ("B", 88.0, 2.5, True, ""), ("C", 87.9, 3.0, False, "")),
            "B",
            ({"B", "C"},),
            "B gives 4.0 GU more than A, for 1.5 µm of clear more.",
        ),
        (
            (("A", 84.0, 1.0, True, ""), ("B", 88.0, 2.5, True, ""), ("C", 87.0, 3.0, False, "")),
            "B",
            (),
            "B gives most: 4.0 GU more than A, for 1.5 µm of clear more.",
        ),
        (
            (("A", 84.0, 1.0, True, ""), ("B", 88.0, 2.5, True, ""), ("C", 87.0, 3.0, False, "B")),
            "C",
            (),
            "C leads for daily work; in this alone B gives more for less.",
        ),
        (
            (("A", 84.0, 1.0, True, ""), ("B", 88.0, 2.5, True, ""), ("C", 87.0, 3.0, False, "")),
            "C",
            (),
            "C leads for daily work; in this alone B may give more for less.",
        ),
        (
            (("A", 80.0, 1.0, True, ""), ("B", 84.0, 2.0, True, ""), ("C", 88.0, 4.0, True, "")),
            "",
            (),
            "Go from B to C only where 4.0 GU more are worth 2.0 µm of clear more.",
        ),
    ],
)
def test_the_advice_on_a_price(demo, each, used, ties, said):
    picture, own = made(demo, *each, used=used)
    assert find._advice(picture, own, ranked(*ties)) == said
    if "not settled" in said:  # who is as good is no step up either
        assert find._advice(picture, own, ranked(*ties, verdict=EQUAL)) == said


def test_what_a_clear_bears_is_said_of_what_is_used(demo):
    each = (("A", 84.0, 1.5, True, ""), ("B", 88.0, 4.0, True, ""))
    for used, name, times in (("A", "A", 13), ("", "B", 5)):
        _, own = made(demo, *each, used=used, may_go=20.0)
        assert find._lasts(own).startswith(f"{name} lasts about {times} times on an assumed clear")
    _, own = made(demo, *each, used="A", may_go=20.0)
    assert find.sets_words(own, own.priced[0]).startswith("12 to 13 times")
    assert find.sets_words(own, replace(own.priced[0], cost=(4.0, 4.0, 4.0))).startswith("5 times")
    assert find._lasts(replace(own, priced=(replace(own.priced[0], cost=(0.0, 0.0, 0.0)),))) == ""
    assert find._lasts(replace(own, budget=None)) == ""
    assert find.sets_words(replace(own, budget=None), own.priced[0]) == ""


def test_what_is_used_is_what_is_advised_and_the_table_says_what_is_drawn(demo):
    advice = advised(demo.rankings, "gloss20", AIMS[0], AIMS, demo.making)
    found = priced(demo, "gloss20")
    _, *rows = found.table()
    told = {(row[0], row[1]): row for row in rows}
    for own in found.classes:
        assert own.used == advice[own.hardness].use
        for p in own.priced:
            row = told[own.hardness, p.name]
            assert near(row[2], reads(found.judgement, own.hardness, p.name))
            assert [float(cell.split()[0]) for cell in row[3:6]] == [round(v, 1) for v in p.cost]
            assert (row[6] == "yes") == p.frontier
            assert row[7].startswith(p.beaten_by)
        beaten = [p.name for p in own.priced if p.beaten_by]
        if beaten:
            assert f" {'is' if len(beaten) == 1 else 'are'} beaten in both" in own.sentence
