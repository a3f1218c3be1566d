"""Pictures that several views give out: all panels of a trial on one sheet."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from loam.app.presenters.picture import PanelPicture, assigned
from loam.app.session import Session
from loam.core.trial import Combination, Panel
from loam.ui.picture_out import Picture
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD
from loam.ui.widgets.mark import mark_size, paint_mark
from loam.ui.widgets.panel_painter import draw_panel

ACROSS, WIDE, HIGH, GAP = 3, 420.0, 340.0, 24.0


def panels_picture(
    session: Session,
    title: str,
    face: Callable[[Session, Panel], PanelPicture] = assigned,
) -> Picture | None:
    """Return all panels of the trial at hand as one picture, three across."""
    trial, panels = session.trial, session.panels()
    if trial is None or not panels:
        return None
    shown = [face(session, p) for p in panels]
    across = min(ACROSS, len(shown))
    lines = -(-len(shown) // across)

    def draw(painter: QPainter, area: QRectF) -> None:
        for i, picture in enumerate(shown):
            x = area.left() + (i % across) * (WIDE + GAP)
            y = area.top() + (i // across) * (HIGH + GAP)
            panel = draw_panel(painter, QRectF(x, y, WIDE, HIGH - look.px(BODY) * 2), picture)
            painter.setPen(look.ink)
            painter.setFont(look.words(BODY, bold=True))
            below = QPointF(panel.left(), panel.bottom() + look.px(BODY) * 1.4)
            painter.drawText(below, f"{picture.name}, {picture.ground}")

    width, height = across * (WIDE + GAP) - GAP, lines * (HIGH + GAP) - GAP
    return Picture(title, title, trial.question, width, height, draw)


def combinations_picture(name: str, combinations: list[Combination]) -> Picture:
    """Return all combinations with their marks and recipes, one below the other."""
    row = 22.0
    heights = [max(mark_size(c, row)[1] + 18.0, 44.0) for c in combinations]

    def draw(painter: QPainter, area: QRectF) -> None:
        y = area.top()
        for c, height in zip(combinations, heights, strict=True):
            painter.setPen(look.ink)
            painter.setFont(look.figures(LEAD, bold=True))
            painter.drawText(QPointF(area.left(), y + row), c.code)
            paint_mark(painter, QPointF(area.left() + 70, y + 4), c, row, look.ink)
            painter.setPen(look.ink)
            painter.setFont(look.words(BODY))
            words = QRectF(area.left() + 220, y, area.width() - 220, height)
            said = f"{c.name}: {c.words()}" if c.name else c.words()
            painter.drawText(words, int(Qt.TextFlag.TextWordWrap), said)
            y += height

    title = f"{name}: combinations"
    return Picture(title, title, "", 860.0, sum(heights), draw)
