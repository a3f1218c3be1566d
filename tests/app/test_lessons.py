"""The demo's lesson of wipes, judged: what each leaves lies where its truth is."""

import pytest

from loam.app.questions.ranking.masked import masked_in
from loam.core.dataset import trial_data, worked_only
from loam.core.judging import judge_readings
from loam.core.readings import kind_of
from loam.demo import truth
from loam.demo.lessons import which_wipe
from loam.store.snapshot import snapshot_of

GLOSS = kind_of("gloss20")


@pytest.fixture(scope="module")
def found():
    snapshot = worked_only(snapshot_of(which_wipe()))
    return masked_in(snapshot, judge_readings(trial_data(snapshot, "gloss20")), GLOSS, 0.2)


def test_what_each_wipe_leaves_lies_where_its_truth_is(found):
    left = {(f.product, f.wipe): f for f in found.left}
    hides = {p: hid for p, hid in truth.HIDES.items() if hid}
    assert {p for p, _ in left} == set(hides)
    inside = 0
    for product, hid in hides.items():
        for name, times, share in truth.TAKES:
            f = left[product, f"{name}{' twice' if times > 1 else ''}"]
            inside += f.most or f.low <= hid * (1.0 - share) <= f.high
    assert inside >= 7
    assert left["Loess 4", "Rinse A"].seen
    assert left["Loess 4", "Rinse P"].cells == 4, "after the first of two wipes, too"


def test_the_lesson_is_one_sentence_a_product_and_names_who_leads_unclean(found):
    said = [line for line in found.traps if " hid " in line]
    assert len(said) == 2
    assert said[0].startswith("Loess 4 hid 4")
    assert "Rinse A leaves 2" in said[0]
    assert "leads with filler on it: Rinse A left" in " ".join(found.traps)
