"""The thing of the shelf that is turned to: its facts, typed where they stand."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from loam.app.presenters.shelf import OnShelf, facts_shown
from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.kit import BY_SORT
from loam.core.kit.facts import CHOICE, NUMBER, PAD_KIND, RETIRED, SEVERAL, WHOLE, YES, Fact
from loam.core.kit.life import BACK, RETIRE, WASHED, WORKED
from loam.ui.theme import look
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.pad_lives import PadLives
from loam.ui.widgets.tape import TapeKey

_ACROSS = 6
_ROOMY, _SHORT = 1.1, 12
"""Up to this size of text three figures stand side by side, whose labels have so few letters."""


class ThingSheet(QWidget):
    """``changed`` carries the field (or None), the name and the facts that the thing should have.

    ``happened`` carries a single pad's item and what happened to it, ``renamed`` its item and the
    field with its new name, ``another`` asks for another single pad.
    """

    changed = pyqtSignal(object, str, object)
    happened = pyqtSignal(int, str)
    renamed = pyqtSignal(int, object)
    another = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.thing: OnShelf | None = None
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(look.wide(340))
        outer = QVBoxLayout(self)
        outer.setContentsMargins(20, 14, 6, 12)
        outer.setSpacing(8)
        self.name = Field("Name", "thing_name")
        self.name.kept.connect(self._named)
        outer.addWidget(self.name)
        self.holder = QScrollArea()
        self.holder.setWidgetResizable(True)
        self.holder.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        outer.addWidget(self.holder, 1)
        self.fields: dict[str, Field] = {}
        self.chips: dict[str, Chips] = {}
        self._built: tuple[str, ...] = ()
        self.lives = PadLives()
        self.lives.happened.connect(self.happened)
        self.lives.turned.connect(self._show_pad)
        self.singles = self._singles()

    def _singles(self) -> QWidget:
        """Return what handles the single pads of a kind."""
        part = QWidget()
        box = QVBoxLayout(part)
        box.setContentsMargins(0, 4, 0, 0)
        box.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(words("Single pads", "head"))
        head.addStretch(1)
        self.more = TapeKey("Ctrl+G", "another")
        self.more.clicked.connect(self.another)
        head.addWidget(self.more)
        box.addLayout(head)
        box.addWidget(self.lives)
        self.pad_name = Field("Its own mark", "pad_name")
        self.pad_name.kept.connect(self._pad_named)
        box.addWidget(self.pad_name)
        acts = QHBoxLayout()
        acts.setSpacing(6)
        self.acts: dict[str, TapeKey] = {}
        for key, event, said in (
            ("S", WORKED, "a set"),
            ("W", WASHED, "washed"),
            ("R", RETIRE, "retire"),
        ):
            act = TapeKey(key, said)
            act.clicked.connect(lambda _c=False, e=event: self._act(e))
            acts.addWidget(act)
            self.acts[event] = act
        acts.addStretch(1)
        box.addLayout(acts)
        return part

    def _act(self, event: str) -> None:
        pad = self.lives.pad
        if event == RETIRE and pad is not None and pad.life.state == RETIRED:
            event = BACK
        self.lives.happen(event)
        self.lives.setFocus()

    def _pad_named(self, text: str) -> None:
        if self.lives.pad is not None:
            self.renamed.emit(self.lives.pad.item_id, self.pad_name)

    def show_thing(self, thing: OnShelf | None) -> None:
        """Show a thing."""
        self.thing = thing
        self.setVisible(thing is not None)
        if thing is None:
            return
        sort = BY_SORT[thing.sort]
        shown = facts_shown(sort, thing.facts)
        built = (thing.sort, *(f.key for f in shown), *self.session.units.values())
        if built != self._built:
            self._built = built
            self._build(shown)
        self.name.set_text(thing.name)
        for fact in shown:
            self._show_fact(fact, thing.facts.get(fact.key))
        self.singles.setVisible(thing.sort == PAD_KIND)
        if thing.sort == PAD_KIND:
            self.lives.show_pads(thing.singles)
            self._show_pad()

    def _show_pad(self) -> None:
        pad = self.lives.pad
        self.pad_name.setVisible(pad is not None)
        for act in self.acts.values():
            act.setVisible(pad is not None)
        if pad is not None:
            self.pad_name.set_text(pad.name)
            self.acts[RETIRE].set_words("back" if pad.life.state == RETIRED else "retire")

    def _build(self, facts: list[Fact]) -> None:
        """Build the lines of a sort of thing."""
        self.singles.setParent(None)
        page = QWidget()
        page.setObjectName("sheet")
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 10, 0)
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(8)
        self.fields, self.chips = {}, {}
        row = 0
        for together in _in_rows(facts):
            span = _ACROSS // len(together)
            for i, fact in enumerate(together):
                grid.addWidget(self._part(fact, len(together)), row, i * span, 1, span)
            row += 1
        grid.addWidget(self.singles, row, 0, 1, _ACROSS)
        grid.setRowStretch(row + 1, 1)
        for i in range(_ACROSS):
            grid.setColumnStretch(i, 1)
        self.holder.setWidget(page)

    def _part(self, fact: Fact, beside: int) -> QWidget:
        if fact.how in (CHOICE, SEVERAL, YES):
            choices = [("yes", "yes"), ("no", "no")] if fact.how == YES else list(fact.choices)
            several = fact.how == SEVERAL
            columns = _columns([said for _, said in choices])
            chips = Chips(fact.label, fact.key, choices, several=several, columns=columns)
            chips.chosen.connect(lambda key, f=fact: self._chosen(f, key))
            self.chips[fact.key] = chips
            return chips
        unit = self.session.unit(fact.quantity).symbol if fact.quantity else fact.unit
        width = (48 if beside > 2 else 74) if fact.how in (NUMBER, WHOLE) else 0
        field = Field(fact.label, fact.key, unit=unit, width=width)
        field.kept.connect(lambda text, f=fact: self._typed(f, text))
        self.fields[fact.key] = field
        return field

    def _show_fact(self, fact: Fact, value: object) -> None:
        if fact.key in self.chips:
            if fact.how == SEVERAL:
                keys = [str(v) for v in value] if isinstance(value, list | tuple) else []
            elif fact.how == YES:
                keys = [] if value is None else ["yes" if value else "no"]
            else:
                keys = [str(value)] if value is not None else []
            self.chips[fact.key].set_value(*keys)
            return
        unit = self.session.unit(fact.quantity) if fact.quantity else None
        self.fields[fact.key].set_text(fact.write(value, unit))

    def _chosen(self, fact: Fact, key: str) -> None:
        if fact.how == SEVERAL:
            self._change(None, {fact.key: self.chips[fact.key].value()})
        elif fact.how == YES:
            self._change(None, {fact.key: key == "yes"})
        else:
            self._change(None, {fact.key: key})

    def _typed(self, fact: Fact, text: str) -> None:
        field = self.fields[fact.key]
        unit = self.session.unit(fact.quantity) if fact.quantity else None
        try:
            value = fact.read(text, unit)
        except ValueRefused as error:
            field.complain(f"{error.what} {error.todo}".strip())
            return
        self._change(field, {fact.key: value})

    def _named(self, text: str) -> None:
        if self.thing is not None:
            self.changed.emit(self.name, text, self.thing.facts)

    def _change(self, field: Field | None, values: dict[str, Any]) -> None:
        if self.thing is None:
            return
        facts = {k: v for k, v in (self.thing.facts | values).items() if v not in (None, "", [])}
        self.changed.emit(field, self.thing.name, facts)


def _in_rows(facts: list[Fact]) -> list[list[Fact]]:
    """Put figures side by side: three with short labels, else two; anything else by itself."""
    rows: list[list[Fact]] = []
    figures: list[Fact] = []
    for fact in [*facts, None]:
        if fact is not None and fact.how in (NUMBER, WHOLE):
            figures.append(fact)
            continue
        short = len(figures) == 3 and all(len(f.label) <= _SHORT for f in figures)
        each = 3 if short and look.scale <= _ROOMY else 2
        rows += [figures[i : i + each] for i in range(0, len(figures), each)]
        figures = []
        if fact is not None:
            rows.append([fact])
    return rows


def _columns(said: list[str]) -> int:
    """Return in how many columns chips fit the sheet; 0 is one row."""
    longest = max(map(len, said))
    across = 1 if longest > 22 else 2 if longest > 11 else 3
    return 0 if len(said) <= across else across
