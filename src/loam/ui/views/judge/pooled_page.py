"""All trials of the workshop as one ranking; this trial against another, or its days."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from loam.app.presenters.comparing import DAYS, ComparedPicture, draw_compared
from loam.app.presenters.origin import Sources
from loam.app.presenters.pool_judging import judge_pool, named_trials
from loam.app.presenters.pooled import PooledPicture, pooled_picture
from loam.app.presenters.traced import of_compared, of_pooled
from loam.app.readers import crossed
from loam.core.dataset import source_of
from loam.ui.views.base import Key
from loam.ui.views.judge.aside import Aside, Owner, Work
from loam.ui.widgets.compared_painter import draw_compared as paint_compared
from loam.ui.widgets.drawn import Spot
from loam.ui.widgets.fields import unbroken
from loam.ui.widgets.ranking_painter import draw_ranking


class PooledPage(Aside):
    """The same recipes in every trial, judged together; the arrows hold this trial against one."""

    name, letter, label = "pooled", "A", "all trials"
    teaches = "Here all trials of this workshop are one ranking."
    found: PooledPicture | ComparedPicture | None

    def __init__(self, owner: Owner) -> None:
        super().__init__(owner)
        self.against = ""

    def rests_on(self) -> tuple[object, ...]:
        """The judgements, and what this trial is held against."""
        return (*super().rests_on(), self.against)

    def others(self) -> list[str]:
        """Return what this trial can be held against: nothing, its days, each other trial."""
        session, source = self.owner.session, source_of(self.owner.measurand)
        called = {i: name for name, i in named_trials(session.workshop.connection).items()}
        names = [
            called[t.id] for t in session.trials()
            if t.id != session.trial_id and source in t.measurands and not crossed(t)
        ]  # fmt: skip
        return ["", DAYS, *names]

    def ask(self) -> Work | str:
        """Judge all trials as one, or hold this one against another."""
        session, measurand = self.owner.session, self.owner.measurand
        trial = session.trial
        if trial is None or not measurand:
            return self.lack(measurand)
        path, kind = session.workshop.reads, session.kind(measurand)
        if self.against:
            name, other = self._here, self.against
            return lambda: draw_compared(path, trial.id, name, other, measurand, trial.seed, kind)
        tell = self.owner.shell.jobs.teller(self.name)
        return lambda: pooled_picture(judge_pool(path, trial.id, measurand, trial.seed, tell), kind)

    def show_found(self) -> None:
        """Say who leads in all trials and where they disagree, or how two compare."""
        found = self.found
        if isinstance(found, PooledPicture):
            told = " ".join((found.lead, *found.apart[:3]))
            if len(found.apart) > 3:
                told += f" And {len(found.apart) - 3} more such."
            self.lead.setText(unbroken(told))
            self.small.setText(unbroken(found.small))
        elif found is not None:
            self.lead.setText(unbroken(found.lead))
            self.small.setText(unbroken(
                f"Hollow: {found.first}; full: {found.second}; tape: surely otherwise. The"
                " difference of the means of cells, with its 90 % interval: other panels, another"
                " day and whoever worked are in it."
            ))  # fmt: skip

    @property
    def _here(self) -> str:
        """The trial at hand, as the pool calls it."""
        session = self.owner.session
        names = named_trials(session.workshop.connection)
        return next((name for name, i in names.items() if i == session.trial_id), "")

    def sources(self) -> Sources:
        """The combinations, with their readings in each trial."""
        if isinstance(self.found, PooledPicture):
            return of_pooled(self.found, self._here)
        return of_compared(self.found, self._here) if self.found is not None else {}

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw the ranking, or the two sides."""
        found = self.found
        if isinstance(found, ComparedPicture):
            return paint_compared(painter, area, found)
        if found is None:
            return []
        places = draw_ranking(painter, area, found.ranking, found.combinations)
        return [
            Spot(QRectF(*box), f"{place.strip.hardness}:{code}",
                 f"{code}: {found.where.get(code, '')}")
            for place in places.strips
            for code, box in place.swatches.items()
        ]  # fmt: skip

    def keys(self) -> list[Key]:
        """Return the keys of the page: what this trial can be held against."""
        others = self.others()
        at = others.index(self.against) if self.against in others else 0
        following = others[(at + 1) % len(others)]
        words = f"against {following}" if following else "all trials as one"
        return [("← →", words, self.turn), *super().keys()]

    def turn(self, step: int = 1) -> None:
        """Hold this trial against the next, or pool all again."""
        others = self.others()
        at = others.index(self.against) if self.against in others else 0
        self.against = others[(at + step) % len(others)]
        self.begin()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event is not None and event.key() in steps:
            self.turn(steps[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)
