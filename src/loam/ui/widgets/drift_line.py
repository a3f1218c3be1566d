"""The tile checks of a meter in the order of time, over what a tile may be off."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.core.tiles import GOOD, TileCheck
from loam.core.units import signed
from loam.ui.theme import look

_HOUR = 3600.0


@dataclass(frozen=True)
class Drift:
    """What is drawn: checks with their times, and when readings were taken (seconds).

    ``unit`` and ``factor`` turn what is off into the unit that is shown.
    """

    checks: Sequence[tuple[float, TileCheck]]
    readings: Sequence[float] = field(default_factory=tuple)
    unit: str = ""
    factor: float = 1.0


class DriftLine(QWidget):
    """Checks on a line of time; the pale band is good, outside the outer lines is doubtful."""

    def __init__(self) -> None:
        super().__init__()
        self.drift = Drift(())
        self.setObjectName("drift_line")
        self.setAccessibleName("tile checks in the order of time")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMinimumSize(180, 120)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(520, 220)

    def show_drift(self, drift: Drift) -> None:
        """Show other checks."""
        self.drift = drift
        told = [
            f"{c.at[11:16]} off by {c.off * drift.factor:.2f} {drift.unit}, {c.verdict}"
            for _, c in drift.checks
        ]
        self.setAccessibleDescription("; ".join(told) or "no check yet")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        checks = self.drift.checks
        if not checks:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        last = checks[-1][1]
        room = last.limits.share * last.named
        good = max(last.limits.calibrate, room)
        far = max(last.limits.doubtful, 2.0 * room)
        reach = 1.25 * max(far, *(abs(c.off) for _, c in checks))
        box = QRectF(look.px(64), 8, self.width() - look.px(84), self.height() - look.px(34))
        times = [t for t, _ in checks] + list(self.drift.readings)
        start, end = min(times), max(times)
        span = max(end - start, 60.0)

        def x(t: float) -> float:
            return box.left() + (t - start) / span * box.width()

        def y(off: float) -> float:
            return box.center().y() - off / reach * box.height() / 2

        painter.fillRect(QRectF(box.left(), y(good), box.width(), y(-good) - y(good)), look.band)
        painter.setFont(look.figures(13))
        for off in (far, good, 0.0, -good, -far):
            painter.setPen(
                QPen(
                    look.line if off == 0.0 else look.quiet,
                    1,
                    Qt.PenStyle.DashLine if abs(off) == far else Qt.PenStyle.SolidLine,
                )
            )
            painter.drawLine(QPointF(box.left(), y(off)), QPointF(box.right(), y(off)))
            painter.setPen(look.quiet)
            text = signed(off * self.drift.factor, 1) if off else "0"
            label = QRectF(0, y(off) - 10, box.left() - 6, 20)
            painter.drawText(
                label, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text
            )
        painter.setPen(QPen(look.quiet, 1))
        for t in self.drift.readings:
            painter.drawLine(QPointF(x(t), box.bottom() + 1), QPointF(x(t), box.bottom() + 7))
        before: QPointF | None = None
        for t, check in checks:
            at = QPointF(x(t), y(check.off))
            if before is not None and not check.calibrated:
                painter.setPen(QPen(look.ink, 1.4))
                painter.drawLine(before, at)
            colour = look.ink if check.verdict == GOOD else look.care
            painter.setPen(QPen(colour, 2.4))
            painter.setBrush(look.ground if check.verdict != GOOD else colour)
            painter.drawEllipse(at, 5, 5)
            before = at
        painter.setPen(look.quiet)
        painter.setFont(look.words(13))
        low = QRectF(box.left(), box.bottom() + 8, box.width(), look.px(20))
        hours = span / _HOUR
        when = f"{hours:.1f} h" if hours >= 1 else f"{span / 60:.0f} min"
        said = f"{checks[0][1].at[11:16]} to {last.at[11:16]}, {when}; ticks are readings"
        painter.drawText(low, Qt.AlignmentFlag.AlignLeft, said)
