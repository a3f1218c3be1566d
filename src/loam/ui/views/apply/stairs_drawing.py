"""The ladder as stairs into the clear: each way to go with its price, the budget's line below."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen

from loam.app.applying.told import BEST, TAKEN, School, Stair, Stairs
from loam.core.units import fixed, percent
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT, MIDDLE, RIGHT, fitted, that_fits, wrapped
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.tape import paint_tape

_LEAST_UM = 3.0


class StairsDrawing(Drawing):
    """``chosen`` carries the combination of the step that was pressed."""

    called = "stairs into the clear"
    likes = (480, 260)
    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("stairs")
        self.setMinimumHeight(look.px(140))
        self.stairs: Stairs | None = None
        self.at = ""
        self._boxes: list[tuple[QRectF, str]] = []

    def show_stairs(self, stairs: Stairs | None, at: str) -> None:
        """Show stairs; ``at`` is the combination at hand."""
        self.stairs, self.at = stairs, at
        self.setAccessibleDescription(spoken(stairs) if stairs is not None else "")
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            for box, code in self._boxes:
                if box.contains(event.position()):
                    self.chosen.emit(code)
                    return

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.stairs is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(0, 0, self.width(), self.height())
        self._boxes = draw_stairs(painter, area, self.stairs, at=self.at)


def spoken(stairs: Stairs) -> str:
    """Say the stairs, way by way."""
    return " ".join(
        f"{school.label}: "
        + (", then ".join(_step_words(s) for s in school.stairs) or "do not try")
        + f"; {', '.join(price_words(school))}."
        for school in stairs.schools
    )


def _step_words(stair: Stair) -> str:
    return f"{stair.code} takes {fixed(stair.clear, 1)} µm, does it with {percent(stair.reach)}"


def price_words(school: School) -> tuple[str, ...]:
    """Say what a way costs: clear and spots, hours, and all of it in one figure."""
    if not school.stairs:
        return (school.why or "nothing tried",)
    spots = f", {fixed(school.tries, 1)} spots" if school.tries else ""
    return (
        f"{fixed(school.clear, 1)} µm{spots}",
        f"{fixed(school.minutes / 60.0, 1)} h",
        f"all in all {fixed(school.cost, 1)} µm",
    )


def draw_stairs(
    painter: QPainter, area: QRectF, stairs: Stairs, *, at: str = ""
) -> list[tuple[QRectF, str]]:
    """Draw all ways side by side and return where each step lies."""
    head, foot = float(look.px(22)), float(look.px(58))
    axis = float(look.px(46))
    pit = QRectF(area.left(), area.top() + head, area.width(), area.height() - head - foot)
    budget = stairs.least.may_go if stairs.least is not None else None
    deepest = max((s.high for school in stairs.schools for s in school.stairs), default=_LEAST_UM)
    bottom = max(deepest * 1.15, _LEAST_UM, min(budget or 0.0, deepest * 1.6) * 1.1)
    px = pit.height() / bottom
    painter.fillRect(pit, look.clear)
    painter.fillRect(QRectF(pit.left(), pit.top() - 3, pit.width(), 4), look.tape)
    most = max(min(pit.height() / look.px(24), 6.0), 1.5)
    step = next((s for s in (0.5, 1.0, 2.0, 5.0, 10.0, 20.0) if bottom / s <= most), 50.0)
    painter.setFont(look.figures(SMALL))
    place = step
    while place < bottom:
        y = pit.top() + place * px
        painter.setPen(QPen(look.quiet, 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(pit.left(), y), QPointF(pit.right(), y))
        painter.setPen(look.quiet)
        painter.drawText(QRectF(pit.left() + 3, y - 16, axis, 15), LEFT, f"{place:g} µm")
        place += step
    boxes = _ways(
        painter,
        QRectF(pit.left() + axis, area.top(), pit.width() - axis, area.height()),
        pit,
        px,
        stairs,
        at,
    )
    _budget(painter, pit, px, budget, stairs)
    return boxes


def _ways(
    painter: QPainter,
    area: QRectF,
    pit: QRectF,
    px: float,
    stairs: Stairs,
    at: str,
) -> list[tuple[QRectF, str]]:
    boxes: list[tuple[QRectF, str]] = []
    parts = [max(len(s.stairs), 2) for s in stairs.schools]
    if not parts:
        return boxes
    unit = area.width() / (sum(parts) + 0.4 * len(parts))
    x = area.left()
    for school, count in zip(stairs.schools, parts, strict=True):
        wide = unit * count
        painter.setFont(look.words(SMALL, bold=school.label in (BEST, TAKEN)))
        painter.setPen(look.strong if school.label in (BEST, TAKEN) else look.ink)
        room = QRectF(x, area.top(), wide + 0.35 * unit, pit.top() - area.top() - 4)
        cut = painter.fontMetrics().elidedText(
            school.label, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, LEFT, cut)
        each = wide / max(len(school.stairs), 2)
        for i, stair in enumerate(school.stairs):
            box = QRectF(x + i * each, pit.top(), each, max(stair.clear * px, 3.0))
            _step(
                painter,
                box,
                stair,
                px,
                first=i == 0 and school.label in (BEST, TAKEN),
                here=stair.code == at,
            )
            boxes.append((box, stair.code))
        low = QRectF(x, pit.bottom() + 4, wide + 0.35 * unit, area.bottom() - pit.bottom() - 4)
        _price(painter, low, school)
        x += wide + 0.4 * unit
    return boxes


def _price(painter: QPainter, low: QRectF, school: School) -> None:
    """Write what a way costs below its stairs, all of it in one figure last."""
    told = price_words(school)
    if len(told) == 1:
        painter.setFont(look.words(SMALL))
        painter.setPen(look.quiet)
        wrapped(painter, low, told[0], 3)
        return
    y = low.top()
    for i, said in enumerate(told):
        last = i == len(told) - 1
        painter.setFont(look.words(SMALL, bold=last))
        painter.setPen(look.ink if last else look.quiet)
        high = painter.fontMetrics().height()
        shorter = said.replace("all in all", "in all").partition(",")[0]
        told_here = that_fits(painter, (said, shorter), low.width()) or shorter
        fitted(painter, QRectF(low.left(), y, low.width(), high), told_here)
        y += high


def _step(
    painter: QPainter, box: QRectF, stair: Stair, px: float, *, first: bool, here: bool
) -> None:
    painter.fillRect(box, look.panel)
    edge = look.strong if first else look.tape
    painter.fillRect(QRectF(box.left(), box.bottom() - 4, box.width(), 4), edge)
    middle = box.center().x()
    painter.setPen(QPen(look.on_panel, 1.6))
    low, high = box.top() + stair.low * px, box.top() + stair.high * px
    painter.drawLine(QPointF(middle, max(low, box.top() + 20)), QPointF(middle, box.bottom()))
    painter.setPen(QPen(look.panel, 1.6))
    painter.drawLine(QPointF(middle, box.bottom()), QPointF(middle, high))
    letter = QRectF(box.left(), box.top() + 2, box.width(), 18)
    if here:
        wide = min(box.width() - 4, 24.0)
        paint_tape(painter, QRectF(middle - wide / 2, letter.top(), wide, 18), depth=3)
    painter.setFont(look.figures(BODY, bold=True))
    painter.setPen(look.on_tape if here else look.on_panel)
    painter.drawText(letter, MIDDLE, stair.code)
    painter.setFont(look.words(SMALL, bold=first))
    painter.setPen(look.ink if not look.lights_out else look.on_panel)
    said = percent(stair.reach) if stair.allowed else "no"
    metrics = painter.fontMetrics()
    side = metrics.horizontalAdvance(said)
    at = QRectF(middle + 4, box.bottom() + 2, max(side + 2.0, box.width() / 2), metrics.height())
    if middle + 4 + side > box.right():
        at = QRectF(box.left(), max(high, box.bottom()) + 1, box.width(), metrics.height())
        painter.drawText(at, MIDDLE, said)
    else:
        painter.drawText(at, LEFT, said)


def _budget(
    painter: QPainter, pit: QRectF, px: float, budget: float | None, stairs: Stairs
) -> None:
    """Draw how deep one may go, where it lies in the drawing; else say how much deeper it lies."""
    painter.setFont(look.words(SMALL))
    painter.setPen(QPen(look.care, 2))
    if budget is None or stairs.least is None:
        low = QRectF(pit.left(), pit.bottom() - 20, pit.width() - 6, 18)
        painter.drawText(low, RIGHT, "no film is read: how deep one may go is not known")
        return
    part = stairs.least.part
    y = pit.top() + budget * px
    if y < pit.bottom() - 2:
        painter.drawLine(QPointF(pit.left(), y), QPointF(pit.right(), y))
        low = QRectF(pit.left(), y - 19, pit.width() - 6, 18)
        if y + 20 < pit.bottom():
            low = QRectF(pit.left(), y + 1, pit.width() - 6, 18)
        painter.drawText(low, RIGHT, f"{part}, thinnest: stop here")
    else:
        said = f"{part} bears {budget:.0f} µm: deeper than this drawing"
        wide = painter.fontMetrics().horizontalAdvance(said) + 12.0
        low = QRectF(pit.right() - wide, pit.bottom() - 19, wide, 18)
        painter.fillRect(low, look.clear)
        painter.drawText(low.adjusted(0, 0, -6, 0), RIGHT, said)
