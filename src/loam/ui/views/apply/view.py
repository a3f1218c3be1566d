"""Apply: from the panels to the car, with its clear under guard."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.applying.aims import preset_notes
from loam.app.applying.at_hand import (
    Held,
    all_jobs,
    choose_job,
    job_at_hand,
    others_on,
)
from loam.app.applying.rests import Rests
from loam.app.applying.told import Stairs, alike, shown_words
from loam.app.changes import JOBS, Changes
from loam.app.commands import NoteJob
from loam.core.errors import LoamError
from loam.core.trial import Combination
from loam.core.vehicle.job import CarPart, Job
from loam.core.vehicle.room import Room, rooms_of
from loam.ui.picture_out import Picture
from loam.ui.views.apply.acts import CarActs, PanelActs, SpotActs
from loam.ui.views.apply.car_drawing import CarDrawing, part_words
from loam.ui.views.apply.car_head import CarHead
from loam.ui.views.apply.car_meter import CarMeter
from loam.ui.views.apply.car_out import car_picture, car_table
from loam.ui.views.apply.car_sheet import (
    AIM,
    DAY,
    HARD,
    LATER,
    PANEL,
    SPOT,
    STAIRS,
    CarSheet,
)
from loam.ui.views.apply.card_desk import CardDesk
from loam.ui.views.apply.day_desk import DayDesk
from loam.ui.views.apply.day_drawing import (
    DayDrawing,
    day_words,
    late_words,
    shaken_words,
)
from loam.ui.views.apply.garage import Garage, cards_of
from loam.ui.views.apply.ladder_desk import LadderDesk
from loam.ui.views.apply.spot_bench import SpotBench
from loam.ui.views.apply.spot_photos import SpotPhotos
from loam.ui.views.base import Key, Shell, View
from loam.ui.widgets.fields import Field, words
from loam.ui.widgets.scroll_stack import Stack

DONE, FINISH = ("X", "panel is done"), ("E", "finish the car")
_FIRST_SPOT = ("bonnet", "tank left", "left front door")


class ApplyView(View):
    """The car at the left, what to do at the right, the day below; all cars behind J."""

    step = "apply"
    sometimes = (
        (DONE[0], f"{DONE[1]}, once a combination is taken"),
        (FINISH[0], f"{FINISH[1]}, once all panels are done"),
    )

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.at = ""
        self.pressed_at: tuple[float, float] | None = None
        self.rung = ""
        self.spot = ""
        self.ladder = LadderDesk(shell, self.session, self._worked_out)
        self.acts, self.car_acts, self.spot_acts = PanelActs(self), CarActs(self), SpotActs(self)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 12, 24, 0)
        self.pages = Stack()
        outer.addWidget(self.pages)
        self.garage = Garage()
        self.garage.opened.connect(self.open_job)
        self.garage.begun.connect(self.car_acts.begin)
        self.own = QWidget()
        self.pages.addWidget(self.own)
        self.pages.addWidget(self.garage)
        self.desk = CardDesk(self)
        self.cards = self.desk.page
        self.days = DayDesk(self)
        self.pages.addWidget(self.cards)
        self.photos = SpotPhotos(shell, self.session, self.read_spot, self.spot_acts.measured)
        self.pages.addWidget(self.photos)
        self.bench = SpotBench(self.session)
        self.bench.worked.connect(self.spot_acts.worked)
        self.pages.addWidget(self.bench)
        box = QVBoxLayout(self.own)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        self.head = CarHead()
        self.head.turned.connect(lambda hard: self.turn(HARD if hard else AIM))
        self.slots = self.head.slots
        box.addWidget(self.head)
        row = QHBoxLayout()
        row.setSpacing(20)
        left = QVBoxLayout()
        self.car = CarDrawing()
        self.car.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.car.chosen.connect(self._pressed)
        left.addWidget(self.car, 1)
        self.key = words("", "small", wrap=True)
        left.addWidget(self.key)
        row.addLayout(left, 5)
        row.addWidget(self._sheet(), 4)
        box.addLayout(row, 1)
        box.addWidget(self._strip())

    def _strip(self) -> QWidget:
        self.day = DayDrawing()
        self.day.chosen.connect(self.choose_part)
        return self.day

    def _sheet(self) -> QWidget:
        sheet = self.sheet = CarSheet(self.session, self.days.page)
        self.stack, self.sheets, self.first = sheet.stack, sheet.pages, sheet.first
        self.panel_page, self.aim_page, self.hard_page = sheet.panel, sheet.aim, sheet.hard
        self.spot_page, self.later_page = sheet.spot, sheet.later
        self.advice, self.act_key, self.drawn = (
            self.first.advice,
            self.first.act_key,
            self.first.drawn,
        )
        self.first.act_key.clicked.connect(self.do_it)
        self.first.drawn.chosen.connect(self._choose_rung)
        self.days.page.read.connect(self._check)
        self.spot_page.pace.clicked.connect(self.spot_acts.work)
        self.spot_page.camera.clicked.connect(self.spot_acts.photograph)
        self.meters = [CarMeter(self, page) for page in (self.spot_page, self.panel_page)]
        for page, meter in zip((self.spot_page, self.panel_page), self.meters, strict=True):
            page.wanted.connect(meter.ask)
        self.aim_page.priced.connect(self.show_all)
        sheet.note.connect(self.note)
        return sheet

    @property
    def held(self) -> Held | None:
        """The job at hand."""
        return job_at_hand(self.session)

    @property
    def job(self) -> Job | None:
        """The job at hand as it stands."""
        held = self.held
        return held[1] if held is not None else None

    @property
    def part(self) -> CarPart | None:
        """The panel at hand."""
        job = self.job
        return job.part(self.at) if job is not None else None

    @property
    def stairs(self) -> Stairs | None:
        """The stairs of the job at hand, once they are worked out."""
        return self.ladder.stairs

    @property
    def rests(self) -> Rests | None:
        """What the ladder rests on, once it is judged."""
        return self.ladder.rests

    @property
    def codes(self) -> tuple[str, ...]:
        """The letters of the ladder, once it is worked out."""
        return self.ladder.codes

    @property
    def in_garage(self) -> bool:
        """Whether all cars are looked at."""
        return self.pages.currentWidget() is self.garage

    @property
    def on_cards(self) -> bool:
        """Whether cards and sheets are looked at."""
        return self.pages.currentWidget() is self.cards

    @property
    def at_photos(self) -> bool:
        """Whether photographs of a spot are measured."""
        return self.pages.currentWidget() is self.photos

    @property
    def at_bench(self) -> bool:
        """Whether a spot is being worked."""
        return self.pages.currentWidget() is self.bench

    @property
    def page(self) -> str:
        """The page beside the car."""
        return self.sheet.page

    def keys(self) -> list[Key]:
        if self.in_garage:
            found: list[Key] = [("arrows", "which", None), ("Enter", "open it", None)]
            if all_jobs(self.session):
                found.append(("Esc", "back", self.leave))
            return found
        if self.on_cards:
            return [*self.cards.keys(), ("Esc", "back to the car", self.leave)]
        if self.at_photos:
            return self.photos.keys()
        if self.at_bench:
            return [
                ("Space", "start, go on", self.bench.press),
                ("R", "read the spot", self.read_spot),
                ("Esc", "back to the car", self.leave),
            ]
        if self.page != STAIRS:
            own = self.panel_page.keys() if self.page == PANEL else []
            return [("Esc", "back to the stairs", self.leave), ("Tab", "next", None), *own]
        return self._car_keys()

    def _car_keys(self) -> list[Key]:
        found: list[Key] = [
            ("arrows", "panel", None),
            ("F", "film, panel", partial(self.turn, PANEL)),
            ("G", "what is wanted", partial(self.turn, AIM)),
            ("H", "how hard", partial(self.turn, HARD)),
            ("S", "test spot", self.spot_acts.new),
        ]
        job = self.job
        if job is not None and job.spots:
            found.append(("W", "work the spot", self.spot_acts.work))
            found.append(("R", "read the spot", self.read_spot))
        if job is not None and job.taken:
            if not all(p.done for p in job.working):
                found.append((*DONE, self.acts.done))
            elif not job.finished:
                found.append((*FINISH, self.acts.finish))
            found.append(("D", "the day", partial(self.turn, DAY)))
        found.append(("C", "cards, sheets", self.show_cards))
        return [*found, ("J", "all cars", self.show_garage)]

    def more_keys(self) -> list[Key]:
        if (
            self.in_garage
            or self.on_cards
            or self.at_bench
            or self.at_photos
            or self.page != STAIRS
        ):
            return [("Ctrl+N", "a new car", self.show_garage)]
        job = self.job
        days: list[Key] = [("D", "the day", partial(self.turn, DAY))]
        return [
            ("Enter", "do what is advised", self.do_it),
            *(days if job is None or not job.taken else []),
            ("L", "read a panel again, what cars showed", partial(self.turn, LATER)),
            ("N", "a mark that catches the nail", self.acts.nail),
            ("B", "the ranking behind it", self.car_acts.behind),
            ("Ctrl+D", "the same car again", self.car_acts.again),
            ("I", "another combination on this panel", self.acts.instead),
            ("O", "leave this panel out, or not", self.acts.leave_out),
            ("1", "one works", partial(self.acts.people, 1)),
            ("2", "two work", partial(self.acts.people, 2)),
            ("3", "three work", partial(self.acts.people, 3)),
            ("PgUp", "car before", partial(self.car_acts.beside, -1)),
            ("PgDn", "next car", partial(self.car_acts.beside, 1)),
            ("Ctrl+N", "a new car", self.show_garage),
            ("Ctrl+Del", "put the car away", self.car_acts.put_away),
        ]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        arrows = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.leave()
            return
        if event is not None and self.on_cards:
            turns = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
            if event.key() in turns:
                self.cards.turn(turns[Qt.Key(event.key())])
                return
            super().keyPressEvent(event)
            return
        if (
            event is not None
            and event.key() in arrows
            and not (self.in_garage or self.at_bench or self.at_photos)
        ):
            self.choose_part(self.car.beside(Qt.Key(event.key())))
            return
        super().keyPressEvent(event)

    def entered(self) -> None:
        if self.in_garage:
            self.garage.setFocus()
        elif self.on_cards:
            self.cards.paper.setFocus()
        elif self.at_photos:
            self.photos.setFocus()
        elif self.at_bench:
            self.bench.drawing.setFocus()
        elif self.page == STAIRS:
            self.car.setFocus()

    def refresh(self, changes: Changes) -> None:
        if changes.kinds - {JOBS}:
            self.ladder.judge_anew()
        if not all_jobs(self.session):
            self.pages.setCurrentWidget(self.garage)
        self.show_all()

    def show_all(self) -> None:
        """Show the job at hand, or all cars."""
        if self.in_garage:
            self.garage.show_cards(cards_of(all_jobs(self.session)), self.garage.at)
            self.shell.keys_changed()
            return
        held = self.held
        if held is None:
            return
        _, job = held
        own = job.part(self.at)
        if own is None or own.glass:
            self.at = next(k for k in _FIRST_SPOT if job.part(k))
        if self.on_cards:
            self.desk.show_job(job)
        self.head.show_job(job, self.stairs)
        self.ladder.work_out(held)
        self._show_car(job)
        self._show_page(job)
        self.shell.keys_changed()

    def rooms(self, job: Job) -> Mapping[str, Room]:
        """Return what each panel has room for."""
        return self.stairs.rooms if self.stairs is not None else rooms_of(job)

    def _show_car(self, job: Job) -> None:
        self.car.show_job(job, self.rooms(job), self.at)
        own = job.part(self.at)
        said = part_words(own, self.rooms(job)) if own is not None else ""
        self.key.setText(
            f"{said[:1].upper()}{said[1:]}. Large figures: thinnest film, µm; small: order of work."
        )
        plan = self.days.plan_of(job)
        self.day.show_day(plan)
        if plan is not None and plan.day.turns:
            self.day.setToolTip(day_words(plan.day, plan.begins))
            behind = late_words(plan.day, plan.begins, plan.now) or shaken_words(plan.day)
            if behind and self.page != DAY and not job.finished:  # there it stands on the page
                self.key.setText(behind)

    def _show_page(self, job: Job) -> None:
        page = self.page
        if page == PANEL:
            self.panel_page.show_part(self.part, self.rooms(job).get(self.at))
        elif page == AIM:
            self.aim_page.show_job(job, self.codes)
        elif page == HARD:
            held = self.held
            others = others_on(self.session, held) if held is not None else []
            self.hard_page.show_job(job, alike(job, others, self.stairs) if self.stairs else {})
        elif page == DAY:
            self.days.show(job)
        elif page == LATER:
            self.later_page.show_part(
                self.part, shown_words(self.stairs.lain if self.stairs else ())
            )
        elif page == SPOT:
            spot = next((s for s in job.spots if s.uid == self.spot), None)
            if spot is None:
                self.turn(STAIRS)
                return
            self.spot_page.show_spot(spot, self.combination(spot.rung))
        else:
            self._show_stairs()

    def _check(self, part: str) -> None:
        """Turn to the readings of a panel whose spot check was pressed."""
        self.choose_part(part)
        self.turn(LATER)

    def combination(self, code: str) -> Combination | None:
        """Return a combination of the ladder by its letter."""
        return self.ladder.combination(code)

    def _show_stairs(self) -> None:
        self.first.show_stairs(self.stairs, self.job, self.rung, self.ladder.lacks)

    def _worked_out(self) -> None:
        """Show what the ladder came to, or what it lacks."""
        job = self.job
        if job is not None and self.on_cards:
            self.desk.show_job(job)
        elif job is not None and not self.in_garage:
            self.head.show_job(job, self.stairs)
            self._show_car(job)
            self._show_page(job)

    def note(self, sort: str, facts: Mapping[str, object], said: str, field: Field | None) -> None:
        """Add a note to the job."""
        held = self.held
        if held is None:
            return
        notes: list[tuple[str, Mapping[str, object]]] = [(sort, facts)]
        if sort == "preset":
            notes = preset_notes(str(facts["preset"]))
        elif sort == "aim":
            notes.append(("wish", {"preset": "as said"}))
        self.act(NoteJob(held[0].id, notes, said), field)

    def turn(self, page: str = STAIRS) -> None:
        """Turn to a page beside the car."""
        job = self.job
        if job is None:
            return
        self.stack.setCurrentWidget(self.sheets[page])
        self._show_car(job)
        self._show_page(job)
        self.shell.keys_changed()
        if page == STAIRS:
            self.car.setFocus()
        else:
            own = self.sheets[page]
            first = own.first() if hasattr(own, "first") else own
            first.setFocus(Qt.FocusReason.OtherFocusReason)

    def leave(self) -> None:
        """Go back: from a page to the stairs, from the garage to the car."""
        if self.at_photos:
            self.photos.escape()
            return
        if self.in_garage or self.on_cards or self.at_bench:
            self.bench.hold()
            if all_jobs(self.session):
                self.pages.setCurrentWidget(self.own)
                self.show_all()
                self.car.setFocus()
            return
        self.turn(STAIRS)

    def show_garage(self) -> None:
        """Show all cars, and what a new one may be."""
        self.pages.setCurrentWidget(self.garage)
        self.show_all()
        self.garage.setFocus()

    def show_cards(self) -> None:
        """Show the cards and sheets of the job at hand."""
        held = self.held
        if held is not None:
            self.pages.setCurrentWidget(self.cards)
            self.desk.show_held(held)
            self.shell.keys_changed()
            self.cards.paper.setFocus()

    def picture(self) -> Picture | None:
        job = self.job
        if job is None or self.in_garage:
            return None
        if self.on_cards:
            return self.cards.picture(job.name)
        return car_picture(job, self.rooms(job), self.stairs, self.ladder.lacks)

    def take_picture(self, path: Path) -> bool:
        if self.at_photos:
            self.photos.take(path)
            return True
        if not self.on_cards and (self.in_garage or self.at_bench or self.part is None):
            return False
        if not self.on_cards:
            self.turn(PANEL)
        try:
            (self.cards if self.on_cards else self.panel_page).take_picture(path)
        except LoamError as error:
            self.shell.say(str(error), care=True)
        return True

    def open_job(self, job_id: int) -> None:
        """Turn to a job."""
        choose_job(self.session, job_id)
        self.ladder.turn()
        self.at, self.rung = "", ""
        self.pages.setCurrentWidget(self.own)
        self.stack.setCurrentWidget(self.sheets[STAIRS])
        self.show_all()
        self.car.setFocus()

    def _pressed(self, part: str, x: float, y: float) -> None:
        self.choose_part(part)
        self.pressed_at = (round(x, 3), round(y, 3))
        self.car.setFocus()

    def choose_part(self, part: str) -> None:
        """Turn to a panel."""
        self.at, self.pressed_at = part, None
        job = self.job
        if job is not None:
            self._show_car(job)
            if self.page in (PANEL, LATER):
                self._show_page(job)

    def _choose_rung(self, code: str) -> None:
        self.rung = "" if code == self.rung else code
        self._show_stairs()

    def do_it(self) -> None:
        """Do what is advised: try it, take it, stop, or measure first."""
        if self.stairs is None:
            return
        what, code = self.stairs.decision
        held = self.held
        if held is None:
            return
        if what == "measure":
            self.turn(PANEL)
        elif what == "try":
            self.spot_acts.new(code)
        elif held[1].decided[:2] != (what, code):
            facts = {"what": what, "words": self.stairs.advice} | ({"rung": code} if code else {})
            self.note("decided", facts, f"{what} {code}".strip(), None)

    def read_spot(self) -> None:
        """Read the last spot."""
        job = self.job
        if job is not None and job.spots:
            self.bench.hold()
            self.pages.setCurrentWidget(self.own)
            self.spot = job.spots[-1].uid
            self.turn(SPOT)

    def table(self) -> list[list[str]]:
        job = self.job
        if job is None or self.in_garage:
            return []
        return car_table(job, self.rooms(job))
