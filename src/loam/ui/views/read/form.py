"""Where a reading is typed, and what is said of it: figures, spread, verdict, who and how."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from loam.app.presenters.reading import EntryState, ordinal
from loam.app.presenters.rounds import PHASE_WORDS, PHASES
from loam.ui.theme import look
from loam.ui.theme.look import FAR, FAR_BIG, FAR_SMALL, FIGURES, TITLE
from loam.ui.views.read.digits import Digits, Reader
from loam.ui.views.read.taken import Taken
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.spread import SpreadLine
from loam.ui.widgets.strike_bar import StrikeBar

LOW = 620
"""Height under which figures are smaller and the spread is left out."""


class Form(QWidget):
    """The right half of the reading view."""

    def __init__(self, reader: Reader) -> None:
        super().__init__()
        self._reader = reader
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        self.kinds = Chips("", "read_kinds", [], flows=True)
        box.addWidget(self.kinds)
        head = QHBoxLayout()
        head.setSpacing(18)
        self.code = words("")
        self.code.setAccessibleName("cell")
        head.addWidget(self.code)
        names = QVBoxLayout()
        names.setSpacing(0)
        self.what = words("", "lead", wrap=True)
        self.where = words("", "quiet", wrap=True)
        names.addWidget(self.what)
        names.addWidget(self.where)
        head.addLayout(names, 1)
        box.addLayout(head)
        box.addLayout(self._digits_line())
        self._summary(box)
        box.addStretch(1)
        self.choices = self._choices()

    def _digits_line(self) -> QHBoxLayout:
        line = QHBoxLayout()
        self.digits = Digits(self._reader)
        line.addWidget(self.digits, 1)
        unit = QVBoxLayout()
        unit.addStretch(1)
        self.ordinal = words("", "lead")
        self.unit = words("", "lead")
        unit.addWidget(self.ordinal)
        unit.addWidget(self.unit)
        unit.addStretch(1)
        line.addLayout(unit)
        return line

    def _summary(self, box: QVBoxLayout) -> None:
        self.error = words("", "care", wrap=True)
        self.error.setObjectName("digits_error")
        self.error.setMinimumHeight(look.px(22))
        box.addWidget(self.error)
        self.strike_bar = StrikeBar()
        box.addWidget(self.strike_bar)
        self.taken = Taken()
        box.addWidget(self.taken)
        self.spread = SpreadLine()
        box.addWidget(self.spread)
        total = QHBoxLayout()
        total.setSpacing(24)
        self.mean = words("")
        self.mean.setObjectName("running_mean")
        self.verdict = words("")
        self.verdict.setObjectName("verdict")
        total.addWidget(self.mean)
        total.addWidget(self.verdict)
        total.addStretch(1)
        box.addLayout(total)
        self.advice = words("", "lead", wrap=True)
        self.advice.setObjectName("advice")
        box.addWidget(self.advice)
        self.last = words("", "quiet", wrap=True)
        self.last.setObjectName("last_cell")
        box.addWidget(self.last)
        self.round = words("", "quiet", wrap=True)
        self.round.setObjectName("round_words")
        box.addWidget(self.round)
        self.tile = words("", "quiet", wrap=True)
        self.tile.setObjectName("tile_words")
        box.addWidget(self.tile)

    def _choices(self) -> QWidget:
        """Make the part that says who, how and with what; it lies under the panel."""
        part = QWidget()
        box = QVBoxLayout(part)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        grid = self._grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        self.operator = Field("Worked by", "read_operator", placeholder="first name")
        self.reader = Field("Read by", "read_reader", placeholder="first name")
        self.meter = Field("Meter", "read_meter", placeholder="its name")
        self.phases = Chips("Read", "read_phase", PHASES[:5], flows=True)
        self.scales = Chips("On the scale", "read_scale", [])
        grid.addWidget(self.phases, 0, 0, 1, 3)
        grid.addWidget(self.scales, 0, 2)
        for i, field in enumerate((self.operator, self.reader, self.meter)):
            grid.addWidget(field, 1, i)
            grid.setColumnStretch(i, 1)
        box.addLayout(grid)
        self.left = words("", "quiet", wrap=True)
        box.addWidget(self.left)
        return part

    def show_state(
        self,
        state: EntryState,
        kinds: Sequence[tuple[str, str]],
        phase: str,
        scale: str,
        advice: str,
    ) -> None:
        """Show a cell: its figures, their spread, and what is said of them."""
        kind = state.kind
        self.kinds.set_choices(kinds)
        self.kinds.set_value(kind.key)
        self.phases.set_choices(state.phases)
        self.phases.set_value(phase)
        self.scales.set_choices([(s, s) for s in kind.scales])
        self.scales.set_value(scale)
        self.scales.setVisible(bool(kind.scales))
        self._grid.addWidget(self.phases, 0, 0, 1, 2 if kind.scales else 3)
        self.code.setText(state.cell.code)
        self.what.setText(f"{kind.label}, {PHASE_WORDS[phase]}")
        where = f"panel {state.panel.name} · blind: the combination is hidden"
        if state.nail:
            where = f"{where}. The nail catches in this cell: set the meter beside the scratch."
        self.where.setText(where)
        taken = len(state.counted)
        of = f" of {state.wanted}" if taken < state.wanted else ""
        self.ordinal.setText(f"{ordinal(taken)}{of}")
        self.unit.setText(kind.unit)
        self.taken.show_state(state)
        self.spread.show_state(state)
        self.mean.setText(state.figure)
        self.mean.setAccessibleDescription("mean and half of its 90 % interval")
        self.verdict.setText(state.verdict)
        self.advice.setText(advice)

    def restyle(self, width: int, height: int) -> None:
        """Fit figures to the theme and to the room that the view has."""
        t = look.tokens
        small = bool(height) and height < LOW
        self.spread.setVisible(not small)
        big = look.px(FAR) if small else min(look.px(FAR_BIG - 40), int(width * 0.11) or 110)
        self.digits.setStyleSheet(
            f'font-family: "{FIGURES}"; font-size: {big}px; background: transparent;'
            f" border: none; border-bottom: 2px solid {t.line}; padding: 0; color: {t.ink};"
        )
        self.digits.setMinimumHeight(int(big * 1.22))
        far = look.px(FAR_SMALL - 12 if small else FAR_SMALL)
        self.code.setStyleSheet(
            f'font-family: "{FIGURES}"; font-weight: bold; font-size: {far}px;'
            f" background: {t.tape}; color: {t.on_tape}; padding: 2px 16px;"
            f" border: 1px solid {t.edge};"
        )
        for label, bold in ((self.mean, False), (self.verdict, True)):
            face = f'font-family: "{FIGURES}";' if not bold else "font-weight: 600;"
            label.setStyleSheet(f"{face} font-size: {look.px(28) if small else far}px;")
        for label in (self.ordinal, self.unit):
            label.setStyleSheet(f"font-size: {look.px(TITLE)}px; color: {t.quiet};")
