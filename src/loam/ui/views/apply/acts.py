"""What one key does to the panel at hand, to the day, and to the car."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

from loam.app.applying.again import notes_again
from loam.app.applying.at_hand import Held, all_jobs, free_name, start_job
from loam.app.applying.rests import trial_called
from loam.app.applying.told import Stairs
from loam.app.commands import Act, NoteJob, PutJobAway, StartJob
from loam.app.session import Session
from loam.core.trial import Combination
from loam.core.vehicle.job import CarPart, Job
from loam.ui.views.apply.day_desk import DayDesk
from loam.ui.views.apply.ladder_desk import LadderDesk
from loam.ui.views.apply.spot_bench import SpotBench
from loam.ui.views.apply.spot_photos import SpotPhotos
from loam.ui.views.base import Shell
from loam.ui.widgets.fields import Field
from loam.ui.widgets.scroll_stack import Stack


class Noting(Protocol):
    """The view whose job and panel are noted; ``pressed_at`` is where that panel was pressed."""

    pressed_at: tuple[float, float] | None
    days: DayDesk

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


class CarView(Protocol):
    """The view whose car is acted on."""

    session: Session
    shell: Shell
    ladder: LadderDesk

    @property
    def stairs(self) -> Stairs | None:
        """The stairs of the job at hand."""
        ...

    @property
    def held(self) -> Held | None:
        """The job at hand, with its row."""
        ...

    @property
    def job(self) -> Job | None:
        """The job at hand."""
        ...

    def act(self, command: Act, field: Field | None = None) -> bool:
        """Run a command; False when it was refused."""
        ...

    def open_job(self, job_id: int) -> None:
        """Turn to a job."""
        ...

    def show_garage(self) -> None:
        """Show all cars."""
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
        planned = self.view.days.in_order(job)
        left = [p for p in planned if not p.done and p.key != part.key]
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
        """Draw a mark that catches a nail where the panel at hand was pressed."""
        part = self.view.part
        if part is not None:
            x, y = self.view.pressed_at or (0.3, 0.28)
            facts = {"part": part.key, "x": x, "y": y}
            self.view.note("nail", facts, "a mark that catches the nail", None)

    def people(self, count: int) -> None:
        """Say how many work."""
        job = self.view.job
        if job is not None:
            facts = {"people": count, "start": job.start, "hours": job.hours}
            self.view.note("day", facts, "who works", None)


class CarActs:
    """Acts on the car at hand as a whole."""

    def __init__(self, view: CarView) -> None:
        self.view = view

    def begin(self, shape: str) -> None:
        """Begin a job on a vehicle of a sort; it rests on the trial at hand."""
        view = self.view
        if view.session.trial is None:
            view.shell.say("Read a trial first: a car rests on what panels showed.", care=True)
            return
        command = start_job(view.session, free_name(view.session, f"A {shape}"), shape)
        if view.act(command):
            view.open_job(command.id)

    def beside(self, step: int) -> None:
        """Turn to the car before, or the next."""
        held, found = self.view.held, all_jobs(self.view.session)
        if held is None:
            return
        ids = [row.id for row, _ in found]
        self.view.open_job(ids[(ids.index(held[0].id) + step) % len(ids)])

    def put_away(self) -> None:
        """Put the car at hand away."""
        held = self.view.held
        if held is not None and self.view.act(PutJobAway(held[0].id)):
            self.view.ladder.turn()
            self.view.show_garage()

    def again(self) -> None:
        """Begin the next job on the same car: what is known of it and was taken off comes along."""
        view = self.view
        held = view.held
        if held is None:
            return
        removed = view.stairs.removed if view.stairs is not None else {}
        name = free_name(view.session, f"{held[0].name}, again")
        command = StartJob(name, notes_again(held[1], removed))
        if view.act(command):
            view.open_job(command.id)

    def behind(self) -> None:
        """Turn to the ranking that the ladder rests on."""
        view = self.view
        job = view.job
        if job is None:
            return
        found = trial_called(view.session.workshop.connection, job.trial)
        if found is not None:
            view.shell.turn_to(found.id)
            view.shell.go("judge")


class SpotView(Protocol):
    """The view whose test spot is taped, worked and measured."""

    shell: Shell
    pages: Stack
    bench: SpotBench
    photos: SpotPhotos
    spot: str
    rung: str
    pressed_at: tuple[float, float] | None

    @property
    def held(self) -> Held | None:
        """The job at hand, with its row."""
        ...

    @property
    def part(self) -> CarPart | None:
        """The panel at hand."""
        ...

    @property
    def stairs(self) -> Stairs | None:
        """The stairs of the job at hand."""
        ...

    def act(self, command: Act, field: Field | None = None) -> bool:
        """Run a command; False when it was refused."""
        ...

    @property
    def job(self) -> Job | None:
        """The job at hand."""
        ...

    def combination(self, code: str) -> Combination | None:
        """Return a combination by its letter."""
        ...

    def note(self, sort: str, facts: Mapping[str, object], said: str, field: Field | None) -> None:
        """Add a note to the job."""
        ...

    def read_spot(self) -> None:
        """Go to the readings of the spot."""
        ...


class SpotActs:
    """What is done at the last test spot: taped, worked with the pacer, photographed."""

    def __init__(self, view: SpotView) -> None:
        self.view = view

    def new(self, code: str = "") -> None:
        """Tape a test spot on the panel at hand, where it was pressed, with what is advised."""
        view = self.view
        held, part, stairs = view.held, view.part, view.stairs
        if held is None or part is None or stairs is None:
            return
        code = code or view.rung or stairs.decision[1]
        if not code:
            view.shell.say("Choose a step of the stairs first.", care=True)
            return
        if not part.works:
            view.shell.say(f"{part.key} is not worked: {part.state_words}.", care=True)
            return
        there = sum(s.part == part.key for s in held[1].spots)
        usual = (0.28 + 0.38 * (there % 2), 0.74 + 0.12 * (there // 2 % 2))
        x, y = view.pressed_at or usual
        facts = {"part": part.key, "rung": code, "x": x, "y": y}
        command = NoteJob(held[0].id, [("spot", facts)], "a test spot")
        if view.act(command):
            view.spot, view.pressed_at = command.uids[0], None
            view.read_spot()

    def work(self) -> None:
        """Work the last spot with the pacer."""
        view, job = self.view, self.view.job
        if job is None or not job.spots:
            return
        spot = job.spots[-1]
        view.spot = spot.uid
        view.bench.show_spot(spot, view.combination(spot.rung))
        view.pages.setCurrentWidget(view.bench)
        view.shell.keys_changed()
        view.bench.drawing.setFocus()

    def worked(self, stage: int, passes: int, seconds: float) -> None:
        """Note a stage that was worked."""
        facts: dict[str, object] = {"spot": self.view.spot, "stage": stage, "passes": passes}
        if seconds:
            facts["seconds"] = round(seconds, 1)
        self.view.note("worked", facts, f"stage {stage} of the spot", None)

    def photograph(self) -> None:
        """Measure photographs of the last spot."""
        view, job = self.view, self.view.job
        if job is not None and job.spots:
            view.pages.setCurrentWidget(view.photos)
            view.photos.begin_spot(job.spots[-1], job.colour)
            view.shell.keys_changed()

    def measured(self, facts: Mapping[str, object]) -> None:
        """Keep what photographs measured, and go back to the spot."""
        self.view.note("measured", facts, "photographs of the spot", None)
        self.view.read_spot()
