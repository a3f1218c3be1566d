"""The pages where a car is read: a test spot, and a panel again once it is worked."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from loam.app.session import Session
from loam.core.readings import BY_KEY, kind_of
from loam.core.trial import Combination
from loam.core.vehicle.events import AFTER, BEFORE
from loam.core.vehicle.job import CarPart, SpotDone
from loam.ui.views.apply.pages import Page, pressed
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.tape import TapeKey


class LaterPage(Page):
    """A panel read again: while the car is worked, or at the follow-up; and what cars showed."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.part: CarPart | None = None
        self.title = words("", "head")
        self.rows.addWidget(self.title)
        self.when = Chips("It is read", "check_when", [("0", "between"), ("1", "at the follow-up")])
        self.when.set_value("0")
        self.rows.addWidget(self.when)
        grid = QGridLayout()
        self.fields: dict[str, Field] = {}
        for i, m in enumerate(("defects", "haze", "gloss20")):
            kind = kind_of(m)
            label = "Marks gone" if m == "defects" else kind.label
            field = Field(label, f"check_{m}", unit=kind.unit, width=70)
            field.line.returnPressed.connect(lambda k=m: self._read(k))
            self.fields[m] = field
            grid.addWidget(field, 0, i)
        self.rows.addLayout(grid)
        self.list = words("", "figure", wrap=True)
        self.rows.addWidget(self.list)
        self.rows.addSpacing(10)
        self.rows.addWidget(words("What cars showed so far", "head"))
        self.said = words("", "", wrap=True)
        self.said.setObjectName("cars_showed")
        self.rows.addWidget(self.said)
        self.rows.addStretch(1)

    def show_part(self, part: CarPart | None, showed: Sequence[str]) -> None:
        """Show what was read of a panel since it was worked, and what cars showed."""
        self.part = part
        self.said.setText("\n".join(showed))
        if part is None:
            return
        done = f", done with {part.done}" if part.done else ", not done yet"
        self.title.setText(f"{part.key}{done}")
        told = [
            f"{kind_of(r.measurand).short} {kind_of(r.measurand).write(r.value)}{when}"
            for held, when in ((part.checks, ""), (part.later, " (later)"))
            for r in held
        ]
        self.list.setText(" · ".join(told) or "nothing read since")

    def _read(self, m: str) -> None:
        field = self.fields[m]
        value = self.number(field, field.text())
        if value is None or self.part is None:
            return
        facts: dict[str, object] = {"part": self.part.key, "measurand": m, "value": value}
        if pressed(self.when) == "1":
            facts["later"] = 1
        field.set_text("")
        self.note.emit("check", facts, f"a reading of {self.part.key}", field)
        field.line.setFocus(Qt.FocusReason.OtherFocusReason)


def photo_said(removed: float, error: float | None) -> str:
    """Say what photographs of a spot measured, which is another measure than the eye's."""
    sure = f" ± {error:.0f}" if error is not None else ""
    return f"by photographs {removed:.0f}{sure} % (brightness of marks, not a share of them)"


class SpotPage(Page):
    """A test spot: the combination as a card, then its readings."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.spot: SpotDone | None = None
        self.title = words("", "head", wrap=True)
        self.rows.addWidget(self.title)
        self.recipe = words("", "", wrap=True)
        self.rows.addWidget(self.recipe)
        self.phase = Chips("Readings", "spot_phase", [(BEFORE, "before work"), (AFTER, "after")])
        self.phase.set_value(AFTER)
        self.phase.chosen.connect(lambda _k: self._list())
        self.rows.addWidget(self.phase)
        row = QHBoxLayout()
        self.wipe = TapeKey("", "wiped twice: note it", main=True)
        self.wipe.clicked.connect(self._wiped)
        row.addWidget(self.wipe)
        self.pace = TapeKey("", "work it with the pacer", main=True)
        row.addWidget(self.pace)
        self.camera = TapeKey("", "photographs", main=True)
        row.addWidget(self.camera)
        row.addStretch(1)
        self.rows.addLayout(row)
        grid = QGridLayout()
        self.fields: dict[str, Field] = {}
        for i, m in enumerate(("defects", "haze", "gloss20", "film")):
            kind = kind_of(m)
            label = {"defects": "Marks gone", "film": "Whole film"}.get(m, kind.label)
            field = Field(label, f"spot_{m}", unit=kind.unit, width=80)
            field.line.returnPressed.connect(lambda k=m: self._read(k))
            self.fields[m] = field
            grid.addWidget(field, i // 2, i % 2)
        self.rows.addLayout(grid)
        self.list = words("", "figure", wrap=True)
        self.rows.addWidget(self.list)
        self.care = words(
            "Measure before it is worked. Edges are thin. Vibration, solvents, dust, heat: follow"
            " the product's safety data sheet, local rules and qualified practice.",
            "small",
            wrap=True,
        )
        self.rows.addWidget(self.care)
        self.rows.addStretch(1)

    def first(self) -> QWidget:
        return self.fields["defects"].line

    def show_spot(self, spot: SpotDone | None, combination: Combination | None) -> None:
        """Show a spot and what it is worked with."""
        self.spot = spot
        if spot is None:
            return
        self.title.setText(f"Spot {spot.number}: {spot.rung} on the {spot.part}")
        self.recipe.setText(combination.words() if combination is not None else "")
        self.wipe.setVisible(not spot.wiped)
        stages = len(combination.stages) if combination is not None else 0
        self.pace.setVisible(not spot.after and spot.worked < stages)
        self._list()

    def _list(self) -> None:
        if self.spot is None:
            return
        before = pressed(self.phase) == BEFORE
        held = self.spot.before if before else self.spot.after
        self.fields["defects"].setVisible(not before)
        said: dict[str, list[str]] = {}
        for r in held:
            said.setdefault(r.measurand, []).append(BY_KEY[r.measurand].write(r.value))
        told = [f"{kind_of(m).short} {', '.join(v)}" for m, v in said.items()]
        wiped = "" if before or self.spot.wiped else "Not wiped yet: filler may flatter it. "
        if self.spot.measured is not None and not before:
            told.append(photo_said(*self.spot.measured))
        self.list.setText(wiped + ("\n".join(told) if told else "nothing read yet"))

    def _wiped(self) -> None:
        if self.spot is not None:
            self.note.emit("wiped", {"spot": self.spot.uid}, "the spot was wiped", None)

    def _read(self, m: str) -> None:
        field = self.fields[m]
        if not field.text():
            self.wanted.emit(m)
            return
        value = self.number(field, field.text())
        if value is not None:
            self.take(m, value)

    def box(self, measurand: str) -> Field:
        """Return the box of a measurand."""
        return self.fields[measurand]

    def place(self) -> str:
        """Return which spot is read."""
        return self.spot.uid if self.spot is not None else ""

    def take(self, m: str, value: float) -> None:
        """Keep a reading of the spot."""
        field = self.fields[m]
        if self.spot is None:
            return
        facts = {
            "spot": self.spot.uid,
            "measurand": m,
            "value": value,
            "phase": pressed(self.phase),
        }
        field.set_text("")
        self.note.emit("read", facts, f"a reading of spot {self.spot.number}", field)
        field.line.setFocus(Qt.FocusReason.OtherFocusReason)
