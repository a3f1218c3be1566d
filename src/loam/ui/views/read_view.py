"""Read: digits typed blind, cell by cell, with the running mean and spread."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from loam.app.changes import Changes
from loam.app.commands import StrikeReadings, take_reading
from loam.app.presenters.picture import read
from loam.app.presenters.reading import (
    ORDINALS,
    EntryState,
    entry_state,
    next_cell,
    panel_progress,
    progress,
    reading_order,
)
from loam.core.errors import LoamError
from loam.core.readings import kind_of
from loam.core.trial import Reading
from loam.ui.theme import look
from loam.ui.theme.look import FAR, FAR_BIG, FAR_SMALL, FIGURES, TITLE
from loam.ui.views.base import Key, Shell, View
from loam.ui.widgets.fields import Chips, Field, Line, words
from loam.ui.widgets.panel_drawing import PanelDrawing
from loam.ui.widgets.spread import SpreadLine

PANEL_CHIPS = 10
"""Panels told below the drawing; a trial of more shows those around the one at hand."""
PHASES = (("after", "after the wipe"), ("before", "before work"))


class _Digits(Line):
    """The box that always has the keyboard. Arrows turn to another cell."""

    def __init__(self, view: ReadView) -> None:
        super().__init__()
        self._view = view
        self.setObjectName("digits")
        self.setAccessibleName("the reading that the meter shows")
        self.setFrame(False)
        self.setMaxLength(9)

    def leaves(self, event: QKeyEvent) -> bool:
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        own = event.key() == Qt.Key.Key_Z and self.text()
        return control and event.key() in (Qt.Key.Key_Z, Qt.Key.Key_X) and not own

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._view.keep()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self._view.turn_cell(1 if key == Qt.Key.Key_Down else -1)
        elif key == Qt.Key.Key_Escape:
            self.clear()
        else:
            self._view.complain("")
            super().keyPressEvent(event)


class ReadView(View):
    """The panel with what is read on the left, the entry on the right."""

    step = "read"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.chosen: int | None = None
        self.measurand = "gloss20"
        self.phase = "after"
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 16, 24, 0)
        row.setSpacing(28)
        left = QVBoxLayout()
        left.setSpacing(8)
        self.others = Chips("", "read_panels", [], columns=5)
        self.others.chosen.connect(lambda key: self.turn_panel(int(key)))
        left.addWidget(self.others)
        self.drawing = PanelDrawing()
        self.drawing.setObjectName("read_panel")
        self.drawing.aperture = True
        self.drawing.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.drawing.cell_chosen.connect(self.choose)
        left.addWidget(self.drawing, 1)
        self.empty = words("", "lead", wrap=True)
        left.addWidget(self.empty)
        left.addStretch(0)
        row.addLayout(left, 12)
        self.entry = self._entry()
        row.addWidget(self.entry, 9)
        look.changed.connect(self._restyle)
        self._restyle()

    def _entry(self) -> QWidget:
        entry = QWidget()
        box = QVBoxLayout(entry)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        self.kinds = Chips("", "read_kinds", [], columns=4)
        self.kinds.chosen.connect(self.turn_kind)
        box.addWidget(self.kinds)
        head = QHBoxLayout()
        head.setSpacing(18)
        self.code = QLabel()
        self.code.setAccessibleName("cell")
        head.addWidget(self.code)
        names = QVBoxLayout()
        names.setSpacing(0)
        self.what = words("", "lead")
        self.where = words("", "quiet")
        names.addWidget(self.what)
        names.addWidget(self.where)
        head.addLayout(names)
        head.addStretch(1)
        box.addLayout(head)
        box.addLayout(self._digits_line())
        self._summary(box)
        box.addStretch(1)
        self._choices(box)
        return entry

    def _digits_line(self) -> QHBoxLayout:
        line = QHBoxLayout()
        self.digits = _Digits(self)
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
        self.error.setMinimumHeight(20)
        box.addWidget(self.error)
        self.taken = QHBoxLayout()
        self.taken.setSpacing(18)
        holder = QWidget()
        holder.setFixedHeight(34)
        holder.setLayout(self.taken)
        self.taken.setContentsMargins(0, 0, 0, 0)
        box.addWidget(holder)
        self.spread = SpreadLine()
        box.addWidget(self.spread)
        total = QHBoxLayout()
        total.setSpacing(24)
        self.mean = QLabel()
        self.mean.setObjectName("running_mean")
        self.verdict = QLabel()
        self.verdict.setObjectName("verdict")
        total.addWidget(self.mean)
        total.addWidget(self.verdict)
        total.addStretch(1)
        box.addLayout(total)
        self.advice = words("", "quiet", wrap=True)
        box.addWidget(self.advice)

    def _choices(self, box: QVBoxLayout) -> None:
        grid = QGridLayout()
        self.operator = Field("Worked by", "read_operator", placeholder="first name")
        self.operator.kept.connect(lambda _t: self.digits.setFocus())
        self.operator.line.returnPressed.connect(self.digits.setFocus)
        self.phases = Chips("Read", "read_phase", PHASES)
        self.phases.chosen.connect(self.turn_phase)
        self.scales = Chips("Scale of the meter", "read_scale", [])
        self.scales.chosen.connect(self.turn_scale)
        grid.addWidget(self.phases, 0, 0)
        grid.addWidget(self.scales, 0, 1)
        grid.addWidget(self.operator, 0, 2)
        grid.setColumnStretch(2, 1)
        box.addLayout(grid)
        self.left = words("", "quiet")
        box.addWidget(self.left)

    def _restyle(self) -> None:
        t = look.tokens
        small = bool(self.height()) and self.height() < 620
        big = FAR if small else FAR_BIG - 30
        self.digits.setStyleSheet(
            f'font-family: "{FIGURES}"; font-size: {big}px; background: transparent;'
            f" border: none; border-bottom: 2px solid {t.line}; padding: 0; color: {t.ink};"
        )
        self.digits.setMinimumHeight(int(big * 1.22))
        self.code.setStyleSheet(
            f'font-family: "{FIGURES}"; font-weight: bold; font-size: {FAR_SMALL}px;'
            f" background: {t.tape}; color: {t.on_tape}; padding: 4px 16px;"
        )
        for label, bold in ((self.mean, False), (self.verdict, True)):
            face = f'font-family: "{FIGURES}";' if not bold else "font-weight: 600;"
            label.setStyleSheet(
                f"{face} font-size: {FAR_SMALL if not small else FAR_SMALL - 10}px; color: {t.ink};"
            )
        for label in (self.ordinal, self.unit):
            label.setStyleSheet(f"font-size: {TITLE}px; color: {t.quiet};")
        if self.isVisible():
            self._show()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self._restyle()

    def keys(self) -> list[Key]:
        return [
            ("Enter", "keep, or next cell", self.keep),
            ("↑ ↓", "other cell", None),
            ("Ctrl+X", "strike the last", self.strike_last),
            ("Ctrl+Z", "take back", None),
            ("Ctrl+M", "next meter", self.next_kind),
            ("F9", "lights", None),
        ]

    def entered(self) -> None:
        trial = self.session.trial
        if trial is not None and self.measurand not in trial.measurands:
            self.measurand = trial.measurands[0]
        if self.chosen not in [c.id for c in reading_order(self.session)]:
            self.chosen = None
        if self.chosen is None or self._state_full():
            self._go_next()
        self._show()
        self.digits.setFocus()

    def _state_full(self) -> bool:
        state = self.state
        return state is not None and state.full

    @property
    def state(self) -> EntryState | None:
        """What is shown of the chosen cell."""
        cell = next((c for c in reading_order(self.session) if c.id == self.chosen), None)
        return entry_state(self.session, cell, self.measurand, self.phase) if cell else None

    def refresh(self, changes: Changes) -> None:
        if not self.isVisible():
            return
        trial = self.session.trial
        if trial is not None and self.measurand not in trial.measurands:
            self.measurand = trial.measurands[0]
        if changes.cell_ids and len(changes.cell_ids) == 1:
            (self.chosen,) = changes.cell_ids
        if self.chosen not in [c.id for c in reading_order(self.session)]:
            self.chosen = None
            self._go_next()
        self._show()

    def _show(self) -> None:
        trial, state = self.session.trial, self.state
        self.entry.setVisible(state is not None)
        self.drawing.setVisible(state is not None)
        self.others.setVisible(state is not None)
        self.empty.setVisible(state is None)
        if state is None or trial is None:
            self.empty.setText(
                "Here each cell is read with the keyboard alone: type what the meter shows, Enter,"
                " and the next cell comes by itself. Lay out some cells first (F5)."
            )
            return
        self.drawing.show_picture(read(self.session, state.panel, self.measurand), self.chosen)
        panels = panel_progress(self.session, self.measurand)
        at = [i for i, *_ in panels].index(state.panel.id) // PANEL_CHIPS * PANEL_CHIPS
        panels = panels[at : at + PANEL_CHIPS]
        self.others.set_choices([(str(i), f"{name}  {n} of {m}") for i, name, n, m in panels])
        self.others.set_value(str(state.panel.id))
        self.kinds.set_choices([(k, kind_of(k).label) for k in trial.measurands])
        self.kinds.set_value(self.measurand)
        self.phases.set_value(self.phase)
        self.scales.set_choices([(s, s) for s in state.kind.scales])
        self.scales.set_value(self._scale(state))
        self.scales.setVisible(bool(state.kind.scales))
        self.code.setText(state.cell.code)
        self.what.setText(f"{state.kind.label}, {dict(PHASES)[self.phase]}")
        self.where.setText(f"panel {state.panel.name} · blind: the combination is hidden")
        number = len(state.counted)
        self.ordinal.setText(ORDINALS[number] if number < len(ORDINALS) else f"{number + 1}th")
        self.unit.setText(state.kind.unit)
        self._show_taken(state)
        self.spread.show_state(state)
        s = state.summary
        more = 1 if state.kind.decimals else 0
        self.mean.setText(
            f"{state.kind.write(s.mean)} ± {state.kind.write(s.half_width, more)}" if s else "–"
        )
        self.mean.setAccessibleDescription("mean and half of its 90 % interval")
        self.verdict.setText(state.verdict)
        self.advice.setText(state.advice)
        done, count = progress(self.session, self.measurand)
        self.left.setText(f"{done} of {count} cells read for {state.kind.label}.")

    def _show_taken(self, state: EntryState) -> None:
        while self.taken.count():
            item = self.taken.takeAt(0)
            widget = item.widget() if item else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        odd = state.summary.odd if state.summary else ()
        place = 0
        shown = state.readings[-8:]
        skipped = sum(r.struck is None for r in state.readings[: -len(shown)]) if shown else 0
        place = skipped
        for reading in shown:
            label = QLabel(state.kind.write(reading.value))
            colour = look.tokens.ink
            extra = ""
            if reading.struck is not None:
                colour, extra = look.tokens.quiet, "text-decoration: line-through;"
                label.setToolTip(f"struck: {reading.struck}")
            else:
                if place in odd:
                    colour = look.tokens.care
                place += 1
            label.setStyleSheet(
                f'font-family: "{FIGURES}"; font-size: {TITLE - 2}px; color: {colour}; {extra}'
            )
            self.taken.addWidget(label)
        for _ in range(min(8 - len(shown), max(0, state.wanted - len(state.counted)))):
            label = QLabel("–")
            label.setStyleSheet(f"font-size: {TITLE - 2}px; color: {look.tokens.faint};")
            self.taken.addWidget(label)
        self.taken.addStretch(1)

    def _scale(self, state: EntryState) -> str:
        """Return the scale that readings of this kind are typed in."""
        if not state.kind.scales:
            return ""
        kept = self.session.recall(f"scale:{state.kind.key}", state.kind.scales[0])
        return kept if kept in state.kind.scales else state.kind.scales[0]

    def turn_scale(self, scale: str) -> None:
        """Type readings of this kind on another scale from now on."""
        state = self.state
        if state is not None and not self.session.workshop.read_only:
            self.session.remember(f"scale:{state.kind.key}", scale)
        self._show()
        self.digits.setFocus()

    def complain(self, said: str) -> None:
        """Say what is wrong with the digits, in place."""
        self.error.setText(said)

    def keep(self) -> None:
        """Keep what was typed; on an empty box go to the next cell."""
        state, trial = self.state, self.session.trial
        if state is None or trial is None:
            return
        text = self.digits.text().strip()
        if not text:
            self._go_next()
            self._show()
            return
        try:
            value = state.kind.parse(text)
        except LoamError as error:
            self.complain(f"{error.what} {error.todo}".strip())
            self.digits.selectAll()
            return
        reading = Reading(
            0, state.cell.id, self.measurand, value, self.phase, state.next_ordinal, 1,
            self._scale(state), self.operator.text(),
            self.session.workshop.now()[:10],
        )  # fmt: skip
        if not self.act(take_reading(trial.id, reading)):
            return
        self.digits.clear()
        self.complain("")
        if self._state_full():
            self._go_next()
            self._show()

    def _go_next(self) -> None:
        cell = next_cell(self.session, self.measurand, self.chosen, self.phase)
        if cell is not None:
            self.chosen = cell.id
        elif self.chosen is None:
            order = reading_order(self.session)
            self.chosen = order[0].id if order else None
        else:
            label = kind_of(self.measurand).label
            self.shell.say(f"All cells are read for {label}.")

    def choose(self, cell_id: int) -> None:
        """Turn to a cell."""
        if cell_id in [c.id for c in reading_order(self.session)]:
            self.chosen = cell_id
            self._show()
        self.digits.setFocus()

    def turn_cell(self, by: int) -> None:
        """Turn to the next laid-out cell, or the one before."""
        ids = [c.id for c in reading_order(self.session)]
        if self.chosen in ids:
            self.choose(ids[(ids.index(self.chosen) + by) % len(ids)])

    def turn_panel(self, panel_id: int) -> None:
        """Turn to the first cell of a panel that still wants readings."""
        own = [c for c in reading_order(self.session) if c.panel_id == panel_id]
        if own:
            before = reading_order(self.session).index(own[0]) - 1
            start = reading_order(self.session)[before].id
            found = next_cell(self.session, self.measurand, start, self.phase)
            self.choose(found.id if found and found.panel_id == panel_id else own[0].id)

    def turn_kind(self, key: str) -> None:
        """Read something else."""
        self.measurand = key
        self._show()
        self.digits.setFocus()

    def next_kind(self) -> None:
        """Read the next thing that this trial reads."""
        trial = self.session.trial
        if trial is not None:
            keys = trial.measurands
            self.turn_kind(keys[(keys.index(self.measurand) + 1) % len(keys)])

    def turn_phase(self, key: str) -> None:
        """Read before work, or after the wipe."""
        self.phase = key
        self._show()
        self.digits.setFocus()

    def strike_last(self) -> None:
        """Strike the last reading that counts."""
        state, trial = self.state, self.session.trial
        if state is None or trial is None or not state.counted:
            return
        last = state.counted[-1]
        cells = frozenset({state.cell.id})
        self.act(StrikeReadings(trial.id, [last.id], "struck while reading", of_cells=cells))
        self.digits.setFocus()
