"""A test spot at work: its set-up, readable at arm's length, and the pacer, stage after stage."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.session import Session
from loam.core.dose.stage import settings_for
from loam.core.errors import LoamError
from loam.core.pacer import DONE, READY, Moment, Pacer, track_of
from loam.core.trial import Combination, Stage
from loam.core.vehicle.job import SpotDone
from loam.ui.pacing_sounds import Ear
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT, wrapped
from loam.ui.theme import look
from loam.ui.theme.look import LEAD
from loam.ui.widgets.fields import words
from loam.ui.widgets.mark import mark_size, paint_mark
from loam.ui.widgets.pace_drawing import PaceDrawing

TICK_MS = 16
SIDE_MM = 300.0
"""A test spot is a square of so many millimetres."""


class _Card(Drawing):
    """What the spot gets now, large."""

    called = "what the spot gets"
    likes = (460, 420)

    def __init__(self) -> None:
        super().__init__()
        self.code, self.which = "", ""
        self.lines: list[tuple[str, str]] = []
        self.combination: Combination | None = None
        self.setMinimumSize(260, 220)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(look.ink)
        painter.setFont(look.figures(64, bold=True))
        high = float(look.px(78))
        painter.drawText(QRectF(0, 0, self.width(), high), LEFT, self.code)
        used = painter.fontMetrics().horizontalAdvance(self.code) + 24.0
        if self.combination is not None:
            row = 26.0
            wide, _ = mark_size(self.combination, row)
            if used + wide < self.width():
                at = QRectF(used, 14, wide, 10).topLeft()
                paint_mark(painter, at, self.combination, row, look.ink)
        painter.setFont(look.words(LEAD))
        painter.setPen(look.quiet)
        painter.drawText(QRectF(0, high, self.width(), look.px(26)), LEFT, self.which)
        y = high + look.px(34)
        for name, value in self.lines:
            painter.setFont(look.words(LEAD))
            painter.setPen(look.quiet)
            painter.drawText(QRectF(0, y, look.px(96), look.px(30)), LEFT, name)
            painter.setFont(look.words(24, bold=True))
            painter.setPen(look.ink)
            room = QRectF(look.px(100), y, self.width() - look.px(100), look.px(64))
            y += max(wrapped(painter, room, value, 2), look.px(30)) + 6


def set_up_lines(stage: Stage) -> list[tuple[str, str]]:
    """Return the set-up of a stage, a name and a value each; what nobody said is left out."""
    pad = f", {stage.pad_mm:g} mm" if stage.pad_mm else ""
    force = "the machine's weight" if stage.by_weight else ""
    lines = (
        ("disc" if stage.disc else "pad", (stage.disc or stage.pad) + pad),
        ("compound", stage.compound),
        ("machine", stage.machine),
        ("dial", stage.dial + (f" = {stage.speed:.0f}/min" if stage.speed else "")),
        ("force", force or (f"{stage.force_n:g} N" if stage.force_n else "")),
        ("arm", f"{stage.arm_mm_s:g} mm/s" if stage.arm_mm_s else ""),
        ("passes", f"{stage.passes}" if stage.passes else ""),
        ("tilt", f"{stage.tilt_deg:g}°" if stage.tilt_deg else ""),
    )
    return [(name, value) for name, value in lines if value]


class SpotBench(QWidget):
    """``worked`` carries the stage (from 1), its passes and its seconds, when a stage is done."""

    worked = pyqtSignal(int, int, float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.clock: Callable[[], float] = time.monotonic
        self.combination: Combination | None = None
        self.at = 0
        self.pacer: Pacer | None = None
        self.refusal = ""
        self.ear = Ear(session, self)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(24)
        self.card = _Card()
        row.addWidget(self.card, 2)
        right = QVBoxLayout()
        self.drawing = PaceDrawing()
        self.drawing.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        right.addWidget(self.drawing, 1)
        self.count = words("", "title")
        self.count.setObjectName("spot_count")
        right.addWidget(self.count)
        self.said = words("", "care", wrap=True)
        right.addWidget(self.said)
        row.addLayout(right, 3)
        self.timer = QTimer(self)
        self.timer.setInterval(TICK_MS)
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.timeout.connect(self.tick)

    @property
    def stage(self) -> Stage | None:
        """The stage at hand."""
        stages = self.combination.stages if self.combination is not None else ()
        return stages[self.at] if self.at < len(stages) else None

    @property
    def over(self) -> bool:
        """Whether all stages are worked."""
        return self.combination is not None and self.at >= len(self.combination.stages)

    def show_spot(self, spot: SpotDone | None, combination: Combination | None) -> None:
        """Take up a spot at its next stage."""
        self.timer.stop()
        self.combination = combination
        self.at = spot.worked if spot is not None else 0
        self.card.code = f"{spot.rung}" if spot is not None else ""
        self.card.combination = combination
        self._set_up(spot.part if spot is not None else "")

    def _set_up(self, part: str = "") -> None:
        stage = self.stage
        self.pacer, self.refusal = None, ""
        count = len(self.combination.stages) if self.combination is not None else 0
        if stage is None:
            self.card.which = "all stages are worked: wipe twice, then read"
            self.card.lines = []
        else:
            on = f" on the {part}" if part else ""
            self.card.which = f"stage {self.at + 1} of {count}{on}"
            self.card.lines = set_up_lines(stage)
            try:
                settings = settings_for(stage, SIDE_MM, SIDE_MM).section
                self.pacer = Pacer(track_of(settings, burst_s=stage.burst_s), self.clock)
            except LoamError as error:
                self.refusal = f"No pacer: {error} Work it by hand, then read it."
        self.said.setText(self.refusal or _CAUTION)
        self.card.setAccessibleDescription(
            "; ".join([self.card.which, *(f"{n} {v}" for n, v in self.card.lines)])
        )
        self.card.update()
        self._show()

    def press(self) -> None:
        """Start, hold or go on; after the last pass, come to the next stage."""
        if self.pacer is None:
            if self.stage is not None and self.refusal:
                self._stage_done(self.stage.passes, 0.0)
            return
        self.pacer.turn()
        if self.pacer.running:
            self.timer.start()
        else:
            self.timer.stop()
        self._show()

    def hold(self) -> None:
        """Hold the pad."""
        if self.pacer is not None:
            self.pacer.hold()
        self.timer.stop()

    def tick(self) -> None:
        """Follow the pad; at its end the stage is noted."""
        if self.pacer is None:
            self.timer.stop()
            return
        moment = self.pacer.moment()
        self.ear.follow(0, moment)
        self._show(moment)
        if moment.phase == DONE:
            self._stage_done(moment.of, self.pacer.trigger_s)

    def _stage_done(self, passes: int, seconds: float) -> None:
        self.timer.stop()
        self.at += 1
        self.worked.emit(self.at, passes, seconds)
        self._set_up()

    def _show(self, moment: Moment | None = None) -> None:
        pacer = self.pacer
        if pacer is None:
            self.drawing.show_moment(None, None)
            self.count.setText("R reads it" if self.over else "")
            return
        now = moment or pacer.moment()
        self.drawing.show_moment(pacer.track, now)
        self.count.setText("Space starts" if now.phase == READY else "")


_CAUTION = (
    "Eyes and breath protected, cable over the shoulder, no loose clothing; keep off edges. Follow"
    " the product's safety data sheet, local rules and qualified practice."
)
