"""Whose car it is, how far it has come, and what is wanted of it as a sentence on tape."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.applying.aims import aim_words
from loam.app.applying.saying import unread
from loam.app.applying.told import Stairs
from loam.core.units import percent
from loam.core.vehicle.job import Job
from loam.ui.widgets.fields import words
from loam.ui.widgets.tape import TapeKey


class CarHead(QWidget):
    """``turned`` carries whether how hard it is was pressed, not what is wanted."""

    turned = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        head = QVBoxLayout(self)
        head.setContentsMargins(0, 0, 0, 0)
        head.setSpacing(4)
        top = QHBoxLayout()
        self.name = words("", "title")
        top.addWidget(self.name)
        self.state = words("", "quiet")
        top.addWidget(self.state)
        top.addStretch(1)
        head.addLayout(top)
        line = QHBoxLayout()
        line.setSpacing(6)
        self.slots: dict[str, TapeKey] = {}
        for name, before in (
            ("preset", ""),
            ("aim", "fit: "),
            ("keep", "and keep"),
            ("hard", "of clear everywhere. Its clear:"),
        ):
            if before:
                line.addWidget(words(before, "lead"))
            slot = TapeKey("", "", main=True)
            slot.setObjectName(f"slot_{name}")
            slot.clicked.connect(lambda _c=False, n=name: self.turned.emit(n == "hard"))
            self.slots[name] = slot
            line.addWidget(slot)
        line.addStretch(1)
        head.addLayout(line)

    def show_job(self, job: Job, stairs: Stairs | None) -> None:
        """Show a job; how hard it is as its spots showed, or as was said."""
        self.name.setText(job.name)
        read, spots = len(job.surveyed), len(job.spots)
        told = [f"{read} of {len(job.working)} panels surveyed"]
        told += [f"{spots} test spot{'s' if spots != 1 else ''}"] if spots else []
        told += [f"{job.taken} is taken"] if job.taken else []
        told += ["finished"] if job.finished else []
        self.state.setText(" · ".join(told))
        self.slots["preset"].set_words(job.preset or "as said")
        self.slots["aim"].set_words(aim_words(job))
        self.slots["keep"].set_words(f"{job.keep_um:g} µm")
        likely = sorted(job.chances.items(), key=lambda item: -item[1])
        said = " or ".join(h for h, p in likely if p >= 0.05) if job.known else "not known"
        if stairs is not None and any(told.tells for told in stairs.spots):
            likeliest = max(stairs.classes.items(), key=lambda item: item[1])
            said = f"{likeliest[0]}, {percent(likeliest[1])}"
            if unread(job, stairs.rests) and len(stairs.classes) == 1:
                said = f"taken for {likeliest[0]}"
        self.slots["hard"].set_words(said)
