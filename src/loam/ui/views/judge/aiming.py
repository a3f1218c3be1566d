"""The aim in Judge: turned by a key, kept with the trial, and advised for on the worker."""

from __future__ import annotations

from typing import Protocol

from loam.app.advising import Aim, advised, kept_aim
from loam.app.commands import Weigh
from loam.app.presenters.depth import may_go_known
from loam.app.questions.priorities.find import CORNERS, TIME, Making, needed
from loam.core.advice import Advice
from loam.core.errors import LoamError
from loam.core.film import PAINT
from loam.core.text import listed
from loam.store.choices import key_here
from loam.ui.views.judge.owner import Owner
from loam.ui.views.judge.priorities.page import PrioritiesPage
from loam.ui.views.judge.questions import Questions
from loam.ui.views.judge.ranking.aim_bar import AimBar
from loam.ui.views.judge.ranking.chart import RankingChart

JOB = "advice"
_CORNERS = ("finish", "marks gone")


class Aimed(Owner, Protocol):
    """The view, with what an aim is made of and what shows the advice."""

    chart: RankingChart
    priorities: PrioritiesPage
    questions: Questions

    def say_class(self) -> None:
        """Say what the chosen hardness shows."""
        ...


class Aiming:
    """Says for what the advice is, and lets it be worked out when anything changes."""

    def __init__(self, view: Aimed, bar: AimBar) -> None:
        self.view, self.bar = view, bar
        self.advice: dict[str, Advice] = {}
        bar.pressed.connect(self.turn)

    @property
    def aim(self) -> Aim | None:
        """What is wanted of the trial at hand; None for the measurement alone."""
        session = self.view.session
        return kept_aim(session.recall(self._key, None))

    @property
    def _key(self) -> str:
        return key_here("aim", self.view.session.trial_id or 0)

    def turn(self) -> None:
        """Want the next aim; after the last the measurement alone, then daily work again."""
        view = self.view
        if view.session.trial_id is None or needed(view.rankings):
            return
        choices: list[Aim | None] = [*view.priorities.aims, None]
        now = self.aim
        names = [None if a is None else a[0] for a in choices]
        name = None if now is None else now[0]
        then = choices[(names.index(name) + 1) % len(choices)] if name in names else choices[0]
        kept = ["", []] if then is None else [then[0], list(then[1])]
        here, before = view.session.trial_id, view.session.recall(self._key, None)
        said = f"aim: {then[0] if then is not None else 'the measurement alone'}"
        view.act(Weigh(here, here, self._key, before, kept, said))

    def clear(self) -> None:
        """Nothing is judged: nothing is advised."""
        self.advice = {}
        self.bar.hide()
        self.view.shell.jobs.cancel(JOB)

    def again(self) -> None:
        """Advise on what is judged now."""
        view, aim = self.view, self.aim
        ranking = view.ranking
        if ranking is None:
            return
        self._show_bar(aim)
        if aim is not None and self._coming():
            self._show({})
            return
        rankings, measurand, aims = dict(view.rankings), view.measurand, list(view.priorities.aims)
        session = view.session
        tapings, may_go = view.priorities.tapings(), may_go_known(session)
        making = Making(session.combinations(), tapings, may_go)
        limits = view.priorities.worth.kept()
        view.shell.jobs.start(
            JOB,
            lambda: advised(rankings, measurand, aim, aims, making, limits),
            self._show,
            self._refused,
        )

    def _coming(self) -> bool:
        """Whether what the aim needs is still being judged."""
        view = self.view
        missing = needed(view.rankings)
        return bool(missing) and all(
            m in view.kinds.buttons and m not in view.refusals for m in missing
        )

    def _show_bar(self, aim: Aim | None) -> None:
        view = self.view
        missing = [m for m in needed(view.rankings) if not self._coming()]
        label = view.rankings[view.measurand].label
        if missing:
            lacks = listed([view.session.kind(m).label for m in missing])
            said = (
                f"Advice by {label} alone. An aim weighs {lacks} too: Ask (F2) adds what is read."
            )
            self.bar.show_aim("", said, carried=False)
        elif aim is None:
            self.bar.show_aim(f"{label} alone", "", carried=True)
        else:
            bare = any(r.judgement.coat == PAINT for r in view.rankings.values())
            corners = (*_CORNERS, f"{PAINT} kept" if bare else CORNERS[2], TIME)
            parts = zip(corners, aim[1], strict=True)
            said = ", ".join(f"{name} {100 * w:.0f}" for name, w in parts if w > 0.0)
            self.bar.show_aim(aim[0], said, carried=True)
        self.bar.show()

    def _show(self, advice: dict[str, Advice]) -> None:
        self.advice = advice
        self.view.chart.show_advice(advice)
        self.view.say_class()
        self.view.questions.advised()

    def _refused(self, error: LoamError) -> None:
        """The ranking stays; what could not be advised is said in its place."""
        self._show({})
        self.bar.show_aim("", f"No advice: {error.what} {error.todo}".strip(), carried=False)
