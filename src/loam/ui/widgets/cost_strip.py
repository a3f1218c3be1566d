"""What a trial costs, side by side: the figure, what it is, and what it is made of."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.core.design.costs import READ_S, SET_UP_S, WIPE_S
from loam.core.kit.product import grams
from loam.ui.theme.look import tip
from loam.ui.widgets.fields import words
from loam.ui.widgets.flow import Flow


class CostStrip(QWidget):
    """Time, clear, pads and compound; what is assumed stands in the tooltip."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("costs")
        self._row = Flow(30, 4)
        self.setLayout(self._row)
        self.lines: list[tuple[str, str, str]] = []
        self.few = False
        self.setToolTip(
            tip(
                f"Assumed: {SET_UP_S:.0f} s to set up a stage, {WIPE_S:.0f} s to wipe a cell,"
                f" {READ_S:.0f} s a reading, {grams(125):.1f} g a set on 125 mm. What clear goes is"
                " assumed until it is measured."
            )
        )

    def show_lines(self, lines: list[tuple[str, str, str]]) -> None:
        """Show costs: what, how much, a remark."""
        if lines == self.lines:
            return
        self.lines = lines
        self._build()

    def set_few(self, few: bool) -> None:
        """Leave the compound out where there is little room."""
        if few != self.few:
            self.few = few
            self._build()

    def _build(self) -> None:
        lines = self.lines
        while self._row.count():
            item = self._row.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for what, value, remark in lines:
            if self.few and what == "compound":
                continue
            block = QWidget()
            box = QVBoxLayout(block)
            box.setContentsMargins(0, 0, 0, 0)
            box.setSpacing(0)
            box.addWidget(words(value, "figure"))
            box.addWidget(words(f"{what}: {remark}", "small"))
            self._row.addWidget(block)
        said = "; ".join(f"{what} {value}, {remark}" for what, value, remark in lines)
        self.setAccessibleName(f"it costs about: {said}" if lines else "costs")
