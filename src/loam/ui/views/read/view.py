"""Read: digits typed blind, cell by cell, with the running mean and spread."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout

from loam.app.changes import Changes
from loam.app.commands import take_reading
from loam.app.presenters.picture import read
from loam.app.presenters.reading import (
    PHASES,
    EntryState,
    asked_back,
    entry_state,
    neighbour,
    next_cell,
    next_meter,
    ordinal,
    panel_progress,
    progress,
    reading_table,
    slip_words,
)
from loam.core.errors import LoamError
from loam.core.readings.slip import MARK
from loam.core.trial import Cell, Reading
from loam.store.raw_lines import RawLine
from loam.ui.picture_out import Picture
from loam.ui.theme import look
from loam.ui.views.base import Key, Shell, View
from loam.ui.views.pictures import panels_picture
from loam.ui.views.read.form import Form
from loam.ui.views.read.pasting import Pasting
from loam.ui.views.read.striking import Striking
from loam.ui.views.read.wired import Wired
from loam.ui.widgets.fields import Chips, words
from loam.ui.widgets.panel_drawing import PanelDrawing

PANEL_CHIPS = 8
"""Panels told above the drawing; of a trial of more those around the one at hand."""
LOW = 620


class ReadView(View):
    """The panel with what is read on the left, the entry on the right."""

    step = "read"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.chosen: int | None = None
        self.measurand = "gloss20"
        self.phase = "after"
        self.done = False
        self._asked: tuple[int, str, str, str] | None = None
        self.pasting = Pasting(self)
        self.offer = self.pasting.offer
        self._raw: tuple[str, str, RawLine] | None = None
        self.wired = Wired(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 12, 24, 0)
        row.setSpacing(28)
        left = QVBoxLayout()
        left.setSpacing(6)
        self.others = Chips("", "read_panels", [], columns=4)
        self.others.chosen.connect(lambda key: self.turn_panel(int(key)))
        left.addWidget(self.others)
        self.which = words("", "small")
        left.addWidget(self.which)
        self.drawing = PanelDrawing()
        self.drawing.setObjectName("read_panel")
        self.drawing.aperture = True
        self.drawing.cell_chosen.connect(self.choose)
        self.drawing.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        left.addWidget(self.drawing, 1)
        self.empty = words("", "lead", wrap=True)
        left.addWidget(self.empty)
        left.addStretch(0)
        row.addLayout(left, 12)
        self.form = Form(self)
        left.addWidget(self.form.choices)
        self.digits, self.error = self.form.digits, self.form.error
        self.strike_bar, self.operator = self.form.strike_bar, self.form.operator
        self._connect()
        self.striking = Striking(self)
        self.strike = self.striking.ask
        row.addWidget(self.form, 10)
        look.changed.connect(self._restyle)
        self._restyle()

    def _restyle(self) -> None:
        self.form.restyle(self.width(), self.height())
        if self.isVisible():
            self._show()

    def _connect(self) -> None:
        form = self.form
        form.kinds.chosen.connect(self.turn_kind)
        form.phases.chosen.connect(self.turn_phase)
        form.scales.chosen.connect(self.turn_scale)
        for field, key in ((form.operator, ""), (form.reader, "reader"), (form.meter, "meter")):
            field.kept.connect(lambda text, k=key: self._keep_who(k, text))
            field.line.returnPressed.connect(self.digits.setFocus)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._restyle()

    def keys(self) -> list[Key]:
        state = self.state
        last = state.counted[-1] if state is not None and state.counted else None
        strike = f"strike {state.kind.write(last.value)}" if state and last else "strike"
        return [
            (
                "Enter",
                "read, or next cell" if self.wired.meter(self.measurand) else "keep, or next cell",
                self.keep,
            ),
            ("arrows", "cell beside", None),
            ("X", strike, self.strike),
            ("Ctrl+Z", "take back", None),
            ("Ctrl+M", "next meter", self.next_kind),
            ("PgDn", "next panel", lambda: self._turn_panel_by(1)),
            ("F9", "lights", None),
        ]

    def more_keys(self) -> list[Key]:
        return [
            ("PgUp", "panel before", lambda: self._turn_panel_by(-1)),
            ("Ctrl+V", "paste a column of figures", None),
            ("Ctrl+L", "meters on their ports", self.wired.join),
            ("Ctrl+T", "all meters of a cell in one go, or not", self.turn_way),
        ]

    def pending(self) -> str:
        if self.pasting.placed is not None:
            return "Pasted figures are not kept yet."
        text = self.digits.text().strip()
        if text:
            return f"{text} is typed and not kept."
        return super().pending()

    @property
    def together(self) -> bool:
        """Whether all meters of a cell are read in one go."""
        return bool(self.session.recall("reading_way", "meter") == "cell")

    def turn_way(self) -> None:
        """Read all meters of a cell in one go, or one meter after another."""
        way = "meter" if self.together else "cell"
        self.session.remember("reading_way", way)
        self.shell.say(
            "All meters of a cell in one go." if way == "cell" else "One meter after another."
        )
        self._show()
        self.digits.setFocus()

    def entered(self) -> None:
        self.operator.set_text(self.operator.text())
        for field, key in ((self.form.reader, "reader"), (self.form.meter, "meter")):
            field.set_text(self.session.recall(key, ""))
        self._settle_kind()
        if self.chosen not in self.session.order():
            self.chosen = None
        if self.chosen is None or (self.state is not None and self.state.full):
            self._go_next()
        self._show()
        self.digits.setFocus()

    def _settle_kind(self) -> None:
        trial = self.session.trial
        if trial is not None and self.measurand not in trial.measurands:
            self.measurand = trial.measurands[0]

    def _laid_cell(self) -> Cell | None:
        return self.session.cell(self.chosen) if self.chosen in self.session.order() else None

    @property
    def state(self) -> EntryState | None:
        """What is shown of the chosen cell."""
        cell = self._laid_cell()
        return entry_state(self.session, cell, self.measurand, self.phase) if cell else None

    def refresh(self, changes: Changes) -> None:
        if not self.isVisible():
            return
        self._settle_kind()
        if changes.cell_ids and len(changes.cell_ids) == 1:
            (self.chosen,) = changes.cell_ids
        if self.chosen not in self.session.order():
            self.chosen = None
            self._go_next()
        self._show()

    def _show(self) -> None:
        trial, state = self.session.trial, self.state
        for part in (self.form, self.form.choices, self.drawing, self.others, self.which):
            part.setVisible(state is not None)
        self.empty.setVisible(state is None)
        if state is None or trial is None:
            self.empty.setText(
                "Here each cell is read with the keyboard alone: type what the meter shows, Enter,"
                " and the next cell comes by itself. Lay out some cells first (F5)."
            )
            return
        picture = read(self.session, state.panel, self.measurand, self.phase)
        self.drawing.show_picture(picture, self.chosen)
        self._show_panels(state)
        self.form.kinds.set_choices([(k, self.session.kind(k).label) for k in trial.measurands])
        self.form.kinds.set_value(self.measurand)
        self.form.phases.set_value(self.phase)
        self.form.scales.set_choices([(s, s) for s in state.kind.scales])
        self.form.scales.set_value(self._scale(state))
        self.form.scales.setVisible(bool(state.kind.scales))
        self.form.code.setText(state.cell.code)
        self.form.what.setText(f"{state.kind.label}, {dict(PHASES)[self.phase]}")
        self.form.where.setText(f"panel {state.panel.name} · blind: the combination is hidden")
        self.form.ordinal.setText(ordinal(len(state.counted)))
        self.form.unit.setText(state.kind.unit)
        self.form.taken.show_state(state)
        self.form.spread.show_state(state)
        self.form.mean.setText(state.figure)
        self.form.mean.setAccessibleDescription("mean and half of its 90 % interval")
        self.form.verdict.setText(state.verdict)
        self.form.advice.setText(self._advice(state))
        done, count = progress(self.session, self.measurand, self.phase)
        way = "all meters of a cell in one go" if self.together else "one meter after another"
        self.form.left.setText(
            f"{done} of {count} cells read for {state.kind.label} · {way} (Ctrl+T)"
        )
        self.shell.keys_changed()

    def _show_panels(self, state: EntryState) -> None:
        panels = panel_progress(self.session, self.measurand, self.phase)
        place = [i for i, *_ in panels].index(state.panel.id)
        at = place // PANEL_CHIPS * PANEL_CHIPS
        shown = panels[at : at + PANEL_CHIPS]
        self.others.set_choices([(str(i), f"{name}  {n} of {m}") for i, name, n, m in shown])
        self.others.set_value(str(state.panel.id))
        self.which.setText(f"Panel {place + 1} of {len(panels)}, PgUp and PgDn turn.")
        self.which.setVisible(len(panels) > PANEL_CHIPS)

    def _advice(self, state: EntryState) -> str:
        if not self.done:
            return state.advice
        following = next_cell(self.session, self.measurand, self.chosen, self.phase)
        if following is None or following.id == self.chosen:
            return f"{state.advice} All cells are read for {state.kind.label}."
        panel = next(p for p in self.session.panels() if p.id == following.panel_id)
        place = following.code if panel.id == state.panel.id else f"{panel.name} {following.code}"
        return f"{state.advice} Enter, or the next figure, goes to {place}."

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

    def _keep_who(self, key: str, text: str) -> None:
        if key and not self.session.workshop.read_only:
            self.session.remember(key, text)

    def complain(self, said: str) -> None:
        """Say what is wrong with the digits, in place."""
        self.error.setText(said)

    def hold(self) -> None:
        """Say that a half-typed figure stays where it is."""
        self.complain(f"{self.digits.text()} is not kept yet: Enter keeps it, Esc clears it.")

    def begin(self) -> None:
        """Make room for a figure: a cell that has just been filled gives way to the next."""
        self.complain("")
        self._asked = self.pasting.placed = None
        if self.done and not self.digits.text():
            self._go_next()
            self._show()

    def clear(self) -> None:
        """Leave what was typed or pasted."""
        self.digits.clear()
        self.complain("")
        self._asked = self.pasting.placed = self._raw = None

    def blank(self, state: EntryState) -> Reading:
        """Return a reading of this cell with all but its value."""
        return Reading(
            0, state.cell.id, self.measurand, 0.0, self.phase, state.next_ordinal, 1,
            self._scale(state), self.operator.text(), self.session.workshop.now()[:10],
            reader=self.form.reader.text(), meter=self.form.meter.text(),
        )  # fmt: skip

    def keep(self) -> None:
        """Keep what was typed or pasted; on an empty box go to the next cell."""
        state, trial = self.state, self.session.trial
        if state is None or trial is None:
            return
        if self.pasting.placed is not None:
            self.pasting.keep(trial.id)
            return
        text = self.digits.text().strip()
        if not text:
            if not state.full and not self.done and self.wired.ask():
                return
            self._go_next()
            self._show()
            return
        try:
            value = state.kind.parse(text)
        except LoamError as error:
            self.complain(f"{error.what} {error.todo}".strip())
            self.digits.selectAll()
            return
        asked, mark = (state.cell.id, self.measurand, self.phase, text), ""
        raw = self._raw[2] if self._raw is not None and self._raw[0] == text else None
        slip = asked_back(self.session, state, value, self._scale(state))
        if slip is not None:
            if self._asked != asked:
                self._asked = asked
                self.complain(slip_words(slip, text, state))
                return
            mark = MARK
        reading = replace(self.blank(state), value=value, mark=mark)
        if not self.act(take_reading(trial.id, reading, raw)):
            return
        self.clear()
        self.after_keeping()

    def take(self, text: str, scale: str, raw: RawLine) -> None:
        """Take a figure from a meter as if it were typed; its line is kept with it."""
        state = self.state
        if state is None or self.digits.text():
            return
        if scale and scale != self._scale(state):
            self.complain(
                f"The meter reads {state.kind.label} on its {scale} scale, here it is"
                f" {self._scale(state)}: turn one of them. Nothing was kept."
            )
            return
        self.digits.setText(text)
        self._raw = (text, scale, raw)
        self.keep()

    def after_keeping(self) -> None:
        """See what is read next; what was said of the cell stays until that is typed."""
        state = self.state
        if state is None:
            return
        if self.together and state.cell.id == self.chosen:
            following = next_meter(self.session, state.cell.id, self.measurand, self.phase)
            if following != self.measurand:
                self.form.last.setText(state.said if state.full else "")
                self.measurand = following
                state = self.state or state
        self.done = state.full
        self._show()

    def _go_next(self) -> None:
        """Turn to the next cell that wants readings; its forerunner's result stays in sight."""
        state = self.state
        cell = self._next_of_all() if self.together else None
        cell = cell or next_cell(self.session, self.measurand, self.chosen, self.phase)
        self.done = False
        if cell is not None:
            if state is not None and state.summary is not None and cell.id != self.chosen:
                self.form.last.setText(state.said)
            self.chosen = cell.id
        elif self.chosen is None:
            self.chosen = next(iter(self.session.order()), None)
        else:
            label = self.session.kind(self.measurand).label
            self.shell.say(f"All cells are read for {label}.")

    def _next_of_all(self) -> Cell | None:
        """Return the next cell that wants a reading of any meter, and turn to that meter."""
        trial = self.session.trial
        if trial is None:
            return None
        order = self.session.order()
        start = order.get(self.chosen or 0, -1)
        found = []
        for key in trial.measurands:
            cell = next_cell(self.session, key, self.chosen, self.phase)
            if cell is not None:
                found.append(((order[cell.id] - start - 1) % len(order), key, cell))
        if not found:
            return None
        _, self.measurand, nearest = min(found, key=lambda each: each[0])
        return nearest

    def choose(self, cell_id: int) -> None:
        """Turn to a cell, unless a half-typed figure holds this one."""
        if self.digits.text():
            self.hold()
        elif cell_id in self.session.order():
            self.chosen, self.done = cell_id, False
            self.complain("")
            self._show()
        self.digits.setFocus()

    def move(self, down: int, across: int) -> None:
        """Turn to the cell beside, on the panel as it lies."""
        cell = self._laid_cell()
        beside = neighbour(self.session, cell, down, across) if cell is not None else None
        if beside is not None:
            self.choose(beside.id)

    def turn_panel(self, panel_id: int) -> None:
        """Turn to the first cell of a panel that still wants readings."""
        own = [c for c in self.session.cells_of(panel_id) if c.combination_id is not None]
        if own:
            counts, trial = self.session.counts(self.phase), self.session.trial
            wanted = trial.readings_per_cell if trial else 1
            lacking = (
                c.id for c in own if counts.get((c.id, self.measurand), (0, 0.0))[0] < wanted
            )
            self.choose(next(lacking, own[0].id))

    def _turn_panel_by(self, step: int) -> None:
        state = self.state
        panels = [i for i, *_ in panel_progress(self.session, self.measurand, self.phase)]
        if state is not None and state.panel.id in panels:
            self.turn_panel(panels[(panels.index(state.panel.id) + step) % len(panels)])

    def turn_kind(self, key: str) -> None:
        """Read something else, from the first cell on that still wants it."""
        if self.digits.text():
            self.hold()
        else:
            self.measurand, self.done = key, False
            cell = next_cell(self.session, key, None, self.phase)
            if cell is not None:
                self.chosen = cell.id
            self._show()
        self.digits.setFocus()

    def next_kind(self) -> None:
        """Read the next thing that this trial reads."""
        trial = self.session.trial
        if trial is not None:
            keys = trial.measurands
            self.turn_kind(keys[(keys.index(self.measurand) + 1) % len(keys)])

    def turn_phase(self, key: str) -> None:
        """Read before work, before the wipe, or after it."""
        if self.digits.text():
            self.hold()
        else:
            self.phase, self.done = key, False
            self._show()
        self.digits.setFocus()

    def picture(self) -> Picture | None:
        trial = self.session.trial
        if trial is None:
            return None
        label = self.session.kind(self.measurand).label
        return panels_picture(
            self.session,
            f"{trial.name}: {label}",
            lambda session, panel: read(session, panel, self.measurand, self.phase),
        )

    def table(self) -> list[list[str]]:
        return reading_table(self.session, self.phase)
