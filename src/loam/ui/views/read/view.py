"""Read: digits typed blind, cell by cell, with the running mean and spread."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.changes import Changes
from loam.app.commands import take_reading
from loam.app.presenters.bench import about_reading, bench_words, scale_at_hand
from loam.app.presenters.picture import read
from loam.app.presenters.reading import (
    Entries,
    EntryState,
    asked_back,
    belongs_to,
    minutes_left,
    next_meter,
    other_scales,
    progress,
    reading_table,
    scale_words,
    slip_words,
)
from loam.core.errors import LoamError
from loam.core.readings.slip import MARK
from loam.core.trial import Cell, Reading
from loam.store.raw_lines import RawLine
from loam.ui.keys import LIGHTS_KEY
from loam.ui.picture_out import Picture
from loam.ui.sounds import Sounds
from loam.ui.theme import look
from loam.ui.views.base import Key, Shell, View
from loam.ui.views.pictures import panels_picture
from loam.ui.views.read.board import Board, Mode
from loam.ui.views.read.form import Form
from loam.ui.views.read.inspect import InspectMode
from loam.ui.views.read.modes import RoundMode, TileMode, WipeMode, tile_mode
from loam.ui.views.read.naming import Naming
from loam.ui.views.read.pasting import Pasting
from loam.ui.views.read.photo_page import PhotoPage
from loam.ui.views.read.ports_mode import PortsMode
from loam.ui.views.read.side import Side
from loam.ui.views.read.story_page import StoryPage
from loam.ui.views.read.striking import Striking
from loam.ui.views.read.walking import Walking
from loam.ui.views.read.wired import Wired
from loam.ui.widgets.fields import set_role
from loam.ui.widgets.scroll_stack import Stack

LOW = 620


class ReadView(View):
    """The panel with what is read on the left, the entry on the right."""

    step = "read"

    _keeping = False

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.chosen: int | None = None
        self._entries = Entries()
        self.measurand = "gloss20"
        self.phase = "after"
        self.done = False
        self._asked: tuple[int, str, str, str] | None = None
        self.pasting = Pasting(self)
        self.offer = self.pasting.offer
        self._raw: tuple[str, str, RawLine] | None = None
        self.sounds, self.wired = Sounds(self.session, self), Wired(self)
        self.walking = Walking(self)
        self.choose, self.go_over = self.walking.choose, self.walking.move
        self.turn_panel, self.turn_kind = self.walking.turn_panel, self.walking.turn_kind
        self.turn_phase, self.go_on_to = self.walking.turn_phase, self.walking.go_on_to
        self.next_kind = self.walking.next_kind
        self.mode: Mode | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        self.whole = Stack()
        outer.addWidget(self.whole)
        desk = QWidget()
        desk.setObjectName("ground")
        self.whole.addWidget(desk)
        self.photos, self.story = PhotoPage(self), StoryPage(self)
        self.whole.addWidget(self.photos)
        self.whole.addWidget(self.story)
        row = QHBoxLayout(desk)
        row.setContentsMargins(20, 12, 24, 0)
        row.setSpacing(28)
        self.side = left = Side()
        self.which, self.drawing = left.which, left.drawing
        left.others.chosen.connect(lambda key: self.turn_panel(int(key)))
        left.drawing.cell_chosen.connect(self.choose)
        row.addLayout(left, 12)
        self.form = Form(self)
        left.addWidget(self.form.choices)
        self.digits, self.error = self.form.digits, self.form.error
        self.strike_bar, self.operator = self.form.strike_bar, self.form.operator
        self._connect()
        self.naming = Naming(self.session, self.form, self.take_keyboard, self.complain)
        self.striking = Striking(self)
        self.strike = self.striking.ask
        self.board = Board(self)
        self.pages = Stack()
        self.pages.addWidget(self.form)
        self.pages.addWidget(self.board)
        row.addWidget(self.pages, 10)
        look.changed.connect(self._restyle)
        self._restyle()

    def _restyle(self) -> None:
        self.form.restyle(self.width(), self.height())
        if self.isVisible():
            self.show_all()

    def _connect(self) -> None:
        form = self.form
        form.kinds.chosen.connect(self.turn_kind)
        form.phases.chosen.connect(self.turn_phase)
        form.scales.chosen.connect(self.turn_scale)
        for field, key in ((form.operator, ""), (form.reader, "reader"), (form.meter, "meter")):
            field.kept.connect(lambda text, k=key: self._keep_who(k, text))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._restyle()

    def keys(self) -> list[Key]:
        page = self.page
        if page is not None:
            return page.keys()
        if self.mode is not None:
            return [*self.mode.keys(), (LIGHTS_KEY, "lights", None)]
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
            ("N", "round", lambda: self.letter("N")),
            ("W", "wipe", lambda: self.letter("W")),
            ("T", "tile", lambda: self.letter("T")),
            ("I", "inspect", lambda: self.letter("I")),
            ("P", "photographs", lambda: self.letter("P")),
            ("H", "history", lambda: self.letter("H")),
            ("Ctrl+M", "next meter", self.next_kind),
        ]

    def letter(self, letter: str) -> None:
        """Do what a letter stands for while nothing is typed."""
        if self.state is None:
            return
        modes: dict[str, Callable[[ReadView], Mode | None]] = {
            "N": RoundMode,
            "W": WipeMode,
            "I": InspectMode,
            "T": tile_mode,
        }
        if letter == "X":
            self.strike()
        elif letter in modes:

            def turn() -> None:
                self.turn_mode(modes[letter](self))

            if letter != "T" or not self.naming.meter(turn):
                turn()
        elif letter in ("P", "H"):
            self.turn_page(self.photos if letter == "P" else self.story)

    @property
    def page(self) -> PhotoPage | StoryPage | None:
        """What stands in place of reading: photographs, a story, or nothing."""
        current = self.whole.currentWidget()
        return current if isinstance(current, PhotoPage | StoryPage) else None

    def turn_page(self, page: PhotoPage | StoryPage) -> None:
        """Turn to the photographs or the story of the cell at hand."""
        self.whole.setCurrentWidget(page)
        page.begin()

    def leave_page(self) -> None:
        """Go back to reading."""
        self.whole.setCurrentIndex(0)
        self.show_all()
        self.take_keyboard()

    def take_picture(self, path: Path) -> bool:
        if self.state is None:
            return False
        if self.page is not self.photos:
            self.turn_page(self.photos)
        self.photos.take(path)
        return True

    def turn_mode(self, mode: Mode | None) -> None:
        """Ask something else than readings, in their place."""
        if mode is None:
            return
        self.mode = mode
        self.board.complain("")
        self.board.line.clear()
        self.board.show_mode(mode)
        self.pages.setCurrentWidget(self.board)
        self.take_keyboard()
        self.shell.keys_changed()

    def choose_ports(self, ports: Sequence[str], chosen: Mapping[str, bool]) -> None:
        """Ask which ports may be opened."""
        self.turn_mode(PortsMode(self, ports, chosen))

    def leave_mode(self) -> None:
        """Go back to reading."""
        self.mode = self.board.mode = None
        self.pages.setCurrentWidget(self.form)
        self.show_all()
        self.take_keyboard()

    def take_keyboard(self) -> None:
        """Give the keyboard to what is typed on."""
        page = self.page
        (page or (self.digits if self.mode is None else self.board.line)).setFocus()

    @property
    def reader_name(self) -> str:
        """Who reads."""
        return self.form.reader.text()

    @property
    def meter_name(self) -> str:
        """With which meter."""
        return self.form.meter.text()

    def trigger(self) -> None:
        """The button on the meter was pressed: read what is at hand, or the next cell's."""
        if not self.isVisible() or self.page is not None or self.digits.text():
            return
        if isinstance(self.mode, TileMode):
            self.board.enter()
        elif self.mode is None:
            if self.done:
                self.walking.go_next()
                self.show_all()
            self.wired.ask()

    def take_tile(self, value: float) -> None:
        """Take what the meter read of its tile."""
        if isinstance(self.mode, TileMode):
            self.mode.take(value)
            self.board.show_mode()
            self.shell.keys_changed()

    def more_keys(self) -> list[Key]:
        if self.page is not None:
            return []
        return [
            ("Ctrl+Z", "take back", None),
            ("PgDn", "next panel", lambda: self.walking.turn_panel_by(1)),
            ("PgUp", "panel before", lambda: self.walking.turn_panel_by(-1)),
            (LIGHTS_KEY, "lights", None),
            ("Ctrl+V", "paste a column of figures", None),
            ("Ctrl+L", "meters on their ports", self.wired.join),
            ("Ctrl+T", "all meters of a cell in one go, or not", self.walking.turn_way),
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

    def entered(self) -> None:
        if self.page is not None:
            self.whole.setCurrentIndex(0)
        if self.mode is not None:
            self.leave_mode()
        self.operator.set_text(self.operator.text())
        for field, key in ((self.form.reader, "reader"), (self.form.meter, "meter")):
            field.set_text(self.session.recall(key, ""))
        self._settle_kind()
        if self.chosen not in self.session.order():
            self.chosen = None
        if self.chosen is None or (self.state is not None and self.state.full):
            self.walking.go_next()
        self.show_all()
        self.take_keyboard()

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
        return self._entries.at(self.session, cell, self.measurand, self.phase) if cell else None

    def refresh(self, changes: Changes) -> None:
        if not self.isVisible():
            return
        self._settle_kind()
        if changes.cell_ids and len(changes.cell_ids) == 1:
            (self.chosen,) = changes.cell_ids
        if self.chosen not in self.session.order():
            self.chosen = None
            self.walking.go_next()
        if not self._keeping:  # then it is shown once, when it is known what is read next
            self.show_all()

    def show_all(self) -> None:
        """Show the cell at hand, and what is asked of it."""
        trial, state = self.session.trial, self.state
        self.side.show_state(self.session, state, self.measurand, self.phase)
        for part in (self.pages, self.form.choices):
            part.setVisible(state is not None)
        if state is None or trial is None:
            return
        if self.page is self.story:
            self.story.begin()
        kinds = [(k, self.session.kind(k).label) for k in trial.measurands]
        self.form.show_state(
            state, kinds, self.phase, self._scale(state), self.walking.advice(state)
        )
        done, count = progress(self.session, self.measurand, self.phase)
        way = "all meters of a cell in one go" if self.together else "one meter after another"
        left = minutes_left(self.session, self.measurand, self.phase)
        self.form.left.setText(
            f"{done} of {count} cells read for {state.kind.label}{left} · {way} (Ctrl+T)"
        )
        bench = bench_words(self.session, state, self.meter_name)
        self.form.round.setText(bench.round)
        self.form.tile.setText(bench.tile)
        set_role(self.form.tile, "care" if bench.care else "quiet")
        if self.mode is not None:
            self.board.show_mode()
        self.shell.keys_changed()

    def _scale(self, state: EntryState) -> str:
        """Return the scale that readings of this kind are typed in."""
        return scale_at_hand(self.session, state.kind)

    def turn_scale(self, scale: str) -> None:
        """Type readings of this kind on another scale from now on."""
        state = self.state
        if state is not None and not self.session.workshop.read_only:
            self.session.remember(f"scale:{state.kind.key}", scale)
        self.show_all()
        self.take_keyboard()

    def _keep_who(self, key: str, text: str) -> None:
        if key and not self.session.workshop.read_only:
            self.session.remember(key, text)
            self.show_all()

    def complain(self, said: str) -> None:
        """Say what is wrong, in place, and be heard: it is typed blind."""
        if said:
            self.sounds.asked_back()
        if self.mode is not None:
            self.board.complain(said)
        else:
            self.error.setText(said)

    def hold(self) -> None:
        """Say that a half-typed figure stays where it is."""
        self.complain(f"{self.digits.text()} is not kept yet: Enter keeps it, Esc clears it.")

    def begin(self) -> None:
        """Make room for a figure: a cell that has just been filled gives way to the next."""
        self.complain("")
        self._asked = self.pasting.placed = None
        if self.done and not self.digits.text():
            self.walking.go_next()
            self.show_all()

    def clear(self) -> None:
        """Leave what was typed or pasted."""
        self.digits.clear()
        self.complain("")
        self._asked = self.pasting.placed = self._raw = None

    def blank(self, state: EntryState) -> Reading:
        """Return a reading of this cell with all but its value."""
        return Reading(
            0,
            state.cell.id,
            self.measurand,
            0.0,
            self.phase,
            state.next_ordinal,
            state.stage,
            self._scale(state),
            self.operator.text(),
            self.session.workshop.now()[:10],
            reader=self.reader_name,
            meter=self.meter_name,
            about=self._about(state, spot=False),
        )

    def _about(self, state: EntryState, raw: RawLine | None = None, *, spot: bool = True) -> str:
        lights = look.lights_out
        return about_reading(self.session, state, raw, lights_out=lights, spot=spot)

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
            self.walking.go_next()
            self.show_all()
            return
        try:
            value = state.kind.parse(text)
        except LoamError as error:
            self.complain(f"{error.what} {error.todo}".strip())
            self.digits.selectAll()
            return
        asked, mark = (state.cell.id, self.measurand, self.phase, text), ""
        raw = self._raw[2] if self._raw is not None and self._raw[0] == text else None
        scale = self._scale(state)
        slip = asked_back(self.session, state, value, scale)
        others = other_scales(self.session, self.measurand, scale)
        if slip is not None or others:
            if self._asked != asked:
                self._asked = asked
                like = belongs_to(self.session, state, value)
                said = slip_words(slip, text, state, like) if slip is not None else ""
                self.complain(said or scale_words(state.kind, scale, others))
                self.digits.selectAll()  # what is typed next replaces it, and never runs on
                return
            mark = MARK
        if self.naming.first(self.phase, self.keep):
            return
        about = self._about(state, raw)
        reading = replace(self.blank(state), value=value, mark=mark, about=about)
        self._keeping = True
        try:
            kept = self.act(take_reading(trial.id, reading, raw))
        finally:
            self._keeping = False
        if not kept:
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
        self.sounds.kept()
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
        self.show_all()

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
