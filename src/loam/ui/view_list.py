"""Each view's module and class; one is built when it is first turned to, or in an idle moment."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module

from loam.ui.views.base import Shell, View

VIEWS: dict[str, tuple[str, str]] = {
    "ask": ("loam.ui.views.ask.view", "AskView"),
    "kit": ("loam.ui.views.kit.view", "KitView"),
    "panels": ("loam.ui.views.panels.view", "PanelsView"),
    "layout": ("loam.ui.views.layout.view", "LayoutView"),
    "work": ("loam.ui.views.work.view", "WorkView"),
    "read": ("loam.ui.views.read.view", "ReadView"),
    "judge": ("loam.ui.views.judge.view", "JudgeView"),
    "apply": ("loam.ui.views.apply.view", "ApplyView"),
    "bring_in": ("loam.ui.views.bring_in.view", "BringInView"),
    "copies": ("loam.ui.views.copies_view", "CopiesView"),
    "cover": ("loam.ui.views.cover_view", "CoverView"),
    "settings": ("loam.ui.views.settings_view", "SettingsView"),
}


def build(step: str, shell: Shell) -> View:
    """Build a view."""
    module, name = VIEWS[step]
    view: View = getattr(import_module(module), name)(shell)
    return view


class Views(dict[str, View]):
    """The views built so far; asking for another builds it."""

    def __init__(self, make: Callable[[str], View]) -> None:
        super().__init__()
        self._make = make

    def __missing__(self, step: str) -> View:
        self[step] = self._make(step)
        return self[step]
