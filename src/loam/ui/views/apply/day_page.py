"""The page of the days: who works from when, how each is shaken, what is still to be read."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from loam.app.session import Session
from loam.core.readings import kind_of
from loam.core.text import listed
from loam.core.vehicle.day import Check, Day
from loam.core.vehicle.job import Job
from loam.core.vibration import ACTION, LIMIT
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT, RIGHT
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.views.apply.day_drawing import (
    Planned,
    ends_words,
    late_words,
    shaken_words,
    small_words,
)
from loam.ui.views.apply.pages import Page
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.tape import TapeKey, paint_tape

_PEOPLE = 4
_CHECKS = 5
_NAME = 26
"""A longer name of a panel is cut with a sign."""


class HandsDrawing(Drawing):
    """How machines shake each person on their worst day, beside the action and the limit value."""

    called = "vibration of each person"
    likes = (480, 80)
    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("hands")
        self.a8: tuple[float, ...] = ()

    def show_hands(self, a8: Sequence[float]) -> None:
        """Show each person's A(8), m/s²; hidden where nothing shakes."""
        self.a8 = tuple(a8)
        self.setVisible(any(self.a8))
        self.setFixedHeight(look.px(24) * len(self.a8) + look.px(22))
        self.setAccessibleDescription(", ".join(f"{a:.1f} m/s²" for a in self.a8))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        names, figures = float(look.px(76)), float(look.px(84))
        room = QRectF(names, 0, self.width() - names - figures, self.height())
        px = room.width() / (max(LIMIT, *self.a8) * 1.08)
        line = float(look.px(24))
        for i, value in enumerate(self.a8):
            row = QRectF(0, i * line, self.width(), line)
            painter.setFont(look.words(BODY))
            painter.setPen(look.ink)
            painter.drawText(row, LEFT, f"person {i + 1}")
            bar = QRectF(room.left(), row.top() + 4, max(value * px, 2.0), line - 8)
            paint_tape(painter, bar, seed=i + 2, depth=3)
            painter.setFont(look.figures(BODY, bold=True))
            painter.setPen(look.care if value >= LIMIT else look.ink)
            painter.drawText(row, RIGHT, f"{value:.1f} m/s²")
        foot = len(self.a8) * line
        painter.setFont(look.words(SMALL))
        for value, said in ((ACTION, f"action {ACTION:g}"), (LIMIT, f"limit {LIMIT:g}")):
            x = room.left() + value * px
            painter.setPen(QPen(look.care if value == LIMIT else look.quiet, 1.5))
            painter.drawLine(QPointF(x, 0), QPointF(x, foot))
            painter.setPen(look.quiet)
            painter.drawText(QRectF(x - 90, foot, 90, self.height() - foot), RIGHT, said)


class DayPage(Page):
    """``read`` carries a panel whose spot check was pressed."""

    read = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.job: Job | None = None
        self.said = words("", "lead", wrap=True)
        self.said.setObjectName("day_said")
        self.rows.addWidget(self.said)
        row = QHBoxLayout()
        row.setSpacing(14)
        self.people = Chips(
            "Who works", "people", [(str(n), str(n)) for n in range(1, _PEOPLE + 1)]
        )
        self.people.chosen.connect(lambda _k: self._keep(self.start))
        row.addWidget(self.people)
        self.start = Field("From", "day_start", width=62)
        self.start.kept.connect(lambda _t: self._keep(self.start))
        row.addWidget(self.start)
        self.hours = Field("A day has", "day_hours", unit="h", width=46)
        self.hours.kept.connect(lambda _t: self._keep(self.hours))
        row.addWidget(self.hours)
        row.addStretch(1)
        self.rows.addLayout(row)
        self.hands = HandsDrawing()
        self.rows.addWidget(self.hands)
        self.shaken = words("", "", wrap=True)
        self.rows.addWidget(self.shaken)
        self.rows.addSpacing(6)
        self.rows.addWidget(words("Still to be read, while it is worked", "head"))
        self.none = words("", "quiet", wrap=True)
        self.rows.addWidget(self.none)
        self.checks = [TapeKey("", "", main=True) for _ in range(_CHECKS)]
        self._of: tuple[Check, ...] = ()
        for i, key in enumerate(self.checks):
            key.clicked.connect(lambda _c=False, n=i: self.read.emit(self._of[n].part))
            self.rows.addWidget(key)
        self.lay = words("", "small", wrap=True)
        self.lay.setObjectName("to_lay_out")
        self.rows.addWidget(self.lay)
        self.rows.addStretch(1)

    def first(self) -> QWidget:
        return self.start.line

    def show_days(
        self, job: Job, plan: Planned | None, checks: Sequence[Check], used: str, small: str
    ) -> None:
        """Show the days of a job, or what they lack; ``used`` is what is to be laid out."""
        self.job, self._of = job, tuple(checks[:_CHECKS])
        self.people.set_value(str(job.people))
        self.start.set_text(job.start)
        self.hours.set_text(f"{job.hours:g}")
        day = plan.day if plan is not None else None
        self.said.setText(_said(plan))
        self.hands.show_hands(day.a8 if day is not None else ())
        self.shaken.setText(shaken_words(day) if day is not None else "")
        self.shaken.setVisible(bool(self.shaken.text()))
        self.none.setVisible(not checks)
        self.none.setText(_nothing(day))
        for i, key in enumerate(self.checks):
            key.setVisible(i < len(self._of))
            if i < len(self._of):
                key.main = self._of[i].due
                key.set_words(check_words(self._of[i]))
        told = small_words(day, small) if day is not None else ""
        lay = f"To lay out: {used}" if used else ""
        self.lay.setText(" ".join(s for s in (told, lay) if s))

    def _keep(self, field: Field) -> None:
        """Note who works, from when and how long."""
        hours = self.number(self.hours, self.hours.text())
        if self.job is None or hours is None:
            return
        count = next(iter(self.people.value()), str(self.job.people))
        facts = {"people": int(count), "start": self.start.text(), "hours": hours}
        self.note.emit("day", facts, "who works", field)


def check_words(check: Check) -> str:
    """Say a spot check: its panel, what is to be read, and when."""
    what = listed([kind_of(m).short for m in check.lacking])
    name = check.part if len(check.part) <= _NAME else f"{check.part[: _NAME - 1]}…"
    return f"{name}: {what}, {'now' if check.due else 'once it is done'}"


def _said(plan: Planned | None) -> str:
    if plan is None or not plan.day.turns:
        return (
            "There is no day yet: a test spot says what to take for all of it, then it is planned."
        )
    told = late_words(plan.day, plan.begins, plan.now) or ends_words(plan.day, plan.begins)
    if plan.day.lacking:
        told += f" Nobody knows how long {listed(list(plan.day.lacking[:3]))} takes."
    return told


def _nothing(day: Day | None) -> str:
    if day is None or not day.turns:
        return "A panel in four is checked, and the last; they stand here once there is a day."
    return "Every spot check of the day is read."
