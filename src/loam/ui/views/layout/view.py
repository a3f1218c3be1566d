"""Lay out: which combination goes into which cell."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.changes import CELLS, COMBINATIONS, PANELS, Changes
from loam.app.commands import Assign, LayOut, SetRules
from loam.app.planning import Placement, Rules
from loam.app.presenters.even_ground import even_ground
from loam.app.presenters.laying import Laid, done_cells, lay_out_trial, rules_at_hand
from loam.app.presenters.picture import assigned
from loam.core.errors import LoamError
from loam.core.trial import Cell, Combination, Panel, brief
from loam.ui.picture_out import Picture
from loam.ui.theme import look
from loam.ui.theme.look import tip
from loam.ui.views.base import TIGHT, Key, Shell, View
from loam.ui.views.layout.paper import plan_on_paper
from loam.ui.views.layout.rules import HandsBar, RulesBar
from loam.ui.views.outlook_box import OutlookBox
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
        self._enough = False
        self.rules = Rules()
        row = QHBoxLayout(self)
        row.setContentsMargins(24, 18, 24, 0)
        row.setSpacing(24)
        middle = QVBoxLayout()
        self.lead = words("", "lead", wrap=True)
        middle.addWidget(self.lead)
        self.drawing = PanelDrawing()
        self.drawing.setObjectName("layout_panel")
        self.drawing.swaps = True
        self.drawing.cell_chosen.connect(self.choose)
        self.drawing.swapped.connect(self.swap)
        middle.addWidget(self.drawing, 1)
        self.hands = HandsBar()
        self.hands.shared.connect(self._share)
        middle.addWidget(self.hands)
        self.filler = QWidget()
        middle.addWidget(self.filler, 1)
        row.addLayout(middle, 1)
        row.addWidget(self._side())
        self._zones: dict[tuple[object, ...], dict[int, float]] = {}
        self.shell.jobs.progress.connect(self._told)

    def _side(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(look.wide(370))
        right = QVBoxLayout(side)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(8)
        right.addWidget(words("What goes where", "head"))
        self.list = RowList("layout_combinations", "combinations; Enter puts one into the cell")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(lambda _item: self._place_row(self.list.currentRow()))
        right.addWidget(self.list, 1)
        self.outlook = OutlookBox(self.shell)
        self.outlook.worked_out.connect(self._say_how_good)
        right.addWidget(self.outlook)
        self.bar = RulesBar()
        self.bar.changed.connect(self._keep_rules)
        right.addWidget(self.bar)
        self.deal_key = TapeKey("Ctrl+R", "lay it out", main=True)
        self.deal_key.clicked.connect(self.deal)
        self.deal_key.setToolTip(
            tip("The order of work is drawn too: work cells as numbered, not from left to right.")
        )
        right.addWidget(self.deal_key)
        self.said = words("", "quiet", wrap=True)
        right.addWidget(self.said)
        return side

    def keys(self) -> list[Key]:
        codes = [c.code for c in self.session.combinations() if len(c.code) == 1]
        row = len(codes) > 2 and ord(codes[-1]) - ord(codes[0]) == len(codes) - 1
        letters = f"{codes[0]}–{codes[-1]}" if row else " ".join(codes[:6])
        return [
            ("arrows", "choose a cell", None),
            (letters or "1–9", "put it there", None),
            ("Shift+arrows", "swap", None),
            ("Space", "keep or let go", self.pin),
            ("Del", "empty it", lambda: self._place(None)),
            ("PgUp", "panel before", lambda: self.turn(-1)),
            ("PgDn", "next panel", lambda: self.turn(1)),
        ]

    def more_keys(self) -> list[Key]:
        return [
            ("Ctrl+R", "lay it out", self.deal),
            ("M", "look at the next that is read", self.outlook.next_kind),
        ]

    def picture(self) -> Picture | None:
        trial, panel = self.session.trial, self.panel
        if trial is None or panel is None:
            return None
        ahead = self.outlook.ahead
        return plan_on_paper(self.session, ahead.costs if ahead is not None else None)

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
        trial = self.session.trial
        if trial is not None:
            self.rules = rules_at_hand(self.session)
        self._show()
        self.outlook.refresh(changes)
        if changes.touches(CELLS, PANELS, COMBINATIONS):
            self.shell.keys_changed()

    def _show(self) -> None:
        combinations = self.session.combinations()
        cells, panel, cell = self.session.places(), self.panel, self.cell
        laid = [c for c in cells if c.combination_id is not None]
        counts = Counter(c.combination_id for c in laid)
        rows = [
            ListRow(c.id, c.name or brief(c), "", c.code, None, f"{counts[c.id]} ×")
            for c in combinations
        ]
        self.list.show_rows(rows, cell.combination_id if cell else None)
        window = self.window()
        tight = window is not None and window.width() < look.px(TIGHT)
        self.list.show_at_least(6 if tight else 0)  # large text takes the room of the others
        self.drawing.setVisible(panel is not None)
        self.filler.setVisible(panel is None)
        left = len(laid) > len(done_cells(self.session)) or not laid
        self.deal_key.setEnabled(bool(cells and combinations) and left)
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
            worker = self.rules.worker(panel.id)
            self.lead.setText(f"{said} {worker} works this panel." if worker else said)
            zones = self._zones_of(panel, combinations)
            shown = assigned(self.session, panel, pinned=self.rules.locked, zones=zones)
            self.drawing.show_picture(shown, self.chosen)
        self.bar.show_rules(self.rules, combinations, laid=bool(self.session.order()))
        self.hands.show_people(tuple(self.session.people()) if panel else (), self.rules.people)
        self.hands.setEnabled(left)
        self.bar.setVisible(bool(cells and combinations))
        self.bar.setEnabled(left)
        busy = self.shell.jobs.is_busy("layout")
        self.deal_key.set_words("that will do" if busy else "lay it out")
        if not busy:
            self._say_how_good()

    def _zones_of(self, panel: Panel, combinations: list[Combination]) -> dict[int, float]:
        """Return where a meter finds even ground, once the worker has seen."""
        taping = panel.taping
        wanted = (
            taping.cell_width_mm,
            taping.cell_height_mm,
            tuple((c.id, c.stages) for c in combinations),
        )
        if wanted in self._zones:
            return self._zones[wanted]

        def seen(found: dict[int, float]) -> None:
            self._zones = {wanted: found}
            self._show()

        if not self.shell.jobs.is_busy("zones"):
            self.shell.jobs.start(
                "zones", lambda: even_ground(combinations, taping), seen, lambda _e: None
            )
        return {}

    def _say_how_good(self) -> None:
        if not self.shell.jobs.is_busy("layout"):
            self.said.setText(self._how_good())

    def _how_good(self) -> str:
        """Say how much of its certainty the layout keeps."""
        ahead = self.outlook.ahead
        if ahead is None or not ahead.efficiency or not ahead.laid:
            return ""
        least = min(ahead.efficiency.values())
        if least >= 0.995:
            good = "Nothing is lost to the panels: each holds every combination alike."
        elif least <= 0.0:
            good = "Some combinations cannot be compared: no chain of panels links them."
        else:
            where = min(ahead.efficiency, key=lambda h: ahead.efficiency[h])
            good = (
                f"It keeps {100 * least:.0f} % of the certainty that full panels would give"
                f" ({where})."
            )
        return good

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
        elif event.key() == Qt.Key.Key_Escape and self.shell.jobs.is_busy("layout"):
            self._enough = True
        else:
            super().keyPressEvent(event)

    def swap(self, one: int, other: int) -> None:
        """Swap what two cells have, with their places in the order of work."""
        a, b, trial = self.session.cell(one), self.session.cell(other), self.session.trial
        if a is None or b is None or trial is None:
            return
        kept = [c.code for c in (a, b) if c.id in self.rules.locked]
        if kept:
            self.shell.say(f"Cell {kept[0]} keeps what it has; Space lets it go.", care=True)
            return
        changed: list[Placement] = [
            (a.id, b.combination_id, b.run_order),
            (b.id, a.combination_id, a.run_order),
        ]
        if self.act(Assign(trial.id, changed, "swap two cells")):
            self.choose(other)

    def pin(self) -> None:
        """Keep what the chosen cell has when the trial is laid out, or let it go."""
        cell = self.cell
        if cell is not None:
            self._keep_rules(replace(self.rules, locked=self.rules.locked ^ {cell.id}))

    def _keep_rules(self, after: Rules) -> None:
        trial = self.session.trial
        if trial is not None and after != self.rules:
            self.act(SetRules(trial.id, self.rules, after))

    def _share(self, people: tuple[str, ...]) -> None:
        """Share the panels among other people; what was begun stays with whoever began it."""
        trial = self.session.trial
        if trial is not None:
            begun = {self.session.panel_of()[i] for i in done_cells(self.session)}
            panels = self.session.panels()
            self._keep_rules(self.rules.with_people(trial, people, panels, begun))

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
        if cell.id in self.rules.locked:
            self.shell.say(f"Cell {cell.code} keeps what it has; Space lets it go.", care=True)
            return
        self.act(Assign(trial.id, [(cell.id, combination_id, cell.run_order)]))

    def deal(self) -> None:
        """Lay the trial out; over a layout that stands, ask first. While it runs: that will do."""
        trial = self.session.trial
        if trial is None:
            return
        if self.shell.jobs.is_busy("layout"):
            self._enough = True
            return
        cells, done = self.session.places(), done_cells(self.session)
        stays = self.rules.locked | done
        standing = tuple(
            (c.id, c.combination_id)
            for c in cells
            if c.combination_id is not None and c.id not in stays
        )
        if done and not standing:
            self.shell.say("Every cell is done; the layout stays as it was worked.", care=True)
            return
        if standing and self._asked != standing:
            self._asked = standing
            worked = sum(c.id in done for c in cells)
            kept = f"{worked} are done and stay as they were worked. " if worked else ""
            if worked == 1:
                kept = "1 is done and stays as it was worked. "
            self.shell.say(
                f"{len(standing)} of {len(cells)} cells have their combination already. {kept}The"
                " same again deals them all anew, but for those that are kept (Space); Ctrl+Z"
                " brings this layout back.",
                care=True,
                matter="deal",
            )
            return
        self._asked = ()
        self.shell.settle("deal")
        self._start(trial.id)

    def _start(self, trial_id: int) -> None:
        self._enough = False
        jobs, path = self.shell.jobs, self.session.workshop.reads
        tell = jobs.teller("layout")

        def told(share: float) -> bool:
            tell(share)
            return not self._enough

        jobs.start("layout", lambda: lay_out_trial(path, trial_id, told), self._laid, self._refused)
        self._show()

    def _told(self, key: str, share: float) -> None:
        if key == "layout" and self.isVisible():
            self.said.setText(
                f"Looking for a good layout: {100 * share:.0f} %. The same key takes the best so"
                " far."
            )

    def _refused(self, error: LoamError) -> None:
        self._show()
        self.shell.say(str(error), care=True)

    def _laid(self, laid: Laid) -> None:
        """Take a layout over, unless the trial was changed meanwhile."""
        trial = self.session.trial
        if trial is None or trial.id != laid.trial_id:
            return
        if laid.stood != tuple(self.session.places()):
            self.shell.say("The cells were changed meanwhile; lay it out again.", care=True)
            self._show()
            return
        after = list(laid.placements)
        if self.act(LayOut(trial.id, after, "lay out", rules=laid.rules, after_rules=laid.after)):
            self.drawing.setFocus()
        self._show()
