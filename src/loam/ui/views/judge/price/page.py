"""What the result costs: in clear, or in minutes."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QKeyEvent, QPainter

from loam.app.questions.price import QUESTION
from loam.app.questions.price.find import CLEAR, MINUTES, PricePicture, answer, spent_of
from loam.app.questions.price.sources import of_price
from loam.app.questions.source import Sources
from loam.core.readings import REMOVED
from loam.core.words.verdict import listed
from loam.ui.theme import look
from loam.ui.views.base import Key
from loam.ui.views.judge.aside import Aside, Work
from loam.ui.views.judge.owner import Owner
from loam.ui.views.judge.price.paint import draw_price as paint_price
from loam.ui.widgets.fields import unbroken

LEAST = 330
"""Height in which words, letters and depths do not meet, at the usual size of text."""


class PricePage(Aside):
    """What each combination gives for what it takes."""

    question = QUESTION
    teaches = "Here stands what each combination gives for the clear or the minutes it takes."
    found: PricePicture | None

    def __init__(self, owner: Owner) -> None:
        super().__init__(owner)
        self.of = CLEAR

    def rests_on(self) -> tuple[object, ...]:
        """The judgements, what is spent, and what is advised."""
        asked = self.owner.asked()
        advice = asked.advice if asked is not None else {}
        used = " ".join(f"{h}:{','.join(a.among)}:{a.wanted}" for h, a in advice.items())
        return (*super().rests_on(), self.of, used)

    def ask(self) -> Work | str:
        """Price the judgement at hand."""
        asked = self.owner.asked()
        if asked is None:
            return self.lack(self.owner.measurand) or "Nothing but film is read here."
        if REMOVED.key in self.owner.kinds.buttons and (lacks := self.lack(REMOVED.key)):
            return lacks
        if spent_of(asked) == MINUTES:
            self.of = MINUTES
            self._of = self.rests_on()
        of, tell = self.of, self.owner.shell.jobs.teller(self.name)
        return lambda: answer(asked, tell, of)

    def show_found(self) -> None:
        """Say what is worth its price."""
        found = self.found
        if found is None:
            return
        said = [] if found.classes else list(found.said())
        what = f"{found.coat} that it takes" if found.of == CLEAR else "minutes that a cell takes"
        self.lead.setText(
            unbroken(f"{found.kind.label.capitalize()} for the {what}. {' '.join(said)}".strip())
        )
        told = (
            "Further right is better, deeper is dearer. Dashed: best value, nobody gives more for"
        )
        told += " less. Struck out: another surely does."
        if found.of == MINUTES:
            told += " Minutes: the passes as planned, and one a stage to set up (assumed)."
        elif REMOVED.key not in self.owner.rankings:
            told += f" Film before and after work would show the {found.coat}."
        else:
            told += " What may go is half of an assumed or recorded coat, never below the floor."
        used = {c.used: c for c in found.classes if c.used}
        if used:
            told = f"Tape: advised {next(iter(used.values())).wanted}. {told}"
        if found.left_out:
            told += f" Not priced, for want of settings: {listed(found.left_out)}."
        self.small.setText(unbroken(told))
        self.drawing.setMinimumHeight(look.px(LEAST))

    def sources(self) -> Sources:
        """What each combination gives, and the clear that it takes."""
        return of_price(self.found, self.owner.rankings) if self.found is not None else {}

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw the notches."""
        return paint_price(painter, area, self.found) if self.found is not None else []

    def own_keys(self) -> list[Key]:
        """Turn between clear and minutes."""
        if REMOVED.key not in self.owner.rankings:
            return []
        return [
            ("T", "in minutes" if self.of == CLEAR else f"in {self.owner.session.coat}", self.turn)
        ]

    def turn(self) -> None:
        """Count in minutes, or in clear again."""
        self.of = MINUTES if self.of == CLEAR else CLEAR
        self.begin()

    def typed(self, event: QKeyEvent) -> bool:
        """Turn between clear and minutes."""
        if event.text().upper() == "T" and REMOVED.key in self.owner.rankings:
            self.turn()
            return True
        return False


PAGE = PricePage
