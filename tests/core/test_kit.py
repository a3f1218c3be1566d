"""What is known of kit: how each fact is read, written and refused; a pad's life."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.errors import ValueRefused
from loam.core.kit import BY_SORT, SORTS, PadLife, after, check_facts, last_use, said
from loam.core.kit.facts import CLEAN, LOADED, MACHINE, RETIRED, speed_at
from loam.core.kit.life import BACK, RETIRE, WASHED, WORKED
from loam.core.units import QUANTITIES

FACTS = [(sort, fact) for sort in SORTS for fact in sort.facts]
GOOD = {
    "number": lambda f: (f.low + min(f.high, f.low + 40.0)) / 2,
    "whole": lambda f: 7,
    "choice": lambda f: f.choices[-1][0],
    "several": lambda f: [k for k, _ in f.choices[:2]],
    "yes": lambda f: False,
    "text": lambda f: "as new",
    "date": lambda f: "2026-02-28",
    "table": lambda f: [["1", 2000.0], ["max", 4800.0]],
}
BAD = {
    "number": ["x", math.nan, math.inf, True, None, -1e9],
    "whole": [1.5, -1, "3"],
    "choice": ["nothing like it", 3],
    "several": [["no"], "gloss20", 4],
    "yes": ["yes", 1],
    "text": [3, "a\x00b", "x" * 200],
    "date": ["2026-02-30", "5.9.2026", 20260905],
    "table": ["1=2", [["1"]], [[1, 2000]], [["1", math.nan]], [["1", 0]], [["1", 2.0]] * 21],
}


@pytest.mark.parametrize(("sort", "fact"), FACTS, ids=lambda x: x.key)
def test_every_fact_reads_back_as_it_was_written_and_refuses_what_cannot_be(sort, fact):
    value = GOOD[fact.how](fact)
    check_facts(sort.key, {fact.key: value})
    assert fact.read(fact.write(value)) == value
    assert fact.read("  ") is None
    assert fact.write(None) == ""
    for wrong in BAD[fact.how]:
        with pytest.raises(ValueRefused, match=r"."):
            check_facts(sort.key, {fact.key: wrong})
    assert sort.named(fact.label.upper()) == fact
    assert sort.named(fact.key) == fact


def test_limits_are_part_of_what_may_be():
    diameter = BY_SORT["pad-kind"].fact("diameter_mm")
    assert (diameter.read("10"), diameter.read("400")) == (10.0, 400.0)
    for text in ("9,9", "400.1"):
        with pytest.raises(ValueRefused, match="between 10 and 400 mm"):
            diameter.read(text)
    inches = QUANTITIES["size"][1]
    assert diameter.read("5", inches) == pytest.approx(127.0)
    assert diameter.write(127.0, inches) == "5"


def test_words_of_a_choice_are_taken_as_they_are_shown():
    made = BY_SORT["pad-kind"].fact("material")
    assert made.read("Firm Foam") == made.read("foam-firm") == "foam-firm"
    reads = BY_SORT["meter"].fact("reads")
    assert reads.read("gloss 20°; haze") == ["gloss20", "haze"]
    assert BY_SORT["disc"].fact("damp").read("No") is False
    with pytest.raises(ValueRefused, match="Use film, paper, foam"):
        BY_SORT["disc"].fact("backing").read("cork")


def test_the_dial_of_a_machine_is_a_table():
    dial = BY_SORT[MACHINE].fact("dial").read("1 = 2000; 2: 2700 ;max=4 800".replace(" 8", "8"))
    assert dial == [["1", 2000.0], ["2", 2700.0], ["max", 4800.0]]
    assert (speed_at(dial, " MAX "), speed_at(dial, "3"), speed_at(None, "1")) == (
        4800.0,
        None,
        None,
    )
    with pytest.raises(ValueRefused, match="'fast' is no step"):
        BY_SORT[MACHINE].fact("dial").read("fast")


def test_what_a_newer_version_knows_is_let_be():
    check_facts("light", {"flicker": [1, 2]})


@given(st.lists(st.sampled_from([WORKED, WASHED, RETIRE, BACK]), max_size=30))
def test_a_pads_life_adds_up(events):
    life, told = PadLife(), [("", {})]
    for event in events:
        life = after(life, event)
        facts = {
            "sets": life.sets,
            "since_wash": life.since_wash,
            "washes": life.washes,
            "state": life.state,
        }
        assert PadLife.of(facts) == life
        told.append(("", facts))
    assert life.sets == events.count(WORKED)
    assert life.washes == events.count(WASHED)
    since = events[len(events) - events[::-1].index(WASHED) :] if WASHED in events else events
    assert life.since_wash == since.count(WORKED)
    if events and events[-1] == RETIRE:
        assert life.state == RETIRED
    assert life.usable == (life.state == CLEAN)
    steps = [words for _, words in last_use(told)]
    assert steps[0] == "came to the shelf"
    assert steps.count("worked a set") == events.count(WORKED)


def test_a_pads_life_in_words():
    assert said(PadLife()) == "new"
    worked = after(after(PadLife(), WORKED), WORKED)
    assert (worked.state, said(worked)) == (LOADED, "loaded, 2 sets")
    clean = after(worked, WASHED)
    assert said(clean) == "clean, 2 sets, washed 1×"
    assert said(after(clean, RETIRE)) == "retired, 2 sets, washed 1×"
    assert after(after(worked, RETIRE), BACK) == worked
    assert said(after(PadLife(), RETIRE)) == "retired, never worked"
