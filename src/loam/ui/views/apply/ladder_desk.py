"""The ladder of the job at hand: judged and worked out on the worker, kept while it stands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from loam.app.applying.at_hand import Held, others_on, prices_of
from loam.app.applying.rests import Rests, rests_on
from loam.app.applying.stairs import work_out
from loam.app.applying.told import Stairs
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.trial import Combination
from loam.ui.views.base import Shell


@dataclass(frozen=True)
class _Ground:
    """What a ladder rests on, and what it was judged for."""

    wanted: tuple[object, ...]
    rests: Rests


class LadderDesk:
    """Works the ladder out.

    Parameters
    ----------
    came : callable
        Called once it is worked out, or refused.

    Attributes
    ----------
    stairs : Stairs or None
    lacks : str
        Why there are none, or "".
    """

    def __init__(self, shell: Shell, session: Session, came: Callable[[], None]) -> None:
        self.shell, self.session, self.came = shell, session, came
        self.stairs: Stairs | None = None
        self.lacks = ""
        self._ground: _Ground | None = None
        self._asked: tuple[object, ...] = ()

    @property
    def rests(self) -> Rests | None:
        """What it rests on, once that is judged."""
        return self._ground.rests if self._ground is not None else None

    @property
    def codes(self) -> tuple[str, ...]:
        """The letters of its rungs."""
        return self._ground.rests.codes if self._ground is not None else ()

    def combination(self, code: str) -> Combination | None:
        """Return a combination of the ladder by its letter."""
        rungs = self._ground.rests.rungs if self._ground is not None else ()
        return next((c for c in rungs if c.code == code), None)

    def judge_anew(self) -> None:
        """Forget what it rests on: readings have changed."""
        self._ground = None

    def turn(self) -> None:
        """Forget the stairs: another job is at hand."""
        self.stairs, self._asked = None, ()

    def work_out(self, held: Held) -> None:
        """Work it out on the worker, from what is judged already where that stands."""
        _, job = held
        measurands = tuple(w.measurand for w in job.aim)
        sure = tuple(sorted(h for h, p in job.chances.items() if p > 0.0))
        wanted = (job.trial, measurands, sure, self.session.stamp)
        others = tuple(others_on(self.session, held))
        prices = prices_of(self.session)
        asked = (held[0].id, job, wanted, others, prices)
        if asked == self._asked:
            return
        self._asked = asked
        if self._ground is not None and self._ground.wanted != wanted:
            self._ground = None
        ground, path = self._ground, self.session.workshop.reads
        chances = dict(job.chances)

        def act() -> tuple[_Ground, Stairs]:
            own = ground or _Ground(wanted, rests_on(path, job.trial, measurands, chances))
            return own, work_out(job, own.rests, others, prices)

        self.shell.jobs.start("apply", act, self._answered, self._refused)

    def _answered(self, found: tuple[_Ground, Stairs]) -> None:
        self._ground, self.stairs = found
        self.lacks = ""
        self.came()

    def _refused(self, error: LoamError) -> None:
        self.stairs, self.lacks = None, str(error)
        self.came()
