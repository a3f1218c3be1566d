"""What the stage at hand does to a section, beside the stage."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.presenters.depth import Allowed, budgets_at_hand, depth_care
from loam.app.presenters.dosing import DoseView, section_of, view_dose
from loam.app.presenters.kit import facts_of
from loam.app.workshop_kp import kp_at
from loam.core.errors import LoamError
from loam.core.film import coat_of
from loam.core.removal import Known
from loam.core.trial import Combination, Panel, Stage
from loam.ui.theme import look
from loam.ui.views.base import WIDEST, Shell
from loam.ui.widgets.dose_edge import DoseEdge
from loam.ui.widgets.dose_map import DoseMap
from loam.ui.widgets.fields import words


def _dosed(
    c: Combination,
    stage: Stage,
    size: tuple[float, float],
    classes: Sequence[str],
    works_s: float | None,
    found: Sequence[tuple[Panel, Allowed]],
    known: Known,
) -> DoseView:
    """Work out a stage's dose, and whether the whole combination goes too deep."""
    coat = coat_of(panel.build for panel, _ in found)
    view = view_dose(stage, *size, classes, works_s, known, coat, c.stages)
    deep = depth_care({c.code: c.stages}, found, known)
    return replace(view, care=(deep, *view.care)) if deep else view


class DoseSheet(QWidget):
    """What to beware of, map and sentences; worked out on the worker whenever the stage changes."""

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
        self.care = words("", "care", wrap=True)
        self.care.setObjectName("dose_care")
        box.addWidget(self.care)
        self.map = DoseMap()
        box.addWidget(self.map, 3)
        self.edge = DoseEdge()
        box.addWidget(self.edge)
        self.facts = words("", "", wrap=True)
        self.facts.setObjectName("dose_facts")
        box.addWidget(self.facts)
        box.addStretch(1)
        self._shown: tuple[object, ...] = ()

    def set_below(self, below: bool) -> None:
        """Stand below the stage, as high as it must be, or beside it, as high as there is room."""
        high = look.px(150)
        self.map.setMinimumHeight(high if below else 120)
        self.map.setMaximumHeight(high if below else WIDEST)

    def set_low(self, low: bool) -> None:
        """Leave the edge out on a low window; its words stay."""
        if low != self.low:
            self.low = low
            self.map.setMinimumHeight(look.px(84) if low else 120)
            self.edge.setVisible(not low and self.edge.edge is not None)

    def show_stage(self, c: Combination | None, at: int, which: str) -> None:
        """Show the dose of a stage (from 0) of a combination on a cell of the trial at hand."""
        stage = c.stages[at] if c is not None and c.stages else None
        self.setVisible(stage is not None)
        session = self.shell.session
        if stage is None or c is None:
            self._shown = ()
            return
        panels, found = session.panels(), budgets_at_hand(session)
        width, height = section_of(panels)
        classes = tuple(dict.fromkeys(p.hardness for p in panels))
        self.title.setText(f"What {which} does to a {'cell' if panels else 'section'}")
        works = facts_of(session, "compound", stage.compound).get("works_s")
        wanted = (c, at, width, height, classes, works, found)
        if wanted == self._shown:
            return
        self._shown = wanted
        path = session.workshop.reads
        self.shell.jobs.start(
            "dose",
            lambda: _dosed(c, stage, (width, height), classes, works, found, kp_at(path)),
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
