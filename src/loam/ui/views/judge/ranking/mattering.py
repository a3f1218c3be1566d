"""What matters, dragged on the picture or typed: followed at once, kept for the trial or all."""

from __future__ import annotations

from loam.app.commands import SetMatters
from loam.app.questions.ranking.find import kept_matters, round_matters
from loam.app.questions.ranking.picture import with_matters
from loam.app.what_matters import matters_in
from loam.core.matter import Matters, matters
from loam.ui.views.judge.owner import Owner
from loam.ui.views.judge.ranking.matters_bar import TRIAL


class Mattering:
    """Turns verdicts as what matters is changed; no chance changes."""

    def __init__(self, view: Owner) -> None:
        self.view = view

    def drag(self, behind: float, done: bool) -> None:
        """Follow the edge of the strip; once let go, keep it for this trial."""
        ranking = self.view.ranking
        if ranking is None:
            return
        value = round_matters(ranking, behind)
        if done:
            self.keep(value, TRIAL)
        elif value != ranking.judgement.matters.value:
            self._show(matters(ranking.kind, value, TRIAL))

    def _show(self, chosen: Matters) -> None:
        ranking = self.view.ranking
        if ranking is not None:
            found = with_matters(ranking, chosen)
            self.view.rankings[self.view.measurand] = found
            self.view.show_turned(found)

    def keep(self, value: float | None, whose: str) -> None:
        """Keep what matters for the trial, or for the workshop."""
        view, trial = self.view, self.view.session.trial
        if trial is None:
            return
        owner = trial.id if whose == TRIAL else None
        before = kept_matters(view.session, owner).get(view.measurand)
        if value != before:
            view.act(SetMatters(trial.id, owner, view.measurand, before, value))
        elif view.ranking is not None:
            self.follow()

    def follow(self) -> None:
        """Show what matters as it is kept now, for every measurand."""
        view, trial = self.view, self.view.session.trial
        if trial is None:
            return
        db = view.session.workshop.connection
        for key, ranking in list(view.rankings.items()):
            now = matters_in(db, trial.id, key)
            if now != ranking.judgement.matters:
                if key == view.measurand:
                    self._show(now)
                else:
                    view.rankings[key] = with_matters(ranking, now)
