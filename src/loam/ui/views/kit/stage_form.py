"""One stage as things: pad, compound and machine drawn, named and chosen; its settings below.

A stage that sands has a disc and its grit where the others have pad and compound.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from loam.app.presenters.dosing import section_of
from loam.app.presenters.kit import facts_of, known, names, speed_of
from loam.app.session import Session
from loam.core.dose.force import weight_n
from loam.core.errors import ValueRefused
from loam.core.kit import COMPOUND_BY_KEY, COMPOUNDS, PAD_BY_KEY, PADS, guess
from loam.core.kit.grit import finer, grain_um, grit_named, grit_of
from loam.core.kit.sizes import PAD_SIZES_MM, orbits_for
from loam.core.machines import BY_KEY as MACHINE_BY_KEY
from loam.core.machines import KINDS as MACHINES
from loam.core.stage_settings import SETTINGS, word_of
from loam.core.trial import Stage
from loam.core.units import parse_number
from loam.core.wipes import read_wipes, written
from loam.core.words.dose import PASS_HINT
from loam.ui.theme import look
from loam.ui.theme.look import tip
from loam.ui.widgets.fields import Chips, Field
from loam.ui.widgets.scroll_stack import Stack
from loam.ui.widgets.stage_drawing import Seen, StageDrawing
from loam.ui.widgets.things import COMPOUND, DISC, GRIT, MACHINE, PAD, Thing

SHIFTED, PLAIN = "0.5", "0"


@dataclass(frozen=True)
class _Figure:
    """A setting that is typed: what of the stage, its label, and its quantity if it has units."""

    name: str
    label: str
    unit: str = ""
    quantity: str = ""


_CHOSEN = frozenset({"line_shift", "grit", "damp", "by_weight", "primed"})
"""Settings that chips ask for, or that stand by the thing itself."""
_TYPED = (
    _Figure("passes", "Section passes"),
    _Figure("force_n", "Force, or weight", quantity="force"),
    _Figure("dial", "Speed dial"),
    *(_Figure(s.key, s.label, s.shown, s.quantity) for s in SETTINGS if s.key not in _CHOSEN),
    _Figure("wipes", "Then wiped with"),
    _Figure("pad", "Interface pad"),
)
_FIRST = (
    "force_n",
    "dial",
    "speed",
    "passes",
    "arm_mm_s",
    "pad_mm",
    "orbit_mm",
    "overlap",
    "burst_s",
    "wipes",
)
_FIGURES = sorted(_TYPED, key=lambda f: (*_FIRST, f.name).index(f.name))
"""In the order in which they are typed."""
_ABOVE = {
    5: ("force_n", "dial", "speed", "passes", "arm_mm_s"),
    3: ("force_n", "dial", "passes"),
}
"""What stands above the drawing, by how many columns there are; the rest stands below."""
_INSTEAD = {"tilt_deg": "orbit_mm", "pad": "burst_s"}
"""A rotary has a tilt where the others have an orbit; what sands, a pad between it and its disc."""
_KINDS = {PAD: "pad_material", COMPOUND: "compound_class", MACHINE: "machine_kind", DISC: "grit"}
_TEXTS = frozenset({"dial", "pad"})
_WIDE = {"wipes": 88, "interface": 80}
_HINTS = {"wipes": "panel wipe x2", "interface": "its name"}
_SHORT = {"force_n": "Force", "passes": "Passes", "wipes": "Wiped with", "pad": "Interface"}
"""What some are called where columns are narrow."""
WEIGHT = "weight"
"""What is typed for a force where nothing but the machine presses."""
_GRITS = (400, 800, 1000, 1200, 1500, 2000, 2500, 3000, 5000)
_WIPES = ("panel wipe x2", "panel wipe", "alcohol mix", "tar remover", "water and soap")


def weighed(session: Session, machine: str) -> dict[str, object]:
    """Return what is said of a stage that only its machine presses: its weight, where known."""
    mass = facts_of(session, "machine", machine).get("mass_kg")
    return {"by_weight": 1.0, "force_n": None if mass is None else round(weight_n(mass), 1)}


def sanding(after: float | None = None) -> dict[str, object]:
    """Return what makes a stage sand: with the usual grit after another, or the first."""
    grit = finer(after)
    return {
        "disc": f"P{grit}",
        "grit": float(grit),
        "compound": "",
        "compound_class": "",
        "pad": "",
        "pad_material": "",
    }


def _page(*rows: QWidget) -> QWidget:
    page = QWidget()
    box = QVBoxLayout(page)
    box.setContentsMargins(0, 0, 0, 0)
    box.setSpacing(6)
    for row in rows:
        box.addWidget(row)
    box.addStretch(1)
    return page


class _Drawer(Stack):
    """As high as the highest page that the stage may open: nothing jumps while one types."""

    def __init__(self) -> None:
        super().__init__()
        self.may_open: list[QWidget] = []

    def minimumSizeHint(self) -> QSize:
        least = super().minimumSizeHint()
        for page in self.may_open:
            least = least.expandedTo(QSize(0, page.minimumSizeHint().height()))
        return least


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
        self.things = {w: Thing(w, f"{w}_thing") for w in (PAD, COMPOUND, MACHINE, DISC, GRIT)}
        self.pad = Field("Pad", "pad", placeholder="its name")
        self.compound = Field("Compound", "compound", placeholder="its name")
        self.machine = Field("Machine", "machine", placeholder="its name")
        self.disc = Field("Sanding disc", "disc", placeholder="its name, like P1500")
        self.grit = Field("Grit", "grit", unit="P", width=look.px(62))
        named = QGridLayout()
        named.setHorizontalSpacing(18)
        for field, column in (
            (self.pad, 0),
            (self.disc, 0),
            (self.compound, 1),
            (self.grit, 1),
            (self.machine, 2),
        ):
            named.addWidget(field, 0, column)
            named.setColumnStretch(column, 1)
        box.addLayout(named)
        self.drawing = StageDrawing(self.things)
        self.drawing.pressed.connect(self._turn_to)
        self.drawer = self._drawer()
        box.addLayout(self._settings(), 1)
        for what, field in (
            ("pad", self.pad),
            ("compound", self.compound),
            ("machine", self.machine),
            ("disc", self.disc),
        ):
            field.offer(partial(names, self.session, what))
        self.disc.kept.connect(lambda t: self._named(self.disc, "disc", "grit", t))
        self.grit.kept.connect(self._typed_grit)
        for what, thing in self.things.items():
            thing.clicked.connect(lambda _c=False, w=what: self.open(w))
        self.pad.kept.connect(lambda t: self._named(self.pad, "pad", "pad_material", t))
        self.compound.kept.connect(
            lambda t: self._named(self.compound, "compound", "compound_class", t)
        )
        self.machine.kept.connect(lambda t: self._named(self.machine, "machine", "machine_kind", t))
        self.lines = {
            PAD: self.pad,
            COMPOUND: self.compound,
            DISC: self.disc,
            MACHINE: self.machine,
        }
        for what, field in self.lines.items():
            field.line.reached.connect(lambda w=what: self.open(w))
            field.line.reached.connect(lambda: self.drawing.point_at(""))
            field.entered.connect(lambda w=what: self._ask(w))
        self._asked = ""
        self._order()
        self.open(PAD)

    def _hold(self) -> None:
        """Hold the height that the drawing needs where all stands in one scrolled column.

        What Qt works out there from the width leaves the drawing less than its least height.
        """
        self.setMinimumHeight(0)
        if self._columns[0] == min(_ABOVE):
            self.setMinimumHeight(self.minimumSizeHint().height())

    def _order(self) -> None:
        """Let Tab go through what is typed, as one reads; then come the chips."""
        typed = [f.line for f in (self.pad, self.compound, self.disc, self.grit, self.machine)]
        names = [f.name for f in _FIGURES]
        for name, place in _INSTEAD.items():
            names.remove(name)
            names.insert(names.index(place) + 1, name)  # it stands in its place
        typed += [self.figures[n].line for n in names]
        for first, then in pairwise(typed):
            self.setTabOrder(first, then)
        last: QWidget = typed[-1]
        for chips in (
            self.shift,
            self.material,
            self.grade,
            self.motion,
            self.grits,
            self.damp,
            self.primed,
        ):
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
        chips = self.kinds[what].buttons
        next(iter(chips.values())).setFocus(Qt.FocusReason.TabFocusReason)

    def _go_on(self, what: str) -> None:
        """Go to what is typed next."""
        after = {
            PAD: self.compound,
            COMPOUND: self.machine,
            DISC: self.machine,
            MACHINE: self.passes,
        }[what]
        after.line.setFocus(Qt.FocusReason.TabFocusReason)

    def _told(self, name: str, key: str | float) -> None:
        """Keep of what kind a thing is; who was asked goes on to what is typed next."""
        asked, self._asked = self._asked, ""
        self.changed.emit(None, {name: key})
        if asked:
            self._go_on(asked)

    def _drawer(self) -> _Drawer:
        drawer = _Drawer()
        drawer.setObjectName("sheet")
        self.material = Chips(
            "The pad is", "pad_material", [(p.key, p.label) for p in PADS], columns=3
        )
        self.grade = Chips(
            "The compound is for", "compound_class", [(c.key, c.label) for c in COMPOUNDS]
        )
        self.motion = Chips(
            "The machine moves as", "machine_kind", [(m.key, m.label) for m in MACHINES], columns=2
        )
        self.grits = Chips("Its grit is", "grits", [(str(g), f"P{g}") for g in _GRITS], columns=5)
        self.damp = Chips("It is used", "damp", [("0", "dry"), ("1", "damp")])
        self.primed = Chips(
            "It goes on", "primed", [("1", "spread over the pad"), ("0", "in dots")]
        )
        self.kinds = {
            PAD: self.material,
            COMPOUND: self.grade,
            MACHINE: self.motion,
            DISC: self.grits,
        }
        self.pages: dict[str, QWidget] = {
            PAD: _page(self.material),
            COMPOUND: _page(self.grade, self.primed),
            MACHINE: _page(self.motion),
            DISC: _page(self.grits, self.damp),
        }
        for page in self.pages.values():
            drawer.addWidget(page)
        for chips, name in (
            (self.material, "pad_material"),
            (self.grade, "compound_class"),
            (self.motion, "machine_kind"),
        ):
            chips.chosen.connect(lambda k, n=name: self._told(n, k))
        self.grits.chosen.connect(lambda k: self._told("grit", float(k)))
        self.damp.chosen.connect(lambda k: self.changed.emit(None, {"damp": float(k)}))
        self.primed.chosen.connect(lambda k: self.changed.emit(None, {"primed": float(k)}))
        return drawer

    def _typed_grit(self, text: str) -> None:
        try:
            grit = parse_number(text.lstrip("Pp")) if text else None
        except ValueRefused as error:
            self.grit.complain(f"{error.what} {error.todo}".strip())
            return
        self.changed.emit(self.grit, {"grit": grit})

    def _settings(self) -> QGridLayout:
        grid = self.grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(6)
        self.figures: dict[str, Field] = {}
        for figure in _FIGURES:
            unit = self.session.unit(figure.quantity).symbol if figure.quantity else figure.unit
            name = "interface" if figure.name == "pad" else figure.name
            wide, hint = look.px(_WIDE.get(name, 62)), _HINTS.get(name, "")
            field = Field(figure.label, name, unit=unit, width=wide, placeholder=hint)
            field.kept.connect(lambda t, f=figure: self._keep(f, t))
            field.line.reached.connect(lambda n=figure.name: self.drawing.point_at(n))
            self.figures[figure.name] = field
        self.figures["passes"].setToolTip(tip(PASS_HINT))
        self.figures["pad_mm"].offer(lambda: self._sizes(PAD_SIZES_MM))
        self.figures["orbit_mm"].offer(lambda: self._sizes(orbits_for(self.stage.pad_mm)))
        self.shift = Chips(
            "Every second hatch",
            "line_shift",
            [(PLAIN, "on the same lines"), (SHIFTED, "half a line aside")],
            columns=1,
        )
        self.shift.chosen.connect(lambda k: self.changed.emit(None, {"line_shift": float(k)}))
        self._columns = (0, False)
        self.kind_row = QHBoxLayout()
        self.kind_row.setSpacing(6)
        self.kind_row.addWidget(self.drawer)
        self.kind_row.addStretch(1)
        self.set_columns(5)
        self.figures["wipes"].offer(lambda: [*names(self.session, "wipe"), *_WIPES])
        return grid

    def _turn_to(self, figure: str) -> None:
        """Go to a figure whose place in the drawing was pressed."""
        field = self.figures[figure]
        field.line.setFocus(Qt.FocusReason.OtherFocusReason)
        field.line.selectAll()

    def _sizes(self, sizes: Sequence[float]) -> list[str]:
        unit = self.session.unit("size")
        return [f"{round(unit.shown(mm), 1 + unit.finer):g}" for mm in sizes]

    def set_columns(self, columns: int, *, narrow: bool = False) -> None:
        """Put the settings around the drawing in so many columns, narrow ones where need be."""
        if (columns, narrow) == self._columns:
            return
        self._columns = (columns, narrow)
        above = _ABOVE[columns]
        below = [f.name for f in _FIGURES if f.name not in (*_INSTEAD, *above)]
        for name, field in self.figures.items():
            place = _INSTEAD.get(name, name)
            row, column = (0, above.index(place)) if place in above else (2, below.index(place))
            at = (row + column // columns, column % columns)
            self.grid.addWidget(field, *at, alignment=Qt.AlignmentFlag.AlignTop)
            own = 50 if narrow else _WIDE.get("interface" if name == "pad" else name, 62)
            field.line.setFixedWidth(look.px(own))
        for figure in _FIGURES:
            if figure.name in _SHORT:
                said = _SHORT[figure.name] if narrow else figure.label
                self.figures[figure.name].set_label(said)
        self.grid.setHorizontalSpacing(6 if narrow else 14)
        self.grid.addWidget(self.drawing, 1, 0, 1, columns)
        self.grid.setRowStretch(1, 1)
        row, free = 2 + (len(below) - 1) // columns, -len(below) % columns
        self.grid.removeItem(self.kind_row)
        self.grid.addLayout(self.kind_row, row + 1, 0, 1, columns)
        if free > 1:
            self.grid.addWidget(self.shift, row, columns - free, 1, free)
        else:
            self.kind_row.insertWidget(1, self.shift, 0, Qt.AlignmentFlag.AlignTop)
        for i in range(max(_ABOVE)):
            self.grid.setColumnStretch(i, int(i < columns))
        self._hold()

    @property
    def passes(self) -> Field:
        """The passes."""
        return self.figures["passes"]

    @property
    def force(self) -> Field:
        """The force."""
        return self.figures["force_n"]

    def open(self, what: str) -> None:
        """Open what kind of thing a pad, compound, disc or machine is."""
        what = DISC if what == GRIT else what
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
        self.disc.set_text(stage.disc)
        grit = grit_of(stage.disc, stage.grit)
        self.grit.set_text("" if grit is None else f"{grit:g}")
        sands = bool(stage.disc)
        for what, shown in ((PAD, not sands), (COMPOUND, not sands), (DISC, sands), (GRIT, sands)):
            self.things[what].setVisible(shown)
        for field in (self.pad, self.compound):
            field.setVisible(not sands)
        for field in (self.disc, self.grit):
            field.setVisible(sands)
        self.drawer.may_open = [
            page for what, page in self.pages.items() if what == MACHINE or (what == DISC) == sands
        ]
        if self.drawer.currentWidget() is self.pages[PAD if sands else DISC]:
            self.open(DISC if sands else PAD)
        self.grits.set_value("" if grit is None else f"{grit:g}")
        self.damp.set_value("" if stage.damp is None else f"{stage.damp:.0f}")
        self.primed.set_value("" if stage.primed is None else f"{stage.primed:.0f}")
        self.material.set_value(stage.pad_material)
        self.grade.set_value(stage.compound_class)
        self.motion.set_value(stage.machine_kind)
        self.shift.set_value(
            "" if stage.line_shift is None else (SHIFTED if stage.line_shift else PLAIN)
        )
        for figure in _FIGURES:
            self.figures[figure.name].set_text(self._shown(figure))
        self.figures["pad"].setVisible(sands)
        self.figures["burst_s"].setVisible(not sands)
        rotary = stage.machine_kind == "rotary"
        self.figures["orbit_mm"].setVisible(not rotary)
        self.figures["tilt_deg"].setVisible(rotary)
        self.figures["speed"].set_label("Turns" if rotary else "Orbits")
        self._caption()
        self._hold()

    def _caption(self) -> None:
        s = self.stage
        pad = PAD_BY_KEY[s.pad_material].label if s.pad_material else "of what?"
        grade = COMPOUND_BY_KEY[s.compound_class].label if s.compound_class else "for what?"
        motion = MACHINE_BY_KEY[s.machine_kind].label if s.machine_kind else "moves how?"
        unit = self.session.unit("size")
        size = f", {unit.shown(s.pad_mm):.3g} {unit.symbol}" if s.pad_mm else ""
        self.things[PAD].show_stage(s, f"{pad}{size}")
        how = "" if s.primed is None else f", {word_of('primed', s.primed)}"
        self.things[COMPOUND].show_stage(s, grade + how)
        self.things[MACHINE].show_stage(s, motion)
        grit = grit_of(s.disc, s.grit)
        known = "of which grit?" if grit is None else f"P{grit:g}{size}"
        self.things[DISC].show_stage(s, known)
        marks = facts_of(self.session, "machine", s.machine).get("dial") or ()
        shown = tuple(str(mark) for mark, _ in marks)
        self.drawing.show_stage(s, Seen(shown, section_of(self.session.panels())))
        grain = "" if grit is None else f"grains of {grain_um(grit):.0f} µm"
        used = "" if s.damp is None else ", damp" if s.damp else ", dry"
        self.things[GRIT].show_stage(s, grain + used)

    def _shown(self, figure: _Figure) -> str:
        value = getattr(self.stage, figure.name)
        if figure.name in _TEXTS:
            return str(value)
        if figure.name == "force_n" and self.stage.by_weight:
            return WEIGHT
        if figure.name == "wipes":
            return written(self.stage.wipes)
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
            guessed: dict[str, Callable[[], object]] = {
                "pad": lambda: guess(text, PADS),
                "compound": lambda: guess(text, COMPOUNDS),
                "disc": lambda: grit_named(text),
            }
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
        try:
            if figure.name == "pad":
                self.changed.emit(field, {"pad": text})
                return
            if figure.name == "wipes":
                self.changed.emit(field, {"wipes": read_wipes(text)})
                return
            if figure.name == "force_n" and text and WEIGHT.startswith(text.casefold()):
                self.changed.emit(field, weighed(self.session, self.stage.machine))
                return
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
        also = {"by_weight": None} if figure.name == "force_n" else {}
        self.changed.emit(field, {figure.name: value, **also})
