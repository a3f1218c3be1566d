"""How a trial is laid out, as pieces that are pressed: what is kept apart, what is evened out."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.planning import Rules
from loam.core.trial import Combination
from loam.ui.theme.look import tip
from loam.ui.widgets.fields import Chips, words

_WORDS = (
    ("apart", "equals apart", "Two cells side by side never get the same combination"),
    ("trends", "rows and columns even", "For panels that differ from edge to edge"),
    ("by_machine", "one machine after the other", "A machine is set up once on each panel"),
)
_COUNTS = ("0", "1", "2", "3")


class RulesBar(QWidget):
    """The rules of laying out; ``changed`` carries the new ones, ``shared`` who works them."""

    changed = pyqtSignal(object)
    shared = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.rules = Rules()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        self.chips = Chips(
            "Dealt so that", "rules", [(key, said) for key, said, _ in _WORDS], several=True,
            columns=2,
        )  # fmt: skip
        for key, _, why in _WORDS:
            self.chips.buttons[key].setToolTip(tip(why))
        self.chips.chosen.connect(lambda _key: self._pressed())
        box.addWidget(self.chips)
        self.people: tuple[str, ...] = ()
        self.hands = QVBoxLayout()
        self.hands.setContentsMargins(0, 0, 0, 0)
        box.addLayout(self.hands)
        self.workers: Chips | None = None
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

    def show_rules(self, rules: Rules, combinations: list[Combination]) -> None:
        """Show the rules; controls only where the trial has them."""
        self.rules = rules
        self.chips.set_value(*(key for key, _, _ in _WORDS if getattr(rules, key)))
        controls = {c.control for c in combinations}
        for what, chips in self.counts.items():
            self.lines[what].setVisible(what in controls)
            chips.set_value(str(getattr(rules, what)))

    def show_people(self, people: tuple[str, ...], chosen: tuple[str, ...]) -> None:
        """Offer the people of the shelf; who is chosen shares the panels by lot."""
        if self.people != people or self.workers is None:
            self.people = people
            if self.workers is not None:
                self.workers.setParent(None)
                self.workers.deleteLater()
            self.workers = Chips(
                "Worked by, a panel each by lot", "workers", [(p, p) for p in people],
                several=True, columns=4,
            )  # fmt: skip
            self.workers.chosen.connect(lambda _key: self._hands())
            self.hands.addWidget(self.workers)
        self.workers.setVisible(bool(people))
        self.workers.set_value(*chosen)

    def _hands(self) -> None:
        if self.workers is not None:
            pressed = self.workers.value()
            self.shared.emit(tuple(p for p in self.people if p in pressed))

    def _pressed(self) -> None:
        pressed = self.chips.value()
        self.changed.emit(replace(self.rules, **{key: key in pressed for key, _, _ in _WORDS}))

    def _count(self, what: str, count: int) -> None:
        after = {what: count}
        self.changed.emit(replace(self.rules, **after))  # type: ignore[arg-type]
