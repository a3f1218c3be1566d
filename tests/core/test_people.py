"""Who worked and who read: in the model, and found when they are unlike the others."""

from dataclasses import replace

import numpy as np
import pytest

from helpers.faults import READERS, Shape, make
from loam.core.dataset import trial_data
from loam.core.doubts import doubts, without
from loam.core.doubts.heavy import Contrast, chances_apart, unlike
from loam.core.judging import judge_readings
from loam.core.prior import READER
from loam.core.trial import AFTER
from loam.core.words.doubts import doubt_sentence
from loam.core.words.verdict import notes
from loam.demo import truth
from loam.demo.lessons import class_of_six
from loam.store.snapshot import snapshot_of

SIX = Shape(("soft", "soft"), 4, 2, 3, 1, 6, 6, same=True)
CLASS = Shape(("soft", "soft", "soft"), 4, 3, 6, 1, 6, 6, same=True)
LIGHT = {"gloss20": 3.0, "haze": -0.2, "removed": -1.5, "defects": -0.8}
GROSS = {"gloss20": -6.0, "haze": 0.5, "removed": 3.0, "defects": 2.0}


def reads_high(made, reader, by):
    """Let a reader read gloss high by so much."""
    columns = made.snapshot.columns
    value = columns.value.copy()
    rows = columns.rows("gloss20", AFTER)
    value[rows] += by * (columns.reader[rows] == columns.readers.index(reader))
    return replace(made.snapshot, columns=replace(columns, value=value))


def test_a_reader_who_reads_high_is_named_and_nobody_else():
    made = make(3, "reader", shape=SIX)
    found = doubts(made.snapshot, made.extras)
    assert [(d.kind, d.subject) for d in found] == [("reader", made.subject)]
    said = doubt_sentence(found[0])
    assert said.startswith(f"{made.subject} reads unlike the other readers: ")
    assert "GU more gloss" in said


def test_correcting_for_a_reader_takes_what_he_reads_high_off_each_reading():
    made = make(3, "reader", shape=SIX)
    (found,) = doubts(made.snapshot, made.extras)
    after, _ = without(made.snapshot, made.extras, [found])
    before, columns = made.snapshot.columns, after.columns
    rows = before.rows("gloss20", AFTER)
    mine = before.reader[rows] == before.readers.index(made.subject)
    taken = before.value[rows] - columns.value[rows]
    assert np.all(taken[~mine] == 0.0)
    assert taken[mine] == pytest.approx(1.5, abs=0.5)


def test_a_class_of_six_with_one_who_presses_and_one_who_reads_high():
    """Both are named, and nobody else."""
    made = make(8, "hand", shape=CLASS, sizes=GROSS)
    snapshot = reads_high(made, "Peer", 1.8)
    found = {(d.kind, d.subject) for d in doubts(snapshot, made.extras)}
    assert found == {("hand", made.subject), ("reader", "Peer")}


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_class_that_is_well_is_let_be(seed):
    made = make(seed, shape=CLASS)
    assert doubts(made.snapshot, made.extras) == []


def test_a_light_hand_is_unlike_the_others_and_not_called_heavy():
    made = make(4, "hand", shape=Shape(people=3), sizes=LIGHT)
    (found,) = doubts(made.snapshot, made.extras)
    assert (found.kind, found.subject, found.unlike) == ("hand", made.subject, True)
    assert doubt_sentence(found).startswith(f"{made.subject} works unlike the others: ")
    gross = make(4, "hand", shape=Shape(people=3), sizes=GROSS)
    (found,) = doubts(gross.snapshot, gross.extras)
    assert found.subject == gross.subject


def test_the_chance_of_being_unlike_is_no_smaller_than_it_should_be():
    """People who differ as is assumed are called unlike no oftener than is said."""
    rng = np.random.default_rng(3)
    sd, noise, few = 0.3, 0.2, 0
    for _ in range(2000):
        found = {}
        for m in ("gloss20", "haze", "removed"):
            people = sd * np.sqrt(3.0 / rng.chisquare(3.0))
            found[m] = Contrast(
                people * rng.standard_normal() + noise * rng.standard_normal(), noise, sd, 3.0
            )
        few += unlike(found) < 0.05
    assert few < 130
    assert unlike({}) == 1.0
    assert chances_apart({}, 30.0) == []


def test_readers_are_a_term_of_the_model_where_they_are_noted():
    made = make(5, shape=SIX)
    data = trial_data(made.snapshot, "gloss20")
    assert set(data.factors[READER].names) == set(READERS)
    judged = judge_readings(data)
    assert judged.sd[READER] > 0.0
    assert judged.levels[READER] == 6
    bare = make(5, shape=replace(SIX, readers=0, same=False))
    plain = trial_data(bare.snapshot, "gloss20")
    assert READER not in plain.factors
    assert READER not in judge_readings(plain).sd


def test_where_one_person_reads_one_panel_the_difference_rests_on_how_readers_vary():
    """A combination that one reader read alone is held against others as far as readers agree."""
    made = make(6, shape=Shape(("soft", "soft"), 2, 4, 1, 1, 4, 2))
    columns = made.snapshot.columns
    combination = {c.id: c.combination_id for c in made.snapshot.cells}
    by = np.array([combination[int(c)] - 1 for c in columns.cell], dtype=np.intp)
    split = replace(made.snapshot, columns=replace(columns, reader=by, readers=("Maren", "Jory")))
    apart = judge_readings(trial_data(split, "gloss20"))
    alone = judge_readings(
        trial_data(replace(made.snapshot, columns=replace(columns, readers=("", ""))), "gloss20")
    )

    def wide(judged):
        pair = judged.classes[0].compare("A", "B")
        return pair.high - pair.low

    assert wide(apart) > 1.1 * wide(alone)
    assert any("How readers differ" in said for said in notes(apart))


def test_the_demos_class_of_six_has_its_two_found():
    found = {(d.kind, d.subject) for d in doubts(snapshot_of(class_of_six()))}
    assert found == {("hand", truth.HEAVY_HAND), ("reader", truth.READS_HIGH[0])}
