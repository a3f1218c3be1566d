"""The days of a vehicle as a strip: what is done, what comes, who, and when it ends."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen

from loam.core.text import listed
from loam.core.units import fixed
from loam.core.vehicle.day import Day, Turn, late
from loam.core.vibration import ACTION, LIMIT
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT, MIDDLE, that_fits
from loam.ui.theme import look
from loam.ui.theme.look import SMALL
from loam.ui.widgets.tape import paint_tape

LATE_MIN = 5.0
"""A day so many minutes behind is said to be late."""
_FIRST = ("wash, clay, survey, spots", "wash, survey, spots", "wash, survey", "wash")
_LANES = 3


@dataclass(frozen=True)
class Planned:
    """Days as they are shown.

    Attributes
    ----------
    begins : float
        The hour at which a day begins.
    now : float or None
        Working minutes since the first day began; None while it is not worked.
    at : str
        The panel at hand.
    numbers : mapping of str to int
        Each panel's turn in the order of work, as it stands on the vehicle.
    lacking : frozenset of str
        Panels whose spot check lacks a reading.
    """

    day: Day
    begins: float = 9.0
    now: float | None = None
    at: str = ""
    numbers: Mapping[str, int] = field(default_factory=dict)
    lacking: frozenset[str] = frozenset()


class DayDrawing(Drawing):
    """One lane a person; ``chosen`` carries the panel that was pressed."""

    called = "the day"
    likes = (720, 80)
    grows = (True, False)
    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("day")
        self.plan: Planned | None = None
        self._boxes: list[tuple[QRectF, str]] = []

    def show_day(self, plan: Planned | None) -> None:
        """Show planned days; without any it is hidden."""
        self.plan = plan
        self.setVisible(plan is not None and bool(plan.day.turns))
        lanes = len(plan.day.a8) if plan is not None else 1
        self.setFixedHeight(look.px(26) + min(lanes, _LANES) * look.px(24))
        self.setAccessibleDescription("" if plan is None else day_words(plan.day, plan.begins))
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            for box, part in self._boxes:
                if box.contains(event.position()):
                    self.chosen.emit(part)
                    return

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.plan is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._boxes = draw_day(painter, QRectF(0, 0, self.width(), self.height()), self.plan)


def clock(day: Day, begins: float, minutes: float, *, starts: bool = False) -> str:
    """Return when a moment is: 16:50, or 10:20 on day 2.

    What ``starts`` where two days meet does so in the morning; what ends there, in the evening.
    """
    which, within = day.of(minutes)
    if which and within < 1e-6 and not starts:
        which, within = which - 1, day.span
    whole = round(begins * 60 + within)
    return f"{whole // 60 % 24}:{whole % 60:02d}" + (f" on day {which + 1}" if which else "")


def ends_words(day: Day, begins: float) -> str:
    """Say when it ends, of how much, with how many breaks."""
    breaks = f", {day.breaks} break{'s' if day.breaks != 1 else ''}" if day.breaks else ""
    many = f"{len(day.turns)} panel{'s' if len(day.turns) != 1 else ''}"
    return f"Ends at {clock(day, begins, day.ends)}: {many}{breaks}."


def day_words(day: Day, begins: float) -> str:
    """Say when it ends, how long it is, and how it shakes."""
    worst = max(day.a8, default=0.0)
    return ends_words(day, begins) + (
        f" Vibration up to {worst:.1f} m/s² a person and day, by what is declared." if worst else ""
    )


def late_words(day: Day, begins: float, now: float | None) -> str:
    """Say early when a day runs late, when it will end, and what could be left out; "" if not."""
    found = late(day, now) if now is not None and now > 0.0 else None
    if found is None or found.minutes < LATE_MIN:
        return ""
    spare = ", ".join(f"{part} ({minutes:.0f} min)" for part, minutes in found.spare[:3])
    ends = clock(day, begins, found.ends)
    return f"{found.minutes:.0f} min late: ends {ends}. Could be left out: {spare}."


def shaken_words(day: Day) -> str:
    """Say where somebody comes to the action value of a day's vibration; "" where nobody does."""
    if not day.over:
        return ""
    if day.beyond:
        return (
            f"{listed(list(day.beyond)).capitalize()} alone shakes past the limit value {LIMIT:g}"
            " m/s² of a day: share it between people."
        )
    return (
        f"Vibration comes to about {max(day.a8):.1f} m/s² a person and day (declared, with K),"
        f" above the action value {ACTION:g}; breaks and days are planned so that nobody passes"
        f" the limit {LIMIT:g}."
    )


def small_words(day: Day, small: str) -> str:
    """Say how much is tight, and with which small machine it is worked; "" where nothing is."""
    if day.tight_m2 < 0.05:
        return ""
    with_ = f"with {small}" if small else "with a small machine (no small plate is on the shelf)"
    return f"Tight places, {fixed(day.tight_m2, 1)} m² (assumed): {with_}."


def draw_day(painter: QPainter, area: QRectF, plan: Planned) -> list[tuple[QRectF, str]]:
    """Draw the preparing, each panel in its lane, the hours, and where the day is.

    Returns
    -------
    list of (QRectF, str)
        Where each panel lies.
    """
    day = plan.day
    foot = float(look.px(20))
    lanes = max(min(len(day.a8), _LANES), 1)
    whole = max(day.ends, plan.now or 0.0, 60.0)
    px = area.width() / whole
    high = (area.height() - foot) / lanes
    painter.setFont(look.words(SMALL))
    first = QRectF(area.left(), area.top() + 1, day.prepare * px - 2, high * lanes - 3)
    begun = plan.now is not None and plan.now > 0
    paint_tape(painter, first, seed=3, depth=4, fill=None if begun else look.band)
    painter.setPen(look.on_tape if begun and not look.lights_out else look.quiet)
    painter.drawText(
        first.adjusted(6, 0, 0, 0), LEFT, that_fits(painter, _FIRST, first.width() - 10)
    )
    boxes = []
    for turn in day.turns:
        lane = min(turn.who, lanes - 1)
        box = QRectF(
            area.left() + turn.start * px,
            area.top() + lane * high + 1,
            turn.minutes * px - 2,
            high - 3,
        )
        _turn(painter, box, turn, plan)
        boxes.append((box, turn.part))
    _hours(painter, area, area.bottom() - foot, px, whole, plan)
    if plan.now is not None and 0.0 <= plan.now <= whole:
        x = area.left() + plan.now * px
        painter.setPen(QPen(look.care, 2))
        painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom() - foot + 4))
    return boxes


def _turn(painter: QPainter, box: QRectF, turn: Turn, plan: Planned) -> None:
    """Draw a panel: its name, or its number in the order of work where that is too long."""
    if turn.done:
        paint_tape(painter, box, seed=len(turn.part), depth=3)
        pen = look.on_tape
    else:
        painter.setPen(QPen(look.strong if turn.part == plan.at else look.quiet, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        pen = look.ink
    room = box.width() - 6
    if turn.checked and box.width() > 16:
        at = QPointF(box.right() - 7, box.center().y())
        painter.setPen(QPen(pen if turn.done else look.strong, 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush if turn.part in plan.lacking else look.strong)
        painter.drawEllipse(at, 3.5, 3.5)
        room -= 12
    number = plan.numbers.get(turn.part)
    said = (turn.part, str(number)) if number is not None else (turn.part,)
    painter.setPen(pen)
    row = QRectF(box.left() + 3, box.top(), max(room, 0.0), box.height())
    painter.drawText(row, MIDDLE, that_fits(painter, said, room))


def _hours(
    painter: QPainter, area: QRectF, y: float, px: float, whole: float, plan: Planned
) -> None:
    """Draw the hours of each day below its panels, and where a day ends."""
    day, begins = plan.day, plan.begins
    painter.setFont(look.figures(SMALL))
    painter.setPen(QPen(look.quiet, 1))
    painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
    step = next((s for s in (1, 2, 3, 6) if s * 60.0 * px >= look.px(34)), 12)
    for which in range(day.of(max(whole - 1e-6, 0.0))[0] + 1):
        start = area.left() + which * day.span * px
        end = min(start + day.span * px, area.right())
        if which:
            painter.setPen(QPen(look.ink, 2))
            painter.drawLine(QPointF(start - 1, area.top()), QPointF(start - 1, area.bottom()))
        label = f"day {which + 1}"
        if which and end - start > look.px(44):
            painter.setPen(look.ink)
            painter.drawText(QRectF(start + 4, y + 3, 60, area.bottom() - y - 3), LEFT, label)
        painter.setPen(QPen(look.quiet, 1))
        hour = int(begins) + (0 if begins == int(begins) else 1)
        while (hour - begins) * 60.0 <= day.span:
            x = start + (hour - begins) * 60.0 * px
            left = max(x - 20, area.left() - 12)  # the first stands under its own tick
            box = QRectF(left, y + 3, 40, area.bottom() - y - 3)
            painter.drawLine(QPointF(min(x, end), y - 2), QPointF(min(x, end), y + 3))
            clear = x + 10 <= end and (not which or x > start + look.px(56))
            if (hour - int(begins)) % step == 0 and clear:
                painter.drawText(
                    box if box.left() == x - 20 else box.translated(-12, 0), MIDDLE, str(hour % 24)
                )
            hour += 1
