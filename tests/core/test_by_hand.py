"""A balanced trial whose every figure is worked out by hand, and tables of what is written down."""

import numpy as np
import pytest

from loam.core.plain_rank import judge
from loam.core.readings import KINDS
from loam.core.readings.slip import unlike
from loam.core.text import check_text, plain
from loam.core.trial_rows import Coded, TrialData

FIGURES = {
    "gloss20": ("GU", 1, 0.4),
    "gloss60": ("GU", 1, 0.4),
    "gloss85": ("GU", 1, 0.4),
    "haze": ("HU", 1, 1.0),
    "clarity": ("DOI", 1, 0.4),
    "film": ("µm", 1, 1.0),
    "removed": ("µm", 1, 1.4),
    "defects": ("%", 0, 3.0),
    "temperature": ("°C", 1, 0.5),
}

CELLS = {
    "A": [[88.0, 88.4], [87.0, 87.2], [88.6, 88.2]],
    "B": [[84.1, 84.5], [85.5, 85.3], [84.8, 84.4]],
}


def one_way():
    y, combo, cell = [], [], []
    for name, cells in CELLS.items():
        for i, values in enumerate(cells):
            y += values
            combo += [name] * len(values)
            cell += [f"{name}{i}"] * len(values)

    def coded(values):
        names = sorted(set(values))
        return Coded(np.array([names.index(v) for v in values], dtype=np.intp), tuple(names))

    return TrialData(
        "gloss20", np.array(y), coded(["hard"] * len(y)), coded(combo), {"cell": coded(cell)}
    )


def test_a_balanced_one_way_trial_is_what_the_textbook_says():
    """Two combinations, three cells each, two readings a cell: the nested analysis of variance.

    Cell means: A 88.2, 87.1, 88.4; B 84.3, 85.4, 84.6. Means 87.9 and 84.7667. Sum of squares of
    cells within combinations: 2 (0.09 + 0.64 + 0.25 + 0.2178 + 0.4011 + 0.0278) = 3.2533 on 4
    degrees, mean square 0.81333; standard error of a mean sqrt(0.81333 / 6) = 0.36818, of the
    difference 0.52068; t for 90 % on 4 degrees is 2.13185.
    """
    found = judge(one_way(), random=("cell",))
    (result,) = found.results
    a, b = result.effects
    assert (a.combination, b.combination) == ("A", "B")
    assert a.estimate == pytest.approx(87.9)
    assert b.estimate == pytest.approx(84.7666667)
    for effect in (a, b):
        assert effect.se == pytest.approx(0.368178, rel=1e-4)
        assert effect.df == pytest.approx(4.0, rel=1e-4)
    contrast = result.contrast("A", "B")
    assert contrast.estimate == pytest.approx(3.1333333)
    assert contrast.se == pytest.approx(0.520683, rel=1e-4)
    assert contrast.df == pytest.approx(4.0, rel=1e-4)
    half = 2.131847 * 0.368178
    assert (a.low, a.high) == pytest.approx((87.9 - half, 87.9 + half), abs=1e-4)
    half50 = 0.740697 * 0.368178
    assert (a.low50, a.high50) == pytest.approx((87.9 - half50, 87.9 + half50), abs=1e-4)


def test_what_does_not_matter_is_the_repeatability_limit_of_the_trial():
    """Squares within cells: 2 d²/2 each, d 0.4, 0.2, 0.4, 0.4, 0.2, 0.4: 0.36 on 6 degrees."""
    found = judge(one_way(), random=("cell",))
    assert found.delta == pytest.approx(2.8 * np.sqrt(0.36 / 6), rel=1e-6)


def test_every_measurand_has_its_unit_digits_and_repeatability():
    assert {k.key: (k.unit, k.decimals, k.repeatability) for k in KINDS} == FIGURES


@pytest.mark.parametrize(
    ("near", "middle"), [([80.0, 84.0], 82.0), ([80.0, 81.0, 84.0], 81.0), ([90.0], 90.0)]
)
def test_the_reach_of_a_cell_is_taken_from_its_median(near, middle):
    """A tenth of the median beyond the ends."""
    kind = next(k for k in KINDS if k.key == "gloss20")
    top = max(near) + 0.1 * middle
    assert unlike(top - 1e-6, near, [], kind) is None
    assert unlike(top + 1e-6, near, [], kind) is not None


@pytest.mark.parametrize(
    "letter",
    [
        chr(c)
        for c in (
            0,
            9,
            10,
            31,
            0x7F,
            0x80,
            0x9F,
            0x2028,
            0x2029,
            0x202A,
            0x202E,
            0x2066,
            0x2069,
            0x200E,
            0x200F,
            0xFEFF,
            0xD800,
            0xDFFF,
        )
    ],
)
def test_letters_that_cannot_be_seen_are_refused_in_names(letter):
    with pytest.raises(Exception, match="cannot be seen"):
        check_text(f"a{letter}b", "a name")
    assert plain(f"a{letter}b") == "ab"


SEEN = (
    " ",
    "~",
    "\xa0",
    "\u2027",
    "\u202f",
    "\u2065",
    "\u206a",
    "é",
    "日",
    "\U0001f600",
    "\u200d",
    "\u2010",
    "\ud7ff",
    "\ue000",
)


@pytest.mark.parametrize("letter", SEEN)
def test_letters_that_can_be_seen_or_join_are_kept(letter):
    assert check_text(f"a{letter}b", "a name") == f"a{letter}b"


def test_lines_and_tabs_may_stand_in_a_note_only():
    assert check_text("a\n\tb", "a note", lines=True) == "a\n\tb"
    with pytest.raises(Exception, match="cannot be seen"):
        check_text("a\rb", "a note", lines=True)


@pytest.mark.parametrize(("length", "most", "good"), [(10, 10, True), (11, 10, False)])
def test_a_name_has_a_longest_length(length, most, good):
    if good:
        assert check_text("x" * length, "a name", most)
    else:
        with pytest.raises(Exception, match="11 letters; 10 is the most"):
            check_text("x" * length, "a name", most)
    assert plain("y" * 500) == "y" * 120
