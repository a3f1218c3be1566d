"""Plain words on the screen for the standard terms, and what each means: a small glossary.

The core, the doors, the files and the documents keep the standard terms; the screen says the plain
ones and has the term one key, or one pointing, away.
"""

from __future__ import annotations

import re
from dataclasses import dataclass


@dataclass(frozen=True)
class Word:
    """A plain word of the screen, its standard term, and what it means."""

    plain: str
    term: str
    means: str


GLOSSARY: tuple[Word, ...] = (
    Word("measurement", "measurand", "What is read: gloss 20°, haze, film, defects removed."),
    Word(
        "too close to call",
        "not settled",
        "The readings do not say which of the two is better: neither chance reaches 95 %.",
    ),
    Word(
        "sure",
        "chance to be best",
        "How often it comes out best when everything that is not known varies as it may.",
    ),
    Word(
        "likely range",
        "90 % interval",
        "The truth lies in it nine times in ten, as far as the readings and what is assumed say.",
    ),
    Word(
        "too small for the meter",
        "below the repeatability limit",
        "Two means of a cell differ by so much by repeating alone, once in twenty.",
    ),
    Word(
        "what matters", "indifference threshold", "A difference below it changes nothing for you."
    ),
    Word(
        "only together",
        "interaction",
        "What a pad does with one compound and not with another: no part alone explains it.",
    ),
    Word(
        "best value",
        "Pareto frontier",
        "Nobody gives more for less: all others are beaten in both.",
    ),
    Word(
        "luck",
        "p-value",
        "How often something as odd would turn up in trials where nothing is wrong.",
    ),
    Word("crosswise pass", "hatch", "Two section passes that cross each other."),
    Word(
        "evenly worked",
        "uniform dose",
        "The middle of a cell, where every spot gets the same work: put the meter there.",
    ),
    Word("levelled", "adjusted for the baseline", "As if all cells had started alike."),
    Word("assumed", "prior", "Taken from usual trials, because this one cannot show it."),
    Word("filler", "masking", "Gloss that a wipe takes back: marks were hidden, not removed."),
    Word("control", "control", "A cell that is not worked, to hold the others against."),
    Word("clear kept", "budget", "How much of the clear may still go, and how much is left."),
)

_SAID: tuple[tuple[re.Pattern[str], str], ...] = (
    (re.compile(r"\bnot settled between\b"), "too close to call between"),
    (re.compile(r"\bNot settled between\b"), "Too close to call between"),
    (re.compile(r"\bwhether (.+?) is not settled\b"), r"whether \1 is too close to call"),
    (re.compile(r"\bnot settled against\b"), "too close to call against"),
    (re.compile(r"\bnot settled\b"), "too close to call"),
    (re.compile(r"\bNot settled\b"), "Too close to call"),
    (re.compile(r"\bmeasurands\b"), "measurements"),
    (re.compile(r"\bmeasurand\b"), "measurement"),
    (re.compile(r"\b90 % intervals?\b"), "likely range (90 %)"),
    (re.compile(r"\bnobody gives more for less than\b"), "best value:"),
    (re.compile(r"\bthings are doubted\b"), "things to check"),
)


def plain(text: str) -> str:
    """Say a text of the core in the plain words of the screen."""
    for pattern, word in _SAID:
        text = pattern.sub(word, text)
    return text


def explained(text: str, most: int = 3) -> list[Word]:
    """Return the words of a text that the glossary explains, in the order of the text."""
    low = text.casefold()
    found = [(at, w) for w in GLOSSARY if (at := low.find(w.plain)) >= 0]
    return [w for _, w in sorted(found, key=lambda pair: pair[0])[:most]]
