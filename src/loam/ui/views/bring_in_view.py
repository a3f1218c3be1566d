"""Bring in: a file of readings, what each of its columns means, and what is wrong with it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QStandardItem, QStandardItemModel
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QScrollArea,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from loam.core.errors import LoamError
from loam.store.csv_readings import build_draft
from loam.store.draft import TrialDraft
from loam.store.mapping import ROLES, guess_mapping, mapping_problems, signature
from loam.store.table_file import FileRefused, TableFile, read_table
from loam.ui.theme import look
from loam.ui.theme.look import BODY
from loam.ui.views.base import Key, Shell, View
from loam.ui.widgets.fields import Choice, Field, words
from loam.ui.widgets.file_choice import FileChoice
from loam.ui.widgets.room import Stack
from loam.ui.widgets.tape import TapeKey

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


def _preview(table: TableFile) -> QStandardItemModel:
    """Return the first lines of a file, as they stand there."""
    lines = table.preview
    model = QStandardItemModel(len(lines), len(table.header))
    model.setHorizontalHeaderLabels(list(table.header))
    for i, row in enumerate(lines):
        for k, text in enumerate(row):
            item = QStandardItem(text if len(text) <= 60 else text[:57] + "...")
            item.setFont(look.figures(BODY - 2))
            item.setEditable(False)
            model.setItem(i, k, item)
    return model


class BringInView(View):
    """Columns and their meaning on the left, the file's first lines on the right."""

    step = "bring_in"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.table_file: TableFile | None = None
        shell.jobs.progress.connect(self._progress)
        self.boxes: dict[str, QComboBox] = {}
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 16, 24, 0)
        self.pages = Stack()
        outer.addWidget(self.pages)
        self.choice = FileChoice()
        self.choice.chosen.connect(lambda text: shell.bring_in_file(Path(text)))
        self.pages.addWidget(self.choice)
        mapper = QWidget()
        self.pages.addWidget(mapper)
        row = QHBoxLayout(mapper)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(24)
        left = QVBoxLayout()
        side = QWidget()
        side.setFixedWidth(470)
        side.setLayout(left)
        left.setContentsMargins(0, 0, 0, 0)
        self.title = words("Bring in readings", "title")
        left.addWidget(self.title)
        self.said = words("", "quiet", wrap=True)
        left.addWidget(self.said)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        left.addWidget(self.area, 1)
        row.addWidget(side)
        row.addLayout(self._right(), 1)

    def _right(self) -> QVBoxLayout:
        right = QVBoxLayout()
        right.addWidget(words("The file as it stands", "head"))
        self.preview = QTableView()
        self.preview.setAccessibleName("first lines of the file")
        self.preview.setShowGrid(False)
        self.preview.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        header, across = self.preview.verticalHeader(), self.preview.horizontalHeader()
        if header is not None and across is not None:
            header.setDefaultSectionSize(24)
            header.hide()
            across.setDefaultAlignment(LEFT)
            across.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        right.addWidget(self.preview)
        self.name = Field("Name of the new trial", "new_trial_name")
        right.addWidget(self.name)
        self.problems = words("", "care", wrap=True)
        self.problems.setObjectName("problems")
        self.problems.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        holder = QScrollArea()
        holder.setWidgetResizable(True)
        holder.setWidget(self.problems)
        holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.problems.setAlignment(Qt.AlignmentFlag.AlignTop)
        right.addWidget(holder, 1)
        foot = QHBoxLayout()
        self.take = TapeKey("Enter", "take it in", main=True)
        self.take.setObjectName("take_in")
        self.take.clicked.connect(self.take_in)
        foot.addWidget(self.take)
        foot.addStretch(1)
        right.addLayout(foot)
        return right

    def keys(self) -> list[Key]:
        if self.pages.currentWidget() is self.choice:
            return [
                ("Enter", "take this file", self.choice.take),
                ("Backspace", "folder above", None),
                ("Esc", "leave it", self.leave),
            ]
        return [
            ("Enter", "take it in", self.take_in),
            ("Tab", "next column", None),
            ("↑ ↓", "another meaning", None),
            ("Ctrl+I", "another file", self.shell.bring_in),
            ("Esc", "leave it", self.leave),
        ]

    def entered(self) -> None:
        if self.pages.currentWidget() is self.choice:
            self.choice.list.setFocus()
        else:
            self.take.setFocus()

    def choose_file(self) -> None:
        """Show the files of the folder that was used last."""
        self.pages.setCurrentWidget(self.choice)
        folder = Path(self.session.recall("folder", str(Path.home())))
        self.choice.open_folder(folder if folder.is_dir() else Path.home())
        self.shell.keys_changed()

    def open_file(self, path: Path) -> None:
        """Read a file on the worker, then show it; refusals are said in place."""
        self.table_file = None
        self.pages.setCurrentIndex(1)
        self.shell.keys_changed()
        if not self.session.workshop.read_only:
            self.session.remember("folder", str(path.parent.absolute()))
        self._reset(path.name, "Reading the file …")
        self.shell.jobs.start(
            "bring_in",
            lambda: read_table(path),
            self._show_table,
            self._show_refusal,
        )

    def _reset(self, name: str, said: str) -> None:
        self.title.setText(f"Bring in {name}")
        self.said.setText(said)
        self.problems.setText("")
        self.preview.setModel(None)
        self.area.setWidget(QWidget())
        self.boxes = {}
        self.take.setEnabled(False)

    def _show_refusal(self, error: LoamError) -> None:
        self.said.setText("Nothing was taken from this file.")
        found = getattr(error, "problems", ())
        lines = [str(p) for p in found] or [error.what]
        if getattr(error, "more", 0):
            lines.append(f"and {error.more} more")  # type: ignore[attr-defined]
        lines.append(f"{error.todo} {error.kept}".strip())
        self.problems.setText("\n".join(lines))
        self.take.setEnabled(self.table_file is not None)

    def _show_table(self, table: TableFile) -> None:
        self.table_file = table
        count = f"{table.count:,}".replace(",", "\u202f")
        self.said.setText(
            f"{count} lines, {table.dialect_words}. Each column is read as chosen here; what is"
            " left out stays out."
        )
        self.preview.setModel(_preview(table))
        lines = len(table.preview)
        self.preview.setFixedHeight(24 * lines + 46)
        self.name.set_text(table.path.stem)
        mapping = guess_mapping(table.header)
        kept = self.session.recall(signature(table.header), {})
        known = {r.key for r in ROLES} | {""}
        mapping.update({c: r for c, r in kept.items() if c in mapping and r in known})
        body = QWidget()
        grid = QGridLayout(body)
        grid.setContentsMargins(0, 4, 10, 4)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(2)
        for i, column in enumerate(table.header):
            box = Choice()
            box.setObjectName(f"role_{column}")
            box.setAccessibleName(f"column {column} is")
            box.addItem("left out", "")
            for role in ROLES:
                box.addItem(role.label, role.key)
            box.setCurrentIndex(max(0, box.findData(mapping[column])))
            box.currentIndexChanged.connect(lambda _i: self._check())
            self.boxes[column] = box
            label = words(column)
            label.setFont(look.figures(BODY - 1))
            grid.addWidget(label, i, 0)
            grid.addWidget(box, i, 1)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(len(table.header), 1)
        self.area.setWidget(body)
        self._check()
        self.take.setFocus()

    def mapping(self) -> dict[str, str]:
        """Return column to role as chosen."""
        return {column: str(box.currentData()) for column, box in self.boxes.items()}

    def _check(self) -> None:
        lacking = mapping_problems(self.mapping())
        self.problems.setText("\n".join(lacking))
        self.take.setEnabled(not lacking)

    def take_in(self) -> None:
        """Take the file in as a new trial, whole or not at all."""
        table = self.table_file
        if table is None or not self.take.isEnabled():
            return
        mapping, name = self.mapping(), self.name.text() or table.path.stem
        self.take.setEnabled(False)
        self.said.setText("Checking every line …")
        tell = self.shell.jobs.teller("bring_in")
        self.shell.jobs.start(
            "bring_in",
            lambda: build_draft(table, mapping, name, tell),
            lambda draft: self._keep(draft, table, mapping),
            self._show_refusal,
        )

    def _progress(self, key: str, share: float) -> None:
        if key == "bring_in":
            self.said.setText(f"Checking every line … {100 * share:.0f} % (Esc leaves it)")

    def _keep(self, draft: TrialDraft, table: TableFile, mapping: dict[str, str]) -> None:
        number = len(self.session.trials()) + 1
        if not self.session.workshop.read_only:
            self.session.remember(signature(table.header), mapping)
        readings, cells = f"{len(draft.readings):,}".replace(",", "\u202f"), len(draft.cells)
        self.said.setText(f"Keeping {readings} readings …")
        self.shell.take_in(
            replace(draft, trial=replace(draft.trial, seed=number)),
            f"{readings} readings of {cells} cells taken in. " + " ".join(draft.notes),
            self._show_refusal,
        )

    def forget(self) -> None:
        """Let go of the file once its readings are in the workshop."""
        self.table_file = None

    def leave(self) -> None:
        """Leave the file alone."""
        self.shell.jobs.cancel("bring_in")
        self.shell.go("ask")

    def keyPressEvent(self, event: object) -> None:
        key = event.key()  # type: ignore[attr-defined]
        mapping = self.pages.currentWidget() is not self.choice
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and mapping:
            self.take_in()
        elif key == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)  # type: ignore[arg-type]


__all__ = ["BringInView", "FileRefused"]
