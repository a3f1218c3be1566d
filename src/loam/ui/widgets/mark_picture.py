"""A combination's mark, large, with what each of its rows means beside it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.core.kit import COMPOUND_BY_KEY, PAD_BY_KEY
from loam.core.machines import BY_KEY as MACHINES
from loam.core.trial import Combination, Stage
from loam.ui.theme import look
from loam.ui.theme.look import SMALL, tip
from loam.ui.widgets.mark import ROW_ASPECT, mark_size, paint_mark

GAP = 14.0


def stage_facts(stage: Stage) -> str:
    """Say what the parts of a mark's row are, in their order: motion, pad, grain, passes."""
    parts = [
        MACHINES[stage.machine_kind].label if stage.machine_kind in MACHINES else "",
        PAD_BY_KEY[stage.pad_material].label if stage.pad_material in PAD_BY_KEY else "",
        COMPOUND_BY_KEY[stage.compound_class].label
        if stage.compound_class in COMPOUND_BY_KEY
        else "",
        f"{stage.passes} passes" if stage.passes else "",
    ]
    return ", ".join(p for p in parts if p) or "nothing known of it yet"


class MarkPicture(QWidget):
    """The mark; with ``told`` each row says beside itself what it is made of."""

    def __init__(self, row: int = 34, *, told: bool = True) -> None:
        super().__init__()
        self._row, self._told = row, told
        self.combination: Combination | None = None
        across = QSizePolicy.Policy.Expanding if told else QSizePolicy.Policy.Fixed
        self.setSizePolicy(across, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.update)

    def show_combination(self, combination: Combination | None) -> None:
        """Show the mark of a combination."""
        if combination is not None and combination == self.combination:
            return
        self.combination = combination
        self.setAccessibleName(f"mark of {combination.words()}" if combination else "no mark")
        stages = combination.stages if combination else ()
        self.setToolTip(tip("; then ".join(stage_facts(s) for s in stages)) if stages else "")
        self.updateGeometry()
        self.update()

    def _width(self) -> int:
        return int(self._row * ROW_ASPECT) + 4

    def sizeHint(self) -> QSize:
        _, height = mark_size(self.combination, self._row)
        wide = self._width()
        if self._told and self.combination is not None and self.combination.stages:
            metrics = QFontMetrics(look.words(SMALL))
            facts = (metrics.horizontalAdvance(stage_facts(s)) for s in self.combination.stages)
            wide += int(GAP) + max(facts) + 8
        return QSize(wide, int(height) + 4)

    def minimumSizeHint(self) -> QSize:
        return QSize(self._width(), self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.combination is None:
            return
        painter = QPainter(self)
        paint_mark(painter, QPointF(2, 2), self.combination, self._row, look.ink)
        if not self._told:
            return
        painter.setFont(look.words(SMALL))
        painter.setPen(look.quiet)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        x = self._width() + GAP
        for i, stage in enumerate(self.combination.stages):
            area = QRectF(x, 2 + i * self._row * 1.18, self.width() - x, self._row)
            facts = painter.fontMetrics().elidedText(
                stage_facts(stage), Qt.TextElideMode.ElideRight, int(area.width())
            )
            painter.drawText(area, left, facts)
