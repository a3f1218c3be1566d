"""Bring in: a file of readings, what its columns mean, and the panels that come out of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.bring_in import remembered, trial_name
from loam.app.commands import PutOnShelf, TakeReadings
from loam.app.presenters.incoming import (
    PREVIEW_LINES,
    first_gap,
    gaps,
    join,
    outcome_words,
)
from loam.core.errors import LoamError
from loam.core.trial import HARDNESSES
from loam.core.units import thousands
from loam.store import readings as reading_store
from loam.store.by_name import said_of
from loam.store.csv_readings import build_draft, unknown_classes
from loam.store.differs import Differs as Asked
from loam.store.draft import TrialDraft
from loam.store.kit_table import is_kit, read_kit
from loam.store.mapping import guess_mapping, signature
from loam.store.merge import MINE, THEIRS
from loam.store.table_file import TableFile, read_table
from loam.ui.views.base import Key, Shell, View
from loam.ui.views.bring_in.differs import Differs
from loam.ui.views.bring_in.meaning import Meaning
from loam.ui.views.bring_in.outcome import HERE, Outcome
from loam.ui.widgets.columns import Columns
from loam.ui.widgets.fields import words
from loam.ui.widgets.file_choice import FileChoice
from loam.ui.widgets.scroll_stack import Stack


class BringInView(View):
    """The file's columns on the left, what comes out on the right."""

    step = "bring_in"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.table_file: TableFile | None = None
        self.path: Path | None = None
        self._mapping: dict[str, str] = {}
        self._words: dict[str, str] = {}
        self._refused = False
        self._then: Callable[[dict[str, str]], None] | None = None
        shell.jobs.progress.connect(self._progress)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 14, 24, 0)
        self.pages = Stack()
        outer.addWidget(self.pages)
        self.choice = FileChoice()
        self.choice.chosen.connect(lambda text: shell.bring_in_file(Path(text)))
        self.pages.addWidget(self.choice)
        self.differs = Differs()
        mapper = QWidget()
        self.pages.addWidget(mapper)
        row = QHBoxLayout(mapper)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(28)
        row.addLayout(self._left(), 9)
        self.outcome = Outcome()
        self.outcome.word_set.connect(self._set_word)
        self.outcome.target_set.connect(self._set_target)
        self.outcome.take.clicked.connect(self.take_in)
        self.take, self.problems = self.outcome.take, self.outcome.problems
        self.name, self.chips = self.outcome.name, self.outcome.chips
        row.addWidget(self.outcome, 11)
        self.pages.addWidget(self.differs)

    def _left(self) -> QVBoxLayout:
        left = QVBoxLayout()
        left.setSpacing(6)
        self.title = words("Bring in readings", "title", wrap=True)
        left.addWidget(self.title)
        self.said = words("", "quiet", wrap=True)
        left.addWidget(self.said)
        self.sides = Stack()
        self.columns = Columns()
        self.columns.opened.connect(self._open)
        self.columns.dropped.connect(lambda column: self.set_meaning(column, ""))
        self.columns.entered_key.connect(self.take_in)
        self.meaning = Meaning()
        self.meaning.chosen.connect(self._chosen)
        self.meaning.left.connect(self._back_to_columns)
        self.sides.addWidget(self.columns)
        self.sides.addWidget(self.meaning)
        left.addWidget(self.sides, 1)
        return left

    def keys(self) -> list[Key]:
        if self.pages.currentWidget() is self.choice:
            return [
                ("Enter", "take this file", self.choice.take),
                ("Backspace", "folder above", None),
                ("Esc", "leave it", self.leave),
            ]
        if self.pages.currentWidget() is self.differs:
            return [
                ("← →", "here, in the file", None),
                ("↑ ↓", "another", None),
                ("1", "all as here", lambda: self.differs.all(MINE)),
                ("2", "all as in the file", lambda: self.differs.all(THEIRS)),
                ("Enter", "join it so", self._joined_so),
                ("Esc", "leave it", self.leave),
            ]
        if self.sides.currentWidget() is self.meaning:
            return [
                ("Enter", "this meaning", self.meaning.take),
                ("↑ ↓", "another", None),
                ("Esc", "as it was", self._back_to_columns),
            ]
        return [
            ("Enter", "read it again, take it in" if self._refused else "take it in", self.take_in),
            ("letters", "what the column means", None),
            ("Del", "leave it out", None),
            ("Ctrl+I", "another file", self.shell.bring_in),
            ("Esc", "leave it", self.leave),
        ]

    def more_keys(self) -> list[Key]:
        return [
            ("PgDn", "more panels", lambda: self.outcome.panels.turn(1)),
            ("PgUp", "panels before", lambda: self.outcome.panels.turn(-1)),
        ]

    def entered(self) -> None:
        if self.pages.currentWidget() is self.choice:
            self.choice.list.setFocus()
        elif self.pages.currentWidget() is self.differs:
            self.differs.rows.setFocus()
        else:
            self._focus()

    def ask_which(
        self, name: str, conflicts: Sequence[Asked], then: Callable[[dict[str, str]], None]
    ) -> None:
        """Ask what holds of what was changed both here and in another bench's file."""
        self.differs.ask(name, conflicts)
        self._then = then
        self.pages.setCurrentWidget(self.differs)
        self.differs.rows.setFocus()
        self.shell.keys_changed()

    def _joined_so(self) -> None:
        """Join the file as it was answered."""
        if self._then is not None and not self.shell.jobs.is_busy("take_in"):
            self._then(self.differs.answers())

    def choose_file(self) -> None:
        """Show the files of the folder that was used last."""
        self.pages.setCurrentWidget(self.choice)
        self.choice.open_folder(Path(self.session.recall("folder", str(Path.home()))))
        self.shell.keys_changed()

    def open_file(self, path: Path) -> None:
        """Look through a file on the worker, then show it; refusals are said in place."""
        same = path == self.path
        self.path = path
        self.table_file = None
        self.pages.setCurrentIndex(1)
        self.sides.setCurrentWidget(self.columns)
        if not same:
            self._mapping, self._words = {}, {}
            self.columns.show_file(None, {})
            trial = self.session.trial
            self.outcome.offer_targets(trial.name if trial is not None else "")
            self.name.set_text(trial_name(path))
        if not self.session.workshop.read_only:
            self.session.remember("folder", str(path.parent.absolute()))
        self.title.setText(f"Bring in {path.name[:80]}")
        self.said.setText("Reading the file …")
        self.outcome.show_problems("", [])
        self.take.setEnabled(False)
        self.shell.keys_changed()
        self.shell.jobs.start(
            "bring_in",
            lambda: _looked_through(path),
            lambda found: self._show_table(*found),
            self._show_refusal,
        )

    def _show_refusal(self, error: LoamError) -> None:
        self._refused = True
        found = getattr(error, "problems", ())
        lines = [str(p) for p in found] or [error.what]
        if getattr(error, "more", 0):
            lines.append(f"and {error.more} more")  # type: ignore[attr-defined]
        lines.append(f"{error.todo} {error.kept}".strip())
        self.outcome.show_problems(
            "Nothing was taken from this file. Mend it and press Enter: it is read again.",
            lines,
            _partial(error),
        )
        self._said_of_file()
        self.take.setEnabled(self.path is not None and not gaps(self._mapping))
        self.take.set_words("read it again, take it in")
        self.columns.setFocus()
        self.shell.keys_changed()

    def _said_of_file(self) -> None:
        table = self.table_file
        if table is None:
            self.said.setText("")
            return
        self.said.setText(
            f"{thousands(table.count)} lines, {table.dialect_words}. Tape says what a column means;"
            " type to change it."
        )

    def _show_table(self, table: TableFile, guessed: dict[str, str]) -> None:
        self.table_file, self._refused = table, False
        if is_kit(table.header):
            self._take_kit(table)
            return
        known = set(self._mapping)
        if known != set(table.header):
            self._mapping = remembered(table, guessed, self.session.recall)
            self._words = self._kept_words(table)
        self._said_of_file()
        self.take.set_words("take it in")
        self._check()
        self._focus()
        self.shell.keys_changed()

    def _take_kit(self, table: TableFile) -> None:
        """Put what a file of a shelf holds on the shelf, and show it."""
        try:
            things = read_kit(table)
            self.session.run(PutOnShelf(tuple(things)))
        except LoamError as error:
            self._show_refusal(error)
            self.take.setEnabled(False)
            return
        from loam.ui.views.kit.view import KitView

        self.forget()
        self.shell.go("kit")
        if isinstance(view := self.shell.view, KitView) and not view.on_shelf:
            view.turn_page()
        self.shell.say(f"{len(things)} things put on the workshop's shelf (Ctrl+Z takes it back).")

    def _kept_words(self, table: TableFile) -> dict[str, str]:
        kept = self.session.recall(f"words:{signature(table.header)}", {})
        return {str(w): c for w, c in kept.items() if c in HARDNESSES}

    def _focus(self) -> None:
        """Go to the first gap, or to taking it in when there is none."""
        table = self.table_file
        unknown = [w for w, chips in self.outcome.chips.items() if not chips.value()]
        if table is not None and gaps(self._mapping):
            self.columns.choose(first_gap(table, self._mapping))
            self.columns.setFocus()
        elif unknown:
            next(iter(self.outcome.chips[unknown[0]].buttons.values())).setFocus()
        else:
            if not self.columns.column and table is not None:
                self.columns.choose(table.header[0])
            self.take.setFocus()

    def mapping(self) -> dict[str, str]:
        """Return column to role as chosen."""
        return dict(self._mapping)

    def set_meaning(self, column: str, role: str) -> None:
        """Say what a column means; "" leaves it out."""
        self._mapping[column] = role
        self._check()

    def _open(self, column: str, typed: str) -> None:
        self.sides.setCurrentWidget(self.meaning)
        self.meaning.ask(column, column[:60], typed)
        self.shell.keys_changed()

    def _chosen(self, column: str, role: str) -> None:
        self._back_to_columns()
        self.set_meaning(column, role)

    def _back_to_columns(self) -> None:
        self.sides.setCurrentWidget(self.columns)
        self.columns.setFocus()
        self.shell.keys_changed()

    def _set_word(self, word: str, key: str) -> None:
        self._words[word] = key
        self._check()

    def _set_target(self, key: str) -> None:
        self.outcome.target.set_value(key)
        self.name.setVisible(key != HERE)

    def _check(self) -> None:
        """See what would come out with these meanings, on the worker."""
        table = self.table_file
        if table is None:
            return
        self.columns.show_file(table, dict(self._mapping))
        lacking = gaps(self._mapping)
        self.take.setEnabled(not lacking)
        if lacking:
            self.outcome.ask_classes([], {})
            self.outcome.show_problems("Some columns have no meaning yet.", lacking)
            return
        mapping, chosen = dict(self._mapping), dict(self._words)

        def look_ahead() -> tuple[list[str], TrialDraft | LoamError]:
            unknown = unknown_classes(table, mapping, chosen)
            if unknown:
                return unknown, LoamError("The file has its own words for the hardness classes.")
            try:
                return [], build_draft(table, mapping, "t", words=chosen, first=PREVIEW_LINES)
            except LoamError as error:
                return [], error

        self.shell.jobs.start(
            "look_ahead", look_ahead, lambda found: self._show_ahead(*found), self._show_refusal
        )

    def _show_ahead(self, unknown: list[str], found: TrialDraft | LoamError) -> None:
        table = self.table_file
        if table is None:
            return
        fresh = list(self.outcome.chips) != list(dict.fromkeys([*self._words, *unknown]))
        self.outcome.ask_classes(unknown, self._words)
        if unknown:
            self.take.setEnabled(False)
            self.outcome.show_problems("Say what the file's words for hardness mean.", [])
            if fresh:
                self._focus()
            return
        self.take.setEnabled(True)
        if isinstance(found, LoamError):
            problems = getattr(found, "problems", ())
            lines = [str(p) for p in problems] or [found.what]
            if getattr(found, "more", 0):
                lines.append(f"and {found.more} more")  # type: ignore[attr-defined]
            head = "As it stands the file would be refused:"
            self.outcome.show_problems(head, lines, _partial(found))
            return
        self.outcome.show_draft(found, *outcome_words(found, table, self._mapping))

    def take_in(self) -> None:
        """Take the file in, whole or not at all; after a refusal it is read anew first."""
        path = self.path
        if path is None or not self.take.isEnabled() or self.shell.jobs.is_busy("bring_in"):
            return
        mapping, chosen, name = dict(self._mapping), dict(self._words), self.name.text()
        again, table = self._refused, self.table_file
        self.take.setEnabled(False)
        self.said.setText("Checking every line …")
        tell = self.shell.jobs.teller("bring_in")

        def check() -> tuple[TableFile, TrialDraft]:
            looked = read_table(path) if again or table is None else table
            if set(looked.header) != set(mapping):
                fitting = guess_mapping(looked.header)
                mapping.update({c: r for c, r in fitting.items() if c not in mapping})
            used = {c: r for c, r in mapping.items() if c in looked.header}
            draft = build_draft(looked, used, name or trial_name(path), tell, words=chosen)
            return looked, draft

        self.shell.jobs.start(
            "bring_in", check, lambda found: self._keep(found[1], found[0]), self._show_refusal
        )

    def _progress(self, key: str, share: float) -> None:
        if key == "bring_in":
            self.said.setText(f"Checking every line … {100 * share:.0f} % (Esc leaves it)")

    def _keep(self, draft: TrialDraft, table: TableFile) -> None:
        self.table_file = table
        if not self.session.workshop.read_only:
            sign = signature(table.header)
            self.session.remember(sign, self._mapping)
            if self._words:
                self.session.remember(f"words:{sign}", self._words)
        readings, cells = thousands(len(draft.readings)), len(draft.cells)
        said = f"{readings} readings of {cells} cells taken in. " + " ".join(draft.notes)
        if self.outcome.target.value() == [HERE]:
            self._join(draft, said)
            return
        self.said.setText(f"Keeping {readings} readings …")
        number = len(self.session.trials()) + 1
        self.shell.take_in(
            replace(draft, trial=replace(draft.trial, seed=number)), said, self._show_refusal
        )

    def _join(self, draft: TrialDraft, said: str) -> None:
        """Add the readings to the trial at hand."""
        session = self.session
        trial = session.trial
        if trial is None:
            return
        db, cells = session.workshop.connection, session.cells()
        taken = reading_store.last_ordinals(db, trial.id)
        named, called = {p.name: p.id for p in session.panels()}, {p.id: p for p in draft.panels}
        wanted = {(named.get(called[c.panel_id].name), c.row, c.column) for c in draft.cells}
        own = [c.id for c in cells if (c.panel_id, c.row, c.column) in wanted]
        standing = {said_of(r) for r in reading_store.readings_of_cells(db, own)}
        try:
            readings = join(draft, session.panels(), cells, session.combinations(), taken, standing)
            if not readings:
                self.forget()
                self.shell.go("judge")
                self.shell.say(f"Nothing in the file is new: {trial.name} has it all.")
                return
            command = TakeReadings(trial.id, readings)
            command.name = f"take in {thousands(len(readings))} readings"
            session.run(command)
        except LoamError as error:
            self._show_refusal(error)
            return
        here = len(draft.readings) - len(readings)
        if here:
            said = f"{said} {thousands(here)} readings were here already."
        self.forget()
        self.shell.go("judge")
        self.shell.say(said)

    def _answered(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._joined_so()
        elif key == Qt.Key.Key_Escape:
            self.leave()
        elif key in (Qt.Key.Key_1, Qt.Key.Key_2):
            self.differs.all(MINE if key == Qt.Key.Key_1 else THEIRS)
        else:
            super().keyPressEvent(event)

    def forget(self) -> None:
        """Let go of the file once its readings are in the workshop."""
        self._then = None
        self.pages.setCurrentWidget(self.choice)
        self.table_file = self.path = None
        self._mapping = {}

    def leave(self) -> None:
        """Leave the file alone."""
        self._then = None
        if self.pages.currentWidget() is self.differs:
            self.pages.setCurrentWidget(self.choice)
        self.shell.jobs.cancel("bring_in")
        self.shell.go("ask")

    def table(self) -> list[list[str]]:
        table = self.table_file
        if table is None or len(table.header) > 200:
            return []
        return [list(table.header), *(list(row) for row in table.preview)]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if self.pages.currentWidget() is self.differs:
            self._answered(event)
            return
        mapping = self.pages.currentWidget() is not self.choice
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and mapping:
            self.take_in()
        elif event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)


def _looked_through(path: Path) -> tuple[TableFile, dict[str, str]]:
    """Look through a file and guess what its columns mean; made for the worker."""
    table = read_table(path)
    return table, guess_mapping(table.header)


def _partial(error: LoamError) -> TrialDraft | None:
    """Return what the lines without fault of a refused file hold."""
    found = getattr(error, "partial", None)
    return found if isinstance(found, TrialDraft) else None
