"""The day of a vehicle as a strip: what is done, what comes, who, and when it ends."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from loam.core.vehicle.day import Day, late
from loam.core.vibration import ACTION, LIMIT
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT, MIDDLE
from loam.ui.theme import look
from loam.ui.theme.look import SMALL
from loam.ui.widgets.tape import paint_tape

LATE_MIN = 5.0
"""A day so many minutes behind is said to be late."""


class DayDrawing(Drawing):
    """One lane a person."""

    called = "the day"
    likes = (720, 80)
    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("day")
        self.day: Day | None = None
        self.begins = 9.0
        self.now: float | None = None
        self.at = ""

    def show_day(self, day: Day | None, begins: float, now: float | None, at: str) -> None:
        """Show a day that begins at an hour; ``now`` in minutes from then."""
        self.day, self.begins, self.now, self.at = day, begins, now, at
        self.setVisible(day is not None and bool(day.turns))
        lanes = len(day.a8) if day is not None else 1
        self.setFixedHeight(look.px(26) + min(lanes, 3) * look.px(24))
        self.setAccessibleDescription("" if day is None else day_words(day, begins))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.day is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(0, 0, self.width(), self.height())
        draw_day(painter, area, self.day, self.begins, self.now, self.at)


def clock(begins: float, minutes: float) -> str:
    """Return a time of day: 16:50; the next day from 24 on."""
    whole = round(begins * 60 + minutes)
    days, left = divmod(whole, 24 * 60)
    return f"{left // 60}:{left % 60:02d}" + (f" in {days} d" if days else "")


def day_words(day: Day, begins: float) -> str:
    """Say when it ends, how long it is, and how it shakes."""
    said = f"Ends at {clock(begins, day.ends)}, {len(day.turns)} panels."
    worst = max(day.a8, default=0.0)
    return said + (
        f" Vibration up to {worst:.1f} m/s² a person, by what is declared." if worst else ""
    )


def late_words(day: Day, begins: float, now: float | None) -> str:
    """Say early when a day runs late, when it will end, and what could be left out; "" if not."""
    found = late(day, now) if now is not None and now > 0.0 else None
    if found is None or found.minutes < LATE_MIN:
        return ""
    spare = ", ".join(f"{part} ({minutes:.0f} min)" for part, minutes in found.spare[:3])
    ends = clock(begins, found.ends)
    return f"{found.minutes:.0f} min late: ends {ends}. Could be left out: {spare}."


def shaken_words(day: Day) -> str:
    """Say where somebody comes to the action value of a day's vibration; "" where nobody does."""
    if not day.over:
        return ""
    worst = max(day.a8)
    limit = f", and to the limit value {LIMIT:g}" if worst >= LIMIT else ""
    return (
        f"Vibration comes to about {worst:.1f} m/s² a person, above the action value {ACTION:g}"
        f"{limit} (declared values, with their K). More people (1 to 3), or two days."
    )


def draw_day(
    painter: QPainter, area: QRectF, day: Day, begins: float, now: float | None, at: str = ""
) -> None:
    """Draw the preparing, each panel in its lane, the hours, and where the day is."""
    foot = float(look.px(20))
    lanes = max(min(len(day.a8), 3), 1)
    whole = max(day.ends, now or 0.0, 60.0)
    px = area.width() / whole
    high = (area.height() - foot) / lanes
    painter.setFont(look.words(SMALL))
    first = QRectF(area.left(), area.top() + 1, day.prepare * px - 2, high * lanes - 3)
    paint_tape(painter, first, seed=3, depth=4, fill=None if now and now > 0 else look.band)
    painter.setPen(look.on_tape if now and now > 0 and not look.lights_out else look.quiet)
    painter.drawText(first.adjusted(6, 0, 0, 0), LEFT, "wash, clay, survey, spots")
    for turn in day.turns:
        lane = min(turn.who, lanes - 1)
        box = QRectF(
            area.left() + turn.start * px,
            area.top() + lane * high + 1,
            turn.minutes * px - 2,
            high - 3,
        )
        if turn.done:
            paint_tape(painter, box, seed=len(turn.part), depth=3)
            painter.setPen(look.on_tape)
        else:
            painter.setPen(QPen(look.strong if turn.part == at else look.quiet, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            painter.setPen(look.ink)
        if turn.checked:
            painter.fillRect(QRectF(box.right() - 3, box.top(), 4, box.height()), look.strong)
        said = painter.fontMetrics().elidedText(
            turn.part, Qt.TextElideMode.ElideRight, int(box.width() - 6)
        )
        painter.drawText(box.adjusted(3, 0, -3, 0), MIDDLE, said)
    painter.setFont(look.figures(SMALL))
    hours = whole / 60.0
    step = 1 if hours <= 12 else 2 if hours <= 24 else 6
    hour = int(begins) + (0 if begins == int(begins) else 1)
    y = area.bottom() - foot
    painter.setPen(QPen(look.quiet, 1))
    painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
    while (hour - begins) * 60.0 <= whole:
        x = area.left() + (hour - begins) * 60.0 * px
        painter.drawLine(QPointF(x, y - 2), QPointF(x, y + 3))
        box = QRectF(min(max(x - 20, area.left()), area.right() - 40), y + 3, 40, foot - 3)
        painter.drawText(box, MIDDLE, str(hour % 24))
        hour += step
    if now is not None and 0.0 <= now <= whole:
        x = area.left() + now * px
        painter.setPen(QPen(look.care, 2))
        painter.drawLine(QPointF(x, area.top()), QPointF(x, y + 4))
