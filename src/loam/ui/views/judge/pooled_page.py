"""All trials of the workshop as one ranking, and where they disagree."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from loam.app.presenters.pool_judging import judge_pool
from loam.app.presenters.pooled import PooledPicture, pooled_picture
from loam.ui.views.judge.aside import Aside, Work
from loam.ui.widgets.drawn import Spot
from loam.ui.widgets.fields import unbroken
from loam.ui.widgets.ranking_painter import draw_ranking


class PooledPage(Aside):
    """The same recipes in every trial, judged together."""

    name, letter, label = "pooled", "A", "all trials"
    teaches = "Here all trials of this workshop are one ranking."
    found: PooledPicture | None

    def ask(self) -> Work | str:
        """Judge all trials as one."""
        session, measurand = self.owner.session, self.owner.measurand
        trial = session.trial
        if trial is None or not measurand:
            return self.lack(measurand)
        path, kind = session.workshop.reads, session.kind(measurand)
        tell = self.owner.shell.jobs.teller(self.name)
        return lambda: pooled_picture(judge_pool(path, trial.id, measurand, trial.seed, tell), kind)

    def show_found(self) -> None:
        """Say who leads in all trials, and where they disagree."""
        if self.found is not None:
            told = " ".join((self.found.lead, *self.found.apart[:3]))
            if len(self.found.apart) > 3:
                told += f" And {len(self.found.apart) - 3} more such."
            self.lead.setText(unbroken(told))
            self.small.setText(unbroken(self.found.small))

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw the ranking; a spot tells in which trials a combination is."""
        found = self.found
        if found is None:
            return []
        places = draw_ranking(painter, area, found.ranking, found.combinations)
        return [
            Spot(QRectF(*box), "", f"{code}: {found.where.get(code, '')}")
            for place in places.strips
            for code, box in place.swatches.items()
        ]
