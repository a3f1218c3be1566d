"""Lay out: which combination goes into which cell."""

from __future__ import annotations

from collections import Counter

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.changes import CELLS, COMBINATIONS, PANELS, Changes
from loam.app.commands import Assign
from loam.app.presenters.picture import assigned
from loam.core.errors import LoamError
from loam.core.layout import deal
from loam.core.trial import Cell, Panel
from loam.ui.picture_out import Picture
from loam.ui.theme import look
from loam.ui.views.base import Key, Shell, View
from loam.ui.views.pictures import panels_picture
from loam.ui.widgets.fields import words
from loam.ui.widgets.panel_drawing import PanelDrawing
from loam.ui.widgets.rows import ListRow, RowList
from loam.ui.widgets.tape import TapeKey

_DIGITS = frozenset("123456789")
"""Not every letter that counts as a digit is one of these: a raised two is none."""


class LayoutView(View):
    """The panel in the middle; a combination's letter puts it into the chosen cell."""

    step = "layout"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.chosen: int | None = None
        self._asked: tuple[tuple[int, int | None], ...] = ()
        row = QHBoxLayout(self)
        row.setContentsMargins(24, 18, 24, 0)
        row.setSpacing(24)
        middle = QVBoxLayout()
        self.lead = words("", "lead", wrap=True)
        middle.addWidget(self.lead)
        self.drawing = PanelDrawing()
        self.drawing.setObjectName("layout_panel")
        self.drawing.cell_chosen.connect(self.choose)
        middle.addWidget(self.drawing, 1)
        self.filler = QWidget()
        middle.addWidget(self.filler, 1)
        row.addLayout(middle, 1)
        side = QWidget()
        side.setFixedWidth(look.wide(350))
        right = QVBoxLayout(side)
        right.setContentsMargins(0, 0, 0, 0)
        right.addWidget(words("What goes where", "title"))
        self.list = RowList("layout_combinations", "combinations; Enter puts one into the cell")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(lambda _item: self._place_row(self.list.currentRow()))
        right.addWidget(self.list, 1)
        self.deal_key = TapeKey("Ctrl+R", "deal at random", main=True)
        self.deal_key.clicked.connect(self.deal)
        right.addWidget(self.deal_key)
        self.said = words("", "quiet", wrap=True)
        right.addWidget(self.said)
        row.addWidget(side)

    def keys(self) -> list[Key]:
        codes = [c.code for c in self.session.combinations() if len(c.code) == 1]
        letters = f"{codes[0]}–{codes[-1]}" if len(codes) > 1 else "".join(codes)
        return [
            ("arrows", "choose a cell", None),
            (letters or "1–9", "put it there", None),
            ("Del", "empty it", lambda: self._place(None)),
            ("PgUp", "panel before", lambda: self.turn(-1)),
            ("PgDn", "next panel", lambda: self.turn(1)),
        ]

    def more_keys(self) -> list[Key]:
        return [("Ctrl+R", "deal at random", self.deal)]

    def picture(self) -> Picture | None:
        trial, panel = self.session.trial, self.panel
        if trial is None or panel is None:
            return None
        return panels_picture(self.session, f"{trial.name}: what goes where")

    def table(self) -> list[list[str]]:
        codes = {c.id: c.code for c in self.session.combinations()}
        names = {p.id: p.name for p in self.session.panels()}
        rows = [
            [
                names[c.panel_id],
                c.code,
                codes.get(c.combination_id or 0, ""),
                str(c.run_order or ""),
            ]
            for c in self.session.cells()
        ]
        return [["panel", "cell", "combination", "run order"], *rows] if rows else []

    @property
    def cell(self) -> Cell | None:
        """The chosen cell."""
        return self.session.cell(self.chosen)

    @property
    def panel(self) -> Panel | None:
        """The panel of the chosen cell."""
        cell, panels = self.cell, self.session.panels()
        return next((p for p in panels if cell and p.id == cell.panel_id), None)

    def entered(self) -> None:
        self.drawing.setFocus()

    def refresh(self, changes: Changes) -> None:
        places = self.session.panel_of()
        if self.chosen not in places:
            self.chosen = next(iter(places), None)
        self._show()
        if changes.touches(CELLS, PANELS, COMBINATIONS):
            self.shell.keys_changed()

    def _show(self) -> None:
        combinations = self.session.combinations()
        cells, panel, cell = self.session.places(), self.panel, self.cell
        laid = [c for c in cells if c.combination_id is not None]
        counts = Counter(c.combination_id for c in laid)
        rows = [
            ListRow(c.id, c.name or c.words(), c.words() if c.name else "", c.code, None,
                    f"{counts[c.id]} ×")
            for c in combinations
        ]  # fmt: skip
        self.list.show_rows(rows, cell.combination_id if cell else None)
        self.drawing.setVisible(panel is not None)
        self.filler.setVisible(panel is None)
        self.deal_key.setEnabled(bool(cells and combinations) and not self._read())
        if panel is None or not combinations:
            self.lead.setText(
                "Here each cell gets its combination. Tape a panel (F4) and name combinations (F3)"
                " first."
            )
        else:
            free = len(cells) - len(laid)
            at = [p.id for p in self.session.panels()].index(panel.id) + 1
            said = f"Panel {at} of {len(self.session.panels())}. "
            said += (
                f"{free} of {len(cells)} cells are free."
                if free
                else "Every cell has its combination."
            )
            self.lead.setText(said)
            self.drawing.show_picture(assigned(self.session, panel), self.chosen)
        self.said.setText(
            "The order of work is drawn too, and stays as drawn: work cells in that order, not from"
            " left to right."
        )

    def _read(self) -> bool:
        return bool(self.session.counts())

    def choose(self, cell_id: int) -> None:
        """Choose a cell."""
        self.chosen = cell_id
        self._show()

    def turn(self, step: int) -> None:
        """Turn to the panel before or after."""
        panels, panel = self.session.panels(), self.panel
        if panel is None:
            return
        at = [p.id for p in panels].index(panel.id)
        other = panels[(at + step) % len(panels)]
        first = next(iter(self.session.cells_of(other.id)), None)
        if first is not None:
            self.choose(first.id)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        text = event.text().upper()
        combinations = self.session.combinations()
        at = next((i for i, c in enumerate(combinations) if c.code.upper() == text), None)
        if at is None and text in _DIGITS and int(text) <= len(combinations):
            at = int(text) - 1
        if text and at is not None:
            self._place_row(at)
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._place(None)
        else:
            super().keyPressEvent(event)

    def _place_row(self, at: int) -> None:
        combinations = self.session.combinations()
        if 0 <= at < len(combinations):
            self._place(combinations[at].id)
            self._step_on()
        self.drawing.setFocus()

    def _step_on(self) -> None:
        """Go to the next cell of the panel by itself."""
        cells = self.session.cells_of(self.cell.panel_id) if self.cell else []
        ids = [c.id for c in cells]
        if self.chosen in ids and ids.index(self.chosen) + 1 < len(ids):
            following = cells[ids.index(self.chosen) + 1]
            if self.cell and following.panel_id == self.cell.panel_id:
                self.choose(following.id)

    def _place(self, combination_id: int | None) -> None:
        cell, trial = self.cell, self.session.trial
        if cell is None or trial is None or cell.combination_id == combination_id:
            return
        if any(k[0] == cell.id for k in self.session.counts()):
            self.shell.say(
                f"Cell {cell.code} has readings; what it got stays. Strike the readings to use"
                " the cell for something else.",
                care=True,
            )
            return
        self.act(Assign(trial.id, [(cell.id, combination_id, cell.run_order)]))

    def deal(self) -> None:
        """Deal all combinations over all cells at random; over a layout that stands, ask first."""
        trial = self.session.trial
        if trial is None:
            return
        if self._read():
            self.shell.say("Cells have been read; the layout stays as it was worked.", care=True)
            return
        cells = self.session.cells()
        standing = tuple((c.id, c.combination_id) for c in cells if c.combination_id is not None)
        if standing and self._asked != standing:
            self._asked = standing
            self.shell.say(
                f"{len(standing)} of {len(cells)} cells have their combination already. The same"
                " again deals them all anew; Ctrl+Z brings this layout back.",
                care=True,
                matter="deal",
            )
            return
        self._asked = ()
        self.shell.settle("deal")
        import numpy as np

        turn = sum(c.combination_id is not None for c in cells)
        try:
            dealt = deal(
                cells,
                [c.id for c in self.session.combinations()],
                np.random.default_rng([trial.seed, len(cells), turn]),
            )
        except LoamError as error:
            self.shell.say(str(error), care=True)
            return
        after = [(d.cell_id, d.combination_id, d.run_order) for d in dealt]
        self.act(Assign(trial.id, after, "deal at random"))
        self.drawing.setFocus()
