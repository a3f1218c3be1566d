"""What to test next: the cells that would settle most, and one key that plans them."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from loam.app.questions.next_test import QUESTION
from loam.app.questions.next_test.find import (
    PANEL_MIN,
    NextPicture,
    plan_of_tile,
)
from loam.app.questions.next_test.sources import of_next
from loam.app.questions.source import Sources
from loam.core.text import listed
from loam.ui.views.base import CellView, Key
from loam.ui.views.judge.aside import Aside, Work
from loam.ui.views.judge.next_test.paint import draw_next as paint_next
from loam.ui.views.judge.owner import Owner
from loam.ui.widgets.fields import unbroken


class NextPage(Aside):
    """Weighs further cells, panel by panel; Enter plans what is chosen."""

    question = QUESTION
    teaches = "Here stands which further cells would settle what is open."
    by_arrows = False
    found: NextPicture | None

    def __init__(self, owner: Owner) -> None:
        super().__init__(owner)
        self.chosen = 1

    def ask(self) -> Work | str:
        """Weigh what could be tested next; the best of it is chosen then."""
        self.chosen = 0
        return super().ask()

    def show_found(self) -> None:
        """Say what to test next."""
        found = self.found
        if found is None:
            return
        tiles = found.tiles
        if not self.chosen and tiles:
            best = max(range(len(tiles)), key=lambda i: tiles[i][1].advice.per_minute)
            self.chosen = best + 1
        worth = [c.hardness for c in found.classes if c.best is not None]
        asked = f"What next, for {found.kind.label}?"
        if not found.tiles:
            said = " ".join(found.said())
        elif worth:
            said = f"{asked} More cells are worth their time on {listed(worth)}."
        else:
            said = (
                f"{asked} Enough: what more cells would save is less than a tenth of what matters."
            )
        self.lead.setText(unbroken(said))
        self.small.setText(
            unbroken(
                "Saves: how much less taking the leader then loses on average. Settles: a verdict"
                " falls between the two; hatched: as equals. Places are drawn by lot."
                f" {PANEL_MIN:g} min for a new panel (assumed). Cells added after a look count as"
                " ahead only where a difference is ten times as likely as none."
            )
        )

    def sources(self) -> Sources:
        """Each advice: the two combinations that it would settle."""
        ranking = self.owner.rankings.get(self.owner.measurand)
        if self.found is None or ranking is None:
            return {}
        return of_next(self.found, ranking.judgement)

    def open_chosen(self) -> None:
        """Show what the advice that is chosen rests on."""
        self.open_figure(str(self.chosen))

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw the panels."""
        if self.found is None:
            return []
        return paint_next(painter, area, self.found, self.chosen)

    def own_keys(self) -> list[Key]:
        """Choose, and plan."""
        if self.found is None or not self.found.tiles:
            return []
        return [
            ("arrows", "choose", None),
            ("Enter", f"plan {self.chosen}", self.plan),
            ("F", "readings behind it", self.open_chosen),
        ]

    def choose(self, number: int) -> None:
        """Choose one."""
        count = len(self.found.tiles) if self.found is not None else 0
        if count:
            self.chosen = (number - 1) % count + 1
            self._present()

    def plan(self) -> None:
        """Make a plan of what is chosen, and turn to the layout."""
        found, session = self.found, self.owner.session
        trial = session.trial
        if found is None or trial is None or not 1 <= self.chosen <= len(found.tiles):
            return
        own, tile = found.tiles[self.chosen - 1]
        act = plan_of_tile(found, own, tile, trial, session.combinations(), session.panels())
        if self.owner.act(act):
            count = len(act.wanted)
            new = f", {len(act.new)} of them new" if act.new else ""
            panels = len({p for p, _ in act.wanted})
            self.owner.shell.go("layout")
            if isinstance(self.owner.shell.view, CellView) and act.assign is not None:
                self.owner.shell.view.choose(act.assign.after[0][0])
            self.owner.shell.say(
                f"{count} cell{'s' if count > 1 else ''} planned on {panels}"
                f" panel{'s' if panels > 1 else ''}{new}; Ctrl+Z takes them back."
            )

    def pressed(self, key: str) -> None:
        """Choose what was pressed."""
        self.choose(int(key))

    def typed(self, event: QKeyEvent) -> bool:
        """Choose by arrows or a number; Enter plans."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1}
        if event.key() in steps:
            self.choose(self.chosen + steps[Qt.Key(event.key())])
        elif event.text().isdigit() and event.text() != "0":
            self.choose(int(event.text()))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.plan()
        elif event.text().upper() == "F":
            self.open_chosen()
        else:
            return False
        return True


PAGE = NextPage
