"""Sentences are results: each kind of outcome has its own, tested like a number."""

import numpy as np
import pytest

from helpers.reference import coded
from loam.core.plain_rank import judge
from loam.core.stats.fit import Dropped
from loam.core.trial_rows import TrialData
from loam.core.words.result import _dropped_note, hardness_sentence, listed, notes, sentence


def trial(
    means,
    *,
    hardness="hard",
    cells=6,
    readings=4,
    sd_cell=0.3,
    seed=3,
    measurand="gloss20",
    higher=True,
):
    rng = np.random.default_rng(seed)
    rows = []
    for name, mean in means.items():
        for c in range(cells):
            level = mean + rng.normal(0, sd_cell)
            for _ in range(readings):
                rows.append((hardness, name, f"P{c % 3}", f"{name}{c}", level + rng.normal(0, 0.2)))
    h, c, p, cell, y = zip(*rows, strict=True)
    factors = {"cell": coded(cell), "panel": coded(p), "operator": coded(["o"] * len(y))}
    return TrialData(measurand, np.array(y), coded(h), coded(c), factors, None, higher)


def said(means, **options):
    delta = options.pop("delta", 1.0)
    return sentence(judge(trial(means, **options), delta=delta))


def test_one_leader_is_said_with_its_lead():
    text = said({"A": 88.0, "B": 84.0, "C": 80.0})
    assert text.startswith("On hard clear, A is best for gloss, ")
    assert text.endswith(" GU ahead of B.")
    lead = float(text.split("gloss, ")[1].split(" GU")[0])
    assert lead == pytest.approx(4.0, abs=0.6)


def test_two_equals_beat_the_rest():
    text = said({"A": 88.0, "B": 88.0, "C": 80.0}, sd_cell=0.1)
    assert "are equal for gloss within 1.0 GU; both beat the rest." in text


def test_three_equals_beat_the_rest():
    text = said({"A": 88.0, "B": 88.0, "C": 88.0, "D": 80.0}, sd_cell=0.05)
    assert "are equal for gloss within 1.0 GU; all of them beat the rest." in text


def test_what_is_open_is_not_called_equal():
    text = said({"A": 88.0, "B": 87.2, "C": 80.0}, cells=2, sd_cell=1.0)
    assert "cannot be told apart yet for gloss" in text
    assert "equal" not in text


def test_nothing_settled_is_said_of_all():
    text = said({"A": 88.0, "B": 87.6}, cells=2, sd_cell=2.0, delta=0.2)
    assert text == "On hard clear, nothing is settled for gloss yet: A and B are all still open."


def test_a_single_combination_has_nothing_to_be_compared_with():
    text = said({"A": 88.0})
    assert text == ("On hard clear, only A was tested, so there is nothing to compare it with.")


def test_less_is_better_is_said_in_the_unit_of_the_measurand():
    text = said({"A": 4.0, "B": 1.5}, measurand="removed", higher=False)
    assert text.startswith("On hard clear, B is best for clear removed, 2.")
    assert " µm ahead of A." in text


def test_a_long_best_group_names_the_first_and_counts_the_rest():
    means = {f"C{i}": 88.0 - 0.01 * i for i in range(8)}
    text = said(means, sd_cell=0.02)
    assert "and 4 more are equal" in text


def test_the_hardest_class_comes_first():
    both = [
        trial({"A": 88.0, "B": 84.0}, hardness=h, seed=i) for i, h in enumerate(("soft", "hard"))
    ]
    joined = TrialData(
        "gloss20",
        np.concatenate([b.y for b in both]),
        coded(["soft"] * both[0].y.size + ["hard"] * both[1].y.size, ["soft", "hard"]),
        coded([b.combination.names[i] for b in both for i in b.combination.codes]),
        {
            "cell": coded(
                [
                    f"{k}{b.factors['cell'].names[i]}"
                    for k, b in enumerate(both)
                    for i in b.factors["cell"].codes
                ]
            ),
            "panel": coded(
                [
                    f"{k}{b.factors['panel'].names[i]}"
                    for k, b in enumerate(both)
                    for i in b.factors["panel"].codes
                ]
            ),
        },
    )
    result = judge(joined, random=("cell", "panel"), delta=1.0)
    text = sentence(result)
    assert text.index("On hard clear") < text.index("On soft clear")
    assert hardness_sentence(result, result.results[0]) in text


@pytest.mark.parametrize(
    ("dropped", "words"),
    [
        (Dropped("baseline", "no spread"), "it is the same everywhere"),
        (Dropped("baseline", "same as the combinations"), "each combination had its own"),
        (Dropped("operator", "one level"), "Only one operator"),
        (Dropped("cell", "same as the readings"), "cannot be told from the scatter of the meter"),
        (Dropped("panel", "same as the combinations"), "nothing is said across classes"),
        (Dropped("day", "same as the combinations"), "Each combination had its own day"),
        (Dropped("day", "same as panel"), "Days cannot be told from panels."),
        (Dropped("reading", "all alike"), "each cell counts once"),
    ],
)
def test_everything_left_out_has_its_own_plain_words(dropped, words):
    text = _dropped_note(dropped)
    assert words in text
    assert text.endswith(".")


def test_notes_and_sentences_use_no_exclamation_and_no_code():
    result = judge(trial({"A": 88.0, "B": 84.0}, cells=2))
    for text in (sentence(result), *notes(result)):
        assert "!" not in text
        assert "_" not in text
        assert text[0].isupper()


def test_lists_are_joined_as_spoken():
    assert [listed(x) for x in ([], ["A"], ["A", "B"], ["A", "B", "C"])] == [
        "",
        "A",
        "A and B",
        "A, B and C",
    ]


def test_who_alone_beats_the_rest_is_named_alone():
    """A is well known and beats C; B rests on two cells far apart and is open against both."""
    rng = np.random.default_rng(4)
    cells = {"A": [88.0] * 8, "B": [89.5, 83.5], "C": [85.5] * 8}
    y, combo, cell = [], [], []
    for name, levels in cells.items():
        for i, level in enumerate(levels):
            for _ in range(4):
                y.append(level + rng.normal(0, 0.2))
                combo.append(name)
                cell.append(f"{name}{i}")
    data = TrialData(
        "gloss20",
        np.array(y),
        coded(["hard"] * len(y), ["hard"]),
        coded(combo),
        {"cell": coded(cell)},
    )
    result = judge(data, random=("cell",), delta=0.5)
    best = result.results[0].best
    assert "C" not in best
    verdicts = {b: result.results[0].verdict(b, "C") for b in best}
    assert verdicts["A"] == "a better"
    assert verdicts["B"] == "not settled"
    assert sentence(result).endswith("; only A beats all the rest.")


def test_a_lead_is_said_with_one_digit_even_where_the_meter_shows_none():
    text = said({"A": 70.0, "B": 90.5}, measurand="defects")
    lead = text.split(", ")[-1].split(" ")[0]
    assert lead.startswith("20.")
    assert len(lead) == 4
    assert text.endswith(" % ahead of A.")
