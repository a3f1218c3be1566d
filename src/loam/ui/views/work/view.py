"""Work: the cell that is next, large enough for two metres, and the pacer; one key drives it."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QHideEvent, QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.changes import ALL, Changes
from loam.app.commands.work import MARKS
from loam.app.presenters.pace import pace_words
from loam.app.presenters.path import MOST_PACED
from loam.app.presenters.picture import lit
from loam.app.presenters.preparing import preparing
from loam.app.presenters.work_words import (
    heat_left,
    heat_words,
    lead_words,
    nothing_words,
    work_table,
)
from loam.app.presenters.working import (
    Working,
    cells_left,
    exposure,
    exposure_words,
    marks_of,
    noted,
    pads_for,
    working,
)
from loam.core.kit.life import WASHED
from loam.core.pacer import Pacer
from loam.store import work
from loam.ui.views.base import Key, Shell, View
from loam.ui.views.work.ask_line import HEAT, PASSES, WORDS, AskLine
from loam.ui.views.work.bench import Bench, Between
from loam.ui.views.work.hands import Hands
from loam.ui.views.work.minding import Minding, marked
from loam.ui.views.work.modes import ALL_KEY, After, Asks, Gates, Grit, Loss, Mode, More
from loam.ui.views.work.parts import BoardPage, PacePage
from loam.ui.views.work.runner import Runner
from loam.ui.widgets.fields import set_role, words
from loam.ui.widgets.scroll_stack import Stack

_SPOKEN_S = 1.0


class WorkView(View):
    """Where and with what on the left, the pacer on the right; between the cells, the board."""

    step = "work"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.runner = Runner(self.session, self.act)
        self.runner.moved.connect(self._moved)
        self.runner.halted.connect(self.show_all)
        self.runner.finished.connect(self._finished)
        self.mode: Mode | None = None
        self._loss: Loss | None = None
        self._more: More | None = None
        self._exposed_at = 0.0
        self.minding, self.hands = Minding(shell, self.show_all), Hands(self)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 14, 24, 0)
        outer.setSpacing(6)
        top = QHBoxLayout()
        self.lead = words("", "lead", wrap=True)
        top.addWidget(self.lead, 1)
        self.other = words("", "quiet")
        top.addWidget(self.other)
        outer.addLayout(top)
        self.pages = Stack()
        self.pace_page = PacePage(self.choose)
        self.board_page = BoardPage(self.choose)
        self.board_page.board.pressed.connect(self.press_piece)
        self.pages.addWidget(self.pace_page)
        self.pages.addWidget(self.board_page)
        outer.addWidget(self.pages, 1)
        self.marks = words("", "care", wrap=True)
        outer.addWidget(self.marks)
        self.words = AskLine()
        self.words.left.connect(self._left_words)
        outer.addWidget(self.words)
        self.day = words("", "small", wrap=True)
        outer.addWidget(self.day)
        self.filler = QWidget()
        outer.addWidget(self.filler, 1)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def table(self) -> list[list[str]]:
        return work_table(self.session)

    @property
    def bench(self) -> Bench:
        """The bench at hand."""
        return self.runner.bench

    @property
    def state(self) -> Working | None:
        """What is worked at the bench at hand."""
        return self.bench.state

    @property
    def pacer(self) -> Pacer | None:
        """The pacer of the bench at hand."""
        return self.bench.pacer

    def keys(self) -> list[Key]:
        if self.mode is not None:
            who = self.worker or "who works"
            return [
                *self.mode.keys(),
                ("P", who, self.hands.turn),
                ("S", "other bench", self.turn_bench),
            ]
        if self.state is None:
            return []
        act = "count a pass" if self.bench.counting else "start, go on"
        if self.bench.running and not self.bench.counting:
            act = "hold"
        return [
            ("Space", act, self.press),
            ("1–8", "mark", None),
            ("M", "more marks", self.open_more),
            ("0", "say more", self.open_words),
            ("P", self.worker or "who works", self.hands.turn),
            ("C", "follow me" if self.bench.counting else "count only", self.turn_counting),
            ("S", "other bench", self.turn_bench),
            ("R", "what was lost", self.ask_loss),
            ("PgDn", "another cell", lambda: self.turn(1)),
        ]

    def more_keys(self) -> list[Key]:
        found: list[Key] = [
            (str(i), said, partial(self.mark, key)) for i, (key, said) in enumerate(MARKS, 1)
        ]
        return [
            ("PgUp", "the cell before", lambda: self.turn(-1)),
            ("T", "panel's warmth", self.ask_heat),
            ("Shift+P", "somebody else, by name", self.hands.ask),
            ("9", "another pad", self.next_pad),
            ("W", "pad washed", self.wash),
            ("B", "show the combination" if self.blind else "work blind", self.turn_blind),
            *found,
        ]

    @property
    def worker(self) -> str:
        """Who works at the bench at hand."""
        return self.runner.worker(self.bench)

    @property
    def blind(self) -> bool:
        """Whether the card keeps to itself what combination a cell gets."""
        return self.session.recall(f"blind_work:{self.session.trial_id}", False) is True

    def entered(self) -> None:
        self.setFocus()
        self.minding.learn()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.runner.hold_all()
        super().hideEvent(event)

    def refresh(self, changes: Changes) -> None:
        if changes.kinds == ALL:
            self._loss = None
            for bench in self.runner.benches:
                bench.chosen = bench.between = None
        self._follow(anew=changes.kinds == ALL)
        self.show_all()

    def _follow(self, *, anew: bool = False) -> None:
        small = len(self.session.order()) <= MOST_PACED
        for bench in self.runner.benches:
            others = [b.state.cell for b in self.runner.benches if b is not bench and b.state]
            wish = bench.wish(others[0] if others else None, self.runner.worker(bench))
            state = working(self.session, wish) if small else None
            if bench.follow(state, self.runner.clock, anew=anew):
                self.runner.take_up(bench)
            b = bench.between
            if b is not None and not self._still_worked(b):
                bench.between = None

    def _still_worked(self, b: Between) -> bool:
        return any(
            (w.cell_id, w.stage, w.what) == (b.cell_id, b.stage, work.WORKED)
            for w in noted(self.session)
        )

    def _settle_mode(self) -> None:
        """Find out what the board is to ask; nothing while a pad moves."""
        bench, state = self.bench, self.bench.state
        if bench.running:
            self.mode = None
        elif self._loss is not None:
            self.mode = self._loss
        elif self._more is not None:
            self.mode = self._more
        elif bench.asks_grit:
            self.mode = self.mode if isinstance(self.mode, Grit) else Grit(self)
        elif bench.between is not None:
            self.mode = self.mode if isinstance(self.mode, After) else After(self)
        else:
            found = preparing(self.session, state.panel) if state is not None else None
            if found is None:
                self.mode = None
            elif isinstance(self.mode, Gates):
                self.mode.follow(found)
            else:
                self.mode = Gates(self, found)

    def show_all(self) -> None:
        """Show the bench at hand."""
        self._settle_mode()
        state = self.state
        shown = state is not None or self.mode is not None
        self.pages.setVisible(shown)
        self.filler.setVisible(not shown)
        self.day.setVisible(shown)
        self._show_other()
        self.shell.keys_changed()
        if self.mode is not None:
            self.show_board()
            self._show_day()
            return
        self.pages.setCurrentIndex(0)
        if state is None:
            self.marks.setText("")
            self.lead.setText(nothing_words(self.session))
            return
        said = [lead_words(self.session, state, self.worker), self.bench.left_at]
        self.lead.setText(" ".join(filter(None, said)))
        set_role(
            self.lead, "care" if state.refusal or heat_left(self.session, self.state) else "lead"
        )
        self.pace_page.card.show_state(state, blind=self.blind)
        picture = lit(self.session, state.panel, state.cell.id, blind=self.blind)
        self.pace_page.where.show_picture(picture, state.cell.id)
        self.marks.setText(self.minding.of_cell(state, blind=self.blind))
        self._show_moment()
        self._show_day()

    def show_board(self) -> None:
        """Show what the board asks."""
        mode = self.mode
        if mode is None:
            return
        self.pages.setCurrentIndex(1)
        shown = mode.shown()
        self.board_page.show_shown(shown)
        state, b = self.state, self.bench.between
        if state is not None:
            cell = b.cell_id if b is not None and isinstance(mode, After) else state.cell.id
            self.board_page.show_panel(self.session, state.panel, cell, blind=self.blind)
        said = f"{state.panel.name}, {state.panel.ground}." if state is not None else ""
        if not self.worker:
            said += " Nobody is named yet: P says who works."
        if b is not None and isinstance(mode, After):
            said = f"{b.panel}. {pace_words(self.session)}"
        self.lead.setText(said)
        set_role(self.lead, "lead")
        marks = marks_of(self.session, b.cell_id) if b is not None else state.marks if state else ()
        care = self.minding.of_panel(mode.found.panel) if isinstance(mode, Gates) else ""
        self.marks.setText(f"{marked(marks)} {care}".strip())
        self.shell.keys_changed()

    def _show_moment(self) -> None:
        self.pace_page.show_moment(self.bench.pacer, counting=self.bench.counting)

    def _show_day(self) -> None:
        if self.state is None and self.mode is None:
            return
        running = self.bench.running_for()
        found = exposure(self.session, self.worker, self.runner.day(), running)
        self._exposed_at = self.runner.clock()
        self.day.setText(exposure_words(self.worker, found))
        set_role(self.day, "care" if found.care else "small")

    def press_piece(self, key: str) -> None:
        """A piece of the board was pressed."""
        mode = self.mode
        if mode is None:
            return
        if key in ("Space", "Enter"):
            mode.press()
        elif key == "0":
            mode.zero()
        elif key == ALL_KEY and isinstance(mode, Gates):
            mode.all()
        elif key == "T":
            self.ask_heat()
        elif key == "L" and isinstance(mode, Grit):
            mode.stay()
        elif key == "Esc":
            mode.leave()
        elif key.isdigit():
            mode.digit(int(key))

    def press(self) -> None:
        """Start, hold, go on; in count-only mode count a pass; on the board, go on."""
        bench = self.bench
        if isinstance(self.mode, Asks):
            self.shell.say("Space records nothing here: Enter does, 0 leaves out.", matter="asks")
            return
        if self.mode is not None:
            self.mode.press()
            return
        if not bench.running and self.hands.first():
            return
        if not bench.running and heat_left(self.session, self.state) and not bench.warned:
            bench.warned = True
            said = heat_words(self.session, self.state)
            again = "Space again works it warm; 3 marks it as too hot."
            self.shell.say(f"{said} {again}", care=True, matter="heat")
            return
        self.shell.settle("heat")
        self.runner.press()

    def _moved(self) -> None:
        bench = self.bench
        if self.mode is None and not bench.counting and bench.pacer is not None:
            self.pace_page.show_moment(bench.pacer, counting=False)
        if self.runner.clock() - self._exposed_at > _SPOKEN_S and bench.pacer is not None:
            self._show_day()
            self._show_other()

    def _show_other(self) -> None:
        others = [b for b in self.runner.benches if b is not self.bench]
        self.other.setText("  ·  ".join(b.said(self.runner.worker(b)) for b in others))

    def _finished(self, bench: Bench) -> None:
        b = bench.between
        if b is not None:
            self.shell.say(f"Cell {b.code}, stage {b.stage} is worked and noted.")
        if bench is self.bench:
            self.mode = None
        self._follow()  # its stage is through: it no longer keeps its cell
        self.show_all()

    def next_cell(self) -> None:
        """Turn to what is next at the bench at hand."""
        self.bench.chosen = self.bench.pad = None
        self.mode = None
        self.shell.settle("heat")
        self._follow()
        self.show_all()

    def mark_number(self, number: int) -> None:
        """Mark by number, 1 to 8."""
        if 1 <= number <= len(MARKS):
            self.mark(MARKS[number - 1][0])

    def mark(self, key: str) -> None:
        """Mark what went wrong on this cell; of wrong passes, ask how many they were."""
        if key == "passes":
            self.words.ask(PASSES, "How many passes were they?", self._mark_passes)
        else:
            self._note(work.MARK, {"mark": key})

    def _mark_passes(self, count: object) -> bool:
        return self._note(work.MARK, {"mark": "passes", "passes": count})

    def _note(self, what: str, facts: dict[str, object]) -> bool:
        return self.runner.note(self.bench, what, facts)

    def open_words(self) -> None:
        """Say in words what happened."""
        if self.state is not None or self.bench.between is not None:
            self.words.ask(
                WORDS, "What else happened", lambda text: self._note(work.MARK, {"words": text})
            )

    def ask_heat(self) -> None:
        """Ask how warm the panel is, and perhaps the pad."""
        unit = self.session.unit("temperature")
        label = f"Panel, and the pad if it was read, {unit.symbol}"
        if self.state is not None or self.bench.between is not None:
            self.words.ask(HEAT, label, self._keep_heat, unit)

    def _keep_heat(self, facts: object) -> bool:
        return isinstance(facts, dict) and self._note(work.HEAT, facts)

    def _left_words(self) -> None:
        self.setFocus()
        self.show_all()

    def wash(self) -> None:
        """Note that the pad at hand was washed."""
        if self.state is not None and self.state.pad is not None:
            self.runner.happen(self.state.pad, WASHED)

    def turn_counting(self) -> None:
        """Count passes by the key instead of following the pad, or follow again."""
        bench = self.bench
        if bench.pacer is not None and not bench.running:
            bench.counting = not bench.counting
            bench.counted_at = self.runner.clock()
            self.show_all()

    def turn_bench(self) -> None:
        """Turn to the other bench, with its own person, cell and pacer; either runs on."""
        self.runner.turn_bench()
        self.mode = None
        self._follow()
        self.show_all()

    def turn_blind(self) -> None:
        """Hide what combination a cell gets, or show it again."""
        self.session.remember(f"blind_work:{self.session.trial_id}", not self.blind)
        self.show_all()

    def ask_loss(self) -> None:
        """Say what was lost, to lay out what is left."""
        if self.state is not None and not any(b.running for b in self.runner.benches):
            self._open_loss(Loss(self))

    def open_more(self) -> None:
        """Offer what goes wrong less often."""
        if self.state is not None and not self.bench.running:
            self._more = More(self)
            self.show_all()

    def leave_more(self) -> None:
        """Leave the board of more marks."""
        self._more = self.mode = None
        self.show_all()

    def leave_loss(self) -> None:
        """Leave what was lost."""
        self._open_loss(None)

    def _open_loss(self, loss: Loss | None) -> None:
        self._loss = loss
        self._follow()
        self.show_all()
        self.setFocus()

    def choose(self, cell_id: int) -> None:
        """Work another cell; not while the pad is moving."""
        if self.bench.running:
            return
        self.bench.chosen, self.bench.pacer, self.bench.laid_for = cell_id, None, ()
        self._follow()
        self.show_all()

    def turn(self, by: int) -> None:
        """Go to the next cell in the order of work that is left, or the one before."""
        ids = cells_left(self.session)
        if self.state is None or not ids:
            return
        at = ids.index(self.state.cell.id) if self.state.cell.id in ids else 0
        self.choose(ids[(at + by) % len(ids)])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        mode = self.mode
        held = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        number = event.key() - int(Qt.Key.Key_0)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and mode is not None:
            if not event.isAutoRepeat():
                self._enter(mode, everywhere=held)
        elif held or event.isAutoRepeat():
            event.ignore()
        elif event.key() == Qt.Key.Key_Space and mode is not None:
            self.press()  # where it does nothing, that is said
        elif 0 <= number <= 9:
            self._digit(number)
        elif event.key() == Qt.Key.Key_Escape and self.words.isVisible():
            self.words.leave()
        elif event.key() == Qt.Key.Key_Escape and mode is not None and mode.leave():
            return
        else:
            super().keyPressEvent(event)

    def _enter(self, mode: Mode, *, everywhere: bool) -> None:
        """Go on on the board; a gate asks first who passes it, where nobody is named."""
        gates = mode if isinstance(mode, Gates) else None
        if gates is not None and self.hands.first():
            return
        if not everywhere:
            mode.press()
        elif gates is not None:
            gates.all()

    def _digit(self, number: int) -> None:
        if number == 0:
            if self.mode is not None:
                self.mode.zero()
            else:
                self.open_words()
        elif self.mode is not None:
            self.mode.digit(number)
        elif number == 9:
            self.next_pad()
        else:
            self.mark_number(number)

    def next_pad(self) -> None:
        """Take another single pad of the kind; not once the stage was begun."""
        state, bench = self.state, self.bench
        if state is None or state.pad is None or bench.begun:
            return
        pads = pads_for(self.session, state.now.pad)
        at = next((i for i, p in enumerate(pads) if p.item_id == state.pad.item_id), -1)
        bench.pad = pads[(at + 1) % len(pads)].item_id
        self._follow()
        self.show_all()
