"""The workshop's shelf: everything that trials can use, seen and handled as things."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from loam.app.commands import Act, EditThing, PutOnShelf, PutThingAway, pad_event
from loam.app.presenters.shelf import BOARDS, OnShelf, next_single, standing, things
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.kit import BY_SORT, last_use
from loam.core.kit.facts import PAD, PAD_KIND
from loam.store.kit import history
from loam.store.kit_table import pasted, table_of, write_kit
from loam.ui.theme.look import tip
from loam.ui.views.base import Key, View
from loam.ui.views.kit.thing_sheet import ThingSheet
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.shelf_board import ShelfBoard

MOST_TOLD = 20


class ShelfPage(QWidget):
    """Boards on the left, the thing that is turned to on the right."""

    turned = pyqtSignal()

    def __init__(self, view: View) -> None:
        super().__init__()
        self.view, self.session = view, view.session
        self.sort, self.away = PAD_KIND, False
        self.chosen: int | None = None
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        head = QHBoxLayout()
        self.title = words("The workshop's shelf", "title")
        head.addWidget(self.title)
        head.addStretch(1)
        box.addLayout(head)
        self.sorts = Chips("", "shelf_sorts", [])
        self.sorts.chosen.connect(self.turn_to)
        box.addWidget(self.sorts)
        row = QHBoxLayout()
        row.setSpacing(22)
        left = QVBoxLayout()
        self.empty = words("", "lead", wrap=True)
        left.addWidget(self.empty)
        self.board = ShelfBoard()
        self.board.chosen.connect(self._choose)
        self.board.opened.connect(lambda: self.sheet.name.line.setFocus())
        self.holder = QScrollArea()
        self.holder.setWidgetResizable(True)
        self.holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.holder.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.holder.setWidget(self.board)
        left.addWidget(self.holder, 1)
        self.filler = QWidget()
        left.addWidget(self.filler, 1)
        row.addLayout(left, 1)
        self.sheet = ThingSheet(self.session)
        self.sheet.changed.connect(self._change)
        self.sheet.happened.connect(self._happen)
        self.sheet.renamed.connect(self._rename_pad)
        self.sheet.another.connect(self.another_pad)
        self.sheet.lives.turned.connect(self._tell_life)
        row.addWidget(self.sheet)
        box.addLayout(row, 1)

    def keys(self) -> list[Key]:
        """Return the keys that work on the shelf."""
        one = BY_SORT[self.sort].one
        found: list[Key] = [("Ctrl+N", f"new {one}", self.add)]
        if self.thing is not None and not self.away:
            found.append(("Ctrl+D", "one like it", self.copy))
            if self.sort == PAD_KIND:
                found.append(("Ctrl+G", "another single pad", self.another_pad))
        if self.thing is not None:
            put = "bring it back" if self.away else "put it away"
            found.append(("Ctrl+Del", put, self.put_away))
        return [
            *found,
            ("Ctrl+H", "on the shelf" if self.away else "put away", self.turn_away),
            ("Ctrl+V", "paste rows", self.paste),
            ("PgDn", "next board", lambda: self.turn(1)),
        ]

    def more_keys(self) -> list[Key]:
        """Return further keys."""
        return [("PgUp", "board before", lambda: self.turn(-1))]

    @property
    def thing(self) -> OnShelf | None:
        """The thing that is turned to."""
        return self.board.thing

    def show_all(self) -> None:
        """Show the shelf as it stands."""
        choices = []
        for sort in BOARDS:
            count = len(things(self.session, sort.key, away=self.away))
            choices.append((sort.key, f"{sort.many} {count}" if count else sort.many))
        self.sorts.set_choices(choices)
        self.sorts.set_value(self.sort)
        shown = standing(self.session, self.sort, away=self.away)
        self.title.setText("Put away" if self.away else "The workshop's shelf")
        self.board.show_things(shown, self.chosen)
        self.holder.setVisible(bool(shown))
        self.filler.setVisible(not shown)
        self.empty.setVisible(not shown)
        said = BY_SORT[self.sort].hint
        self.empty.setText("Nothing is put away here." if self.away else said)
        self.chosen = self.thing.item_id if self.thing is not None else None
        self.sheet.show_thing(self.thing)
        self.sheet.setEnabled(not self.away)
        self._tell_life()

    def take_keyboard(self) -> None:
        """Go to the board."""
        (self.board if self.board.things else self.sorts.buttons[self.sort]).setFocus()

    def turn_to(self, sort: str) -> None:
        """Turn to a sort of thing."""
        self.sort, self.chosen = sort, None
        self.show_all()
        self.turned.emit()
        self.take_keyboard()

    def turn(self, by: int) -> None:
        """Turn to the next sort of thing, or the one before."""
        keys = [sort.key for sort in BOARDS]
        self.turn_to(keys[(keys.index(self.sort) + by) % len(keys)])

    def turn_away(self) -> None:
        """Show what was put away, or the shelf again."""
        self.away, self.chosen = not self.away, None
        self.show_all()
        self.turned.emit()

    def _tell_life(self) -> None:
        """Tell all that happened to the pad that is turned to, newest last, beside it."""
        pad = self.sheet.lives.pad
        told: list[str] = []
        if pad is not None:
            steps = last_use(history(self.session.workshop.connection, pad.item_id))
            told = [f"{at[:10]} {said}".strip() for at, said in steps[-MOST_TOLD:]]
        self.sheet.lives.setToolTip(tip(*told) if told else "")

    def _choose(self, item_id: int) -> None:
        before = self.chosen
        self.chosen = item_id
        self.sheet.show_thing(self.thing)
        if before is None:
            self.turned.emit()

    def add(self) -> None:
        """Put another thing on the shelf."""
        self._new({})

    def copy(self) -> None:
        """Put another like the one that is turned to on the shelf."""
        if self.thing is not None:
            self._new(self.thing.facts)

    def _new(self, facts: dict[str, Any]) -> None:
        self.away = False
        sort = BY_SORT[self.sort]
        used = {t.name.casefold() for t in things(self.session, self.sort)}
        words_ = "Pad" if self.sort == PAD_KIND else sort.one.capitalize()
        numbers = range(1, len(used) + 2)
        name = next(n for i in numbers if (n := f"{words_} {i}").casefold() not in used)
        act = PutOnShelf(((self.sort, name, facts),))
        if self._act(act):
            self.chosen = act.done[0][1]
            self.show_all()
            self.turned.emit()
            self.sheet.name.line.setFocus()
            self.sheet.name.line.selectAll()

    def another_pad(self) -> None:
        """Put another single pad of the kind that is turned to on the shelf."""
        kind = self.thing
        if kind is None or self.sort != PAD_KIND:
            return
        name = next_single(kind.name, kind.singles)
        if self._act(PutOnShelf(((PAD, name, {"kind": kind.name}),))):
            self.sheet.lives.turn(
                next((i for i, s in enumerate(self.sheet.lives.pads) if s.name == name), 0)
            )
            self.sheet.lives.setFocus()

    def put_away(self) -> None:
        """Put the thing away that is turned to, or bring it back."""
        if self.thing is not None:
            self._act(PutThingAway(self.sort, self.thing.item_id, not self.away))
            self.turned.emit()

    def paste(self) -> None:
        """Put rows from a spreadsheet on the shelf; what stands there is given what is new."""
        clipboard = QApplication.clipboard()
        text = clipboard.text() if clipboard is not None else ""
        try:
            rows = pasted(text, BY_SORT[self.sort])
        except LoamError as error:
            self.view.shell.say(str(error), care=True)
            return
        self.take(rows)

    def take(self, rows: list[tuple[str, str, dict[str, Any]]]) -> None:
        """Put things on the shelf, all or none."""
        if rows and self._act(PutOnShelf(tuple(rows))):
            count = len(rows)
            self.view.shell.say(f"{count} thing{'' if count == 1 else 's'} put on the shelf.")

    def table(self) -> list[list[str]]:
        """Return the board as a table that can be pasted again."""
        shown = things(self.session, self.sort, away=self.away)
        return table_of(BY_SORT[self.sort], shown) if shown else []

    def _act(self, act: Act, field: Field | None = None) -> bool:
        return self.view.act(act, field)

    def _change(self, field: Field | None, name: str, facts: dict[str, Any]) -> None:
        thing = self.thing
        if thing is None or (name, facts) == (thing.name, thing.facts):
            return
        act = EditThing(thing.sort, thing.item_id, (thing.name, thing.facts), (name, facts))
        self._act(act, field)

    def _rename_pad(self, item_id: int, field: Field) -> None:
        single = next((s for s in self.sheet.lives.pads if s.item_id == item_id), None)
        if single is not None:
            after_ = (field.text(), single.facts)
            self._act(EditThing(PAD, item_id, (single.name, single.facts), after_), field)

    def _happen(self, item_id: int, event: str) -> None:
        single = next((s for s in self.sheet.lives.pads if s.item_id == item_id), None)
        if single is None:
            return
        self._act(pad_event(item_id, single.name, single.facts, event))


def write_shelf(session: Session, path: Path) -> None:
    """Write the whole shelf as CSV."""
    write_kit({sort: things(session, sort) for sort in BY_SORT}, path)
