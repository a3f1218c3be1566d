"""Cars that were unlike their class, as cards among the doubts of the trial that promised."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent

from loam.app.applying.doubted import CarDoubt, cars_doubted
from loam.app.commands import NoteJob
from loam.core.errors import LoamError
from loam.core.vehicle.room import rooms_of
from loam.ui.paint.drawing import Drawing
from loam.ui.views.apply.car_drawing import draw_car
from loam.ui.views.apply.spot_drawing import draw_spot
from loam.ui.views.judge.doubts.card import CheckCard, Switch
from loam.ui.views.judge.owner import Owner

_STATES = ("it teaches", "left out")


class CarFigure(Drawing):
    """The car, and its spot that lay farthest off beside what was promised."""

    called = "the car that is doubted"
    likes = (640, 150)

    def __init__(self, doubt: CarDoubt) -> None:
        super().__init__()
        self.doubt = doubt
        self.setMinimumSize(260, 96)
        self.setAccessibleDescription(doubt.evidence)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_car_doubt(painter, QRectF(0, 0, self.width(), self.height()), self.doubt)


def draw_car_doubt(painter: QPainter, area: QRectF, doubt: CarDoubt) -> None:
    """Draw a car that is doubted, and its spot against the promise."""
    wide = min(area.width() * 0.36, area.height() * 1.5)
    car = QRectF(area.left(), area.top(), wide, area.height())
    draw_car(painter, car, doubt.job, rooms_of(doubt.job), bare=True)
    if doubt.told is not None:
        rest = area.adjusted(wide + 24, 4, 0, 0)
        draw_spot(painter, rest, doubt.told)


class CarDoubts:
    """The cars among the doubts: found on the worker once they are looked at, each with its switch.

    Parameters
    ----------
    came : callable
        Called once they are found, and with what failed.
    """

    def __init__(self, owner: Owner, came: Callable[[str], None]) -> None:
        self.owner, self.came = owner, came
        self.found: tuple[CarDoubt, ...] = ()
        self.stale = True

    def clear(self) -> None:
        """Forget them: the trial or its readings have changed."""
        self.owner.shell.jobs.cancel("car doubts")
        self.found, self.stale = (), True

    def start(self) -> None:
        """Look for them on the worker."""
        session, jobs = self.owner.session, self.owner.shell.jobs
        trial_id = session.trial_id
        if trial_id is None:
            return
        path, self.stale = session.workshop.reads, False

        def taken(found: tuple[CarDoubt, ...]) -> None:
            if trial_id == session.trial_id:
                self.found = found
                self.came("")

        def failed(error: LoamError) -> None:
            if trial_id == session.trial_id:
                self.came(f"Cars could not be looked through: {error}")

        jobs.start("car doubts", lambda: cars_doubted(path, trial_id), taken, failed)

    def words(self) -> str:
        """Say how many there are, behind the doubts about readings; "" for none."""
        if not self.found:
            return ""
        count = len(self.found)
        return "A car was unlike its class." if count == 1 else f"{count} cars were unlike theirs."

    def cards(self, first: int) -> list[CheckCard]:
        """Make their cards, the first with a number."""
        return [
            CheckCard(
                (d.head, d.evidence, d.effect),
                Switch(first + i, _STATES, int(d.job.apart)),
                CarFigure(d),
            )
            for i, d in enumerate(self.found)
        ]

    def turn(self, at: int) -> None:
        """Let a car teach no more how cars differ, or let it teach again."""
        doubt = self.found[at]
        on = int(not doubt.job.apart)
        said = f"{doubt.job.name} {'teaches nothing' if on else 'teaches again'}"
        self.owner.act(NoteJob(doubt.job_id, [("apart", {"on": on})], said))
