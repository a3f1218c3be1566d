"""Three looks at one ranking: swatches, exact rows, what the wipe took."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QWidget

from loam.app.questions.ranking.picture import RankingPicture, caption
from loam.app.reflection import Light
from loam.core.trial import Combination, Trial
from loam.ui.picture_out import Picture
from loam.ui.views.judge.ranking.chart import RankingChart
from loam.ui.views.judge.ranking.exact_rows import ExactRows
from loam.ui.views.judge.ranking.masking_chart import MaskingChart
from loam.ui.views.judge.ranking.paint import draw_ranking
from loam.ui.widgets.scroll_stack import Stack


class Looks(Stack):
    """Shows one of them; each knows what the others show."""

    def __init__(self) -> None:
        super().__init__()
        self.chart, self.rows, self.masking = RankingChart(), ExactRows(), MaskingChart()
        self.holder = QScrollArea()
        self.holder.setWidgetResizable(True)
        self.holder.setWidget(self.rows)
        self.holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for look in (self.chart, self.holder, self.masking):
            self.addWidget(look)

    def at(self, look: QWidget) -> bool:
        """Tell whether a look is the one that is shown."""
        return self.currentWidget() is look

    def turn(self, look: QWidget) -> None:
        """Turn to a look, or back to the swatches."""
        self.setCurrentWidget(self.chart if self.at(look) else look)

    def take_keyboard(self) -> None:
        """Give the keyboard to the look that is shown."""
        (self.rows if self.at(self.holder) else self.currentWidget() or self.chart).setFocus()

    def show_ranking(
        self,
        ranking: RankingPicture,
        combinations: Mapping[str, Combination],
        paints: Mapping[str, str],
        lights: Mapping[tuple[str, str], Light],
    ) -> None:
        """Show a ranking in all of them."""
        self.chart.show_ranking(ranking, dict(combinations), paints=paints, lights=lights)
        self.rows.show_ranking(ranking, dict(combinations))
        self.masking.show_masked(ranking.masked)
        if ranking.masked is None and self.at(self.masking):
            self.setCurrentWidget(self.chart)


def ranking_picture(trial: Trial, ranking: RankingPicture, chart: RankingChart) -> Picture:
    """Return a ranking as a picture of its own, to be printed or written."""
    combinations, paints, lights = chart.combinations, chart.paints, chart.lights
    most = max(len(s.swatches) for s in ranking.strips)
    each = 150.0 if most <= 8 else 210.0
    return Picture(
        f"{trial.name}, {ranking.label}",
        trial.question or trial.name,
        f"{ranking.sentence}\n{caption(ranking)}",
        1120.0,
        each * len(ranking.strips) + 60.0,
        lambda painter, area: draw_ranking(
            painter, area, ranking, combinations, paints=paints, lights=lights
        ),
    )
