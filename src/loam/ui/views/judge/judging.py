"""Judges the measurands of a trial on the worker: the one that is looked at first, and alone."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from loam.app.presenters.judging import judge_trial
from loam.app.presenters.ranking import RankingPicture
from loam.core.errors import LoamError
from loam.ui.views.base import Shell

MOST_KEPT = 60


class Judging:
    """Answers with a ranking, or why there is none; the others wait until the first is painted.

    What was judged is kept until something changes: what is left out and let count again is there
    at once.
    """

    def __init__(
        self, shell: Shell, answered: Callable[[RankingPicture], None],
        refused: Callable[[str, LoamError], None],
    ) -> None:  # fmt: skip
        self.shell, self.answered, self.refused = shell, answered, refused
        self.waiting: list[str] = []
        self.kept: dict[object, RankingPicture] = {}
        self.stamp = -1

    def start(self, kinds: Sequence[str], first: str, *, unwiped: bool) -> None:
        """Judge anew; ``first`` on what was read before the wipe, if that is wanted."""
        self.waiting = [k for k in kinds if k != first]
        self._judge(first, unwiped=unwiped)

    def stop(self, kinds: Sequence[str]) -> None:
        """Leave what is being judged unanswered."""
        self.waiting = []
        for kind in kinds:
            self.shell.jobs.cancel(f"judge:{kind}")

    def go_on(self) -> None:
        """The first is there: judge the others once it is painted."""
        waiting, self.waiting = self.waiting, []
        for kind in waiting:
            self._judge(kind, unwiped=False, painted=True)

    def _judge(self, kind: str, *, unwiped: bool, painted: bool = False) -> None:
        session = self.shell.session
        trial = session.trial
        if trial is None:
            return
        path, shown = session.workshop.reads, session.kind(kind)
        at_hand, seed = trial.id, trial.seed
        stamp = session.stamp
        if stamp != self.stamp or len(self.kept) >= MOST_KEPT:
            self.stamp = stamp
            self.kept.clear()
        load = session.loader()
        key = (at_hand, kind, shown.unit, unwiped, session.preferences())
        if key in self.kept and not session.workshop.read_only:  # another hand may write
            self.answered(self.kept[key])
            return

        def here(act: Callable[[], None]) -> None:
            if session.trial_id == at_hand:
                act()

        def came(found: RankingPicture) -> None:
            if session.stamp == stamp == self.stamp:  # nothing has changed since
                self.kept[key] = found
            self.answered(found)

        self.shell.jobs.start(
            f"judge:{kind}",
            lambda: judge_trial(path, at_hand, kind, seed, shown, unwiped=unwiped, load=load),
            lambda found: here(lambda: came(found)),
            lambda error: here(lambda: self.refused(kind, error)),
            painted=painted,
        )
