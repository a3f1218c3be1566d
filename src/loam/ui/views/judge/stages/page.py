"""What each stage adds, from damaged to finished; the arrows turn to another hardness."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from loam.app.questions.source import Sources
from loam.app.questions.stages import QUESTION
from loam.app.questions.stages.find import StagesPicture
from loam.app.questions.stages.sources import of_stages
from loam.core.words.verdict import short_sentences
from loam.ui.theme import look
from loam.ui.views.base import Key
from loam.ui.views.judge.stages.paint import draw_stages as paint_stages
from loam.ui.views.judge.turning import Turning
from loam.ui.widgets.fields import unbroken

LEAST_ROW = 84
"""Height of a row in which its words do not meet, at the usual size of text."""


class StagesPage(Turning):
    """Each combination under the lamp: before work, after each stage, before and after the wipe."""

    question = QUESTION
    teaches = "Here stands what each stage adds, and at what price."
    found: StagesPicture | None

    def rests_on(self) -> tuple[object, ...]:
        """The judgements, and which cells count."""
        return (*super().rests_on(), self.owner.left_out)

    def show_found(self) -> None:
        """Say what the stages of each hardness add."""
        found = self.found
        if found is None or not found.classes:
            return
        self.at %= len(found.classes)
        own = found.classes[self.at]
        label = found.kind.label.capitalize()
        self.lead.setText(unbroken(short_sentences(f"{label}, {own.ground}; {own.sentence}")))
        told = (
            "Under the lamp: drawn from the readings, not photographs. Tape: as long as the gain."
        )
        told += f" Too small for the meter: below {found.floor} between cells. Minutes as planned,"
        told += " and one a stage to set up (assumed)."
        if not found.by_stage:
            told += " Nothing was read between two stages: cells read after each stage would show"
            told += " what each adds."
        self.small.setText(unbroken(told))
        self.drawing.setMinimumHeight(look.px(LEAST_ROW) * len(own.rows))

    def sources(self) -> Sources:
        """The states of each combination on the hardness at hand."""
        if self.found is None or not self.found.classes:
            return {}
        return of_stages(self.found, self.found.classes[self.at % len(self.found.classes)])

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw the hardness at hand."""
        if self.found is None or not self.found.classes:
            return []
        return paint_stages(painter, area, self.found.classes[self.at])

    def own_keys(self) -> list[Key]:
        """Turn to another hardness."""
        if self.found is None or len(self.found.classes) < 2:
            return []
        following = self.found.classes[(self.at + 1) % len(self.found.classes)]
        return [("← →", f"{following.ground}", self.turn)]


PAGE = StagesPage
