"""Judges the measurands of a trial on the worker: the one that is looked at first, and alone."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from contextlib import suppress
from typing import Any

from loam.app.questions.ranking.find import judge_trial
from loam.app.questions.ranking.picture import RankingPicture
from loam.app.record import doubts_key
from loam.app.work_against_plan import left_out_key
from loam.core.errors import LoamError
from loam.ui.views.base import Shell

MOST_KEPT = 60


class Judging:
    """Answers with a ranking, or why there is none; the others wait until the first is painted.

    What was judged is kept until something changes: what is left out and let count again is there
    at once. What X and the switches of the doubts would do is judged ahead, while nothing else is
    done.

    Parameters
    ----------
    switches : callable
        Returns what would be kept of the doubts after each of their switches.
    """

    def __init__(
        self,
        shell: Shell,
        answered: Callable[[RankingPicture], None],
        refused: Callable[[str, LoamError], None],
        switches: Callable[[], list[dict[str, Any]]],
    ) -> None:
        self.shell, self.answered, self.refused = shell, answered, refused
        self.switches, self.first, self.unlike = switches, "", False
        self.waiting: list[str] = []
        self.kept: dict[object, RankingPicture] = {}
        self.stamp = -1

    def start(self, kinds: Sequence[str], first: str, *, unwiped: bool) -> None:
        """Judge anew; ``first`` on what was read before the wipe, if that is wanted."""
        self.waiting, self.first = [k for k in kinds if k != first], "" if unwiped else first
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

    def look_ahead(self) -> None:
        """Judge what every switch of a doubt would give, for the measurand that is looked at."""
        session, load = self.shell.session, self.shell.session.loader()
        trial, kind, stamp = session.trial, self.first, session.stamp
        if trial is None or not kind or stamp != self.stamp or session.workshop.read_only:
            return
        path, shown, settings = session.workshop.reads, session.kind(kind), session.preferences()
        wanted = {}
        for turned in self._turns(trial.id):
            then = dict(settings) | {k: json.dumps(v) for k, v in turned.items()}
            written = tuple(sorted((k, v) for k, v in then.items() if v != "{}"))
            key = (trial.id, kind, shown.unit, False, written)
            if key not in self.kept:
                wanted[key] = turned

        def judge(tell: Callable[[float], None]) -> dict[object, RankingPicture]:
            made: dict[object, RankingPicture] = {}
            for key, turned in wanted.items():
                tell(len(made) / len(wanted))
                with suppress(LoamError):  # it is said when it is asked for
                    made[key] = judge_trial(
                        path, trial.id, kind, trial.seed, shown, load=load, turned=turned
                    )
            return made

        def came(made: dict[object, RankingPicture]) -> None:
            if session.stamp == stamp == self.stamp:
                self.kept.update(made)

        if wanted:
            self.shell.jobs.start_aside("ahead", judge, came, lambda _error: None)

    def _tell(self, found: RankingPicture) -> None:
        self.answered(found)
        if found.measurand == self.first:
            self.unlike = found.unlike
            self.look_ahead()

    def _turns(self, trial_id: int) -> list[dict[str, Any]]:
        """Return what would be kept after X, and after each switch of a doubt."""
        out = self.shell.session.recall(left_out_key(trial_id), False) is True
        turns = [{left_out_key(trial_id): not out}] if out or self.unlike else []
        return [*turns, *({doubts_key(trial_id): kept} for kept in self.switches())]

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
            self._tell(self.kept[key])
            return

        def here(act: Callable[[], None]) -> None:
            if session.trial_id == at_hand:
                act()

        def came(found: RankingPicture) -> None:
            if session.stamp == stamp == self.stamp:  # nothing has changed since
                self.kept[key] = found
            self._tell(found)

        self.shell.jobs.start(
            f"judge:{kind}",
            lambda: judge_trial(path, at_hand, kind, seed, shown, unwiped=unwiped, load=load),
            lambda found: here(lambda: came(found)),
            lambda error: here(lambda: self.refused(kind, error)),
            painted=painted,
        )
