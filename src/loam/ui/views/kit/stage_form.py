"""One stage as things: pad, compound and machine named, chosen and drawn with its figures.

A stage that sands has a disc and its grit where the others have pad and compound.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from itertools import pairwise

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QBoxLayout, QGridLayout, QVBoxLayout, QWidget

from loam.app.presenters.dosing import section_of
from loam.app.presenters.kit import facts_of, known, names, speed_of
from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.kit import COMPOUND_BY_KEY, COMPOUNDS, PAD_BY_KEY, PADS, guess
from loam.core.kit.grit import finer, grain_um, grit_named, grit_of
from loam.core.machines import BY_KEY as MACHINE_BY_KEY
from loam.core.machines import KINDS as MACHINES
from loam.core.stage_settings import word_of
from loam.core.trial import Stage
from loam.core.units import parse_number
from loam.ui.theme import look
from loam.ui.views.kit.stage_figures import StageFigures
from loam.ui.widgets.fields import Chips, Field
from loam.ui.widgets.scroll_stack import Stack
from loam.ui.widgets.stage_drawing import Seen, StageDrawing
from loam.ui.widgets.things import COMPOUND, DISC, GRIT, MACHINE, PAD, Thing

SHIFTED, PLAIN = "0.5", "0"
_KINDS = {PAD: "pad_material", COMPOUND: "compound_class", MACHINE: "machine_kind", DISC: "grit"}
_GRITS = (400, 800, 1000, 1200, 1500, 2000, 2500, 3000, 5000)


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
        self.own = StageFigures(session)
        self.own.changed.connect(self.changed)
        self.figures = self.own.fields
        self.drawing = StageDrawing(self.things, dict(self.figures))
        self.drawing.pressed.connect(self._turn_to)
        self.own.reached.connect(self.drawing.point_at)
        box.addWidget(self.drawing, 1)
        for field in self.figures.values():
            box.addWidget(field.error)  # a refusal has the width of the drawing, and moves nothing
        self.drawer = self._drawer()
        self.shift = Chips(
            "Crosswise passes go",
            "line_shift",
            [(PLAIN, "on the same lines"), (SHIFTED, "half a line aside")],
            columns=1,
        )
        self.shift.chosen.connect(lambda k: self.changed.emit(None, {"line_shift": float(k)}))
        self.kind_row = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self.kind_row.setSpacing(6)
        self.kind_row.addWidget(self.drawer)
        self.kind_row.addWidget(self.shift, 0, Qt.AlignmentFlag.AlignTop)
        self.kind_row.addStretch(1)
        box.addLayout(self.kind_row)
        self._room = (False, False)
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

    def _order(self) -> None:
        """Let Tab go through what is typed, as one reads; then come the chips."""
        typed = [f.line for f in (self.pad, self.compound, self.disc, self.grit, self.machine)]
        typed += [field.line for field in self.figures.values()]
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

    def set_room(self, *, narrow: bool, tight: bool) -> None:
        """Take less room across; where it is tight, the chips stand below one another."""
        if (narrow, tight) == self._room:
            return
        self._room = (narrow, tight)
        self.own.set_narrow(narrow or tight)
        down = QBoxLayout.Direction.TopToBottom if tight else QBoxLayout.Direction.LeftToRight
        self.kind_row.setDirection(down)
        self._hold()

    def _hold(self) -> None:
        """Hold the height that the drawing needs where all stands in one scrolled column.

        What Qt works out there from the width leaves the drawing less than its least height.
        """
        self.setMinimumHeight(0)
        if self._room[1]:
            self.setMinimumHeight(self.minimumSizeHint().height())

    def _turn_to(self, figure: str) -> None:
        """Go to a figure whose place in the drawing was pressed."""
        field = self.figures[figure]
        field.line.setFocus(Qt.FocusReason.OtherFocusReason)
        field.line.selectAll()

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
        self.own.show_stage(stage)
        self._caption()
        self._hold()

    def _caption(self) -> None:
        s = self.stage
        pad = PAD_BY_KEY[s.pad_material].label if s.pad_material else "of what?"
        grade = COMPOUND_BY_KEY[s.compound_class].label if s.compound_class else "for what?"
        motion = MACHINE_BY_KEY[s.machine_kind].label if s.machine_kind else "moves how?"
        unit = self.session.unit("size")
        size = f", {unit.shown(s.pad_mm):.3g} {unit.symbol}" if s.pad_mm else ""
        self.things[PAD].show_stage(s, pad)
        how = "" if s.primed is None else f", {word_of('primed', s.primed)}"
        self.things[COMPOUND].show_stage(s, grade + how)
        self.things[MACHINE].show_stage(s, motion)
        grit = grit_of(s.disc, s.grit)
        known = "of which grit?" if grit is None else f"P{grit:g}{size}"
        self.things[DISC].show_stage(s, known)
        marks = facts_of(self.session, "machine", s.machine).get("dial") or ()
        shown = tuple(str(mark) for mark, _ in marks)
        self.drawing.show_stage(s, Seen(shown, section_of(self.session.panels())))
        grain = "" if grit is None else f"{grain_um(grit):.0f} µm"
        used = "" if s.damp is None else ", damp" if s.damp else ", dry"
        self.things[GRIT].show_stage(s, grain + used)

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
