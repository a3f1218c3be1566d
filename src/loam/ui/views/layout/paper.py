"""The plan on paper, sheets of A4: tape marks true to size, order of work, boxes for readings."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from loam.app.presenters.depth import cares_on_paper
from loam.app.presenters.picture import assigned
from loam.app.presenters.run_sheet import (
    Job,
    Ruler,
    kit_list,
    reading_order,
    rulers,
    work_steps,
)
from loam.app.report import CAUTION
from loam.app.session import Session
from loam.core.design.costs import Costs
from loam.core.trial import Trial
from loam.ui.paint.words import LEFT
from loam.ui.picture_out import A4_HEIGHT, A4_WIDTH, Picture, on_paper
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL
from loam.ui.views.pictures import panels_picture
from loam.ui.widgets.mark import mark_size, paint_mark
from loam.ui.widgets.panel_painter import draw_panel

MM = 96.0 / 25.4
"""Pixels of a millimetre on paper."""
STRIP_MM, STRIP_HIGH = 185.0, 74.0
BOX = 38.0
TOLD = 368.0
"""Where a line of work says its recipe and how it is set."""
WRAP = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignVCenter)
Draw = Callable[[QPainter, QRectF], None]


def plan_on_paper(session: Session, costs: Costs | None) -> Picture | None:
    """Return the sheets of the plan; None while nothing is laid out."""
    trial = session.trial
    if trial is None or not session.panels():
        return None
    sheets = [*_panel_sheets(session), *_ruler_sheets(session)]
    cares = cares_on_paper(session, costs)
    if cares:
        sheets += _sheets("Mind before work", CAUTION, _care_blocks(cares))
    steps = work_steps(session)
    if steps:
        sheets += _sheets("Order of work", _work_words(), _work_blocks(steps))
    reads = reading_order(session)
    if reads:
        sheets += _sheets("Readings", _read_words(trial), _read_blocks(session, trial, reads))
    lines = kit_list(session, costs)
    if lines:
        sheets += _sheets("To lay out before work", "Figures are estimates.", _kit_blocks(lines))
    title = f"{trial.name}: the plan"
    first = sheets[0]
    return Picture(
        title,
        f"{title}. {first.title}",
        first.words,
        A4_WIDTH,
        A4_HEIGHT,
        first.draw,
        tuple(sheets[1:]),
        panels_picture(session, f"{trial.name}: what goes where"),
        _foot(session, trial),
    )


def _foot(session: Session, trial: Trial) -> str:
    """Say what the sheets belong to: the trial, its question, and the day they were made."""
    day = session.workshop.clock().date().isoformat()
    return " · ".join(p for p in (trial.name, trial.question, day) if p)


Block = tuple[float, Draw]


def _sheets(title: str, words: str, blocks: Sequence[Block]) -> list[Picture]:
    """Fill sheets with blocks from top to bottom."""
    pages: list[list[Block]] = [[]]
    used = 0.0
    for block in blocks:
        if pages[-1] and used + block[0] > A4_HEIGHT - 110.0:
            pages.append([])
            used = 0.0
        pages[-1].append(block)
        used += block[0]
    return [
        Picture(
            title,
            title if len(pages) == 1 else f"{title}, sheet {i} of {len(pages)}",
            words,
            A4_WIDTH,
            A4_HEIGHT,
            _stacked(page),
        )
        for i, page in enumerate(pages, 1)
    ]


def _stacked(blocks: Sequence[Block]) -> Draw:
    def draw(painter: QPainter, area: QRectF) -> None:
        y = area.top()
        for height, block in blocks:
            block(painter, QRectF(area.left(), y, area.width(), height))
            y += height

    return draw


def _panel_sheets(session: Session) -> list[Picture]:
    blocks: list[Block] = []
    for panel in session.panels():
        picture = assigned(session, panel)
        t = panel.taping
        high = min(430.0, (A4_WIDTH - 40.0) * t.height_mm / t.width_mm)

        def draw(painter: QPainter, area: QRectF, picture=picture, high=high) -> None:  # type: ignore[no-untyped-def]
            with on_paper():
                place = QRectF(area.left(), area.top(), area.width(), high)
                box = draw_panel(painter, place, picture)
            painter.setPen(look.ink)
            painter.setFont(look.words(BODY, bold=True))
            said = f"{picture.name}, {picture.ground}"
            painter.drawText(QPointF(box.left(), box.bottom() + look.px(BODY) * 1.4), said)

        blocks.append((high + look.px(BODY) * 2.6, draw))
    words = "Letters are the combinations, numbers the order of work."
    return _sheets("What goes where", words, blocks)


def _ruler_sheets(session: Session) -> list[Picture]:
    blocks: list[Block] = [(40.0, _check_line)]
    for ruler in rulers(session):
        blocks.append((26.0, _heading(f"{ruler.edge} of {', '.join(ruler.panels)[:80]}")))
        start = 0.0
        while start < ruler.length_mm - 1e-6:
            end = min(start + STRIP_MM, ruler.length_mm)
            blocks.append((STRIP_HIGH, _strip(ruler, start, end)))
            start = end
    words = (
        "True to size when printed at 100 %: cut the strips out, lay them along the panel's edge"
        " from its upper left corner, and tape the hatched parts."
    )
    return _sheets("Where tape goes", words, blocks)


def _check_line(painter: QPainter, area: QRectF) -> None:
    painter.setPen(QPen(look.ink, 1))
    y = area.top() + 12
    painter.drawLine(QPointF(area.left(), y), QPointF(area.left() + 100 * MM, y))
    for x in (0, 100):
        at = area.left() + x * MM
        painter.drawLine(QPointF(at, y - 5), QPointF(at, y + 5))
    painter.setFont(look.words(SMALL))
    painter.drawText(QPointF(area.left() + 100 * MM + 10, y + 5), "this line is 100 mm")


def _heading(text: str) -> Draw:
    def draw(painter: QPainter, area: QRectF) -> None:
        painter.setPen(look.ink)
        painter.setFont(look.words(BODY, bold=True))
        painter.drawText(area, LEFT, text)

    return draw


def _strip(ruler: Ruler, start: float, end: float) -> Draw:
    """Draw a part of an edge: tape hatched, cells free, their ends in mm."""

    def draw(painter: QPainter, area: QRectF) -> None:
        left, high = area.left(), 34.0
        box = QRectF(left, area.top() + 4, (end - start) * MM, high)
        painter.setPen(QPen(look.ink, 1))
        painter.setBrush(Qt.BrushStyle.BDiagPattern)
        painter.drawRect(box)
        painter.setFont(look.figures(SMALL - 2))
        for low, up in ruler.cells:
            a, b = max(low, start), min(up, end)
            if b <= a:
                continue
            free = QRectF(left + (a - start) * MM, box.top(), (b - a) * MM, high)
            painter.fillRect(free, Qt.GlobalColor.white)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(free)
            for edge in (low, up):
                if start - 1e-6 <= edge <= end + 1e-6:
                    at = left + (edge - start) * MM
                    painter.drawLine(QPointF(at, box.bottom()), QPointF(at, box.bottom() + 5))
                    text = QRectF(at - 30, box.bottom() + 5, 60, 16)
                    painter.drawText(text, Qt.AlignmentFlag.AlignHCenter, f"{edge:.0f}")

    return draw


def _care_blocks(cares: Sequence[str]) -> list[Block]:
    """Write each care over as many lines as it takes."""
    wide = A4_WIDTH - 40.0
    metrics = QFontMetricsF(look.words(BODY))
    wrap = int(Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap)

    def line(said: str) -> Draw:
        def draw(painter: QPainter, area: QRectF) -> None:
            painter.setPen(look.care)
            painter.setFont(look.words(BODY))
            painter.drawText(area, wrap, said)

        return draw

    tall = [metrics.boundingRect(QRectF(0, 0, wide, 4000), wrap, said).height() for said in cares]
    return [(high + 14.0, line(said)) for said, high in zip(cares, tall, strict=True)]


def _work_words() -> str:
    return (
        "Work the cells in this order, not from left to right. Wear gloves and eye protection;"
        " follow the products' safety data sheets, local rules and qualified practice."
    )


def _work_blocks(steps: Sequence[tuple[str, Sequence[Job]]]) -> list[Block]:
    blocks: list[Block] = []
    for title, jobs in steps:
        if title:
            blocks.append((34.0, _heading(title)))
        blocks += [(_work_height(job), _work_line(job)) for job in jobs]
    return blocks


def _work_height(job: Job) -> float:
    wide = A4_WIDTH - TOLD
    metrics = QFontMetricsF(look.words(SMALL))
    told = metrics.boundingRect(QRectF(0, 0, wide, 4000), WRAP, _told(job)).height()
    return max(mark_size(job.combination, 18.0)[1] + 12.0, told + 8.0, 36.0)


def _told(job: Job) -> str:
    return "\n".join(p for p in (job.combination.words(), job.settings) if p)


def _work_line(job: Job) -> Draw:
    def draw(painter: QPainter, area: QRectF) -> None:
        painter.setPen(QPen(look.line, 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.setPen(QPen(look.ink, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(area.left(), area.center().y() - 9, 18, 18))
        x = area.left() + 28
        painter.setFont(look.figures(LEAD, bold=True))
        painter.drawText(QRectF(x, area.top(), 44, area.height()), LEFT, str(job.number or ""))
        painter.setFont(look.words(BODY, bold=True))
        where = QRectF(x + 44, area.top(), 120, area.height())
        if job.worker:
            painter.drawText(where.adjusted(0, -8, 0, -8), LEFT, job.where)
            painter.setFont(look.words(SMALL))
            painter.drawText(where.adjusted(0, 9, 0, 9), LEFT, f"for {job.worker}")
        else:
            painter.drawText(where, LEFT, job.where)
        painter.setFont(look.figures(LEAD, bold=True))
        painter.drawText(QRectF(x + 168, area.top(), 60, area.height()), LEFT, job.combination.code)
        paint_mark(painter, QPointF(x + 226, area.top() + 6), job.combination, 18.0, look.ink)
        painter.setPen(look.ink)
        painter.setFont(look.words(SMALL))
        room = QRectF(area.right() - A4_WIDTH + TOLD, area.top(), A4_WIDTH - TOLD, area.height())
        painter.drawText(room, WRAP, _told(job))

    return draw


def _read_words(trial: Trial) -> str:
    return (
        f"{trial.readings_per_cell} readings a cell, in the order in which they are typed in"
        " afterwards (Read, F7): panel by panel, row by row. The combinations stay hidden."
    )


def _read_blocks(session: Session, trial: Trial, jobs: Sequence[Job]) -> list[Block]:
    kinds = [session.kind(m) for m in trial.measurands]
    blocks: list[Block] = []
    for kind in kinds:
        blocks.append((30.0, _heading(f"{kind.label}, {kind.unit}")))
        blocks += [(BOX - 6.0, _boxes(job, trial.readings_per_cell)) for job in jobs]
        blocks.append((14.0, lambda _painter, _area: None))
    return blocks


def _boxes(job: Job, count: int) -> Draw:
    def draw(painter: QPainter, area: QRectF) -> None:
        painter.setPen(look.ink)
        painter.setFont(look.words(BODY, bold=True))
        painter.drawText(QRectF(area.left(), area.top(), 150, area.height()), LEFT, job.where)
        painter.setPen(QPen(look.quiet, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        wide = min(72.0, (area.width() - 160.0) / max(count, 1) - 6.0)
        for i in range(count):
            x = area.left() + 156 + i * (wide + 6)
            painter.drawRect(QRectF(x, area.top() + 2, wide, area.height() - 5))

    return draw


def _kit_blocks(lines: Sequence[tuple[str, str]]) -> list[Block]:
    def line(what: str, much: str) -> Draw:
        def draw(painter: QPainter, area: QRectF) -> None:
            painter.setPen(QPen(look.ink, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(area.left(), area.center().y() - 8, 16, 16))
            painter.setFont(look.words(BODY))
            painter.drawText(area.adjusted(28, 0, 0, 0), LEFT, what)
            painter.drawText(area.adjusted(330, 0, 0, 0), LEFT, much)

        return draw

    return [(28.0, line(what, much)) for what, much in lines]
