"""What drives the result, and what was not tried: a number plans the cells that test it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QKeyEvent, QPainter

from loam.app.questions.drivers import QUESTION
from loam.app.questions.drivers.find import DriversPicture
from loam.app.questions.drivers.sources import of_drivers
from loam.app.questions.next_test.find import TEST, plan_untried
from loam.app.questions.source import Sources
from loam.core.trial import free_code
from loam.core.words.verdict import counted
from loam.ui.views.base import CellView, Key
from loam.ui.views.judge.aside import Aside
from loam.ui.views.judge.drivers.paint import draw_drivers as paint_drivers
from loam.ui.views.judge.drivers.paint import least_height
from loam.ui.widgets.fields import unbroken


class DriversPage(Aside):
    """Pad, compound, machine and passes, taken apart for each hardness."""

    question = QUESTION
    teaches = "Here stands what makes the difference: pad, compound, machine, passes."
    found: DriversPicture | None

    def show_found(self) -> None:
        """Say what drives each hardness."""
        found = self.found
        if found is None:
            return
        label = self.owner.rankings[self.owner.measurand].label
        said = [f"What makes the difference in {label}?"]
        said += [f"{h.capitalize()}: {why}" for h, why in found.refused.items()]
        self.lead.setText(unbroken(" ".join(said)))
        more = ""
        if any(v.alone is not None for c in found.classes for w in c.levers for v in w.levels):
            more = (
                " Only together: from where each alone would put them (stroke) to where they are."
            )
        self.drawing.setMinimumHeight(least_height(found))
        self.small.setText(
            unbroken(
                "Length: the share of all differences. Whole tape: surely the largest. Pale: it may"
                f" be. Dashed: it need not be anything. Bars: likely ranges (90 %).{more}"
            )
        )

    def sources(self) -> Sources:
        """Parts, levels and what was not tried."""
        return of_drivers(self.found) if self.found is not None else {}

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw the levers."""
        if self.found is None:
            return []
        return paint_drivers(painter, area, self.found, self.drawing.chosen)

    def own_keys(self) -> list[Key]:
        """Return the key of the likeliest; the drawing has the numbers of the others."""
        return [
            ("1", f"try {u.short} on {own.hardness}", lambda: self.make(1))
            for own, u in (self.found.offers[:1] if self.found is not None else ())
        ]

    def make(self, number: int) -> None:
        """Make a combination of what was not tried, plan its test, and turn to the layout."""
        trial = self.owner.session.trial
        offers = self.found.offers if self.found is not None else ()
        if trial is None or not 1 <= number <= len(offers):
            return
        session = self.owner.session
        code = free_code(session.combinations())
        own, u = offers[number - 1]
        lead = next(c for c in session.combinations() if c.code == own.leader[0])
        act = plan_untried(
            trial,
            replace(u.combination, code=code),
            lead.id,
            own.hardness,
            session.panels(),
            session.cells(),
        )
        if self.owner.act(act):
            names = {p.id: p.name for p in session.panels()}
            where = names.get(act.wanted[0][0], "a new panel")
            self.owner.shell.go("layout")
            if isinstance(self.owner.shell.view, CellView) and act.assign is not None:
                self.owner.shell.view.choose(act.assign.after[0][0])
            self.owner.shell.say(
                f"{code} is a combination of this trial now: {counted(TEST)} cells of it beside"
                f" {lead.code} on {where}, in random places; Ctrl+Z takes it all back."
            )

    def typed(self, event: QKeyEvent) -> bool:
        """Try one by its number."""
        text = event.text()
        offers = self.found.offers if self.found is not None else ()
        if text.isdigit() and 1 <= int(text) <= len(offers):
            self.make(int(text))
            return True
        return False


PAGE = DriversPage
