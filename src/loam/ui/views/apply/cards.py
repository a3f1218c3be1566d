"""Cards and sheets of a job, drawn for paper: for the wall, the work, the customer, the record."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen

from loam.app.applying.cards import CARE, Customer, WallCard, stage_lines
from loam.core.trial import Combination
from loam.core.units import fixed
from loam.core.vehicle.day import Day, hour_of, in_order
from loam.core.vehicle.job import Job
from loam.core.vehicle.room import Room
from loam.ui.paint.lamp import draw_reflection
from loam.ui.paint.words import LEFT, MIDDLE, RIGHT, wrapped
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL, TITLE
from loam.ui.views.apply.car_drawing import draw_car
from loam.ui.views.apply.day_drawing import clock
from loam.ui.widgets.mark import mark_size, paint_mark
from loam.ui.widgets.tape import paint_tape


@dataclass(frozen=True)
class Letterhead:
    """Whose card it is."""

    name: str = ""
    address: str = ""
    picture: QImage | None = None


def _larger(painter: QPainter, area: QRectF, times: float) -> QRectF:
    """Draw all that follows so much larger; return the area in those measures."""
    painter.translate(area.topLeft())
    painter.scale(times, times)
    return QRectF(0.0, 0.0, area.width() / times, area.height() / times)


class Sheet:
    """Writes down a page of paper, from its top."""

    def __init__(self, painter: QPainter, area: QRectF) -> None:
        self.painter, self.area = painter, area
        self.y = area.top()

    def head(self, title: str, right: str, letter: Letterhead) -> None:
        """Write the title on a piece of tape, and whose it is."""
        p, area = self.painter, self.area
        wide = min(look.width(title, TITLE, bold=True) + 50.0, area.width() * 0.66)
        box = QRectF(area.left(), self.y, wide, 46)
        paint_tape(p, box, seed=7, depth=8)
        p.setPen(look.on_tape)
        p.setFont(look.words(TITLE, bold=True))
        cut = p.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, int(wide - 30))
        p.drawText(box.adjusted(16, 0, -10, 0), LEFT, cut)
        p.setPen(look.quiet)
        p.setFont(look.words(SMALL))
        rest = QRectF(box.right() + 12, self.y, area.right() - box.right() - 12, 46)
        p.drawText(rest, RIGHT, right)
        self.y += 58
        if letter.picture is not None:
            ratio = letter.picture.width() / max(letter.picture.height(), 1)
            at = QRectF(area.right() - 40 * ratio, self.y - 4, 40 * ratio, 40)
            p.drawImage(at, letter.picture)
            self.y += 40

    def line(self) -> None:
        """Draw a thin line."""
        self.painter.setPen(QPen(look.line, 1))
        self.painter.drawLine(QPointF(self.area.left(), self.y), QPointF(self.area.right(), self.y))
        self.y += 12

    def section(self, head: str, text: str, *, care: bool = False, size: int = BODY) -> None:
        """Write a heading and a paragraph."""
        p = self.painter
        p.setFont(look.words(LEAD, bold=True))
        p.setPen(look.care if care else look.ink)
        p.drawText(QRectF(self.area.left(), self.y, self.area.width(), 24), LEFT, head)
        self.y += 26
        self.text(text, size=size)
        self.y += 8

    def text(self, text: str, *, size: int = BODY, quiet: bool = False, most: int = 12) -> None:
        """Write a paragraph."""
        p = self.painter
        p.setFont(look.words(size))
        p.setPen(look.quiet if quiet else look.ink)
        room = QRectF(self.area.left(), self.y, self.area.width(), self.area.bottom() - self.y)
        self.y += wrapped(p, room, text, most) + 3

    def foot(self, letter: Letterhead, words: str) -> None:
        """Write whose it is at the foot."""
        p, area = self.painter, self.area
        y = area.bottom() - 30
        p.fillRect(QRectF(area.left(), y, area.width(), 3), look.tape)
        p.setFont(look.words(SMALL))
        p.setPen(look.quiet)
        own = ", ".join(t for t in (letter.name, letter.address) if t)
        row = QRectF(area.left(), y + 6, area.width(), 20)
        p.drawText(row, LEFT, own)
        p.drawText(row, RIGHT, words)


def draw_wall(painter: QPainter, area: QRectF, card: WallCard, letter: Letterhead) -> None:
    """Draw a card for the wall."""
    painter.save()
    area = _larger(painter, area, 1.1)
    sheet = Sheet(painter, area)
    sheet.head(card.title, card.foot, letter)
    p = painter
    p.setFont(look.words(LEAD))
    p.setPen(look.quiet)
    p.drawText(QRectF(area.left(), sheet.y, 200, 24), LEFT, "Start here")
    sheet.y += 30
    top = sheet.y
    wide, high = mark_size(card.start, 30.0)
    paint_mark(p, QPointF(area.left(), top + 4), card.start, 30.0, look.ink)
    x = area.left() + wide + 26
    lamps = 2 * 84.0
    p.setPen(look.ink)
    p.setFont(look.words(TITLE + 4, bold=True))
    name = f"{card.start.code}  {card.start.name}".strip()
    p.drawText(QRectF(x, top - 4, area.right() - x - lamps - 10, 34), LEFT, name)
    y = top + 34
    for i, (tool, settings) in enumerate(card.settings):
        p.setFont(look.words(LEAD, bold=True))
        p.setPen(look.ink)
        before = "then " if i else ""
        room = QRectF(x, y, area.right() - x - lamps - 10, 60)
        y += wrapped(p, room, f"{before}{tool}", 2)
        p.setFont(look.words(LEAD - 1))
        y += wrapped(p, QRectF(x, y, area.right() - x - lamps - 10, 60), settings, 2) + 4
    for i, (light, said) in enumerate(((card.before, "before"), (card.after, "expect"))):
        box = QRectF(area.right() - lamps + i * 86, top, 78, 78)
        draw_reflection(p, box, light)
        p.setFont(look.words(SMALL))
        p.setPen(look.quiet)
        p.drawText(QRectF(box.left(), box.bottom() + 2, 78, 18), LEFT, said)
    sheet.y = max(y, top + high, top + 104) + 10
    sheet.line()
    _expected(sheet, card)
    sheet.line()
    sheet.section("If marks are left after one spot", card.more)
    sheet.section("If it hazes", card.hazes)
    _pit(sheet, card)
    sheet.section("How sure", card.sure)
    sheet.section("Care", card.care, care=True)
    sheet.foot(letter, "Loam; the readings behind every figure are in the workshop")
    painter.restore()


def _expected(sheet: Sheet, card: WallCard) -> None:
    """Write what to expect, side by side."""
    p, area = sheet.painter, sheet.area
    each = area.width() / max(len(card.expects), 1)
    deepest = 0.0
    for i, own in enumerate(card.expects):
        box = QRectF(area.left() + i * each, sheet.y, each - 12, 90)
        p.setFont(look.words(BODY))
        p.setPen(look.quiet)
        p.drawText(QRectF(box.left(), box.top(), box.width(), 20), LEFT, own.label)
        p.setPen(look.ink)
        p.setFont(look.words(LEAD + 2, bold=True))
        p.drawText(QRectF(box.left(), box.top() + 20, box.width(), 28), LEFT, own.value)
        p.setPen(look.quiet)
        p.setFont(look.words(SMALL))
        deepest = max(deepest, 50 + wrapped(p, box.adjusted(0, 50, 0, 0), own.below, 3))
    sheet.y += deepest + 12


def _pit(sheet: Sheet, card: WallCard) -> None:
    """Draw what each step takes, into the clear."""
    p, area = sheet.painter, sheet.area
    high = 150.0
    box = QRectF(area.left(), sheet.y, area.width(), high)
    p.fillRect(box, look.clear)
    p.fillRect(QRectF(box.left(), box.top() - 2, box.width(), 4), look.tape)
    steps = [(s.code, s.clear) for s in card.stairs]
    first = card.stairs[0]
    steps.append((f"{first.code} twice", 2 * first.clear))
    deepest = max(v for _, v in steps) * 1.5
    each = area.width() / (len(steps) + 1)
    for i, (code, clear) in enumerate(steps):
        bar = QRectF(area.left() + (i + 0.6) * each, box.top(), each * 0.6, high * clear / deepest)
        p.fillRect(bar, look.ink)
        p.setPen(look.sheet)
        p.setFont(look.words(LEAD, bold=True))
        p.drawText(QRectF(bar.left(), bar.top() + 2, bar.width(), 24), MIDDLE, code)
        p.setPen(look.ink)
        p.setFont(look.figures(LEAD))
        p.drawText(
            QRectF(bar.left(), bar.bottom() + 3, bar.width(), 24), MIDDLE, f"{fixed(clear, 1)} µm"
        )
    base = QRectF(box.left(), box.bottom(), box.width(), 18)
    p.fillRect(base, look.quiet)
    p.setPen(look.sheet)
    p.setFont(look.words(SMALL))
    p.drawText(base.adjusted(8, 0, 0, 0), LEFT, "colour below; not to scale")
    sheet.y += high + 34


def draw_setup(
    painter: QPainter,
    area: QRectF,
    job: Job,
    combination: Combination | None,
    day: Day | None,
    used: str,
    letter: Letterhead,
) -> None:
    """Draw the set-up card of a job: the combination large, then panel after panel."""
    painter.save()
    area = _larger(painter, area, 1.3)
    sheet = Sheet(painter, area)
    sheet.head(job.name, job.began[:10], letter)
    p = painter
    if combination is None:
        sheet.section("Nothing is taken yet", "A test spot says what to take for all of it (F9).")
    else:
        paint_mark(p, QPointF(area.left(), sheet.y + 4), combination, 34.0, look.ink)
        wide, high = mark_size(combination, 34.0)
        x, y = area.left() + wide + 26, sheet.y
        p.setPen(look.ink)
        p.setFont(look.words(TITLE + 6, bold=True))
        name = f"{combination.code}  {combination.name}".strip()
        p.drawText(QRectF(x, y, area.right() - x, 38), LEFT, name)
        y += 42
        for i, (tool, settings) in enumerate(stage_lines(combination.stages)):
            p.setFont(look.words(LEAD + 2, bold=True))
            y += wrapped(p, QRectF(x, y, area.right() - x, 60), f"{i + 1}  {tool}", 2)
            p.setFont(look.words(LEAD + 2))
            y += wrapped(p, QRectF(x, y, area.right() - x, 60), settings, 2) + 6
        sheet.y = max(y, sheet.y + high) + 10
    sheet.line()
    turns = {t.part: t for t in day.turns} if day is not None else {}
    begins = hour_of(job.start)
    p.setFont(look.words(LEAD, bold=True))
    p.setPen(look.ink)
    p.drawText(QRectF(area.left(), sheet.y, area.width(), 24), LEFT, "In this order")
    sheet.y += 28
    for part in in_order(job, day):
        if sheet.y > area.bottom() - 150:
            break
        turn = turns.get(part.key)
        own = part.rung or (combination.code if combination is not None else "")
        when = (
            ""
            if turn is None or day is None
            else f"{clock(day, begins, turn.start, starts=True)}, {turn.minutes:.0f} min"
        )
        row = QRectF(area.left(), sheet.y, area.width(), 22)
        p.setFont(look.words(BODY))
        p.setPen(look.ink)
        p.drawRect(QRectF(row.left(), row.top() + 4, 13, 13))
        p.drawText(row.adjusted(24, 0, 0, 0), LEFT, f"{part.turn}  {part.key}")
        p.drawText(row.adjusted(area.width() * 0.45, 0, 0, 0), LEFT, own)
        p.drawText(row.adjusted(area.width() * 0.6, 0, 0, 0), LEFT, when)
        p.drawText(row, RIGHT, "check a spot" if turn is not None and turn.checked else "")
        sheet.y += 24
    sheet.y += 6
    if used:
        sheet.section("To lay out", used, size=SMALL)
    sheet.section("Care", CARE, care=True, size=SMALL)
    sheet.foot(letter, "Loam")
    painter.restore()


def draw_customer(
    painter: QPainter,
    area: QRectF,
    job: Job,
    rooms: Mapping[str, Room],
    told: Customer,
    letter: Letterhead,
) -> None:
    """Draw the customer's sheet."""
    painter.save()
    area = _larger(painter, area, 1.28)
    sheet = Sheet(painter, area)
    sheet.head(told.title, job.began[:10], letter)
    if told.say:
        sheet.text(f"“{told.say}”", size=LEAD, quiet=True)
    car = QRectF(area.left(), sheet.y + 4, area.width() * 0.66, 270)
    draw_car(painter, car, job, rooms, bare=True)
    p = painter
    for i, (light, said) in enumerate(((told.before_light, "before"), (told.after_light, "after"))):
        box = QRectF(area.right() - 118, car.top() + i * 138, 112, 112)
        draw_reflection(p, box, light)
        p.setFont(look.words(SMALL))
        p.setPen(look.quiet)
        p.drawText(QRectF(box.left(), box.bottom() + 2, 112, 18), LEFT, said)
    p.setFont(look.words(SMALL))
    p.setPen(look.quiet)
    low = QRectF(area.left(), car.bottom() + 4, area.width() * 0.8, 18)
    p.drawText(low, LEFT, "The lamp in the paint is drawn from readings, no photograph.")
    sheet.y = car.bottom() + 30
    sheet.line()
    sheet.section("What goes", told.goes, size=LEAD)
    sheet.section("What stays, and why", " ".join(told.stays))
    sheet.section("What is left of the clear", told.clear)
    sheet.section("Care afterwards", " ".join(told.after))
    sheet.section(
        "Please note",
        "Fresh paint, wax and films need their own care; ask whoever put them on. Products that"
        " are used on the paint: follow their safety data sheets.",
        care=True,
    )
    sheet.foot(letter, "Loam")
    painter.restore()


def draw_record(
    painter: QPainter, area: QRectF, job: Job, rows: Sequence[Sequence[str]], letter: Letterhead
) -> None:
    """Draw the record for the next time."""
    painter.save()
    area = _larger(painter, area, 1.2)
    sheet = Sheet(painter, area)
    sheet.head(f"Record: {job.name}", job.began[:10], letter)
    wide = (0.2, 0.19, 0.13, 0.12, 0.14, 0.22)
    p = painter
    for i, row in enumerate(rows):
        if sheet.y > area.bottom() - 150:
            break
        x = area.left()
        for text, share in zip(row, wide, strict=True):
            box = QRectF(x, sheet.y, share * area.width() - 6, 20)
            p.setFont(look.words(SMALL, bold=i == 0))
            p.setPen(look.quiet if i == 0 else look.ink)
            cut = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
            p.drawText(box, LEFT, cut)
            x += share * area.width()
        sheet.y += 21
    sheet.y += 8
    sheet.line()
    for spot in job.spots:
        means = spot.means()
        read = ", ".join(f"{m} {v:.4g}" for m, v in means.items()) or "not read"
        sheet.text(f"Spot {spot.number}: {spot.rung} on the {spot.part}: {read}.")
    taken = f"{job.taken} was taken. " if job.taken else ""
    sheet.text(f"{taken}{job.remark}".strip() or "Not finished.", quiet=True)
    sheet.foot(letter, "Loam")
    painter.restore()
