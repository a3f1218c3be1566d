"""The left side of Read: the panels of the trial, and the one at hand to scale."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QVBoxLayout

from loam.app.presenters.picture import read
from loam.app.presenters.reading import EntryState, panel_progress
from loam.app.session import Session
from loam.ui.widgets.fields import Chips, words
from loam.ui.widgets.panel_drawing import PanelDrawing

PANEL_CHIPS = 8
"""Panels told above the drawing; of a trial of more those around the one at hand."""
_EMPTY = (
    "Here each cell is read with the keyboard alone: type what the meter shows, Enter, and the next"
    " cell comes by itself. Lay out some cells first (F5)."
)


class Side(QVBoxLayout):
    """Chips of the panels above the drawing of one."""

    def __init__(self) -> None:
        super().__init__()
        self.setSpacing(6)
        self.others = Chips("", "read_panels", [], flows=True)
        self.addWidget(self.others)
        self.which = words("", "small")
        self.addWidget(self.which)
        self.drawing = PanelDrawing()
        self.drawing.setObjectName("read_panel")
        self.drawing.aperture = True
        self.drawing.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.addWidget(self.drawing, 1)
        self.empty = words(_EMPTY, "lead", wrap=True)
        self.addWidget(self.empty)
        self.addStretch(0)

    def show_state(
        self, session: Session, state: EntryState | None, measurand: str, phase: str
    ) -> None:
        """Show the panel of a cell, or what will be here."""
        for part in (self.drawing, self.others, self.which):
            part.setVisible(state is not None)
        self.empty.setVisible(state is None)
        if state is None:
            return
        next_up = (state.cell.id, len(state.counted))
        picture = read(session, state.panel, measurand, phase, next_up)
        self.drawing.show_picture(picture, state.cell.id)
        panels = panel_progress(session, measurand, phase)
        place = [i for i, *_ in panels].index(state.panel.id)
        at = place // PANEL_CHIPS * PANEL_CHIPS
        shown = panels[at : at + PANEL_CHIPS]
        self.others.set_choices([(str(i), f"{name}  {n} of {m}") for i, name, n, m in shown])
        self.others.set_value(str(state.panel.id))
        self.which.setText(f"Panel {place + 1} of {len(panels)}, PgUp and PgDn turn.")
        self.which.setVisible(len(panels) > PANEL_CHIPS)
