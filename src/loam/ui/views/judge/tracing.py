"""From a figure to its readings and back: whichever page of Judge it stands on."""

from __future__ import annotations

from typing import Protocol

from loam.app.questions.readings_behind import Origin, load_origin
from loam.app.questions.source import Source, own_source
from loam.ui.views.judge.origin_page import OriginPage
from loam.ui.views.judge.owner import Owner, Traced
from loam.ui.views.judge.ranking.chart import RankingChart


class Charted(Owner, Protocol):
    """The view, with its chart."""

    chart: RankingChart


class Tracing:
    """Opens what a figure rests on; after a strike the figure is worked out again first."""

    def __init__(self, view: Charted) -> None:
        self.view = view
        self.page = OriginPage(view.shell, self.close)
        self.page.turned = self.turn
        self.back: Traced | None = None
        self.key, self.at = "", 0

    @property
    def shown(self) -> bool:
        """Whether the readings behind a figure are shown."""
        return self.view.pages.currentWidget() is self.page

    def open(self, page: Traced, key: str) -> None:
        """Show what a figure of a page rests on."""
        self.back, self.key, self.at = page, key, 0
        self._load(self._of_page())

    def open_own(self) -> None:
        """Show what the figure of the ranking that is chosen rests on."""
        self.back, self.key, self.at = None, "", 0
        self._load(self._of_ranking())

    def again(self, measurand: str) -> None:
        """A measurand was judged anew: work the figure out again, and show what it rests on."""
        if self.back is None:
            if measurand == self.view.measurand:
                self._load(self._of_ranking())
        else:
            self.back.renew(lambda: self._load(self._of_page()))

    def turn(self) -> None:
        """Show the readings in the next measurand that the figure rests on."""
        self.at += 1
        self._load(self._of_page() if self.back is not None else self._of_ranking())

    def close(self) -> None:
        """Go back to where the figure stands."""
        if self.back is None:
            self.view.to_ranking()
        else:
            self.view.to_page(self.back)

    def _of_ranking(self) -> tuple[Source, ...]:
        ranking, chosen = self.view.ranking, self.view.chart.chosen
        return (own_source(ranking, *chosen),) if ranking is not None and chosen else ()

    def _of_page(self) -> tuple[Source, ...]:
        return self.back.sources().get(self.key, ()) if self.back is not None else ()

    def _load(self, sources: tuple[Source, ...]) -> None:
        view, trial = self.view, self.view.session.trial
        if not sources or trial is None:
            if self.shown:
                self.close()  # the figure is gone
            return
        source = sources[self.at % len(sources)]
        ranking = view.rankings.get(source.measurand) or view.ranking
        if ranking is None:
            return
        path, trial_id = view.session.workshop.reads, trial.id
        load = view.session.loader()
        again, kind = self.shown, view.session.kind(source.measurand)
        following = sources[(self.at + 1) % len(sources)]
        then = view.session.kind(following.measurand).label
        self.page.following = then if len(sources) > 1 else ""
        view.shell.jobs.start(
            "origin",
            lambda: load_origin(path, trial_id, ranking, source, kind, load),
            lambda found: self._show(found, again=again),
            lambda error: view.shell.say(str(error), care=True),
        )

    def _show(self, found: Origin, *, again: bool) -> None:
        self.page.show_origin(found)
        if again and not self.shown:
            return  # it was left meanwhile
        self.view.pages.setCurrentWidget(self.page)
        self.page.grid.setFocus()
        self.view.shell.keys_changed()
