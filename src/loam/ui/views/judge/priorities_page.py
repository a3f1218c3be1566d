"""Priorities are a place: who wins where, how surely, and how much of it all each one wins."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.presenters.priorities import (
    AIMS,
    CORNERS,
    STEPS,
    PrioritiesPicture,
    draw_map,
    needed,
    point_words,
    share_words,
    weight_words,
)
from loam.app.presenters.ranking import RankingPicture
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.readings import kind_of
from loam.core.words.verdict import listed
from loam.ui.picture_out import Picture
from loam.ui.views.base import Key, Shell
from loam.ui.widgets.fields import Chips, unbroken, words
from loam.ui.widgets.priority_chart import PriorityChart

_MOVES = {
    int(Qt.Key.Key_Up): (1, -0.5, -0.5), int(Qt.Key.Key_Down): (-1, 0.5, 0.5),
    int(Qt.Key.Key_Left): (0, 1, -1), int(Qt.Key.Key_Right): (0, -1, 1),
}  # fmt: skip


class Owner(Protocol):
    """What the page asks of the view."""

    session: Session
    shell: Shell
    rankings: dict[str, RankingPicture]
    refusals: dict[str, str]
    kinds: Chips
    left_out: bool

    def to_ranking(self) -> None:
        """Go back to the ranking."""
        ...


class PrioritiesPage(QWidget):
    """Moves through the priorities by arrows, aims by number, or a click."""

    letter, label = "P", "priorities"

    def __init__(self, owner: Owner) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.owner = owner
        self.found: PrioritiesPicture | None = None
        self.weights: tuple[float, float, float] = AIMS[0][1]
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 4, 0, 0)
        box.setSpacing(6)
        self.lead = words("", "lead", wrap=True)
        self.lead.setObjectName("priorities_lead")
        box.addWidget(self.lead)
        self.chart = PriorityChart()
        self.chart.moved.connect(self._clicked)
        box.addWidget(self.chart, 1)
        self.shares = QHBoxLayout()
        self.shares.setSpacing(24)
        box.addLayout(self.shares)
        self.limits = words("", "small", wrap=True)
        box.addWidget(self.limits)

    def begin(self) -> None:
        """Map what is judged now."""
        self.found = None
        self.chart.show_map(None, 0)
        self._clear_shares()
        self.limits.setText("")
        self.setFocus()
        self.owner.shell.keys_changed()
        missing = needed(self.owner.rankings)
        if missing:
            self.lead.setText(self._lack(missing))
            return
        self.lead.setText("Going through the priorities …")
        judged = {m: r.judgement for m, r in self.owner.rankings.items()}
        self.owner.shell.jobs.start(
            "priorities", lambda: draw_map(judged), self._show, self._refused
        )

    def _lack(self, missing: list[str]) -> str:
        """Say what is missing, why, and what to do."""
        about = "Here stands who wins for which priority: finish, removal or clear kept."
        refused = [self.owner.refusals[m] for m in missing if m in self.owner.refusals]
        if refused:
            return f"{about} {refused[0]}"
        absent = [kind_of(m).label for m in missing if m not in self.owner.kinds.buttons]
        if absent:
            return f"{about} It needs {listed(absent)} judged too; Ask (F2) adds what is read."
        return "Judging the readings …"

    def _refused(self, error: LoamError) -> None:
        self.lead.setText(f"{error.what} {error.todo}".strip())

    def _show(self, found: PrioritiesPicture) -> None:
        self.found = found
        self._clear_shares()
        for own in found.maps.values():
            self.shares.addWidget(words(unbroken(share_words(own)), "quiet", wrap=True), 1)
        planned = " Only what was worked as planned counts." if self.owner.left_out else ""
        gone = f" {listed(found.left_out)} lacks one of them." if found.left_out else ""
        self.limits.setText(
            f"Worth: {'; '.join(found.limits)}. Limits lie what matters beyond the worst and the"
            f" best of this trial; gloss and haze count alike; what is read is taken to vary"
            f" independently. Letters: who wins; the fainter, the less surely.{planned}{gone}"
        )
        self._look()
        self.owner.shell.keys_changed()

    def _clear_shares(self) -> None:
        while (item := self.shares.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.deleteLater()

    def _look(self) -> None:
        """Say who wins at the point that is looked at."""
        found = self.found
        if found is None:
            return
        first = next(iter(found.maps.values()))
        at = first.nearest(self.weights)
        self.weights = tuple(first.points[at].tolist())
        aim = next((name for name, w in AIMS if first.nearest(w) == at), "")
        head = weight_words(first.points[at]) + (f" ({aim})" if aim else "")
        said = [f"{h.capitalize()}: {point_words(m, at)}" for h, m in found.maps.items()]
        self.lead.setText(unbroken(f"{head}. {' '.join(said)}"))
        self.chart.show_map(found, at)
        self.chart.setAccessibleDescription(self.lead.text())

    def _clicked(self, at: int) -> None:
        if self.found is not None:
            first = next(iter(self.found.maps.values()))
            self.weights = tuple(first.points[at].tolist())
            self._look()

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        if self.found is None:
            return [("Esc", "ranking", self.owner.to_ranking)]
        aims = [(str(i), name, lambda w=w: self.aim(w)) for i, (name, w) in enumerate(AIMS, 1)]
        return [("arrows", "move", None), *aims, ("Esc", "ranking", self.owner.to_ranking)]

    def table(self) -> list[list[str]]:
        """Return who wins where as a table, its heading first."""
        rows = [["hardness", *CORNERS, "combination", "chance to win"]]
        for hardness, own in self.found.maps.items() if self.found is not None else ():
            for point, chance in zip(own.points.tolist(), own.chance.tolist(), strict=True):
                rows += [[hardness, *(f"{w:.2f}" for w in point), name, f"{p:.4f}"]
                         for name, p in zip(own.names, chance, strict=True)]  # fmt: skip
        return rows

    def picture(self) -> Picture | None:
        """Return the map, to be printed or written."""
        trial = self.owner.session.trial
        if self.found is None or trial is None:
            return None
        return Picture(
            f"{trial.name}, priorities", trial.question or trial.name,
            f"{self.lead.text()}\n{self.limits.text()}", 1120.0, 420.0, self.chart.paint,
        )  # fmt: skip

    def aim(self, weights: tuple[float, float, float]) -> None:
        """Turn to a named aim."""
        self.weights = weights
        self._look()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        text = event.text()
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_P):
            self.owner.to_ranking()
        elif event.key() in _MOVES and self.found is not None:
            step = 1.0 / STEPS
            moved = [w + step * d for w, d in zip(self.weights, _MOVES[event.key()], strict=True)]
            kept = [min(max(w, 0.0), 1.0) for w in moved]
            total = sum(kept)
            self.weights = (kept[0] / total, kept[1] / total, kept[2] / total)
            self._look()
        elif text.isdigit() and 1 <= int(text) <= len(AIMS):
            self.aim(AIMS[int(text) - 1][1])
        else:
            super().keyPressEvent(event)
