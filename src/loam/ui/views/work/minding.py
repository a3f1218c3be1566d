"""What is to be minded while a panel is worked: how deep it goes, how it is built, its marks."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from loam.app.presenters.depth import TOO_DEEP, budgets_at_hand, depth_care, panel_care
from loam.app.presenters.work_words import care_words
from loam.app.presenters.working import Working
from loam.app.session import Session
from loam.app.workshop_kp import kp_at
from loam.core.removal import Known
from loam.core.trial import Panel
from loam.ui.views.base import Shell


class Minding:
    """Words in the care colour below the work; ``changed`` is called when more is known."""

    def __init__(self, shell: Shell, changed: Callable[[], None]) -> None:
        self.shell, self.changed = shell, changed
        self.known: Known | None = None

    @property
    def session(self) -> Session:
        """The trial at hand."""
        return self.shell.session

    def learn(self) -> None:
        """Find out what earlier trials measured of how deep a combination goes."""
        path, found = self.session.workshop.reads, budgets_at_hand(self.session)
        stages = {c.code: c.stages for c in self.session.combinations() if c.stages}

        def learn() -> Known:
            known = kp_at(path)
            depth_care(stages, found, known)  # the doses are kept: here they keep nobody waiting
            return known

        self.shell.jobs.start("kp", learn, self._learnt, lambda _error: None)

    def _learnt(self, known: Known) -> None:
        if known != self.known:
            self.known = known
            self.changed()

    def of_cell(self, state: Working, *, blind: bool) -> str:
        """Say what is to be minded on the cell that is worked."""
        code = state.combination.code
        care = panel_care(self.session, state.panel, [state.combination], self.known)
        if blind:
            care = care.replace(f"{TOO_DEEP}: {code} ", f"{TOO_DEEP}: it ", 1)
            care = care.replace(f"{code} works a place", "It works a place", 1)
        return _joined([marked(state.marks), care, care_words(state)])

    def of_panel(self, panel: Panel) -> str:
        """Say what is to be minded before a panel is worked."""
        laid = {c.combination_id for c in self.session.cells_of(panel.id)}
        own = [c for c in self.session.combinations() if c.id in laid]
        return panel_care(self.session, panel, own, self.known)


def marked(marks: Iterable[str]) -> str:
    """Say what was marked; "" for nothing."""
    said = ", ".join(marks)
    return f"Marked: {said}." if said else ""


def _joined(parts: Iterable[str]) -> str:
    return " ".join(part for part in parts if part)
