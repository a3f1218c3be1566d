"""A gauge study: what each reader read, spot by spot, against what the meter repeats within."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from loam.app.questions.gauge.find import GaugePicture
from loam.core.gauge import LIMIT
from loam.core.units import signed
from loam.ui.paint.axis import Axis, Marks, draw_figures, even
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT, RIGHT
from loam.ui.theme import look
from loam.ui.widgets.tape import paint_tape

LANE = 15


class GaugeChart(Drawing):
    """A panel a reader; in it a lane a spot, a tick a reading, from the spot's mean."""

    called = "what each reader read, from the mean of each spot"
    likes = (760, 460)

    def __init__(self) -> None:
        super().__init__()
        self.found: GaugePicture | None = None
        self.setObjectName("gauge_chart")
        self.setMinimumSize(300, 220)

    def show_study(self, found: GaugePicture | None) -> None:
        """Show a study."""
        self.found = found
        self.setAccessibleDescription(" ".join(found.words) if found is not None else "")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        found = self.found
        if found is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        values = [v for _, by in found.spots for own in by.values() for v in own]
        half = found.kind.span(0.5 * LIMIT * found.study.result.ev)
        reach = 1.1 * max(half, *(abs(v) for v in values), 1e-9)
        left, right = float(look.px(150)), self.width() - float(look.px(96))
        foot = look.px(44)
        each = (self.height() - foot) / max(len(found.readers), 1)

        axis = Axis(left, right, -reach, reach)
        decimals = max(found.kind.decimals, 1)
        marks = even(axis, 8, lambda at, _: signed(at, decimals) if abs(at) > 1e-9 else "0")
        for i, reader in enumerate(found.readers):
            box = QRectF(0, i * each, self.width(), each - 8)
            self._panel(painter, box, reader, axis, half, marks)
        y = self.height() - foot + 2.0
        draw_figures(painter, axis, marks, y, y + look.px(18), look.quiet, 14)
        painter.setPen(look.quiet)
        painter.setFont(look.words(13))
        painter.drawText(
            QRectF(0, y + look.px(18), self.width(), look.px(20)),
            LEFT,
            f"{found.kind.label}, {found.kind.unit} from the mean of each spot · pale: within this"
            " one reader repeats, 95 of 100 times · tape: the reader's own mean",
        )

    def _panel(
        self, painter: QPainter, box: QRectF, reader: str, axis: Axis, half: float, marks: Marks
    ) -> None:
        assert self.found is not None
        x = axis.x
        painter.fillRect(box, look.panel)
        band = QRectF(x(-half), box.top(), x(half) - x(-half), box.height())
        painter.fillRect(band, look.panel_cell)
        painter.setPen(QPen(look.quiet_on_panel, 0.6))
        for m, _ in marks:
            painter.drawLine(QPointF(x(m), box.top()), QPointF(x(m), box.bottom()))
        painter.setPen(look.on_panel)
        painter.setFont(look.words(17, bold=True))
        painter.drawText(QRectF(12, box.top() + 4, 200, look.px(24)), LEFT, reader)
        lane = (box.height() - 12) / max(len(self.found.spots), 1)
        own = []
        for k, (spot, by) in enumerate(self.found.spots):
            y = box.top() + 6 + (k + 0.5) * lane
            if lane >= look.px(LANE):
                painter.setPen(look.quiet_on_panel)
                painter.setFont(look.words(13))
                name = QRectF(look.px(60), y - lane / 2, look.px(82), lane)
                painter.drawText(name, RIGHT, spot)
            painter.setPen(QPen(look.on_panel, 2.4))
            tall = min(lane * 0.36, 9.0)
            for v in by.get(reader, ()):
                own.append(v)
                painter.drawLine(QPointF(x(v), y - tall), QPointF(x(v), y + tall))
        if own:
            mean = sum(own) / len(own)
            paint_tape(painter, QRectF(x(mean) - 3, box.top(), 6, box.height()), seed=3)
            painter.setPen(look.on_panel)
            painter.setFont(look.figures(14, bold=True))
            decimals = max(self.found.kind.decimals + 1, 1)
            label = QRectF(box.right() - look.px(92), box.top(), look.px(84), box.height())
            painter.drawText(label, RIGHT, signed(mean, decimals))
