"""What is noted of the panel at hand, and of the day, with one key."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

from loam.core.vehicle.job import CarPart, Job
from loam.ui.widgets.fields import Field


class Noting(Protocol):
    """The view whose job and panel are noted."""

    @property
    def job(self) -> Job | None:
        """The job at hand."""
        ...

    @property
    def part(self) -> CarPart | None:
        """The panel at hand."""
        ...

    @property
    def codes(self) -> tuple[str, ...]:
        """The letters of the ladder."""
        ...

    def note(self, sort: str, facts: Mapping[str, object], said: str, field: Field | None) -> None:
        """Add a note to the job."""
        ...

    def choose_part(self, part: str) -> None:
        """Turn to a panel."""
        ...


class PanelActs:
    """Acts on the panel at hand."""

    def __init__(self, view: Noting) -> None:
        self.view = view

    def done(self) -> None:
        """Tape the panel at hand over: it is done."""
        job, part = self.view.job, self.view.part
        if job is None or part is None:
            return
        code = job.rung_of(part)
        if not code or not part.works or part.done:
            return
        self.view.note("done", {"part": part.key, "rung": code}, f"{part.key} is done", None)
        left = [p for p in job.working if not p.done and p.key != part.key]
        if left:
            self.view.choose_part(left[0].key)

    def finish(self) -> None:
        """Say that the car is finished."""
        self.view.note("finished", {}, "the car is finished", None)

    def instead(self) -> None:
        """Give the panel at hand the next combination of its own; after the last, none."""
        part = self.view.part
        codes = self.view.codes
        if part is None or not codes or not part.works:
            return
        order = ("", *codes)
        now = order.index(part.rung) if part.rung in order else 0
        code = order[(now + 1) % len(order)]
        facts = {"part": part.key} | ({"rung": code} if code else {})
        self.view.note("instead", facts, f"{code or 'the usual one'} on {part.key}", None)

    def leave_out(self) -> None:
        """Leave the panel at hand out, or take it in again."""
        part = self.view.part
        if part is not None:
            facts = {"part": part.key, "out": int(not part.out)}
            self.view.note("part", facts, f"{part.key} is {'in' if part.out else 'out'}", None)

    def nail(self) -> None:
        """Draw a mark that catches a nail on the panel at hand."""
        part = self.view.part
        if part is not None:
            facts = {"part": part.key, "x": 0.3, "y": 0.28}
            self.view.note("nail", facts, "a mark that catches the nail", None)

    def people(self, count: int) -> None:
        """Say how many work."""
        job = self.view.job
        if job is not None:
            self.view.note("day", {"people": count, "start": job.start}, "who works", None)
