"""What the eye still sees: shares with honest intervals, never mixed, and who leaves least."""

import numpy as np
import pytest

from loam.core.inspection import Looked, pale_words
from loam.core.seen import SeenIn, counts, judge_seen, leads_words, share_words


def squares(marked, of=64, defect="swirls", light="point"):
    return Looked(defect, light, "several", "grid", None, marked, of)


def by_eye(percent):
    return Looked("swirls", "point", "several", "eye", percent)


def simulated(rng, truth, cells=4, rho=0.05, of=64):
    found, n = [], 0
    for name, share in truth.items():
        size = (1.0 - rho) / rho
        for _ in range(cells):
            n += 1
            p = rng.beta(share * size, (1.0 - share) * size)
            found.append(SeenIn(n, "soft", name, squares(int(rng.binomial(of, p)), of)))
    return found


def test_intervals_hold_the_truth_nine_times_in_ten():
    rng, truth, inside, count = np.random.default_rng(3), {"A": 0.08, "B": 0.2, "C": 0.4}, 0, 0
    for _ in range(120):
        (found,) = judge_seen(simulated(rng, truth))
        for seen in found.seen:
            count += 1
            inside += seen.low <= truth[seen.combination] <= seen.high
    assert 0.86 <= inside / count <= 0.96


def test_who_leaves_least_is_said_as_surely_as_it_is():
    rng, hits, total, surely, wrong = np.random.default_rng(5), 0.0, 0, 0, 0
    for _ in range(120):
        truth = {c: float(rng.beta(2, 6)) for c in "ABC"}
        (found,) = judge_seen(simulated(rng, truth, cells=3))
        least = min(truth, key=truth.get)
        lead = found.seen[0]
        hits += (lead.combination == least) - lead.p_best
        total += 1
        for seen in found.seen[1:]:
            surely += seen.behind
            wrong += seen.behind and truth[seen.combination] < truth[lead.combination]
    assert abs(hits / total) < 0.12, "chances are what they say"
    assert wrong <= 0.08 * max(surely, 1)


def test_kinds_of_inspection_never_mix():
    found = [
        SeenIn(1, "soft", "A", squares(4)),
        SeenIn(2, "soft", "A", squares(40, light="strip", defect="texture")),
        SeenIn(3, "hard", "A", squares(9)),
        SeenIn(4, "soft", "A", by_eye(30.0)),
    ]
    judged = judge_seen(found)
    assert len(judged) == 4
    assert {(c.key, c.hardness) for c in judged} == {
        (("swirls", "point", "grid"), "soft"),
        (("texture", "strip", "grid"), "soft"),
        (("swirls", "point", "grid"), "hard"),
        (("swirls", "point", "eye"), "soft"),
    }


def test_the_last_look_of_a_reader_counts_and_two_readers_are_one_cell():
    twice = [SeenIn(1, "soft", "A", squares(60), "Ivo"), SeenIn(1, "soft", "A", squares(6), "Ivo")]
    (one,) = judge_seen(twice)
    assert (one.seen[0].marked, one.seen[0].cells) == (6.0, 1)
    (two,) = judge_seen([*twice, SeenIn(1, "soft", "A", squares(10), "Tam")])
    assert (two.seen[0].marked, two.seen[0].of, two.seen[0].cells) == (8.0, 64.0, 1)
    assert two.readers == ("Ivo", "Tam")


def test_a_deep_scratch_is_no_figure():
    deep = Looked("deep", "point", "one", "eye")
    assert counts(deep) is None
    assert judge_seen([SeenIn(1, "soft", "A", deep)]) == []
    assert counts(by_eye(35.0)) == (7.0, 20.0)


def test_one_combination_and_the_ends_of_the_scale_have_an_answer():
    (found,) = judge_seen([SeenIn(1, "soft", "A", squares(0)), SeenIn(2, "soft", "B", squares(64))])
    lead, other = found.seen
    assert (lead.combination, other.combination) == ("A", "B")
    assert 0.0 <= lead.low < lead.high < other.low < other.high <= 1.0
    assert other.behind
    assert leads_words(found.seen) == (
        f"under A least remains, {share_words(lead)}; under B surely more"
    )
    (alone,) = judge_seen([SeenIn(1, "soft", "A", squares(10))])
    assert leads_words(alone.seen).startswith("under A least remains")
    assert alone.seen[0].p_best == pytest.approx(1.0)


def test_the_same_inspections_in_any_order_give_one_result():
    found = simulated(np.random.default_rng(1), {"A": 0.1, "B": 0.3})
    assert judge_seen(found)[0].seen == judge_seen(found[::-1])[0].seen


def test_a_pale_panel_says_beforehand_what_eyes_see():
    assert pale_words("dark") == pale_words("") == ""
    assert "eyes see little" in pale_words("pale")
    assert "strip light" in pale_words("pale")
