"""The settings of a stage that are typed: each a figure with its label, its unit and its hint."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from loam.app.presenters.kit import facts_of, names, speed_of
from loam.app.session import Session
from loam.core.dose.force import weight_n
from loam.core.errors import ValueRefused
from loam.core.kit.sizes import PAD_SIZES_MM, orbits_for
from loam.core.stage_settings import SETTINGS
from loam.core.trial import Stage
from loam.core.units import parse_number
from loam.core.wipes import read_wipes, written
from loam.core.words.dose import PASS_HINT
from loam.ui.theme import look
from loam.ui.theme.look import tip
from loam.ui.widgets.fields import Field


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
    *("force_n", "dial", "speed", "orbit_mm", "tilt_deg", "pad_mm"),
    *("arm_mm_s", "overlap", "passes", "burst_s", "pad", "wipes"),
)
"""The order in which they are typed: round the machine, then over the section, then the wipe."""
_FIGURES = sorted(_TYPED, key=lambda f: (*_FIRST, f.name).index(f.name))
_TEXTS = frozenset({"dial", "pad"})
_WIDE = {"wipes": 104, "pad": 80}
_HINTS = {"wipes": "panel wipe x2", "pad": "its name"}
_SHORT = {"force_n": "Force", "passes": "Passes", "wipes": "Wiped with", "pad": "Interface"}
"""What some are called where there is little room."""
WEIGHT = "weight"
"""What is typed for a force where nothing but the machine presses."""
_WIPES = ("panel wipe x2", "panel wipe", "alcohol mix", "tar remover", "water and soap")


def weighed(session: Session, machine: str) -> dict[str, object]:
    """Return what is said of a stage that only its machine presses: its weight, where known."""
    mass = facts_of(session, "machine", machine).get("mass_kg")
    return {"by_weight": 1.0, "force_n": None if mass is None else round(weight_n(mass), 1)}


class StageFigures(QObject):
    """The lines in which a stage's figures are typed.

    ``changed`` carries the field and the values that change, ``reached`` the figure that is typed.
    """

    changed = pyqtSignal(object, object)
    reached = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.stage = Stage("", "", "")
        self.fields: dict[str, Field] = {}
        for figure in _FIGURES:
            unit = session.unit(figure.quantity).symbol if figure.quantity else figure.unit
            called = "interface" if figure.name == "pad" else figure.name
            hint, wide = _HINTS.get(figure.name, ""), look.px(_WIDE.get(figure.name, 62))
            field = Field(figure.label, called, unit=unit, width=wide, placeholder=hint)
            field.kept.connect(lambda t, f=figure: self._keep(f, t))
            field.line.reached.connect(lambda n=figure.name: self.reached.emit(n))
            self.fields[figure.name] = field
        self.fields["passes"].setToolTip(tip(PASS_HINT))
        self.fields["pad_mm"].offer(lambda: self._sizes(PAD_SIZES_MM))
        self.fields["orbit_mm"].offer(lambda: self._sizes(orbits_for(self.stage.pad_mm)))
        self.fields["wipes"].offer(lambda: [*names(session, "wipe"), *_WIPES])

    def set_narrow(self, narrow: bool) -> None:
        """Take less room, or as much as they like."""
        for figure in _FIGURES:
            field, wide = self.fields[figure.name], _WIDE.get(figure.name, 62)
            field.line.setFixedWidth(look.px(min(wide, 50) if narrow else wide))
            if figure.name in _SHORT:
                field.set_label(_SHORT[figure.name] if narrow else figure.label)

    def show_stage(self, stage: Stage) -> None:
        """Show the figures of a stage, and only those that it can have."""
        self.stage = stage
        for figure in _FIGURES:
            self.fields[figure.name].set_text(self._shown(figure))
        sands, rotary = bool(stage.disc), stage.machine_kind == "rotary"
        self.fields["pad"].setVisible(sands)
        self.fields["burst_s"].setVisible(not sands)
        self.fields["orbit_mm"].setVisible(not rotary)
        self.fields["tilt_deg"].setVisible(rotary)
        self.fields["speed"].set_label("Turns" if rotary else "Orbits")

    def _sizes(self, sizes: Sequence[float]) -> list[str]:
        unit = self.session.unit("size")
        return [f"{round(unit.shown(mm), 1 + unit.finer):g}" for mm in sizes]

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

    def _keep(self, figure: _Figure, text: str) -> None:
        field = self.fields[figure.name]
        try:
            values = self._meant(figure, text)
        except ValueRefused as error:
            field.complain(f"{error.what} {error.todo}".strip())
            return
        self.changed.emit(field, values)

    def _meant(self, figure: _Figure, text: str) -> dict[str, object]:
        """Return the values that a typed text stands for; ``ValueRefused`` where it is none."""
        name = figure.name
        if name == "dial":
            speed = speed_of(self.session, self.stage.machine, text)
            return {"dial": text} | ({"speed": speed} if speed else {})
        if name == "pad":
            return {"pad": text}
        if name == "wipes":
            return {"wipes": read_wipes(text)}
        if name == "force_n" and text and WEIGHT.startswith(text.casefold()):
            return weighed(self.session, self.stage.machine)
        value = parse_number(text) if text else None
        if name == "passes":
            value = value or 0.0
            if value != int(value):
                raise ValueRefused("Passes are counted whole.")
            return {"passes": int(value)}
        if value is not None and name == "overlap":
            value = value / 100.0
        elif value is not None and figure.quantity:
            value = self.session.unit(figure.quantity).stored(value)
        meant: dict[str, object] = {name: value}
        return meant | ({"by_weight": None} if name == "force_n" else {})
