"""Ask: the trials of the workshop, and the question of the one at hand."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from loam.app.changes import Changes
from loam.app.commands import AddTrial, EditTrial
from loam.app.presenters.path import STEPS, path_state
from loam.app.presenters.picture import assigned
from loam.core.errors import ValueRefused
from loam.core.readings import KINDS
from loam.core.trial import Trial
from loam.core.units import parse_number
from loam.ui.theme import look
from loam.ui.theme.look import paint_caret
from loam.ui.views.base import Key, Shell, View
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.panel_row import PanelRow
from loam.ui.widgets.rows import ListRow, RowList
from loam.ui.widgets.tape import TapeKey

EXAMPLES = (
    "Which one-step for soft clear?\n"
    "Does a middle stage earn its clear coat?\n"
    "Orbital or rotary for cutting hard clear?"
)

TEACH = (
    "The question that the panels are to answer, and what is read.",
    "The combinations that are compared: pad, compound, machine and passes, in one to four stages.",
    "The painted panels: hardness class, size, and how they are taped into cells.",
    "Which combination goes into which cell, best dealt at random.",
    "The readings, typed blind with the keyboard alone; each is safe on disk at once.",
    "The ranking for each hardness, with what is settled, what is equal and what is still open.",
)


class _Question(QPlainTextEdit):
    """The question, kept when the field is left or with Ctrl+Enter."""

    def __init__(self, keep: object) -> None:
        super().__init__()
        self._keep = keep
        self.setObjectName("question")
        self.setAccessibleName("the question of this trial")
        self.setPlaceholderText(EXAMPLES)
        self.setTabChangesFocus(True)
        self.setFixedHeight(66)
        self.setCursorWidth(0)

    def paintEvent(self, event: object) -> None:
        super().paintEvent(event)  # type: ignore[arg-type]
        port = self.viewport()
        if self.hasFocus() and port is not None:
            paint_caret(port, self.cursorRect())

    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self._keep()  # type: ignore[operator]

    def keyPressEvent(self, event: object) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):  # type: ignore[attr-defined]
            self._keep()  # type: ignore[operator]
            return
        super().keyPressEvent(event)  # type: ignore[arg-type]


class AskView(View):
    """Trials on the left, the question on the right."""

    step = "ask"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        row = QHBoxLayout(self)
        row.setContentsMargins(24, 18, 24, 0)
        row.setSpacing(28)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(words("Trials", "title"))
        self.list = RowList("trials", "trials of this workshop")
        self.list.row_chosen.connect(self.session.choose)
        left.addWidget(self.list, 1)
        side = QWidget()
        side.setLayout(left)
        left.setContentsMargins(0, 0, 0, 0)
        side.setFixedWidth(look.px(380))
        row.addWidget(side)
        row.addWidget(self._form(), 1)

    def _form(self) -> QWidget:
        sheet = QWidget()
        sheet.setObjectName("sheet")
        box = QVBoxLayout(sheet)
        box.setContentsMargins(28, 22, 28, 22)
        box.setSpacing(14)
        self.empty = words(
            "A trial puts one question to your panels. Start one, or bring in readings that you"
            " have in a file: one line a reading, with its panel, hardness, combination and cell.",
            "lead", wrap=True,
        )  # fmt: skip
        box.addWidget(self.empty)
        self.body = QWidget()
        form = QVBoxLayout(self.body)
        form.setContentsMargins(0, 0, 0, 0)
        form.setSpacing(16)
        self.name = Field("Name of the trial", "trial_name")
        self.name.kept.connect(lambda text: self._change(self.name, name=text))
        self.times = Field("Readings a cell", "readings_per_cell", width=90)
        self.times.kept.connect(self._keep_times)
        top = QHBoxLayout()
        top.setSpacing(24)
        top.addWidget(self.name, 1)
        top.addWidget(self.times)
        form.addLayout(top)
        ask = QVBoxLayout()
        ask.setSpacing(2)
        ask.addWidget(words("The question it answers", "small"))
        self.question = _Question(self._keep_question)
        ask.addWidget(self.question)
        form.addLayout(ask)
        self.reads = Chips(
            "What is read", "measurands",
            [(k.key, k.label) for k in KINDS if not k.derived], several=True, columns=4,
        )  # fmt: skip
        self.reads.chosen.connect(lambda _key: self._keep_reads())
        form.addWidget(self.reads)
        self.note = words("", "quiet", wrap=True)
        form.addWidget(self.note)
        box.addWidget(self.body)
        self.panels = PanelRow()
        box.addWidget(self.panels, 1)
        self.steps = self._steps()
        box.addWidget(self.steps)
        self.filler = QWidget()
        box.addWidget(self.filler, 1)
        self.advice = words("", "lead", wrap=True)
        box.addWidget(self.advice)
        box.addLayout(self._foot())
        return sheet

    def _foot(self) -> QHBoxLayout:
        foot = QHBoxLayout()
        foot.setSpacing(14)
        self.next = TapeKey("", "go on", main=True)
        self.next.setObjectName("go_on")
        self.next.clicked.connect(self._go_on)
        self.start = TapeKey("Ctrl+N", "start a trial", main=True)
        self.start.clicked.connect(self.add)
        self.bring = TapeKey("Ctrl+I", "bring in a file", main=True)
        self.bring.clicked.connect(self.shell.bring_in)
        for button in (self.next, self.start, self.bring):
            foot.addWidget(button)
        foot.addStretch(1)
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

    def keys(self) -> list[Key]:
        found: list[Key] = [
            ("Ctrl+N", "new trial", self.add),
            ("Ctrl+I", "bring in a file", self.shell.bring_in),
        ]
        if self.session.trial is not None:
            found.append(("Ctrl+E", "write out", self.shell.write_out))
        return found

    def entered(self) -> None:
        if self.session.trial is None:
            self.start.setFocus()
        elif not self.session.trial.question:
            self.question.setFocus()
        else:
            self.list.setFocus()

    def refresh(self, changes: Changes) -> None:
        trial = self.session.trial
        trials = self.session.trials()
        self.list.show_rows(
            [ListRow(t.id, t.name, t.question or "no question yet") for t in trials],
            self.session.trial_id,
        )
        self.empty.setVisible(trial is None)
        self.body.setVisible(trial is not None)
        self.panels.setVisible(trial is not None and bool(self.session.panels()))
        self.filler.setVisible(trial is None or not self.session.panels())
        self.steps.setVisible(trial is None)
        self.next.setVisible(trial is not None)
        self.start.setVisible(trial is None)
        self.bring.setVisible(trial is None)
        state = path_state(self.session)
        self.advice.setText(state.advice if trial is not None else "")
        if trial is None:
            return
        self.next.set_words({"ask": "write the question"}.get(state.next_step, "go on"))
        self.name.set_text(trial.name)
        if self.question.toPlainText().strip() != trial.question:
            self.question.setPlainText(trial.question)
        self.reads.set_value(*trial.measurands)
        self.times.set_text(str(trial.readings_per_cell))
        self.note.setText(trial.note)
        self.note.setVisible(bool(trial.note))
        panels = self.session.panels()
        shown = [assigned(self.session, p) for p in panels[: PanelRow.MOST]]
        self.panels.show_pictures(shown)

    def add(self) -> None:
        """Start a trial and ask for its question."""
        number = len(self.session.trials()) + 1
        command = AddTrial(Trial(0, f"Trial {number}", seed=number))
        if self.act(command):
            self.session.choose(command.id)
            self.shell.go("ask")
            self.question.setFocus()

    def _go_on(self) -> None:
        step = path_state(self.session).next_step
        if step == "ask":
            self.question.setFocus()
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

    def _keep_question(self) -> None:
        self._change(None, question=" ".join(self.question.toPlainText().split()))

    def _keep_reads(self) -> None:
        order = [k.key for k in KINDS]
        self._change(None, measurands=tuple(sorted(self.reads.value(), key=order.index)))

    def _keep_times(self, text: str) -> None:
        try:
            value = parse_number(text)
            if value != int(value):
                raise ValueRefused("Readings are counted whole.")
        except ValueRefused as error:
            self.times.complain(f"{error.what} {error.todo}".strip())
            return
        self._change(self.times, readings_per_cell=int(value))
