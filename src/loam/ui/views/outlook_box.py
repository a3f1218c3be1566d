"""What the trial will tell apart, beside the question and beside the layout."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from loam.app.changes import CELLS, COMBINATIONS, MATTERS, PANELS, PLAN, TRIALS, Changes
from loam.app.presenters.outlook import FEW_CELLS, Ahead, cost_lines, look_ahead
from loam.app.presenters.path import path_state
from loam.core.errors import LoamError
from loam.core.readings import kind_of
from loam.core.words.verdict import listed
from loam.ui.theme.look import tip
from loam.ui.views.base import Shell
from loam.ui.widgets.cost_strip import CostStrip
from loam.ui.widgets.fields import words
from loam.ui.widgets.outlook_ruler import OutlookRuler

_KINDS = (TRIALS, PANELS, COMBINATIONS, CELLS, MATTERS, PLAN)


class OutlookBox(QWidget):
    """Ruler and sentence, worked out on the worker; with ``costs`` also what the trial costs, and
    what would make it tell more.

    ``wanted`` carries the key of a choice that was pressed; ``worked_out`` says that it is new.
    """

    wanted = pyqtSignal(str)
    worked_out = pyqtSignal()

    def __init__(self, shell: Shell, costs: CostStrip | None = None) -> None:
        super().__init__()
        self.shell, self.session, self.costs = shell, shell.session, costs
        self.ahead: Ahead | None = None
        self.measurand = ""
        self.compact = False
        self._stale = True
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(400)
        self._later.timeout.connect(self._work_later)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(5)
        head = QHBoxLayout()
        head.setSpacing(10)
        self.title = words("What it will tell", "head")
        head.addWidget(self.title)
        head.addStretch(1)
        self.kind = QPushButton("")
        self.kind.setObjectName("bare")
        self.kind.setCursor(Qt.CursorShape.PointingHandCursor)
        self.kind.clicked.connect(self.next_kind)
        self.kind.setAccessibleName("what it is looked at for; press for the next")
        head.addWidget(self.kind)
        box.addLayout(head)
        self.ruler = OutlookRuler()
        box.addWidget(self.ruler)
        self.sentence = words("", "", wrap=True)
        self.sentence.setObjectName("outlook_sentence")
        box.addWidget(self.sentence)
        self._choices = QVBoxLayout()
        self._choices.setSpacing(0)
        box.addLayout(self._choices)
        self.buttons: dict[str, QPushButton] = {}
        self.notes = words("", "small", wrap=True)
        box.addWidget(self.notes)
        self.care = QPushButton("")
        self.care.setObjectName("link")
        self.care.setProperty("care", True)
        self.care.setCursor(Qt.CursorShape.PointingHandCursor)
        self.care.clicked.connect(self.say_care)
        self.care.hide()
        box.addWidget(self.care, 0, Qt.AlignmentFlag.AlignLeft)

    def refresh(self, changes: Changes) -> None:
        """Note what changed; work it out anew when it is looked at."""
        if changes.touches(*_KINDS):
            self._stale = True
        if not (self._stale and self.isVisible()):
            return
        if len(self.session.places()) > FEW_CELLS:  # let the view be painted before the worker is
            self._later.start()
        else:
            self.work_out()

    def set_compact(self, compact: bool) -> None:
        """Leave the notes and all but the first choice out, on a low window."""
        if compact != self.compact:
            self.compact = self.ruler.tight = compact
            self._show(self.ahead)

    def work_out(self) -> None:
        """Work the outlook out on the worker."""
        trial = self.session.trial
        kinds = self.kinds()
        self.shell.jobs.cancel("outlook")
        self.setVisible(trial is not None)
        if trial is None or not kinds:
            self._show(None)
            return
        if self.measurand not in kinds:
            self.measurand = kinds[0]
        self._stale = False
        kind, path, trial_id = (
            self.session.kind(self.measurand),
            self.session.workshop.reads,
            trial.id,
        )
        self.shell.jobs.start(
            "outlook", lambda: look_ahead(path, trial_id, kind), self._show, self._refused
        )

    def _work_later(self) -> None:
        """Work it out if it is still looked at; else when it is turned to again."""
        if self.isVisible():
            self.work_out()

    def kinds(self) -> list[str]:
        """Return what of the trial can be ranked."""
        trial = self.session.trial
        return [m for m in trial.measurands if kind_of(m).rankable] if trial else []

    def next_kind(self) -> None:
        """Look at the next measurand."""
        kinds = self.kinds()
        if kinds:
            at = kinds.index(self.measurand) if self.measurand in kinds else -1
            self.measurand = kinds[(at + 1) % len(kinds)]
            self.work_out()

    def say_care(self) -> None:
        """Say what the plan would overdraw, and what helps."""
        if self.ahead is not None and self.ahead.care:
            self.shell.say("\n".join(self.ahead.care.values()), care=True, matter="plan")

    def _show_care(self, care: Mapping[str, str]) -> None:
        over = path_state(self.session).next_step == "judge"
        self.care.setVisible(bool(care) and not over)
        self.shell.settle("plan")
        self.care.setText(f"Mind {listed(list(care))}")
        said = " ".join(care.values())
        self.care.setAccessibleName(f"{self.care.text()}: {said}")
        self.care.setToolTip(tip(*care.values()))

    def _refused(self, error: LoamError) -> None:
        self._show(None)
        self.notes.setText(str(error))

    def _show(self, ahead: Ahead | None) -> None:
        self.ahead = ahead
        self._show_care(ahead.care if ahead is not None else {})
        if self.costs is not None:
            found = ahead.costs if ahead is not None else None
            hand = ahead.hand if ahead is not None else None
            coat = ahead.coat if ahead is not None else ""
            self.costs.show_lines(cost_lines(found, hand, coat) if found is not None else [])
        drawn = ahead is not None and bool(ahead.outlook)
        self.ruler.setVisible(drawn)
        self.kind.setVisible(ahead is not None)
        self.ruler.show_ahead(ahead if drawn else None)
        for button in self.buttons.values():
            self._choices.removeWidget(button)
            button.hide()
            button.deleteLater()
        self.buttons = {}
        if ahead is None:
            self.sentence.setText("")
            self.notes.setText("")
            return
        self.kind.setText(ahead.kind.label)
        self.kind.setAccessibleName(f"looked at for {ahead.kind.label}; press for the next")
        self.kind.setToolTip(tip("Press for the next that is read"))
        self.sentence.setText(ahead.sentence or ahead.refusal)
        most = 0 if self.costs is None else 1 if self.compact else len(ahead.choices)
        for choice in ahead.choices[:most]:
            button = QPushButton(f"{choice.words}: {choice.effect}")
            button.setObjectName("link")
            button.setProperty("enough", choice.enough)
            button.setAccessibleName(f"{choice.words}: {choice.effect}")
            button.setToolTip(tip(choice.why))
            button.setCursor(Qt.CursorShape.PointingHandCursor)
            button.clicked.connect(lambda _c=False, key=choice.key: self.wanted.emit(key))
            self._choices.addWidget(button)
            self.buttons[choice.key] = button
        self.notes.setText(" ".join(ahead.notes))
        self.notes.setVisible(bool(ahead.notes) and not self.compact)
        self.worked_out.emit()
