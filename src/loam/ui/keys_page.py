"""The page that lists the keys of every view, as they are declared there."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

from loam.app.presenters.path import STEPS
from loam.app.questions import questions
from loam.ui.views.judge.view import JudgeView

if TYPE_CHECKING:
    from loam.ui.window import MainWindow

_HEAD = """# Keys

Written by `./run keys` from what the views declare. What is shown depends on what is at hand
(here: the demo, its trial *Cut and finish*). **F1** lists the keys that work just now.
"""


_AT_HAND = (
    (re.compile(r"plan \d+"), "plan it"),
    (re.compile(r"try .*"), "try what was not tried yet"),
    (re.compile(r"\w+ clear"), "the next hardness"),
)


def keys_page(window: MainWindow, wait: Callable[[], object]) -> str:
    """Return the page; the window turns to every step of the path for it."""
    session = window.session
    session.choose(next(t.id for t in session.trials() if t.name == "Cut and finish"))
    parts = [_HEAD]
    for number, (step, label) in enumerate(STEPS, 2):
        window.go(step)
        wait()
        view = window.view
        shown = [(key, said) for key, said, _ in [*view.keys(), *view.more_keys()]]
        shown += view.sometimes
        parts.append(f"## F{number} {label}\n\n{_rows(shown)}")
        if isinstance(view, JudgeView):
            parts.append(f"### Its questions\n\n{_rows(_questions(view, wait))}")
    always = [(key, said) for key, said, _ in window.always()]
    parts.append(f"## Everywhere\n\n{_rows(always)}")
    return "\n".join(parts)


def _questions(view: JudgeView, wait: Callable[[], object]) -> list[tuple[str, str]]:
    """Return the letter of each question, then the keys of its page."""
    found: list[tuple[str, str]] = []
    for question in questions():
        view.to_ranking()
        wait()
        view.open_question(question.letter)
        wait()
        found.append((question.letter, question.label))
        page = view.questions.page
        own = page.keys() if page is not None else []
        found += [
            (f"{question.letter}, then {key}", _whatever(said))
            for key, said, _ in own
            if not key.startswith("Esc")
        ]
    view.to_ranking()
    wait()
    return found


def _whatever(said: str) -> str:
    """Say it of whatever is at hand, not of what the demo's readings come to."""
    return next((plain for found, plain in _AT_HAND if found.fullmatch(said)), said)


def _rows(keys: Iterable[tuple[str, str]]) -> str:
    rows = [f"| {key.replace('|', '/')} | {said} |" for key, said in keys]
    return "\n".join(["| key | what it does |", "|---|---|", *rows]) + "\n"
