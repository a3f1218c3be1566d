"""Which sheets a job has, and the cards for the wall, worked out when they are first asked for."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Protocol

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from loam.app.applying.at_hand import Held, others_on, prices_of
from loam.app.applying.cards import WallCard, customer, record_rows, supply_words, wall_cards
from loam.app.applying.told import Stairs
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.trial import Combination
from loam.core.vehicle.job import Job
from loam.core.vehicle.room import Room
from loam.ui.views.apply.card_page import CardPage, Sheets, letterhead
from loam.ui.views.apply.cards import draw_customer, draw_record, draw_setup, draw_wall
from loam.ui.views.apply.day_desk import DayDesk
from loam.ui.views.base import Shell


class CarDesk(Protocol):
    """The view whose job the sheets are of."""

    shell: Shell
    session: Session
    days: DayDesk

    @property
    def stairs(self) -> Stairs | None:
        """The stairs of the job at hand."""
        ...

    def rooms(self, job: Job) -> Mapping[str, Room]:
        """Return what each panel has room for."""
        ...

    def combination(self, code: str) -> Combination | None:
        """Return a combination by its letter."""
        ...


class CardDesk:
    """Fills the page of cards and sheets."""

    def __init__(self, view: CarDesk) -> None:
        self.view, self.page = view, CardPage(view.session)
        self._walls: list[WallCard] = []
        self._of: tuple[object, ...] = ()

    def show_held(self, held: Held) -> None:
        """Show the sheets of a job; work the cards for the wall out where that is not done yet."""
        _, job = held
        session = self.view.session
        others = others_on(session, held)
        prices = prices_of(session)
        covered = self.view.stairs.covered if self.view.stairs is not None else (0, 0)
        wanted = (job.trial, job.aim, job.preset, tuple(others), session.stamp, covered, prices)
        if wanted != self._of:
            self._walls = []
        self.show_job(job)
        if wanted == self._of:
            return
        path, day = session.workshop.reads, session.workshop.clock().strftime("%Y-%m-%d")

        def taken(found: list[WallCard]) -> None:
            self._walls, self._of = found, wanted
            self.show_job(job)

        def refused(error: LoamError) -> None:
            self.page.said.setText(f"No card for the wall: {error}")

        jobs = self.view.shell.jobs
        jobs.start(
            "cards",
            lambda: wall_cards(path, job, others, day, covered, prices),
            taken,
            refused,
        )

    def show_job(self, job: Job) -> None:
        """Show what sheets there are of a job."""
        view, session = self.view, self.view.session
        rooms, day, combination = (
            view.rooms(job),
            view.days.day_of(job),
            view.combination(job.taken),
        )
        told, rows = customer(job, view.stairs, rooms), record_rows(job, rooms)

        used = supply_words(job, combination, view.combination)

        def of_customer(painter: QPainter, area: QRectF) -> None:
            draw_customer(painter, area, job, rooms, told, letterhead(session))

        def of_setup(painter: QPainter, area: QRectF) -> None:
            draw_setup(painter, area, job, combination, day, used, letterhead(session))

        def of_record(painter: QPainter, area: QRectF) -> None:
            draw_record(painter, area, job, rows, letterhead(session))

        sheets: Sheets = {
            "customer": ("customer's sheet", of_customer),
            "setup": ("set-up card", of_setup),
        }
        for card in self._walls:
            sheets[card.hardness] = (f"card for {card.hardness} clear", self._wall(card))
        sheets["record"] = ("record for the next time", of_record)
        named = bool(letterhead(session).name)
        said = "" if named else "Give your name below: it stands on every sheet."
        self.page.show_sheets(sheets, said)

    def _wall(self, card: WallCard) -> Callable[[QPainter, QRectF], object]:
        session = self.view.session
        return lambda painter, area: draw_wall(painter, area, card, letterhead(session))
