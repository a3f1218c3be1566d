"""What else the readings carry: wear, order, place, heat, people; claims, scales, masking."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from loam.app.questions.influences import QUESTION
from loam.app.questions.influences.find import CarriedPicture
from loam.app.questions.influences.sources import of_carried
from loam.app.questions.source import Sources
from loam.ui.views.judge.aside import Aside
from loam.ui.views.judge.influences.paint import draw_carried as paint_carried
from loam.ui.widgets.fields import unbroken


class CarriedPage(Aside):
    """Strands around what matters; where the readings carry nothing, what would is said."""

    question = QUESTION
    teaches = "Here stands what else moves the result: wear, order, place, heat, people, claims."
    found: CarriedPicture | None

    def rests_on(self) -> tuple[object, ...]:
        """The judgements, and which cells count."""
        return (*super().rests_on(), self.owner.left_out)

    def show_found(self) -> None:
        """Say what surely moves the result."""
        if self.found is None:
            return
        self.lead.setText(unbroken(self.found.lead))
        drawn = bool(self.found.claims.scales)
        scales = (
            " Makers' scales: a line leads from the maker's place to the measured one where they"
            " differ."
        )
        self.small.setText(
            unbroken(
                "Each strand: from the least to the largest that was met, with its likely range"
                " (90 %). Tape: 99 % sure, since several are looked at. What to check (D) weighs"
                f" all measurements together, and may see more.{scales * drawn}"
            )
        )

    def sources(self) -> Sources:
        """The strands."""
        ranking = self.owner.rankings.get(self.owner.measurand)
        if self.found is None or ranking is None:
            return {}
        return of_carried(self.found, ranking.judgement)

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw the strands."""
        return paint_carried(painter, area, self.found) if self.found is not None else []


PAGE = CarriedPage
