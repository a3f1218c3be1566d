"""How a trial is laid out, as pieces that are pressed: what is kept apart, what is evened out."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.planning import Rules, staged_now
from loam.core.trial import Combination
from loam.ui.theme import look
from loam.ui.theme.look import tip
from loam.ui.widgets.fields import Chips, words

BY_STAGE = "by_stage"
_WORDS = (
    ("apart", "equals apart", "Two cells side by side never get the same combination"),
    ("trends", "rows and columns even", "For panels that differ from edge to edge"),
    ("by_machine", "one machine after the other", "A machine is set up once on each panel"),
    (
        BY_STAGE,
        "stage by stage",
        "Every cell of a panel gets a stage before any gets the next; drawn by lot on each. Usual"
        " where a plan sands, or shares a pad",
    ),
)
_COUNTS = ("0", "1", "2", "3")
MOST_ABREAST = 4


class RulesBar(QWidget):
    """The rules of laying out; ``changed`` carries the new ones."""

    changed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.rules = Rules()
        self.by_stage = False
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        self.chips = Chips(
            "Dealt so that",
            "rules",
            [(key, said) for key, said, _ in _WORDS],
            several=True,
            columns=2,
        )
        for key, _, why in _WORDS:
            self.chips.buttons[key].setToolTip(tip(why))
        self.chips.chosen.connect(lambda _key: self._pressed())
        box.addWidget(self.chips)
        self.counts: dict[str, Chips] = {}
        self.lines: dict[str, QWidget] = {}
        for what, said in (
            ("untouched", "Untouched cells a panel"),
            ("damaged", "Damaged and not worked, a panel"),
        ):
            chips = Chips("", f"{what}_cells", [(n, n) for n in _COUNTS])
            chips.setAccessibleName(said)
            chips.chosen.connect(lambda n, w=what: self._count(w, int(n)))
            line = QWidget()
            row = QHBoxLayout(line)
            row.setContentsMargins(0, 0, 0, 0)
            row.addWidget(words(said, "small"))
            row.addStretch(1)
            row.addWidget(chips)
            box.addWidget(line)
            self.counts[what] = chips
            self.lines[what] = line

    def show_rules(
        self, rules: Rules, combinations: list[Combination], *, laid: bool = False
    ) -> None:
        """Show the rules; controls only where the trial has them, ``laid`` once it is laid out."""
        self.rules = rules
        self.by_stage = staged_now(rules, combinations, laid=laid)
        on = {key: bool(getattr(rules, key)) for key, _, _ in _WORDS} | {BY_STAGE: self.by_stage}
        self.chips.set_value(*(key for key, pressed in on.items() if pressed))
        controls = {c.control for c in combinations}
        for what, chips in self.counts.items():
            self.lines[what].setVisible(what in controls)
            chips.set_value(str(getattr(rules, what)))

    def _pressed(self) -> None:
        pressed = self.chips.value()
        after: dict[str, Any] = {key: key in pressed for key, _, _ in _WORDS if key != BY_STAGE}
        if (BY_STAGE in pressed) != self.by_stage:
            after[BY_STAGE] = BY_STAGE in pressed
        self.changed.emit(replace(self.rules, **after))

    def _count(self, what: str, count: int) -> None:
        after: dict[str, Any] = {what: count}
        self.changed.emit(replace(self.rules, **after))


class HandsBar(QWidget):
    """Who works the trial, a panel each by lot; ``shared`` carries who was pressed."""

    shared = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.people: tuple[str, ...] = ()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 6, 0, 0)
        row.setSpacing(12)
        label = words("Worked by", "small")
        label.setToolTip(tip("Panels are shared by lot: each is worked by one person alone"))
        row.addWidget(label)
        self.chips = Chips("", "workers", [], several=True, columns=MOST_ABREAST)
        self.chips.setAccessibleName("who works the trial, a panel each by lot")
        self.chips.chosen.connect(lambda _key: self._press())
        row.addWidget(self.chips)
        row.addStretch(1)

    def show_people(self, people: tuple[str, ...], chosen: tuple[str, ...]) -> None:
        """Offer the people of the shelf."""
        self.people = people
        room, right = look.wide(120), Qt.TextElideMode.ElideRight
        self.chips.set_choices([(p, self.fontMetrics().elidedText(p, right, room)) for p in people])
        for person, button in self.chips.buttons.items():
            button.setToolTip(tip(person))
        self.setVisible(bool(people))
        self.chips.set_value(*chosen)

    def _press(self) -> None:
        pressed = self.chips.value()
        self.shared.emit(tuple(p for p in self.people if p in pressed))
