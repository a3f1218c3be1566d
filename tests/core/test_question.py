"""The question as a sentence: composed and taken apart again."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.question import BY_KEY, KINDS, OWN, compose, parse


@pytest.mark.parametrize(
    ("key", "subject", "text"),
    [
        ("best", "one-step", "Which one-step is best?"),
        ("earns", "a middle stage", "Does a middle stage earn its clear?"),
        ("claim", "Grist 9", "Does Grist 9 do what is claimed?"),
        ("wipe", "Rinse A", "Does Rinse A take the fillers off?"),
        ("factor", "the pad", "What difference does the pad make?"),
        ("gauge", "the gloss meter", "How well does the gloss meter repeat?"),
        ("people", "Ivo and Tam", "Do Ivo and Tam read alike?"),
        ("holds", "the house process", "Does the house process still hold?"),
        ("own", "Orbital or rotary?", "Orbital or rotary?"),
        ("best", "Orbital or rotary?", "Orbital or rotary?"),
        ("best", "  cut   and finish ", "Which cut and finish is best?"),
        ("best", "   ", ""),
        ("own", "", ""),
    ],
)
def test_a_question_is_composed(key, subject, text):
    assert compose(BY_KEY[key], subject) == text


@pytest.mark.parametrize("text", ["Which is best?", "Does earn its clear?", "Which one?", "", "x"])
def test_what_follows_no_known_way_is_in_own_words(text):
    assert parse(text) == (OWN, text)


@given(st.sampled_from(KINDS), st.text(st.characters(categories=["L", "N"]), min_size=1))
def test_what_was_composed_is_taken_apart_again(kind, subject):
    found, words = parse(compose(kind, subject))
    if kind is OWN:
        assert compose(found, words) == compose(kind, subject)
    else:
        assert (found, words) == (kind, " ".join(subject.split()))
