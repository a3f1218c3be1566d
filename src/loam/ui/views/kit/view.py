"""Kit: the combinations that are compared, stage by stage, each with its mark."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.changes import COMBINATIONS, Changes
from loam.app.commands import AddCombination, EditCombination, PutCombinationAway
from loam.app.presenters.kit import correction, new_control, usage
from loam.core.errors import ValueRefused
from loam.core.kit.grit import grit_of
from loam.core.stage_settings import MAX_STAGES
from loam.core.text import some
from loam.core.trial import Combination, Stage, brief, free_code, worked_with
from loam.store import combinations as combination_store
from loam.ui.picture_out import Picture
from loam.ui.theme import look
from loam.ui.views.base import TIGHT, WIDEST, Key, Shell, View
from loam.ui.views.kit.dose_sheet import DoseSheet
from loam.ui.views.kit.shelf_page import ShelfPage
from loam.ui.views.kit.stage_form import StageForm, sanding
from loam.ui.views.pictures import combinations_picture
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.rows import ListRow
from loam.ui.widgets.scroll_stack import Stack
from loam.ui.widgets.shelf import Shelf
from loam.ui.widgets.tape import TapeKey


class KitView(View):
    """Combinations on the left, the stages of the chosen one on the right."""

    step = "kit"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.chosen: int | None = None
        self.stage = 0
        self.narrow = self.tight = False
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 18, 24, 0)
        self.pages = Stack()
        self.own = QWidget()
        self.stock = ShelfPage(self)
        self.stock.turned.connect(self.shell.keys_changed)
        self.pages.addWidget(self.own)
        self.pages.addWidget(self.stock)
        outer.addWidget(self.pages)
        row = QHBoxLayout(self.own)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(22)
        side = self.side = QWidget()
        side.setFixedWidth(look.wide(290))
        left = QVBoxLayout(side)
        left.setContentsMargins(0, 0, 0, 0)
        self.shelf = Shelf("Combinations", "combinations", "combinations of this trial")
        self.shelf.chosen.connect(self._choose)
        self.shelf.turned.connect(self._turned)
        self.list = self.shelf.list
        left.addWidget(self.shelf, 1)
        self.slots = {kind: TapeKey(key, said) for kind, key, said in _SLOTS}
        for kind, slot in self.slots.items():
            slot.setObjectName(f"control_{kind}")
            slot.clicked.connect(lambda _=False, k=kind: self.add_control(k))
            left.addWidget(slot)
        row.addWidget(side)
        sheet = QWidget()
        sheet.setObjectName("sheet")
        box = QVBoxLayout(sheet)
        box.setContentsMargins(22, 12, 22, 12)
        self.empty = words(
            "A combination is what one cell gets: pad, compound, machine and passes, in up to eight"
            " stages. Name at least two; a control shows what the work changed (Ctrl+J).",
            "lead",
            wrap=True,
        )
        self.first = TapeKey("Ctrl+N", "name a combination", main=True)
        self.first.clicked.connect(self.add)
        box.addWidget(self.empty)
        box.addWidget(self.first)
        self.body = self._form()
        box.addWidget(self.body, 1)
        box.addStretch(0)
        row.addWidget(sheet, 1)

    def _form(self) -> QWidget:
        body = QWidget()
        form = QVBoxLayout(body)
        form.setContentsMargins(0, 0, 0, 0)
        form.setSpacing(8)
        head = QHBoxLayout()
        head.setSpacing(16)
        self.code = Field("Code", "combination_code", width=80)
        self.code.kept.connect(lambda t: self._change(self.code, code=t))
        self.name = Field("Name, if it has one", "combination_name")
        self.name.kept.connect(lambda t: self._change(self.name, name=t))
        head.addWidget(self.code)
        head.addWidget(self.name, 1)
        form.addLayout(head)
        line = QHBoxLayout()
        self.stages = Chips("", "stages", [], flows=True)
        self.stages.chosen.connect(self._turn_stage)
        line.addWidget(self.stages, 1)
        form.addLayout(line)
        beside = self.beside = QHBoxLayout()
        beside.setSpacing(22)
        left = self.left = QVBoxLayout()
        left.setSpacing(8)
        self.form = StageForm(self.session)
        self.form.changed.connect(self._stage_change)
        left.addWidget(self.form, 1)
        self.control = words("", "lead", wrap=True)
        left.addWidget(self.control)
        self.which = Chips("which", "which_control", list(_WHICH))
        self.which.chosen.connect(self._turn_control)
        left.addWidget(self.which)
        self.used = words("", "quiet", wrap=True)
        left.addWidget(self.used)
        beside.addLayout(left, 1)
        self.dose = DoseSheet(self.shell)
        beside.addWidget(self.dose)
        form.addLayout(beside, 1)
        return body

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Give the stage its room on a narrow window: the list and the map take less."""
        super().resizeEvent(event)
        window = self.window()
        room = min(self.width(), window.width() if window is not None else self.width())
        narrow = room < look.wide(1180)  # the window's: a view is never less wide than it must be
        self.side.setFixedWidth(look.wide(200 if narrow else 290))
        self.dose.setFixedWidth(look.wide(226 if narrow else 300))
        tight = window is not None and window.width() < look.px(TIGHT)
        self.form.set_room(narrow=narrow, tight=tight)
        if tight != self.tight:
            self.tight = tight
            home, other = (self.left, self.beside) if tight else (self.beside, self.left)
            other.removeWidget(self.dose)
            home.addWidget(self.dose)
            self.dose.set_below(tight)
            self._show_list()
        if tight:
            self.side.setFixedWidth(look.px(180))
            self.dose.setMinimumWidth(0)
            self.dose.setMaximumWidth(WIDEST)
        self.dose.set_low(window is not None and window.height() < look.px(720))
        if narrow != self.narrow:
            self.narrow = narrow
            self._show_list()

    @property
    def on_shelf(self) -> bool:
        """Whether the workshop's shelf is looked at, not this trial's combinations."""
        return self.pages.currentWidget() is self.stock

    def turn_page(self) -> None:
        """Turn between the trial's combinations and the workshop's shelf."""
        self.pages.setCurrentWidget(self.own if self.on_shelf else self.stock)
        self._show()
        self.shell.keys_changed()
        self.entered()

    def keys(self) -> list[Key]:
        if self.on_shelf:
            return [*self.stock.keys(), ("Ctrl+T", "this trial's kit", self.turn_page)]
        found: list[Key] = [
            ("Ctrl+N", "new combination", self.add),
            ("Ctrl+T", "the workshop's shelf", self.turn_page),
        ]
        if self._lacking():
            found.insert(1, ("Ctrl+J", "a control", self.add_control))
        if self.combination is not None:
            found += [
                ("Ctrl+G", "another stage", self.add_stage),
                ("Ctrl+Shift+G", "a sanding stage", lambda: self.add_stage(sands=True)),
                ("Ctrl+B", "take a stage off", self.drop_stage),
                ("Ctrl+D", "a copy", self.copy),
            ]
        found.append(("Ctrl+Del", self.shelf.put_words, self.remove))
        return [*found, ("Ctrl+H", self.shelf.turn_words, self.shelf.turn_away)]

    def more_keys(self) -> list[Key]:
        if self.on_shelf:
            return self.stock.more_keys()
        found: list[Key] = [("Ctrl+F", "search the combinations", self.shelf.search_for)]
        if "untouched" in self._lacking():
            found.append(
                ("Ctrl+Shift+J", "an untouched control", lambda: self.add_control("untouched"))
            )
        return found

    @property
    def combination(self) -> Combination | None:
        """The combination that is shown."""
        return next((c for c in self.session.combinations() if c.id == self.chosen), None)

    def entered(self) -> None:
        if self.on_shelf:
            self.stock.take_keyboard()
        elif self.combination is None:
            self.first.setFocus()
        else:
            self.list.setFocus()

    def refresh(self, changes: Changes) -> None:
        if changes.touches(COMBINATIONS) or not changes.kinds:
            known = [c.id for c in self.session.combinations()]
            if self.chosen not in known:
                self.chosen = known[0] if known else None
        self._show()

    def _show(self) -> None:
        if self.on_shelf:
            self.stock.show_all()
            return
        self._show_list()
        c = self.combination
        trial = self.session.trial is not None
        self.empty.setVisible(c is None)
        self.first.setVisible(c is None and trial)
        self.body.setVisible(c is not None)
        self.shell.keys_changed()
        if c is None:
            return
        self.code.set_text(c.code)
        self.name.set_text(c.name)
        choices = [(str(i), _stage_words(i, s)) for i, s in enumerate(c.stages)]
        room = len(c.stages) < MAX_STAGES
        more = [("add", "another stage"), ("sand", "a sanding stage")] if room else []
        self.stages.set_choices([*choices, *more])
        self.used.setText(usage(self.session, c))
        self.stage = min(self.stage, max(len(c.stages) - 1, 0))
        self.stages.set_value(str(self.stage))
        self.form.setVisible(bool(c.stages))
        self.control.setVisible(not c.stages)
        self.which.setVisible(not c.stages)
        self.which.set_value(c.control)
        said = f"{c.words()[0].upper()}{c.words()[1:]}. "
        self.control.setText(said + (_CONTROLS if c.control else _NO_STAGES))
        stage = c.stages[self.stage] if c.stages else None
        if stage is not None:
            self.form.show_stage(stage)
        which = "it" if len(c.stages) < 2 else f"stage {self.stage + 1}"
        self.dose.show_stage(c, self.stage, which)

    def _show_list(self) -> None:
        db, trial_id = self.session.workshop.connection, self.session.trial_id
        shown = self.session.combinations()
        if self.shelf.away:
            shown = combination_store.combinations(db, trial_id, away=True) if trial_id else []
        rows = [
            ListRow(
                c.id,
                c.name or brief(c),
                "\n".join(worked_with(s) or "?" for s in c.stages) if c.name else "",
                c.code,
                None if self.narrow else c,
            )
            for c in shown
        ]
        self.shelf.show_rows(rows, None if self.shelf.away else self.chosen)
        lacking = self._lacking()
        for kind, slot in self.slots.items():
            shown_here = kind in lacking and bool(shown) and not self.shelf.away
            slot.setVisible(shown_here and not self.tight)

    def _turned(self) -> None:
        self._show_list()
        self.shell.keys_changed()

    def _choose(self, row_id: int) -> None:
        if not self.shelf.away:
            self.chosen, self.stage = row_id, 0
            self._show()

    def _turn_stage(self, key: str) -> None:
        if key in ("add", "sand"):
            self.add_stage(sands=key == "sand")
        else:
            self.stage = int(key)
            self._show()

    def add(self) -> None:
        """Name another combination."""
        trial = self.session.trial
        if trial is None:
            self.shell.say("Start a trial first.", care=True)
            return
        self._add(Combination(0, self._free_code(), "", (Stage("", "", ""),)))

    def _lacking(self) -> list[str]:
        """Return the kinds of control that the trial at hand does not have."""
        if self.session.trial is None:
            return []
        there = {c.control for c in self.session.combinations()}
        return [kind for kind, _, _ in _SLOTS if kind not in there]

    def add_control(self, kind: str = "") -> None:
        """Add a control: laid out once a panel, never ranked, a line to hold the rest against."""
        trial, lacking = self.session.trial, self._lacking()
        if trial is None or not lacking:
            return
        command = AddCombination(trial.id, new_control(self.session, kind or lacking[0]))
        if self.act(command):
            self.chosen, self.stage = command.id, 0
            self._show()
            self.list.setFocus()

    def _turn_control(self, kind: str) -> None:
        """Say what a combination without stages is."""
        if kind == "stage":
            self.add_stage()
            return
        c = self.combination
        twin = next(
            (
                o
                for o in self.session.combinations()
                if c is not None and o.control == kind and o.id != c.id
            ),
            None,
        )
        if twin is not None:
            self.shell.say(
                f"{twin.code} is that control already: one of a kind is enough.", care=True
            )
            self._show()
            return
        self._change(None, control=kind)

    def _free_code(self) -> str:
        return free_code(self.session.combinations())

    def _add(self, combination: Combination) -> None:
        trial = self.session.trial
        assert trial is not None
        command = AddCombination(trial.id, combination)
        if self.act(command):
            self.chosen, self.stage = command.id, 0
            self._show()
            self.form.pad.line.setFocus()

    def copy(self) -> None:
        """Start from the stages of the one that is shown."""
        c = self.combination
        if c is not None:
            self._add(Combination(0, self._free_code(), "", c.stages))

    def remove(self) -> None:
        """Put the combination away that is shown (not while a cell has it), or bring one back."""
        c, trial = self.combination, self.session.trial
        if trial is None:
            return
        if not self.shelf.away:
            if c is not None:
                self.act(PutCombinationAway(trial.id, c.code, id=c.id))
            return
        marked = self.list.marked()
        if marked is not None and self.act(PutCombinationAway(trial.id, id=marked, away=False)):
            self.shelf.away, self.chosen = False, marked
            self._show()

    @property
    def writes(self) -> str:
        """What is written out from here: the shelf, or the trial."""
        return "kit" if self.on_shelf else "trial"

    def picture(self) -> Picture | None:
        trial, found = self.session.trial, self.session.combinations()
        return combinations_picture(trial.name, found) if trial is not None and found else None

    def table(self) -> list[list[str]]:
        if self.on_shelf:
            return self.stock.table()
        rows = [[c.code, c.name, c.words()] for c in self.session.combinations()]
        return [["code", "name", "recipe"], *rows] if rows else []

    def add_stage(self, *, sands: bool = False) -> None:
        """Add a stage after the last one; one that sands takes the next finer grit."""
        c = self.combination
        if c is None:
            return
        if len(c.stages) >= MAX_STAGES:
            self.shell.say(f"A combination has at most {MAX_STAGES} stages.", care=True)
            return
        self.stage = len(c.stages)
        stage = Stage("", "", "")
        if sands:
            before = next((s for s in reversed(c.stages) if s.disc), stage)
            last = c.stages[-1] if c.stages else stage
            stage = replace(last, wipes=(), **sanding(grit_of(before.disc, before.grit)))  # type: ignore[arg-type]
        self._change(None, stages=(*c.stages, stage), control="")
        first = self.form.disc if sands else self.form.pad
        first.line.setFocus()

    def drop_stage(self) -> None:
        """Take the stage that is shown off."""
        c = self.combination
        if c is not None and c.stages:
            stages = tuple(s for i, s in enumerate(c.stages) if i != self.stage)
            self._change(None, stages=stages)

    def _change(self, field: Field | None, **values: object) -> None:
        c, trial = self.combination, self.session.trial
        if c is None or trial is None:
            return
        try:
            after = replace(c, **values)  # type: ignore[arg-type]
        except ValueRefused as error:
            if field is not None:
                field.complain(f"{error.what} {error.todo}".strip())
            return
        if after != c:
            self.act(EditCombination(trial.id, c, after), field)

    def _stage_change(self, field: Field | None, values: dict[str, object]) -> None:
        c = self.combination
        if c is None or not c.stages:
            return
        try:
            stage = replace(c.stages[self.stage], **values)  # type: ignore[arg-type]
        except ValueRefused as error:
            if field is not None:
                field.complain(f"{error.what} {error.todo}".strip())
            return
        correct = correction(self.session, c, self.stage, values)
        if correct is not None:
            if self.act(correct, field):
                where = [e.after.code for e in correct.edits if e.after.code != c.code]
                also = f", and in {some(where, 6)}" if where else ""
                self.shell.say(f"{correct.thing.after[0]} is corrected on the shelf too{also}.")
            return
        stages = tuple(stage if i == self.stage else s for i, s in enumerate(c.stages))
        self._change(field, stages=stages)


_SLOTS = (
    ("damaged", "Ctrl+J", "control: damaged, not worked"),
    ("untouched", "Ctrl+Shift+J", "control: untouched"),
)
_WHICH = (
    ("untouched", "untouched"),
    ("damaged", "damaged, not worked"),
    ("stage", "worked: add a stage"),
)
_CONTROLS = "A control is laid out once on every panel, never ranked, and drawn as a line in Judge."
_NO_STAGES = "It has no stages: say which control it is, or add a stage."


def _stage_words(number: int, stage: Stage) -> str:
    """Say a stage on its chip: its place, and what it is worked with."""
    said = worked_with(stage)
    return f"{number + 1}  {said[:34]}" if said else f"{number + 1}"
