"""Ask: the trials of the workshop, and the question of the one at hand as a sentence."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from loam.app.changes import Changes
from loam.app.commands import AddPanel, AddTrial, CopyTrial, EditTrial, PutTrialAway
from loam.app.presenters.asking import EXAMPLE, asked, combination_words, holds, sentence_parts
from loam.app.presenters.guide import wanted
from loam.app.presenters.path import STEPS, path_state
from loam.app.presenters.picture import assigned
from loam.core.errors import ValueRefused
from loam.core.question import OWN, parse
from loam.core.readings import KINDS
from loam.core.text import NAME
from loam.core.trial import Trial
from loam.core.units import parse_number
from loam.store import trials as trial_store
from loam.ui.picture_out import Picture
from loam.ui.theme import look
from loam.ui.views.ask.sentence import Sentence
from loam.ui.views.base import TIGHT, CellView, Key, Shell, View
from loam.ui.views.outlook_acts import take_choice
from loam.ui.views.outlook_box import OutlookBox
from loam.ui.views.panels.view import another_panel
from loam.ui.views.pictures import panels_picture
from loam.ui.widgets.cost_strip import CostStrip
from loam.ui.widgets.fields import Field, words
from loam.ui.widgets.panel_row import PanelRow
from loam.ui.widgets.rows import ListRow
from loam.ui.widgets.shelf import Shelf
from loam.ui.widgets.tape import TapeKey

TEACH = (
    "The question that the panels are to answer, and what is read.",
    "The combinations that are compared: pad, compound, machine and passes, in up to eight stages.",
    "The painted panels: hardness class, size, and how they are taped into cells.",
    "Which combination goes into which cell, best dealt at random.",
    "The cell that is next, large, and a pacer that shows where the pad should be.",
    "The readings, typed blind with the keyboard alone; each is safe on disk at once.",
    "The ranking for each hardness, with what is settled, what is equal and what is still open.",
    "The car: its clear, a test spot, and the combination that is taken for all of it.",
)


class AskView(View):
    """Trials on the left; on the right the sentence, and the trial as it grows."""

    step = "ask"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self._kind = ""
        self.low = self.tight = False
        row = QHBoxLayout(self)
        row.setContentsMargins(24, 14, 24, 0)
        row.setSpacing(28)
        self.shelf = Shelf("Trials", "trials", "trials of this workshop")
        self.shelf.chosen.connect(self._choose)
        self.shelf.turned.connect(self._turned)
        self.shelf.setFixedWidth(look.wide(250))
        self.list = self.shelf.list
        row.addWidget(self.shelf)
        row.addWidget(self._page(), 1)

    def _page(self) -> QWidget:
        page = QWidget()
        box = QVBoxLayout(page)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(7)
        self.empty = words(
            "A trial puts one question to your panels. Start one, or bring in readings that you"
            " have in a file: one line a reading, with its panel, hardness, combination and cell.",
            "lead",
            wrap=True,
        )
        box.addWidget(self.empty)
        self.body = QWidget()
        form = QVBoxLayout(self.body)
        form.setContentsMargins(0, 0, 0, 0)
        form.setSpacing(8)
        self.name = Field("Name of the trial", "trial_name")
        self.name.label.hide()
        self.name.kept.connect(lambda text: self._change(self.name, name=text))
        form.addWidget(self.name)
        self.sentence = Sentence()
        self.sentence.kind.connect(self._turn_kind)
        self.sentence.subject.connect(self._keep_subject)
        self.sentence.clear.connect(self._add_class)
        self.sentence.reads.connect(self._keep_reads)
        self.sentence.times.connect(self._keep_times)
        self.sentence.woken.connect(self.add)
        self.question = self.sentence.question.line
        form.addWidget(self.sentence)
        self.named = words("", "quiet", wrap=True)
        form.addWidget(self.named)
        box.addWidget(self.body)
        box.addLayout(self._first_keys())
        self.steps = self._steps()
        box.addWidget(self.steps)
        self.panels = PanelRow()
        self.panels.panel_chosen.connect(self._open_panel)
        self.costs = CostStrip()
        self.outlook = OutlookBox(self.shell, self.costs)
        self.outlook.setFixedWidth(look.wide(330))
        self.outlook.wanted.connect(lambda key: take_choice(self, key))
        beside = QHBoxLayout()
        beside.setSpacing(24)
        beside.addWidget(self.panels, 1)
        beside.addWidget(self.outlook, 0, Qt.AlignmentFlag.AlignTop)
        box.addLayout(beside, 1)
        box.addWidget(self.costs)
        self.holds = words("", "", wrap=True)
        box.addWidget(self.holds)
        self.note = words("", "quiet", wrap=True)
        box.addWidget(self.note)
        box.addLayout(self._foot())
        return page

    def _first_keys(self) -> QHBoxLayout:
        first = QHBoxLayout()
        first.setSpacing(14)
        self.start = TapeKey("Ctrl+N", "start a trial", main=True)
        self.start.clicked.connect(self.add)
        self.guided = TapeKey("Ctrl+G", "a guided first trial", main=True)
        self.guided.clicked.connect(self.begin_guide)
        self.bring = TapeKey("Ctrl+I", "bring in a file", main=True)
        self.bring.clicked.connect(self.shell.bring_in)
        first.addWidget(self.start)
        first.addWidget(self.guided)
        first.addWidget(self.bring)
        first.addStretch(1)
        return first

    def _foot(self) -> QHBoxLayout:
        foot = QHBoxLayout()
        foot.setSpacing(14)
        self.next = TapeKey("", "go on", main=True)
        self.next.setObjectName("go_on")
        self.next.clicked.connect(self._go_on)
        foot.addWidget(self.next)
        self.advice = words("", "quiet", wrap=True)
        foot.addWidget(self.advice, 1)
        return foot

    def _steps(self) -> QWidget:
        """Say what each step of the path is for, while there is no trial yet."""
        body = QWidget()
        grid = QGridLayout(body)
        grid.setContentsMargins(0, 8, 0, 0)
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(10)
        for i, ((_, label), said) in enumerate(zip(STEPS, TEACH, strict=True)):
            key = TapeKey(f"F{i + 2}", label)
            key.clicked.connect(lambda _c=False, k=STEPS[i][0]: self.shell.go(k))
            grid.addWidget(key, i, 0)
            grid.addWidget(words(said, "quiet", wrap=True), i, 1)
        grid.setColumnStretch(1, 1)
        return body

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """On a low window, leave out what is said elsewhere too."""
        super().resizeEvent(event)
        self.low = self.height() < look.px(640)
        self.tight = self.height() < look.px(700)
        window = self.window()
        beside = window is not None and window.width() < look.px(TIGHT)
        self.shelf.setFixedWidth(look.px(180) if beside else look.wide(250))
        self.outlook.set_compact(self.low)
        self.costs.set_few(self.low)
        self._show_lines()

    def _show_lines(self) -> None:
        trial = self.session.trial
        self.holds.setVisible(trial is not None and not self.tight)
        self.named.setVisible(trial is not None and not self.low)
        self.note.setVisible(trial is not None and bool(trial.note) and not self.low)

    def keys(self) -> list[Key]:
        found: list[Key] = [
            ("Ctrl+N", "new trial", self.add),
            ("Ctrl+I", "bring in a file", self.shell.bring_in),
        ]
        if self.session.trial is None:
            found += [("Ctrl+G", "a guided first trial", self.begin_guide)]
        if self.shelf.away:
            found += [("Ctrl+Del", "bring it back", self.put_away)]
        elif self.session.trial is not None:
            found += [
                ("Ctrl+D", "copy it", self.copy),
                ("Ctrl+Del", "put it away", self.put_away),
                ("Ctrl+E", "write out", self.shell.write_out),
            ]
        return [*found, ("Ctrl+H", self.shelf.turn_words, self.shelf.turn_away)]

    def begin_guide(self) -> None:
        """Start a first trial with notes at the places where they belong."""
        if not wanted(self.session):
            self.shell.turn_guide()
        self.add()

    def more_keys(self) -> list[Key]:
        return [
            ("Ctrl+F", "search the trials", self.shelf.search_for),
            ("PgDn", "more panels", lambda: self.panels.turn(1)),
            ("PgUp", "panels before", lambda: self.panels.turn(-1)),
        ]

    def entered(self) -> None:
        trial = self.session.trial
        if trial is None:
            self.start.setFocus()
        elif not trial.question and not self.shelf.away:
            self.sentence.slots["subject"].setFocus()
        else:
            self.list.setFocus()

    def refresh(self, changes: Changes) -> None:
        self._show_trials()
        trial = self.session.trial
        state = path_state(self.session)
        at_hand: tuple[QWidget, ...] = (self.name, self.next, self.advice)
        without: tuple[QWidget, ...] = (self.empty, self.steps, self.start, self.guided, self.bring)
        for part in at_hand:
            part.setVisible(trial is not None)
        for part in without:
            part.setVisible(trial is None)
        self.sentence.asleep = trial is None
        self.advice.setText(state.advice if trial is not None else "")
        self._show_lines()
        self.outlook.setVisible(trial is not None)
        self.costs.setVisible(trial is not None)
        self.outlook.refresh(changes)
        if trial is None:
            self.sentence.drawer.hide()
            self.sentence.show_parts(list(EXAMPLE))
            self.panels.show_panels([], lambda p: assigned(self.session, p))
            return
        self.next.set_words({"ask": "write the question"}.get(state.next_step, "go on"))
        self.name.set_text(trial.name)
        kind, subject = parse(trial.question)
        if subject:
            self._kind = kind.key
        s = self.sentence
        s.show_parts(sentence_parts(self.session, self._kind or "best"))
        s.kinds.set_value(self._kind or "best")
        s.question.set_text(subject)
        s.question.line.setPlaceholderText(kind.example)
        s.classes.set_value(*{p.hardness for p in self.session.panels()})
        s.measurands.set_value(*trial.measurands)
        s.count.set_text(str(trial.readings_per_cell))
        self.named.setText(combination_words(self.session))
        self.holds.setText(holds(self.session))
        self.note.setText(trial.note)
        self.panels.show_panels(self.session.panels(), lambda p: assigned(self.session, p))

    def _show_trials(self) -> None:
        db = self.session.workshop.connection
        shown = trial_store.trials(db, away=True) if self.shelf.away else self.session.trials()
        rows = [ListRow(t.id, t.name, t.question or "no question yet") for t in shown]
        self.shelf.show_rows(rows, None if self.shelf.away else self.session.trial_id)

    def _choose(self, trial_id: int) -> None:
        if not self.shelf.away:
            self._kind = ""
            self.sentence.open_slot = ""
            self.sentence.drawer.hide()
            self.shell.turn_to(trial_id)

    def _turned(self) -> None:
        self._show_trials()
        self.shell.keys_changed()

    def put_away(self) -> None:
        """Put the trial at hand away, or bring the marked one back."""
        if not self.shelf.away:
            if self.session.trial_id is not None:
                self.act(PutTrialAway(id=self.session.trial_id))
            return
        marked = self.list.marked()
        if marked is not None and self.act(PutTrialAway(id=marked, away=False)):
            self.shelf.away = False
            self.session.choose(marked)
            self._show_trials()
            self.shell.keys_changed()

    def add(self) -> None:
        """Start a trial and ask for its question."""
        names = {t.name for t in self.session.trials()}
        number = next(i for i in range(1, len(names) + 2) if f"Trial {i}" not in names)
        command = AddTrial(Trial(0, f"Trial {number}", seed=len(names) + 1))
        if self.act(command):
            self.shelf.away = False
            self._kind = ""
            self.session.choose(command.id)
            self.shell.go("ask")
            self.sentence.open_slot = ""
            self.sentence.toggle("subject")

    def copy(self) -> None:
        """Start a trial like the one at hand: question, kit, panels and layout, no reading."""
        trial = self.session.trial
        if trial is None:
            return
        names = {t.name for t in self.session.trials()}
        stem = trial.name[: NAME - 10]
        called = next(
            n
            for i in range(1, len(names) + 2)
            if (n := f"{stem}, again" + (f" {i}" if i > 1 else "")) not in names
        )
        command = CopyTrial(source=trial, called=called)
        if self.act(command):
            self.session.choose(command.id)
            self.name.line.setFocus()
            self.name.line.selectAll()

    def _open_panel(self, at: int) -> None:
        """Turn to the layout of a panel that was clicked."""
        panels = self.session.panels()
        cells = self.session.cells_of(panels[at].id) if at < len(panels) else []
        self.shell.go("layout")
        view = self.shell.view
        if cells and isinstance(view, CellView):
            view.choose(cells[0].id)

    def _go_on(self) -> None:
        step = path_state(self.session).next_step
        if step == "ask":
            self.sentence.open_slot = ""
            self.sentence.toggle("subject")
        else:
            self.shell.go(step)

    def _change(self, field: Field | None, **values: object) -> None:
        trial = self.session.trial
        if trial is None:
            return
        try:
            after = replace(trial, **values)  # type: ignore[arg-type]
        except ValueRefused as error:
            if field is not None:
                field.complain(f"{error.what} {error.todo}".strip())
            else:
                self.shell.say(str(error), care=True)
                self.refresh(Changes(frozenset()))
            return
        if after != trial:
            self.act(EditTrial(trial, after), field)

    def _turn_kind(self, key: str) -> None:
        """Ask in another way; words that stand there stay."""
        trial = self.session.trial
        if trial is None:
            return
        _, subject = parse(trial.question)
        self._kind = key
        subject = subject.removesuffix("?") if key != OWN.key else subject
        self._change(None, question=asked(trial, key, subject))
        self.refresh(Changes(frozenset()))

    def _keep_subject(self, text: str) -> None:
        trial = self.session.trial
        if trial is not None:
            kind = self._kind or parse(trial.question)[0].key
            kind = kind if trial.question or self._kind else "best"
            self._change(self.sentence.question, question=asked(trial, kind, text))

    def _add_class(self, hardness: str) -> None:
        """Add a panel of a class that has none yet; one that has stays until it is put away."""
        trial = self.session.trial
        if trial is None:
            return
        if any(p.hardness == hardness for p in self.session.panels()):
            self.shell.say(f"Panels of the class {hardness} are put away under Panels (F4).")
            self.refresh(Changes(frozenset()))
            return
        self.act(AddPanel(replace(another_panel(self.session, trial), hardness=hardness)))

    def _keep_reads(self) -> None:
        order = [k.key for k in KINDS]
        chosen = tuple(sorted(self.sentence.measurands.value(), key=order.index))
        self._change(None, measurands=chosen)

    def _keep_times(self, text: str) -> None:
        field = self.sentence.count
        try:
            value = parse_number(text)
            if value != int(value):
                raise ValueRefused("Readings are counted whole.")
        except ValueRefused as error:
            field.complain(f"{error.what} {error.todo}".strip())
            return
        self._change(field, readings_per_cell=int(value))

    def picture(self) -> Picture | None:
        trial = self.session.trial
        return panels_picture(self.session, trial.name) if trial is not None else None

    def table(self) -> list[list[str]]:
        rows = [[t.name, t.question] for t in self.session.trials()]
        return [["trial", "question"], *rows] if rows else []

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and self.list.hasFocus() and self.session.trial is not None:
            if self.shelf.away:
                self.put_away()
            else:
                self._go_on()
        else:
            super().keyPressEvent(event)
