"""One stage as things: pad, compound and machine drawn, named and chosen; its settings below."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from itertools import pairwise

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from loam.app.presenters.kit import known, names, speed_of
from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.kit import COMPOUND_BY_KEY, COMPOUNDS, PAD_BY_KEY, PADS, guess
from loam.core.machines import BY_KEY as MACHINE_BY_KEY
from loam.core.machines import KINDS as MACHINES
from loam.core.stage_settings import SETTINGS
from loam.core.trial import Stage
from loam.core.units import parse_number
from loam.ui.theme import look
from loam.ui.widgets.fields import Chips, Field
from loam.ui.widgets.scroll_stack import Stack
from loam.ui.widgets.things import COMPOUND, MACHINE, PAD, Thing

SHIFTED, PLAIN = "0.5", "0"


@dataclass(frozen=True)
class _Figure:
    """A setting that is typed: what of the stage, its label, and its quantity if it has units."""

    name: str
    label: str
    unit: str = ""
    quantity: str = ""


_TYPED = (
    _Figure("passes", "Section passes"),
    _Figure("force_n", "Force", quantity="force"),
    _Figure("dial", "Speed dial"),
    *(_Figure(s.key, s.label, s.shown, s.quantity) for s in SETTINGS if s.key != "line_shift"),
    _Figure("disc", "Sanding disc"),
)
_FIRST = (
    "passes",
    "force_n",
    "dial",
    "speed",
    "pad_mm",
    "orbit_mm",
    "arm_mm_s",
    "overlap",
    "burst_s",
    "disc",
)
_FIGURES = sorted(_TYPED, key=lambda f: (*_FIRST, f.name).index(f.name))
"""In the order in which they are typed."""
_INSTEAD = {"tilt_deg": "orbit_mm"}
"""A rotary has a tilt where the others have an orbit."""
_KINDS = {PAD: "pad_material", COMPOUND: "compound_class", MACHINE: "machine_kind"}
_TEXTS = frozenset({"dial", "disc"})


class StageForm(QWidget):
    """The stage at hand; ``changed`` carries the field (or None) and the values that change."""

    changed = pyqtSignal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.stage = Stage("", "", "")
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(2)
        self.things = {w: Thing(w, f"{w}_thing") for w in (PAD, COMPOUND, MACHINE)}
        self.pad = Field("Pad", "pad", placeholder="its name")
        self.compound = Field("Compound", "compound", placeholder="its name")
        self.machine = Field("Machine", "machine", placeholder="its name")
        for i, field in enumerate((self.pad, self.compound, self.machine)):
            grid.addWidget(list(self.things.values())[i], 0, i)
            grid.addWidget(field, 1, i)
            grid.setColumnStretch(i, 1)
        grid.setRowStretch(0, 1)
        box.addLayout(grid, 1)
        self.drawer = self._drawer()
        box.addWidget(self.drawer)
        box.addLayout(self._settings())
        for what, field in (
            ("pad", self.pad),
            ("compound", self.compound),
            ("machine", self.machine),
        ):
            field.offer(partial(names, self.session, what))
        for what, thing in self.things.items():
            thing.clicked.connect(lambda _c=False, w=what: self.open(w))
        self.pad.kept.connect(lambda t: self._named(self.pad, "pad", "pad_material", t))
        self.compound.kept.connect(
            lambda t: self._named(self.compound, "compound", "compound_class", t)
        )
        self.machine.kept.connect(lambda t: self._named(self.machine, "machine", "machine_kind", t))
        self.lines = {PAD: self.pad, COMPOUND: self.compound, MACHINE: self.machine}
        for what, field in self.lines.items():
            field.line.reached.connect(lambda w=what: self.open(w))
            field.entered.connect(lambda w=what: self._ask(w))
        self._asked = ""
        self._order()
        self.open(PAD)

    def _order(self) -> None:
        """Let Tab go through what is typed, as one reads; then come the chips."""
        typed = [f.line for f in self.lines.values()]
        names = [f.name for f in _FIGURES]
        names.remove("tilt_deg")
        names.insert(names.index("orbit_mm") + 1, "tilt_deg")  # it stands in its place
        typed += [self.figures[n].line for n in names]
        for first, then in pairwise(typed):
            self.setTabOrder(first, then)
        last: QWidget = typed[-1]
        for chips in (self.shift, *self.pages.values()):
            for chip in chips.buttons.values():
                self.setTabOrder(last, chip)
                last = chip

    def _ask(self, what: str) -> None:
        """Ask of what kind a thing is that was just named and that nobody knows, or go on."""
        if self.lines[what].refused or not getattr(self.stage, what):
            return
        if getattr(self.stage, _KINDS[what]):
            self._go_on(what)
            return
        self._asked = what
        self.open(what)
        next(iter(self.pages[what].buttons.values())).setFocus(Qt.FocusReason.TabFocusReason)

    def _go_on(self, what: str) -> None:
        """Go to what is typed next."""
        after = {PAD: self.compound, COMPOUND: self.machine, MACHINE: self.passes}[what]
        after.line.setFocus(Qt.FocusReason.TabFocusReason)

    def _told(self, name: str, key: str) -> None:
        """Keep of what kind a thing is; who was asked goes on to what is typed next."""
        asked, self._asked = self._asked, ""
        self.changed.emit(None, {name: key})
        if asked:
            self._go_on(asked)

    def _drawer(self) -> Stack:
        drawer = Stack()
        drawer.setObjectName("sheet")
        self.material = Chips(
            "The pad is", "pad_material", [(p.key, p.label) for p in PADS], columns=3
        )
        self.grade = Chips(
            "The compound is for", "compound_class", [(c.key, c.label) for c in COMPOUNDS]
        )
        self.motion = Chips(
            "The machine moves as", "machine_kind", [(m.key, m.label) for m in MACHINES]
        )
        self.pages = {PAD: self.material, COMPOUND: self.grade, MACHINE: self.motion}
        for chips, name in (
            (self.material, "pad_material"),
            (self.grade, "compound_class"),
            (self.motion, "machine_kind"),
        ):
            chips.chosen.connect(lambda k, n=name: self._told(n, k))
            drawer.addWidget(chips)
        return drawer

    def _settings(self) -> QGridLayout:
        grid = self.grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(6)
        self.figures: dict[str, Field] = {}
        for figure in _FIGURES:
            unit = self.session.unit(figure.quantity).symbol if figure.quantity else figure.unit
            field = Field(figure.label, figure.name, unit=unit, width=look.px(62))
            field.kept.connect(lambda t, f=figure: self._keep(f, t))
            self.figures[figure.name] = field
        self.shift = Chips(
            "Every second hatch",
            "line_shift",
            [(PLAIN, "on the same lines"), (SHIFTED, "half a line aside")],
        )
        self.shift.chosen.connect(lambda k: self.changed.emit(None, {"line_shift": float(k)}))
        self._columns = 0
        self.set_columns(4)
        self.figures["disc"].offer(lambda: names(self.session, "disc"))
        return grid

    def set_columns(self, columns: int) -> None:
        """Put the settings into so many columns."""
        if columns == self._columns:
            return
        self._columns = columns
        names = [f.name for f in _FIGURES if f.name not in _INSTEAD]
        for name, field in self.figures.items():
            at = names.index(_INSTEAD.get(name, name))
            self.grid.addWidget(field, at // columns, at % columns)
        row, column = divmod(len(names), columns)
        if columns - column < 2:
            row, column = row + 1, 0
        self.grid.addWidget(self.shift, row, column, 1, 2)
        for i in range(4):
            self.grid.setColumnStretch(i, int(i < columns))

    @property
    def passes(self) -> Field:
        """The passes."""
        return self.figures["passes"]

    @property
    def force(self) -> Field:
        """The force."""
        return self.figures["force_n"]

    def open(self, what: str) -> None:
        """Open what kind of thing a pad, compound or machine is."""
        self.drawer.setCurrentWidget(self.pages[what])
        for name, thing in self.things.items():
            thing.open = name == what
            thing.update()

    def show_stage(self, stage: Stage) -> None:
        """Show a stage."""
        self.stage = stage
        self.pad.set_text(stage.pad)
        self.compound.set_text(stage.compound)
        self.machine.set_text(stage.machine)
        self.material.set_value(stage.pad_material)
        self.grade.set_value(stage.compound_class)
        self.motion.set_value(stage.machine_kind)
        self.shift.set_value(
            "" if stage.line_shift is None else (SHIFTED if stage.line_shift else PLAIN)
        )
        for figure in _FIGURES:
            self.figures[figure.name].set_text(self._shown(figure))
        rotary = stage.machine_kind == "rotary"
        self.figures["orbit_mm"].setVisible(not rotary)
        self.figures["tilt_deg"].setVisible(rotary)
        self.figures["speed"].set_label("Turns" if rotary else "Orbits")
        self._caption()

    def _caption(self) -> None:
        s = self.stage
        pad = PAD_BY_KEY[s.pad_material].label if s.pad_material else "of what?"
        grade = COMPOUND_BY_KEY[s.compound_class].label if s.compound_class else "for what?"
        motion = MACHINE_BY_KEY[s.machine_kind].label if s.machine_kind else "moves how?"
        unit = self.session.unit("size")
        size = f", {unit.shown(s.pad_mm):.3g} {unit.symbol}" if s.pad_mm else ""
        self.things[PAD].show_stage(s, f"{pad}{size}")
        self.things[COMPOUND].show_stage(s, grade)
        self.things[MACHINE].show_stage(s, motion)

    def _shown(self, figure: _Figure) -> str:
        value = getattr(self.stage, figure.name)
        if figure.name in _TEXTS:
            return str(value)
        if value is None or (figure.name == "passes" and not value):
            return ""
        if figure.name == "overlap":
            return f"{100 * value:g}"
        if figure.quantity:
            unit = self.session.unit(figure.quantity)
            return f"{round(unit.shown(value), 1 + unit.finer):g}"
        return f"{value:g}"

    def _named(self, field: Field, what: str, kind: str, text: str) -> None:
        """Name a thing: what the shelf knows of it holds, and an unknown one is asked of anew."""
        values: dict[str, object] = {what: text}
        before = getattr(self.stage, what)
        other = bool(before) and before.casefold() != text.casefold()
        told = known(self.session, what, text)
        values |= {n: v for n, v in told.items() if other or not getattr(self.stage, n)}
        if kind not in values and (other or not getattr(self.stage, kind)):
            guessed = {"pad": lambda: guess(text, PADS), "compound": lambda: guess(text, COMPOUNDS)}
            values[kind] = guessed[what]() if what in guessed else ""
        if what == "machine" and other:
            speed = speed_of(self.session, text, self.stage.dial)
            values["speed"] = speed
            was = known(self.session, "machine", before).get("orbit_mm")
            if was is None or was == self.stage.orbit_mm:  # what was typed stays
                values["orbit_mm"] = told.get("orbit_mm")
            else:
                values.pop("orbit_mm", None)
        self.changed.emit(field, values)

    def _keep(self, figure: _Figure, text: str) -> None:
        field = self.figures[figure.name]
        if figure.name == "dial":
            speed = speed_of(self.session, self.stage.machine, text)
            self.changed.emit(field, {"dial": text} | ({"speed": speed} if speed else {}))
            return
        if figure.name == "disc":
            self.changed.emit(field, {"disc": text})
            return
        try:
            value = parse_number(text) if text else None
            if figure.name == "passes":
                value = value or 0.0
                if value != int(value):
                    raise ValueRefused("Passes are counted whole.")
                value = int(value)
        except ValueRefused as error:
            field.complain(f"{error.what} {error.todo}".strip())
            return
        if value is not None and figure.name == "overlap":
            value = value / 100.0
        elif value is not None and figure.quantity:
            value = self.session.unit(figure.quantity).stored(value)
        self.changed.emit(field, {figure.name: value})
