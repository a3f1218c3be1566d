"""What a panel is and how it is taped: name, hardness, outline, sizes, what is kept free."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.film.build import EVIDENCE
from loam.core.outline import SHAPES, Outline, Zone, open_cells
from loam.core.trial import HARDNESSES, Panel
from loam.core.units import parse_number
from loam.core.words.dose import wider_cells
from loam.ui.theme import look
from loam.ui.theme.look import tip
from loam.ui.widgets.fields import Chips, Field, set_role, words

_SIZES = (
    ("width_mm", "Width", True),
    ("height_mm", "Height", True),
    ("gap_mm", "Tape gap", True),
    ("columns", "Columns", False),
    ("rows", "Rows", False),
    ("margin_mm", "Margin", True),
)


class TapeSheet(QWidget):
    """``changed`` carries the field (or None) and the values of the panel that change."""

    changed = pyqtSignal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.panel: Panel | None = None
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        self.name = Field("Name", "panel_name")
        self.name.kept.connect(lambda t: self.changed.emit(self.name, {"name": t}))
        box.addWidget(self.name)
        self.hardness = Chips("Hardness class", "hardness", [(h, h) for h in HARDNESSES])
        self.hardness.chosen.connect(lambda k: self.changed.emit(None, {"hardness": k}))
        box.addWidget(self.hardness)
        self.evidence = Chips("That rests on", "evidence", list(EVIDENCE))
        self.evidence.chosen.connect(self._rests_on)
        box.addWidget(self.evidence)
        self.answer = words("", "small", wrap=True)
        self.answer.setObjectName("panel_answer")
        box.addWidget(self.answer)
        self.shape = Chips("Outline", "panel_shape", [(s.key or "plain", s.label) for s in SHAPES])
        self.shape.chosen.connect(self._shaped)
        box.addWidget(self.shape)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        self.fields: dict[str, Field] = {}
        size = session.unit("size").symbol
        for i, (key, label, sized) in enumerate(_SIZES):
            field = Field(label, key, unit=size if sized else "", width=54)
            field.kept.connect(lambda t, k=key: self._measure(k, t))
            self.fields[key] = field
            grid.addWidget(field, i // 3, i % 3, Qt.AlignmentFlag.AlignTop)
        box.addLayout(grid)
        self.free = Field(
            "Keep free: left, top, width, height",
            "keep_free",
            unit=size,
            placeholder="or drag it on the panel",
        )
        self.free.kept.connect(self._typed_zone)
        box.addWidget(self.free)
        self.said = words("", "quiet", wrap=True)
        box.addWidget(self.said)
        self.room = words("", "small", wrap=True)
        box.addWidget(self.room)
        box.addStretch(1)

    def show_panel(self, panel: Panel, answer: str, *, warn: bool) -> None:
        """Show a panel; ``answer`` says how its readings fit its class."""
        self.panel = panel
        self.name.set_text(panel.name)
        self.hardness.set_value(panel.hardness)
        self.evidence.set_value(panel.build.evidence)
        self.show_answer(answer, warn=warn)
        self.shape.set_value(panel.outline.shape or "plain")
        for key, field in self.fields.items():
            field.set_text(self.figure(key, getattr(panel.taping, key)))
        if not self.free.refused:
            self.free.set_text("")
        t, size = panel.taping, self.session.unit("size")
        cell = f"{size.shown(t.cell_width_mm):.{size.finer}f} ×"
        cell += f" {size.shown(t.cell_height_mm):.{size.finer}f} {size.symbol}"
        count, whole = len(open_cells(panel.outline, t)), t.rows * t.columns
        off = f" {whole - count} of the grid fall on an edge, a crease or what is kept free."
        self.said.setText(f"{count} cells of {cell}." + (off if count < whole else ""))
        pads = [s.pad_mm for c in self.session.combinations() for s in c.stages if s.pad_mm]
        self.room.setText(wider_cells(t, max(pads, default=0.0), size))
        self.said.setToolTip(tip(self.room.text()) if self.room.text() else "")
        window = self.window()
        low = window is not None and window.height() < look.px(700)
        self.room.setVisible(bool(self.room.text()) and not low)

    def show_answer(self, answer: str, *, warn: bool) -> None:
        """Say how the panel's readings fit its class; what is being typed stays."""
        self.answer.setText(answer)
        self.answer.setVisible(bool(answer))
        set_role(self.answer, "care" if warn else "small")

    def figure(self, key: str, value: float) -> str:
        """Write a measure in the unit that sizes are shown in."""
        size = self.session.unit("size")
        if key in ("rows", "columns"):
            return f"{value:g}"
        return f"{round(size.shown(value), 1 + size.finer):g}"

    def _rests_on(self, key: str) -> None:
        if self.panel is not None:
            self.changed.emit(None, {"build": replace(self.panel.build, evidence=key)})

    def _shaped(self, key: str) -> None:
        if self.panel is not None:
            shape = "" if key == "plain" else key
            self.changed.emit(None, {"outline": replace(self.panel.outline, shape=shape)})

    def _typed_zone(self, text: str) -> None:
        if not text or self.panel is None:
            return
        unit = self.session.unit("size")
        try:
            parts = [p for p in text.replace(";", " ").replace(", ", " ").split() if p]
            if len(parts) != 4:
                raise ValueRefused(
                    "Four numbers: left, top, width and height.", todo="Like 120 80 60 40."
                )
            values = [unit.stored(parse_number(p.rstrip(","))) for p in parts]
            zone = Zone(*values)
        except ValueRefused as error:
            self.free.complain(f"{error.what} {error.todo}".strip())
            return
        self.free.set_text("")
        self.keep_free(zone, self.free)

    def keep_free(self, zone: Zone, field: Field | None = None) -> None:
        """Keep another zone of the panel free."""
        if self.panel is not None:
            self._zones((*self.panel.outline.keep_out, zone), field)

    def give_back(self, number: int | None = None) -> bool:
        """Let cells lie again where a zone (the last one) was kept free; False when there is none.

        A recess of the outline is no such zone.
        """
        zones = self.panel.outline.keep_out if self.panel is not None else ()
        if not zones:
            return False
        gone = len(zones) - 1 if number is None else number
        self._zones(tuple(z for i, z in enumerate(zones) if i != gone), None)
        return True

    def _zones(self, zones: tuple[Zone, ...], field: Field | None) -> None:
        panel = self.panel
        if panel is None:
            return
        try:
            outline: Outline = replace(panel.outline, keep_out=zones)
        except ValueRefused as error:
            self.free.complain(f"{error.what} {error.todo}".strip())
            return
        self.changed.emit(field, {"outline": outline})

    def _measure(self, key: str, text: str) -> None:
        panel, field = self.panel, self.fields[key]
        if panel is None:
            return
        try:
            value: float = parse_number(text)
            if key in ("rows", "columns"):
                if value != int(value):
                    raise ValueRefused("Rows and columns are counted whole.")
                value = int(value)
            elif self.figure(key, getattr(panel.taping, key)) == f"{value:g}":
                return
            else:
                value = self.session.unit("size").stored(value)
            after: dict[str, Any] = {key: value}
            taping = replace(panel.taping, **after)
        except ValueRefused as error:
            field.complain(f"{error.what} {error.todo}".strip())
            return
        self.changed.emit(field, {"taping": taping})
