"""What to do, the stairs into the clear, and the last spot against what was promised."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.applying.told import Stairs, going_on
from loam.core.vehicle.job import Job
from loam.ui.views.apply.spot_drawing import SpotDrawing
from loam.ui.views.apply.stairs_drawing import StairsDrawing
from loam.ui.widgets.fields import words
from loam.ui.widgets.tape import TapeKey


class StairsSheet(QWidget):
    """The sheet beside the car while nothing is typed."""

    def __init__(self) -> None:
        super().__init__()
        own = QVBoxLayout(self)
        own.setContentsMargins(0, 0, 0, 0)
        own.setSpacing(8)
        self.advice = words("", "lead", wrap=True)
        self.advice.setObjectName("apply_advice")
        own.addWidget(self.advice)
        acts = QHBoxLayout()
        self.act_key = TapeKey("Enter", "", main=True)
        acts.addWidget(self.act_key)
        acts.addStretch(1)
        own.addLayout(acts)
        self.drawn = StairsDrawing()
        own.addWidget(self.drawn, 2)
        self.spot_title = words("", "head")
        own.addWidget(self.spot_title)
        self.spotted = SpotDrawing()
        own.addWidget(self.spotted, 1)
        self.spot_words = words("", "", wrap=True)
        own.addWidget(self.spot_words)
        self.notes = words("", "small", wrap=True)
        own.addWidget(self.notes)

    def show_stairs(self, stairs: Stairs | None, job: Job | None, rung: str, lacks: str) -> None:
        """Show stairs; without them, what they lack."""
        self.drawn.setVisible(stairs is not None)
        self.drawn.show_stairs(stairs, rung)
        told = stairs.spots[-1] if stairs is not None and stairs.spots else None
        self.spotted.show_spot(told)
        self.spot_title.setVisible(told is not None)
        self.spot_words.setVisible(told is not None)
        if stairs is None:
            self.advice.setText(lacks or "The ladder is being worked out.")
            self.act_key.hide()
            self.notes.setText("")
            return
        goes = going_on(job, stairs) if job is not None else ""
        self.advice.setText(goes or stairs.advice)
        said = "" if goes else act_words(stairs.decision)
        self.act_key.setVisible(bool(said))
        self.act_key.set_words(said)
        if told is not None:
            spot = told.spot
            self.spot_title.setText(f"Spot {spot.number}: {spot.rung} on the {spot.part}")
            count, inside = stairs.covered
            also = f" On cars so far {inside} of {count} lay inside." if count else ""
            self.spot_words.setText(f"{told.words} Pale: nine of ten; red: the aim.{also}")
        self.notes.setText(" ".join(stairs.notes))


def act_words(decision: tuple[str, str]) -> str:
    """Say what Enter does."""
    what, code = decision
    return {
        "take": f"take {code} for all",
        "try": f"try {code} on a spot",
        "stop": "stop here: note it",
        "measure": "read its film",
    }.get(what, "")
