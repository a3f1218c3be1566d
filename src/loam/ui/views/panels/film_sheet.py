"""The film of a panel: how it was built, what a survey reads, what clear may go."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from loam.app.presenters.film import FilmState
from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.film.build import AGES, LIGHTNESSES, SUBSTRATES, FilmBuild
from loam.core.kit.facts import Fact
from loam.core.record.panel_facts import PANEL_FACTS
from loam.core.trial import Panel
from loam.core.units import parse_number
from loam.ui.widgets.core_drawing import CoreDrawing
from loam.ui.widgets.core_sample import CoreSample
from loam.ui.widgets.fields import Chips, Field, set_role, words

_LAYERS = (
    ("clear_um", "Clear"),
    ("clear_spread_um", "Its spread"),
    ("colour_um", "Colour"),
    ("colour_spread_um", "Its spread"),
    ("base_um", "Base"),
    ("primer_um", "Primer"),
)
_DAYS = (("polish_days", "Polished after"), ("seal_days", "Sealed after"))


class FilmSheet(QWidget):
    """Core sample and survey; ``record`` is the page of the build record, ``core`` its drawing.

    ``built`` carries the field (or None) and the new record; ``painted`` the field and the name of
    the paint; ``told`` the field and what else is known of the panel; ``read`` a film thickness in
    µm.
    """

    built = pyqtSignal(object, object)
    painted = pyqtSignal(object, str)
    told = pyqtSignal(object, object)
    read = pyqtSignal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.build = FilmBuild()
        self.facts: Mapping[str, object] = {}
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        self.sample = CoreSample()
        box.addWidget(self.sample)
        self.budget = words("", "small", wrap=True)
        box.addWidget(self.budget)
        self.care = words("", "care", wrap=True)
        self.care.setObjectName("film_care")
        box.addWidget(self.care)
        unit = session.unit("film").symbol
        self.figure = Field("Film at the ring", "film_spot", unit=unit, width=84)
        self.figure.kept.connect(self._read)
        box.addWidget(self.figure)
        self.survey = words("", "quiet", wrap=True)
        self.survey.setObjectName("survey_said")
        box.addWidget(self.survey)
        box.addStretch(1)
        self.record = self._record(unit)

    def _record(self, unit: str) -> QWidget:
        """Return the page of the build record, which stands apart."""
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(12)
        self.substrate = Chips("Built on", "substrate", list(SUBSTRATES))
        self.substrate.chosen.connect(lambda k: self._change(None, substrate=k))
        grid.addWidget(self.substrate, 0, 0, 1, 2)
        self.layers: dict[str, Field] = {}
        for name, label in _LAYERS:
            field = Field(label, name, unit=unit, width=70)
            field.kept.connect(lambda t, n=name: self._layer(n, t))
            self.layers[name] = field
        self.core = CoreDrawing(self.layers)
        self.core.moved.connect(lambda name, um: self._change(None, **{name: um}))
        self.stages = Chips(
            "Clear coat", "single_stage", [("clear", "over a base"), ("single", "single stage")]
        )
        self.stages.chosen.connect(lambda k: self._change(None, single_stage=k == "single"))
        grid.addWidget(self.stages, 3, 0, 1, 2)
        self.lightness = Chips("Colour is", "lightness", list(LIGHTNESSES))
        self.lightness.chosen.connect(lambda k: self._change(None, lightness=k))
        grid.addWidget(self.lightness, 4, 0, 1, 2)
        self.age = Chips("This paint is", "paint_age", list(AGES))
        self.age.chosen.connect(lambda k: self._change(None, age=k))
        grid.addWidget(self.age, 5, 0, 1, 2)
        self.cured = Field("Cured on", "cured_on", placeholder="2026-09-05", width=110)
        self.cured.kept.connect(lambda t: self._change(self.cured, cured_on=t))
        grid.addWidget(self.cured, 6, 0)
        self.days: dict[str, Field] = {}
        for column, (name, label) in enumerate(_DAYS):
            field = Field(label, name, unit="days", placeholder="its maker's", width=110)
            field.kept.connect(lambda t, n=name: self._days(n, t))
            self.days[name] = field
            grid.addWidget(field, 7, column)
        self.paint = Field("Paint", "paint", placeholder="its name, if known")
        self.paint.kept.connect(lambda t: self.painted.emit(self.paint, t))
        grid.addWidget(self.paint, 8, 1)
        self.chemistry = Field("Chemistry", "chemistry", placeholder="2K, ceramic …")
        self.chemistry.kept.connect(lambda t: self._change(self.chemistry, chemistry=t))
        grid.addWidget(self.chemistry, 6, 1)
        self.colour = Field("Colour", "colour", placeholder="its name")
        self.colour.kept.connect(lambda t: self._change(self.colour, colour=t))
        grid.addWidget(self.colour, 8, 0)
        self.known: dict[str, Field] = {}
        for i, fact in enumerate(PANEL_FACTS):
            field = Field(fact.label, f"panel_{fact.key}", unit=fact.unit)
            field.kept.connect(lambda t, f=fact: self._known(f, t))
            self.known[fact.key] = field
            grid.addWidget(field, 9 + i // 2, i % 2)
        last = 9 + (len(PANEL_FACTS) + 1) // 2
        self.record_care = words("", "care", wrap=True)
        grid.addWidget(self.record_care, last, 0, 1, 2)
        grid.setRowStretch(last + 1, 1)
        return page

    def first(self) -> Field:
        """Return the figure of the coat that is worked."""
        return self.layers["colour_um" if self.build.single_stage else "clear_um"]

    def show_film(self, panel: Panel, state: FilmState) -> None:
        """Show a panel's film."""
        build = self.build = panel.build
        self.facts = panel.facts
        for fact in PANEL_FACTS:
            self.known[fact.key].set_text(fact.write(panel.facts.get(fact.key)))
        film = self.session.kind("film")
        self.sample.show_film(state, film, build.substrate)
        self.core.show_film(state, film, build.substrate)
        self.budget.setText(state.budget_said)
        set_role(self.budget, "small" if state.budget.may_go > 0.0 else "care")
        self.care.setText("\n".join(state.cautions))
        self.care.setVisible(bool(state.cautions))
        self.survey.setText(state.said)
        if not self.figure.refused:
            self.figure.set_text("")
        self.substrate.set_value(build.substrate)
        self.stages.set_value("single" if build.single_stage else "clear")
        self.lightness.set_value(build.lightness)
        self.age.set_value(build.age)
        self.cured.set_text(build.cured_on)
        for name, field in self.days.items():
            days = getattr(build, name)
            field.set_text("" if days is None else str(days))
        self.chemistry.set_text(build.chemistry)
        self.colour.set_text(build.colour)
        self.paint.set_text(panel.paint)
        self.record_care.setText("\n".join(state.cautions))
        for name, field in self.layers.items():
            value = getattr(build, name)
            field.set_text("" if value is None else film.write(value))

    def _change(self, field: Field | None, **values: object) -> None:
        try:
            after = replace(self.build, **values)  # type: ignore[arg-type]
        except ValueRefused as error:
            if field is not None:
                field.complain(f"{error.what} {error.todo}".strip())
            return
        self.built.emit(field, after)

    def _layer(self, name: str, text: str) -> None:
        field = self.layers[name]
        try:
            value = self.session.unit("film").stored(parse_number(text)) if text else None
        except ValueRefused as error:
            field.complain(f"{error.what} {error.todo}".strip())
            return
        self._change(field, **{name: value})

    def _known(self, fact: Fact, text: str) -> None:
        """Keep one of the further facts of a panel; an empty text is not known."""
        field = self.known[fact.key]
        try:
            value = fact.read(text)
        except ValueRefused as error:
            field.complain(f"{error.what} {error.todo}".strip())
            return
        kept = {k: v for k, v in self.facts.items() if k != fact.key}
        self.told.emit(field, kept if value is None else {**kept, fact.key: value})

    def _days(self, name: str, text: str) -> None:
        field = self.days[name]
        if text and not (text.isascii() and text.isdigit()):
            field.complain("Whole days: 7. Ask the paint's maker, or read its sheet.")
            return
        self._change(field, **{name: int(text) if text else None})

    def _read(self, text: str) -> None:
        if not text:
            return
        try:
            value = self.session.kind("film").parse(text)
        except ValueRefused as error:
            self.figure.complain(f"{error.what} {error.todo}".strip())
            return
        self.figure.set_text("")
        self.read.emit(value)
