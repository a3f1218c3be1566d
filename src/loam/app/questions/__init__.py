"""The questions of Judge, a folder each: what it finds, says, tabulates, and rests on."""

from __future__ import annotations

from importlib import import_module

from loam.app.questions.question import Question

QUESTIONS = (
    "drivers",
    "stages",
    "price",
    "priorities",
    "influences",
    "seen",
    "doubts",
    "next_test",
    "all_trials",
)
"""The folders of those that stand in the row beside the ranking, in the order in which one asks."""


def questions() -> tuple[Question, ...]:
    """Return them."""
    return tuple(import_module(f"{__name__}.{folder}").QUESTION for folder in QUESTIONS)
