"""The page that lists the keys of every view, as they are declared there."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

from loam.app.presenters.path import STEPS

if TYPE_CHECKING:
    from loam.ui.window import MainWindow

_HEAD = """# Keys

Written by `./run keys` from what the views declare. What is shown depends on what is at hand
(here: the demo, its trial *Cut and finish*). **F1** lists the keys that work just now.
"""


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
        parts.append(f"## F{number} {label}\n\n{_rows(shown)}")
    always = [(key, said) for key, said, _ in window.always()]
    parts.append(f"## Everywhere\n\n{_rows(always)}")
    return "\n".join(parts)


def _rows(keys: Iterable[tuple[str, str]]) -> str:
    rows = [f"| {key.replace('|', '/')} | {said} |" for key, said in keys]
    return "\n".join(["| key | what it does |", "|---|---|", *rows]) + "\n"
