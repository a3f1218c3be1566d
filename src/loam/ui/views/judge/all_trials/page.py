"""All trials of the workshop as one ranking; this trial against another, or its days."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QVBoxLayout

from loam.app.questions.all_trials import QUESTION
from loam.app.questions.all_trials.comparing import DAYS, ComparedPicture, find_compared
from loam.app.questions.all_trials.find import PooledPicture, pooled_picture
from loam.app.questions.all_trials.judging import judge_pool, named_trials, ticks_key
from loam.app.questions.all_trials.sources import of_compared, of_pooled
from loam.app.questions.ranking.picture import caption
from loam.app.questions.source import Sources
from loam.app.readers import crossed
from loam.core.dataset import source_of
from loam.core.words.verdict import short_sentences
from loam.ui.views.base import Key
from loam.ui.views.judge.all_trials.paint import draw_compared as paint_compared
from loam.ui.views.judge.aside import Aside, Work
from loam.ui.views.judge.owner import Owner
from loam.ui.views.judge.ranking.paint import draw_ranking
from loam.ui.widgets.drawn import Target
from loam.ui.widgets.fields import Chips, unbroken

FEW_APART, MOST_APART = 2, 5
"""How many sentences say where trials disagree: at first, and where all is said."""


class PooledPage(Aside):
    """The same recipes in every trial, judged together; the arrows hold this trial against one."""

    question = QUESTION
    teaches = "Here all trials of this workshop are one ranking."
    found: PooledPicture | ComparedPicture | None

    def __init__(self, owner: Owner) -> None:
        super().__init__(owner)
        self.against, self.whole = "", False
        self.trials = Chips("Which trials count", "pooled_trials", [], several=True)
        self.trials.chosen.connect(self._tick)
        self.trials.hide()
        box = self.layout()
        assert isinstance(box, QVBoxLayout)
        box.insertWidget(box.indexOf(self.small), self.trials)

    def rests_on(self) -> tuple[object, ...]:
        """The judgements, what this trial is held against, and which trials count."""
        return (*super().rests_on(), self.against, repr(self._ticks))

    @property
    def _ticks(self) -> dict[str, Any]:
        """Which trials were ticked, or taken out, by the number of the trial."""
        return dict(self.owner.session.recall(ticks_key(self.owner.session.trial_id or 0), {}))

    def _tick(self, name: str) -> None:
        """Take a trial in, or out again."""
        session = self.owner.session
        numbers = named_trials(session.workshop.connection)
        if name == self._here or name not in numbers:
            self.trials.set_value(*self._taken())
            return
        ticks = self._ticks | {str(numbers[name]): name in self.trials.value()}
        session.remember(ticks_key(session.trial_id or 0), ticks)
        self.begin()

    def _taken(self) -> tuple[str, ...]:
        return self.found.taken if isinstance(self.found, PooledPicture) else ()

    def choose_trials(self) -> None:
        """Go to the trials that count."""
        first = next(iter(self.trials.buttons.values()), None)
        if first is not None:
            first.setFocus(Qt.FocusReason.TabFocusReason)

    def others(self) -> list[str]:
        """Return what this trial can be held against: nothing, its days, each other trial."""
        session, source = self.owner.session, source_of(self.owner.measurand)
        called = {i: name for name, i in named_trials(session.workshop.connection).items()}
        names = [
            called[t.id]
            for t in session.trials()
            if t.id != session.trial_id and source in t.measurands and not crossed(t)
        ]
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
            return lambda: find_compared(path, trial.id, name, other, measurand, trial.seed, kind)
        tell = self.owner.shell.jobs.teller(self.name)
        ranking = self.owner.rankings.get(measurand)
        here, alone = self._here, ranking.judgement if ranking is not None else None
        return lambda: pooled_picture(
            judge_pool(path, trial.id, measurand, trial.seed, tell), kind, here, alone
        )

    def show_found(self) -> None:
        """Say who leads in all trials and where they disagree, or how two compare."""
        found = self.found
        names = (*found.taken, *found.others) if isinstance(found, PooledPicture) else ()
        order = [n for n in named_trials(self.owner.session.workshop.connection) if n in names]
        numbers = found.numbers if isinstance(found, PooledPicture) else {}
        self.trials.set_choices([(n, f"{numbers.get(n, '')}  {n[:34]}".strip()) for n in order])
        self.trials.set_value(*self._taken())
        self.trials.setVisible(len(order) > 1)
        if isinstance(found, PooledPicture):
            shown = MOST_APART if self.whole else FEW_APART
            told = " ".join(found.apart[:shown])
            if len(found.apart) > shown:
                told += f" And {len(found.apart) - shown} more such."
            rests = found.small if self.whole else ""
            parts = (told, rests, caption(found.ranking))
            self.lead.setText(unbroken(short_sentences(found.lead)))
            self.small.setText(unbroken(short_sentences(" ".join(p for p in parts if p))))
        elif found is not None:
            self.lead.setText(unbroken(found.lead))
            self.small.setText(
                unbroken(
                    f"Hollow: {found.first}. Full: {found.second}. Tape: surely otherwise. Shown is"
                    " the difference of the means of cells, with its likely range (90 %). Other"
                    " panels, another day and whoever worked are in it."
                )
            )

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
        places = draw_ranking(
            painter, area, found.ranking, found.combinations, origins=found.origins
        )
        return [
            Target(
                QRectF(*box),
                f"{place.strip.hardness}:{code}",
                f"{code}: {found.where.get(code, '')}",
            )
            for place in places.strips
            for code, box in place.swatches.items()
        ]

    def keys(self) -> list[Key]:
        """Return the keys of the page: what this trial can be held against."""
        others = self.others()
        at = others.index(self.against) if self.against in others else 0
        following = others[(at + 1) % len(others)]
        words = f"against {following}" if following else "all trials as one"
        which: list[Key] = [("T", "which trials", self.choose_trials)]
        ticks = which if not self.trials.isHidden() else []
        rests: list[Key] = []
        if isinstance(self.found, PooledPicture):
            rests = [("L", "less of it" if self.whole else "what it rests on", self.turn_whole)]
        return [("← →", words, self.turn), *ticks, *rests, *super().keys()]

    def turn_whole(self) -> None:
        """Say all that it rests on, or little."""
        self.whole = not self.whole
        self._present()

    def typed(self, event: QKeyEvent) -> bool:
        """Go to the trials that count, or say what all rests on."""
        key = event.text().upper()
        if key == "L" and isinstance(self.found, PooledPicture):
            self.turn_whole()
        elif key == "T" and not self.trials.isHidden():
            self.choose_trials()
        else:
            return False
        return True

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


PAGE = PooledPage
