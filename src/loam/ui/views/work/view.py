"""Work: the cell that is next, large enough for two metres, and the pacer; one key drives it."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QHideEvent, QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.changes import ALL, Changes
from loam.app.commands import NoteWork, pad_event
from loam.app.commands.work import MARKS
from loam.app.presenters.path import MOST_PACED
from loam.app.presenters.picture import lit
from loam.app.presenters.shelf import Single
from loam.app.presenters.working import Working, exposure, exposure_words, working
from loam.core.kit.life import WASHED
from loam.core.kit.life import WORKED as SET_WORKED
from loam.core.pacer import DONE, Pacer, track_of
from loam.core.units import thousands
from loam.store import work
from loam.ui.views.base import Key, Shell, View
from loam.ui.widgets.fields import Field, set_role, words
from loam.ui.widgets.pace_drawing import PaceDrawing
from loam.ui.widgets.panel_drawing import PanelDrawing
from loam.ui.widgets.work_card import WorkCard

TICK_MS = 16
_SPOKEN_S = 1.0


class WorkView(View):
    """Where and with what on the left, the pacer on the right."""

    step = "work"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.clock: Callable[[], float] = time.monotonic
        self.state: Working | None = None
        self.pacer: Pacer | None = None
        self.chosen: int | None = None
        self.counting = False
        self._of: tuple[object, ...] = ()
        self._noted_s = 0.0
        self._passes = 0
        self._exposed_at = self._counted_at = 0.0
        self.timer = QTimer(self)
        self.timer.setInterval(TICK_MS)
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.timeout.connect(self.tick)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 14, 24, 0)
        outer.setSpacing(6)
        self.lead = words("", "lead", wrap=True)
        outer.addWidget(self.lead)
        row = QHBoxLayout()
        row.setSpacing(26)
        left = QVBoxLayout()
        left.setSpacing(10)
        self.card = WorkCard()
        left.addWidget(self.card, 3)
        self.where = PanelDrawing(caption=False)
        self.where.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.where.cell_chosen.connect(self.choose)
        left.addWidget(self.where, 2)
        row.addLayout(left, 4)
        self.pace = PaceDrawing()
        row.addWidget(self.pace, 5)
        outer.addLayout(row, 1)
        self.marks = words("", "care", wrap=True)
        outer.addWidget(self.marks)
        self.words = Field("What else happened", "work_words")
        self.words.kept.connect(self._say_words)
        self.words.entered.connect(self._leave_words)
        self.words.hide()
        outer.addWidget(self.words)
        self.day = words("", "small", wrap=True)
        outer.addWidget(self.day)
        self.filler = QWidget()
        outer.addWidget(self.filler, 1)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def keys(self) -> list[Key]:
        if self.state is None:
            return []
        going = self.pacer is not None and self.pacer.running
        act = "count a pass" if self.counting else "hold" if going else "start, go on"
        return [
            ("Space", act, self.press),
            ("1–8", "mark", None),
            ("0", "say more", self.open_words),
            ("P", self.worker or "who works", self.next_person),
            ("C", "follow me" if self.counting else "count only", self.turn_counting),
            ("W", "pad washed", self.wash),
            ("PgDn", "another cell", lambda: self.turn(1)),
        ]

    def more_keys(self) -> list[Key]:
        found: list[Key] = [
            (str(i), said, lambda k=key: self.mark(k)) for i, (key, said) in enumerate(MARKS, 1)
        ]
        return [("PgUp", "the cell before", lambda: self.turn(-1)), *found]

    @property
    def worker(self) -> str:
        """Who works."""
        return str(self.session.recall("worker", ""))

    def _day(self) -> str:
        return f"{self.session.workshop.clock():%Y-%m-%d}"

    def entered(self) -> None:
        self.setFocus()

    def hideEvent(self, event: QHideEvent | None) -> None:
        if self.pacer is not None:
            self.pacer.hold()
        self.timer.stop()
        super().hideEvent(event)

    def refresh(self, changes: Changes) -> None:
        small = len(self.session.order()) <= MOST_PACED
        self.state = working(self.session, self.chosen) if small else None
        state = self.state
        of = (state.cell.id, state.stage, state.now, state.panel.taping) if state else ()
        if of != self._of or changes.kinds == ALL:
            self._of = of
            self._set_up()
        self._show()

    def _set_up(self) -> None:
        """Lay the pacer out for the stage at hand; passes that were done stay done."""
        self.timer.stop()
        self.pacer, state = None, self.state
        if state is None or state.settings is None:
            return
        track = track_of(state.settings.section)
        done = min(state.done_passes, track.settings.passes)
        self.pacer = Pacer(track, self.clock, done)
        self._passes, self._noted_s = done, self.pacer.elapsed_s

    def _show(self) -> None:
        state = self.state
        for part in (self.card, self.where, self.pace, self.day):
            part.setVisible(state is not None)
        self.filler.setVisible(state is None)
        self.shell.keys_changed()
        if state is None:
            self.marks.setText("")
            laid = len(self.session.order())
            said = "Every cell is worked. Read them (F7)."
            if not laid:
                said = "Nothing is laid out yet: give each cell its combination first (F5)."
            elif laid > MOST_PACED:
                said = f"{thousands(laid)} cells are too many to pace ({MOST_PACED} at most)."
                said += " What is read is taken as worked (F7)."
            self.lead.setText(said)
            return
        said = f"Cell {state.done + 1} of {state.wanted}."
        if state.refusal:
            said += f" {state.refusal}"
        elif state.pad is not None and not state.pad.life.usable:
            said += f" No clean pad is left: {state.pad.name} is {state.pad.life.state}."
        self.lead.setText(said)
        self.card.show_state(state)
        self.where.show_picture(lit(self.session, state.panel, state.cell.id), state.cell.id)
        self.marks.setText("Marked: " + ", ".join(state.marks) if state.marks else "")
        self._show_moment()
        self._show_day()

    def _show_moment(self) -> None:
        pacer = self.pacer
        self.pace.counting = self.counting
        self.pace.show_moment(
            pacer.track if pacer is not None else None,
            pacer.moment() if pacer is not None else None,
        )

    def _show_day(self) -> None:
        state, pacer = self.state, self.pacer
        if state is None:
            return
        running = pacer.elapsed_s - self._noted_s if pacer is not None else 0.0
        found = exposure(self.session, self.worker, self._day(), (state.now.machine, running))
        self._exposed_at = self.clock()
        self.day.setText(exposure_words(self.worker, found))
        set_role(self.day, "care" if found.care else "small")

    def press(self) -> None:
        """Start, hold, go on; in count-only mode count a pass."""
        if self.pacer is None:
            return
        if self.counting and self.pacer.running:
            self._count()
            return
        before = self.pacer.running
        self._counted_at = self.clock()
        self.pacer.turn()
        if self.pacer.running:
            self.timer.start()
        else:
            self.timer.stop()
        if before != self.pacer.running:
            self.shell.keys_changed()
        self._show_moment()

    def tick(self) -> None:
        """Show where the pad should be now; note every pass that is done."""
        pacer = self.pacer
        if pacer is None:
            return
        moment = pacer.moment()
        if self.counting:
            if self.clock() - self._exposed_at > _SPOKEN_S:
                self._show_day()
            return
        while self.pacer is pacer and self._passes < moment.done_passes:
            self._note_pass(pacer.elapsed_s - self._noted_s if self._last(moment.of) else None)
        if self.pacer is pacer and moment.phase != DONE:
            self.pace.show_moment(pacer.track, moment)
            if self.clock() - self._exposed_at > _SPOKEN_S:
                self._show_day()

    def _last(self, of: int) -> bool:
        return self._passes + 1 == of

    def _count(self) -> None:
        """Count a pass by hand; its time is what went by."""
        if self.pacer is not None:
            now = self.clock()
            self._note_pass(now - self._counted_at)
            self._counted_at = now

    def _note_pass(self, seconds: float | None) -> None:
        """Write a pass down; after the last one the stage is worked."""
        state, pacer, trial = self.state, self.pacer, self.session.trial
        if state is None or pacer is None or trial is None:
            return
        number = self._passes + 1
        if seconds is None:
            until = pacer.track.pass_start(number + 1)
            seconds = until - self._noted_s
        self._noted_s += seconds
        self._passes = number
        facts = {"seconds": round(seconds, 3), "machine": state.now.machine, "number": number}
        if not self._note(work.PASS, facts):
            pacer.hold()
            return
        if number >= pacer.track.settings.passes:
            self._finish(pacer)

    def _finish(self, pacer: Pacer) -> None:
        """The stage is done: note it, load the pad, and offer what is next."""
        state = self.state
        if state is None:
            return
        self.timer.stop()
        pad = state.pad
        facts = {"held_s": round(pacer.held_s, 1), "passes": pacer.track.settings.passes}
        if self._note(work.WORKED, facts, pad.name if pad is not None else ""):
            if pad is not None:
                self._happen(pad, SET_WORKED)
            self.shell.say(f"Cell {state.cell.code}, stage {state.stage} is worked and noted.")

    def _note(self, what: str, facts: dict[str, object], pad: str = "") -> bool:
        state, trial = self.state, self.session.trial
        if state is None or trial is None:
            return False
        return self.act(
            NoteWork(
                trial.id, state.cell.id, state.stage, what, facts, self.worker, self._day(), pad
            )
        )

    def _happen(self, pad: Single, event: str) -> None:
        """Note what happened to a single pad."""
        self.act(pad_event(pad.item_id, pad.name, pad.facts, event))

    def mark(self, key: str) -> None:
        """Mark what went wrong on this cell."""
        self._note(work.MARK, {"mark": key})

    def open_words(self) -> None:
        """Say in words what happened."""
        if self.state is not None:
            self.words.show()
            self.words.line.setFocus()

    def _say_words(self, text: str) -> None:
        if text and self._note(work.MARK, {"words": text}):
            self.words.set_text("")

    def _leave_words(self) -> None:
        if not self.words.error.text():
            self.words.set_text("")
            self.words.hide()
            self.setFocus()

    def wash(self) -> None:
        """Note that the pad at hand was washed."""
        if self.state is not None and self.state.pad is not None:
            self._happen(self.state.pad, WASHED)

    def next_person(self) -> None:
        """Hand the machine to the next person of the workshop."""
        people = self.session.people()
        if not people:
            self.shell.say("Nobody is on the shelf yet (Kit, Ctrl+T, people).")
            return
        at = people.index(self.worker) if self.worker in people else -1
        self.session.remember("worker", people[(at + 1) % len(people)])
        self._show()

    def turn_counting(self) -> None:
        """Count passes by the key instead of following the pad, or follow again."""
        if self.pacer is not None and not self.pacer.running:
            self.counting = not self.counting
            self._counted_at = self.clock()
            self._show()

    def choose(self, cell_id: int) -> None:
        """Work another cell; not while the pad is moving."""
        if self.pacer is not None and self.pacer.running:
            return
        self.chosen = cell_id
        self.refresh(Changes(frozenset()))

    def turn(self, by: int) -> None:
        """Go to the next cell in the order of work that is left, or the one before."""
        order = sorted(self.session.order().items(), key=lambda item: item[1])
        cells = {c.id: c for c in self.session.cells()}
        ids = sorted(
            (i for i, _ in order if i in cells),
            key=lambda i: (cells[i].run_order or 1_000_000, i),
        )
        if self.state is None or not ids:
            return
        at = ids.index(self.state.cell.id) if self.state.cell.id in ids else 0
        for step in range(1, len(ids) + 1):
            other = ids[(at + by * step) % len(ids)]
            found = working(self.session, other)
            if found is not None and found.cell.id == other:
                self.choose(other)
                return

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        acts: dict[int, Callable[[], object]] = {
            int(Qt.Key.Key_Space): self.press, int(Qt.Key.Key_0): self.open_words,
            int(Qt.Key.Key_P): self.next_person, int(Qt.Key.Key_C): self.turn_counting,
            int(Qt.Key.Key_W): self.wash,
        }  # fmt: skip
        held = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        number = event.key() - int(Qt.Key.Key_1)
        if held or event.isAutoRepeat():
            super().keyPressEvent(event)
        elif event.key() in acts:
            acts[event.key()]()
        elif 0 <= number < len(MARKS):
            self.mark(MARKS[number][0])
        elif event.key() == Qt.Key.Key_Escape and self.words.isVisible():
            self._leave_words()
        else:
            super().keyPressEvent(event)
