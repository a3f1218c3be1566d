"""The ranking of a goal: the swatches of Judge along the worth, for the weights at hand."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from loam.app.questions.ranking.find import reflected
from loam.app.questions.ranking.picture import RankingPicture, spoken
from loam.app.session import Session
from loam.ui.views.judge.ranking.paint import draw_ranking
from loam.ui.widgets.drawn import Drawn, Target


class GoalLook(Drawn):
    """Draws the ranking of a goal with what each combination reflects."""

    def __init__(self) -> None:
        super().__init__("goal_ranking", "ranking for these priorities")
        self.ranking: RankingPicture | None = None

    def clear(self) -> None:
        """Show nothing: what was ranked holds no more."""
        self.ranking = None
        self.show_drawing(None)

    def show_goal(
        self, ranking: RankingPicture, session: Session, of: Mapping[str, RankingPicture]
    ) -> None:
        """Show the ranking of a goal; ``of`` holds the measurands that it rests on."""
        self.ranking = ranking
        self.combinations = {c.code: c for c in session.combinations()}
        self.lights = {
            (strip.hardness, s.combination): reflected(dict(of), strip.hardness, s.combination)
            for strip in ranking.strips
            for s in strip.swatches
        }
        self.show_drawing(self.paint_goal, spoken(ranking))

    def paint_goal(self, painter: QPainter, area: QRectF) -> list[Target]:
        """Draw it, and return a spot a swatch."""
        if self.ranking is None:
            return []
        places = draw_ranking(painter, area, self.ranking, self.combinations, lights=self.lights)
        told = {
            (strip.hardness, s.combination): s.told
            for strip in self.ranking.strips
            for s in strip.swatches
        }
        return [
            Target(QRectF(*box), f"{place.strip.hardness}:{code}", told[place.strip.hardness, code])
            for place in places.strips
            for code, box in place.swatches.items()
        ]
