"""The days of the job at hand: planned, shown as a strip and on their page."""

from __future__ import annotations

from datetime import date
from typing import Protocol

from loam.app.applying.cards import supply_words
from loam.app.applying.rests import Rests
from loam.app.session import Session
from loam.core.trial import Combination
from loam.core.vehicle.day import Day, checks_of, hour_of, in_order, plan_day
from loam.core.vehicle.job import CarPart, Job
from loam.ui.views.apply.day_drawing import Planned
from loam.ui.views.apply.day_page import DayPage


class DayView(Protocol):
    """The view whose job is planned."""

    session: Session
    at: str

    @property
    def rests(self) -> Rests | None:
        """What the ladder rests on."""
        ...

    def combination(self, code: str) -> Combination | None:
        """Return a combination by its letter."""
        ...


class DayDesk:
    """Plans the days of a job."""

    def __init__(self, view: DayView) -> None:
        self.view, self.page = view, DayPage(view.session)

    def day_of(self, job: Job) -> Day | None:
        """Return the days of a job, once a combination is taken."""
        rests = self.view.rests
        if rests is None or not rests.paces or not (job.taken or any(p.rung for p in job.parts)):
            return None
        return plan_day(job, rests.paces)

    def in_order(self, job: Job) -> tuple[CarPart, ...]:
        """Return the panels of a job as they are planned."""
        return in_order(job, self.day_of(job))

    def plan_of(self, job: Job) -> Planned | None:
        """Return the days of a job as they are shown, once a combination is taken."""
        day = self.day_of(job)
        if day is None:
            return None
        return Planned(
            day,
            hour_of(job.start),
            self._now(job, day),
            self.view.at,
            {p.key: p.turn for p in job.working},
            frozenset(c.part for c in checks_of(job, day)),
        )

    def _now(self, job: Job, day: Day) -> float | None:
        """Return how many working minutes of a job are over; None where it is not worked."""
        now = self.view.session.workshop.clock()
        if job.finished or not job.day:
            return None
        try:
            which = (now.date() - date.fromisoformat(job.day)).days
        except ValueError:
            return None  # a file from elsewhere said no day that there is
        within = (now.hour - hour_of(job.start)) * 60.0 + now.minute
        if which < 0 or which >= day.days:
            return None
        return which * day.span + min(max(within, 0.0), day.span)

    def show(self, job: Job) -> None:
        """Show the page of the days."""
        view, plan = self.view, self.plan_of(job)
        checks = checks_of(job, plan.day) if plan is not None else ()
        used = supply_words(job, view.combination(job.taken), view.combination)
        small = view.rests.small if view.rests is not None else ""
        self.page.show_days(job, plan, checks, used, small)
