"""What the stage at hand does to a section, beside the stage."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.measured import kp_at
from loam.app.presenters.dosing import DoseView, section_of, view_dose
from loam.app.presenters.kit import facts_of
from loam.core.errors import LoamError
from loam.core.trial import Panel, Stage
from loam.ui.theme import look
from loam.ui.views.base import Shell
from loam.ui.widgets.dose_edge import DoseEdge
from loam.ui.widgets.dose_map import DoseMap
from loam.ui.widgets.fields import words


class DoseSheet(QWidget):
    """Map and sentences; worked out on the worker whenever the stage changes."""

    def __init__(self, shell: Shell) -> None:
        super().__init__()
        self.shell = shell
        self.low = False
        self.setFixedWidth(look.wide(300))
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        self.title = words("What it does to a cell", "head")
        box.addWidget(self.title)
        self.map = DoseMap()
        box.addWidget(self.map, 3)
        self.edge = DoseEdge()
        box.addWidget(self.edge)
        self.care = words("", "care", wrap=True)
        self.care.setObjectName("dose_care")
        box.addWidget(self.care)
        self.facts = words("", "", wrap=True)
        self.facts.setObjectName("dose_facts")
        box.addWidget(self.facts)
        box.addStretch(1)
        self._shown: tuple[object, ...] = ()

    def set_low(self, low: bool) -> None:
        """Leave the edge out on a low window; its words stay."""
        if low != self.low:
            self.low = low
            self.edge.setVisible(not low and self.edge.edge is not None)

    def show_stage(self, stage: Stage | None, panels: Sequence[Panel], which: str) -> None:
        """Show the dose of a stage on a cell of the trial."""
        self.setVisible(stage is not None)
        if stage is None:
            self._shown = ()
            return
        width, height = section_of(panels)
        classes = tuple(dict.fromkeys(p.hardness for p in panels))
        self.title.setText(f"What {which} does to a {'cell' if panels else 'section'}")
        works = facts_of(self.shell.session, "compound", stage.compound).get("works_s")
        wanted = (stage, width, height, classes, works)
        if wanted == self._shown:
            return
        self._shown = wanted
        path = self.shell.session.workshop.reads
        self.shell.jobs.start(
            "dose",
            lambda: view_dose(stage, width, height, classes, works, kp_at(path)),
            self._show,
            self._refused,
        )

    def _refused(self, error: LoamError) -> None:
        self.care.setText(str(error))

    def _show(self, view: DoseView) -> None:
        self.map.show_view(view)
        self.edge.show_edge(view.edge)
        self.edge.setVisible(not self.low and view.edge is not None)
        care = [view.refusal] if view.refusal else list(view.care)
        self.care.setText("\n".join(care))
        self.care.setVisible(bool(care))
        self.facts.setText("\n".join(view.facts))
