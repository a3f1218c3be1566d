"""What will come out of a file: its panels drawn with their cells filled, in words what is lost."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from loam.app.presenters.incoming import draft_picture
from loam.core.trial import HARDNESSES
from loam.store.draft import TrialDraft
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.flow import Flow
from loam.ui.widgets.panel_row import PanelRow
from loam.ui.widgets.tape import TapeKey

NEW, HERE = "new", "here"


class Outcome(QWidget):
    """The right side of bringing in.

    ``word_set`` carries a word of the file and the hardness class that it means.
    """

    word_set = pyqtSignal(str, str)
    target_set = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        box.addWidget(words("What comes out", "title"))
        self.said = words("", "lead", wrap=True)
        self.said.setObjectName("outcome")
        box.addWidget(self.said)
        self.lost = words("", "quiet", wrap=True)
        self.lost.setObjectName("lost")
        self._classes = QWidget()
        self._flow = Flow(across=18, down=6)
        self._classes.setLayout(self._flow)
        box.addWidget(self._classes)
        self._classes.hide()
        self.chips: dict[str, Chips] = {}
        self.problems = words("", "care", wrap=True)
        self.problems.setObjectName("problems")
        self.problems.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.problems.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.holder = QScrollArea()
        self.holder.setWidgetResizable(True)
        self.holder.setWidget(self.problems)
        self.holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        box.addWidget(self.holder, 1)
        box.addWidget(self.lost)
        self.panels = PanelRow()
        box.addWidget(self.panels, 2)
        box.addLayout(self._foot())

    def _foot(self) -> QVBoxLayout:
        foot = QVBoxLayout()
        foot.setSpacing(6)
        row = QHBoxLayout()
        row.setSpacing(18)
        self.target = Chips("Taken into", "target", [(NEW, "a new trial")])
        self.target.set_value(NEW)
        self.target.chosen.connect(self.target_set.emit)
        row.addWidget(self.target)
        self.name = Field("called", "new_trial_name")
        row.addWidget(self.name, 1)
        foot.addLayout(row)
        self.take = TapeKey("Enter", "take it in", main=True)
        self.take.setObjectName("take_in")
        foot.addWidget(self.take)
        return foot

    def offer_targets(self, trial: str) -> None:
        """Offer a new trial, and the one at hand when there is one."""
        here = [(HERE, f"the trial {trial[:40]}")] if trial else []
        self.target.set_choices([(NEW, "a new trial"), *here])
        self.target.set_value(NEW)
        self.name.setVisible(True)

    def ask_classes(self, unknown: Sequence[str], known: dict[str, str]) -> None:
        """Ask which class each of the file's own words means."""
        wanted = list(dict.fromkeys([*known, *unknown]))
        if list(self.chips) != wanted:
            while self._flow.count():
                item = self._flow.takeAt(0)
                widget = item.widget() if item is not None else None
                if widget is not None:
                    widget.hide()
                    widget.deleteLater()
            self.chips = {}
            for word in wanted:
                chips = Chips(
                    f"“{word[:30]}” is which hardness?",
                    f"class_{word[:30]}",
                    [(h, h) for h in HARDNESSES],
                )
                chips.chosen.connect(lambda key, w=word: self.word_set.emit(w, key))
                self.chips[word] = chips
                self._flow.addWidget(chips)
        for word, chips in self.chips.items():
            chips.set_value(known.get(word, ""))
        self._classes.setVisible(bool(wanted))

    def show_draft(self, draft: TrialDraft, said: str, lost: str) -> None:
        """Show what comes out."""
        self.said.setText(said)
        self.lost.setText(lost)
        self.lost.setVisible(bool(lost))
        self.holder.hide()
        self.panels.show()
        self.panels.first = 0
        self.panels.show_panels(draft.panels, lambda p: draft_picture(draft, p))

    def show_problems(
        self, head: str, lines: Sequence[str], partial: TrialDraft | None = None
    ) -> None:
        """Show what is wrong instead, and what the lines without fault hold."""
        self.said.setText(head)
        self.problems.setText("\n".join(lines))
        self.holder.setVisible(bool(lines))
        some = partial is not None and bool(partial.panels)
        self.lost.setText("The lines without fault hold this much:" if some else "")
        self.lost.setVisible(some)
        self.panels.setVisible(some)
        if some and partial is not None:
            shown = partial
            self.panels.show_panels(shown.panels, lambda p: draft_picture(shown, p))
