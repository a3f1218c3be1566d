"""Priorities are a place: who wins where, how surely, and how much of it all each one wins."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from loam.app.commands import Weigh
from loam.app.presenters.depth import may_go_known
from loam.app.questions.priorities import QUESTION
from loam.app.questions.priorities.find import (
    AIMS,
    CORNERS,
    MOST_AIMS,
    STEPS,
    Making,
    PrioritiesPicture,
    find_map,
    kept_aims,
    needed,
    point_of,
    with_time,
)
from loam.app.questions.priorities.goals import goal_caption, goal_ranking
from loam.app.questions.priorities.words import point_words, share_words, weight_words
from loam.app.questions.ranking.find import ranking_table
from loam.app.questions.source import Sources
from loam.core.errors import LoamError
from loam.core.panel import Taping
from loam.core.priorities import Wish
from loam.core.words.verdict import listed, short_sentences
from loam.ui.picture_out import Picture
from loam.ui.views.base import Key
from loam.ui.views.judge.owner import Owner
from loam.ui.views.judge.priorities.chart import PriorityChart
from loam.ui.views.judge.priorities.goal_look import GoalLook
from loam.ui.views.judge.priorities.limits_look import LimitsLook
from loam.ui.widgets.fields import unbroken, words
from loam.ui.widgets.scroll_stack import Stack

_MOVES = {
    int(Qt.Key.Key_Up): (1, -0.5, -0.5),
    int(Qt.Key.Key_Down): (-1, 0.5, 0.5),
    int(Qt.Key.Key_Left): (0, 1, -1),
    int(Qt.Key.Key_Right): (0, -1, 1),
}


class _Name(QLineEdit):
    """Keeps Enter to itself: the page would take it for its own."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        super().keyPressEvent(event)
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()


class PrioritiesPage(QWidget):
    """Moves through the priorities by arrows, aims by number, or a click."""

    letter, label = QUESTION.letter, QUESTION.label

    def __init__(self, owner: Owner) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.owner = owner
        self.found: PrioritiesPicture | None = None
        self.weights: tuple[float, float, float] = AIMS[0][1][:3]
        self.time = 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 4, 0, 0)
        box.setSpacing(6)
        self.lead = words("", "lead", wrap=True)
        self.lead.setObjectName("priorities_lead")
        box.addWidget(self.lead)
        self.chart = PriorityChart()
        self.chart.moved.connect(self._clicked)
        self.looks = Stack()
        box.addWidget(self.looks, 1)
        self.looks.addWidget(self.chart)
        self.worth = LimitsLook(owner.shell, owner.act)
        self.looks.addWidget(self.worth)
        self.goal = GoalLook()
        self.looks.addWidget(self.goal)
        self.goal.pressed.connect(self._pressed)
        self.goal.opened.connect(self._open)
        self._then: Callable[[], None] | None = None
        self.name = _Name()
        self.name.setObjectName("aim_name")
        self.name.setAccessibleName("name of this aim")
        self.name.setPlaceholderText("A name for this aim, then Enter; Esc leaves it")
        self.name.setMaxLength(30)
        self.name.returnPressed.connect(self._keep_aim)
        self.name.hide()
        box.addWidget(self.name)
        self.shares = QHBoxLayout()
        self.shares.setSpacing(24)
        box.addLayout(self.shares)
        self.limits = words("", "small", wrap=True)
        box.addWidget(self.limits)

    def sources(self) -> Sources:
        """What each combination is worth at the point; on the map, who wins there."""
        from loam.app.questions.priorities.sources import of_goal

        found = self.found
        if found is None:
            return {}
        every = {
            f"{h}:{name}": of_goal(found, h, name, self.weights, self.owner.rankings)
            for h, own in found.maps.items()
            for name in own.names
        }
        first = next(iter(found.maps.values()))
        at = first.nearest(self.weights)
        won = [
            every[f"{h}:{own.names[int(own.chance[at].argmax())]}"] for h, own in found.maps.items()
        ]
        return {**every, "": tuple(s for sources in won for s in sources)}

    def renew(self, then: Callable[[], None]) -> None:
        """Map anew, out of sight, then go on."""
        if needed(self.owner.rankings):
            return
        self._then = then
        self._map()

    def open_figure(self) -> None:
        """Show the readings behind who wins here, or behind the swatch that is chosen."""
        self._open(self.goal.chosen if self._on_goal else "")

    def _pressed(self, key: str) -> None:
        """Choose a swatch; pressed again, open it."""
        if key == self.goal.chosen:
            self._open(key)
        self.goal.choose(key)

    def _open(self, key: str) -> None:
        if self.found is not None and not self._on_limits:
            self.owner.trace(self, key if key in self.sources() else "")

    def begin(self) -> None:
        """Map what is judged now."""
        self.found = None
        if self._on_limits:
            self.looks.setCurrentWidget(self.chart)
        self.name.hide()
        self.chart.show_map(None, 0)
        self.goal.clear()
        self._clear_shares()
        self.limits.setText("")
        self.setFocus()
        self.owner.shell.keys_changed()
        missing = needed(self.owner.rankings)
        if missing:
            self.lead.setText(self._lack(missing))
            return
        self.lead.setText("Going through the priorities …")
        self._map()

    def _map(self) -> None:
        """Map anew: what counts, a limit or the weight of time has changed."""
        session, time = self.owner.session, self.time
        judged = {m: r.judgement for m, r in self.owner.rankings.items()}
        making = Making(session.combinations(), self.tapings(), may_go_known(session))
        limits = self.worth.kept()
        self.owner.shell.jobs.start(
            "priorities", lambda: find_map(judged, making, time, limits), self._show, self._refused
        )

    def tapings(self) -> dict[str, Taping]:
        """A taping of each hardness."""
        return {p.hardness: p.taping for p in reversed(self.owner.session.panels())}

    @property
    def aims(self) -> list[tuple[str, Wish]]:
        """The named aims, those that the trainer kept after the usual ones."""
        return [*AIMS, *kept_aims(self.owner.session.recall("aims", []))]

    def _lack(self, missing: list[str]) -> str:
        """Say what is missing, why, and what to do."""
        about = "Here stands who wins for which priority: finish, removal or clear kept."
        refused = [self.owner.refusals[m] for m in missing if m in self.owner.refusals]
        if refused:
            return f"{about} {refused[0]}"
        absent = [
            self.owner.session.kind(m).label for m in missing if m not in self.owner.kinds.buttons
        ]
        if absent:
            return f"{about} It needs {listed(absent)} judged too; Ask (F2) adds what is read."
        return "Judging the readings …"

    def _refused(self, error: LoamError) -> None:
        self.lead.setText(f"{error.what} {error.todo}".strip())

    def _show(self, found: PrioritiesPicture) -> None:
        self.found, self.time = found, found.time
        self._clear_shares()
        for _ in found.maps:
            self.shares.addWidget(words("", "quiet", wrap=True), 1)
        self._look()
        self.owner.shell.keys_changed()
        then, self._then = self._then, None
        if then is not None:
            then()

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
        aim = next(
            (
                name
                for name, wish in self.aims
                if abs(wish[3] - self.time) < 1e-6 and first.nearest(point_of(wish)) == at
            ),
            "",
        )
        head = weight_words(first.points[at], self.time, found.corners)
        head += f" ({aim})" if aim else ""
        said = [f"{h.capitalize()}: {point_words(m, at)}" for h, m in found.maps.items()]
        if self._on_goal:
            self._rank(found, head)
        else:
            self.lead.setText(unbroken(f"{head}. {' '.join(said)}"))
        self.limits.setText(unbroken(self._small(found)))
        self.chart.aims = self.aims
        self.chart.show_map(found, at)
        self.looks.setMinimumHeight(self.chart.minimumHeight())
        self.chart.setAccessibleDescription(self.lead.text())
        for i, own in enumerate(found.maps.values()):
            item = self.shares.itemAt(i)
            label = item.widget() if item is not None else None
            if isinstance(label, QLabel):
                label.setVisible(not self._on_goal)
                shares = share_words(own, self.time, found.corners)
                label.setText(unbroken(short_sentences(shares)))
        self.worth.show_worth(found)

    def _rank(self, found: PrioritiesPicture, head: str) -> None:
        """Rank for the weights at hand, in the words of a ranking."""
        names = {c.code: c.name for c in self.owner.session.combinations() if c.name}
        ranking = goal_ranking(found, self.weights, names)
        self.lead.setText(unbroken(short_sentences(f"{head}. {ranking.sentence}")))
        self.goal.show_goal(ranking, self.owner.session, self.owner.rankings)

    def _small(self, found: PrioritiesPicture) -> str:
        """Say what the map or the ranking rests on."""
        planned = " Only what was worked as planned counts." if self.owner.left_out else ""
        gone = f" {listed(found.left_out)} lacks one of them." if found.left_out else ""
        if self._on_goal:
            return f"{goal_caption(found)}{planned}{gone}"
        return (
            "The fuller the shade, the more surely it wins. Numbers: the usual aims. What is worth"
            f" nothing and all: W.{planned}{gone}"
        )

    def _clicked(self, at: int) -> None:
        if self.found is not None:
            first = next(iter(self.found.maps.values()))
            self.weights = tuple(first.points[at].tolist())
            self._look()

    @property
    def _on_limits(self) -> bool:
        return self.looks.currentWidget() is self.worth

    @property
    def _on_goal(self) -> bool:
        return self.looks.currentWidget() is self.goal

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        if self.found is None:
            return [("Esc", "ranking", self.owner.to_ranking)]
        if self._on_limits:
            back: list[Key] = [
                ("W", "priorities", self.turn_limits),
                ("Esc", "ranking", self.owner.to_ranking),
            ]
            return [*self.worth.hands(), *back]
        own = self.aims
        aims: list[Key] = [
            (str(i), name, partial(self.aim, w)) for i, (name, w) in enumerate(own, 1)
        ]
        time: list[Key] = [("+ −", "time", None)] if self.found.timed else []
        keep: list[Key] = [("K", "keep this aim", self.ask_name)] if len(own) < MOST_AIMS else []
        worth: Key = ("W", "what is worth all", self.turn_limits)
        goal: Key = ("R", "map" if self._on_goal else "ranking for this", self.turn_goal)
        ranking: Key = ("Esc", "ranking", self.owner.to_ranking)
        behind: Key = ("Enter", "readings behind it", self.open_figure)
        return [("arrows", "move", None), behind, *time, goal, *aims, worth, *keep, ranking]

    def turn_limits(self) -> None:
        """Show what is worth nothing and all, on the data; or the map again."""
        self._turn(self.worth)

    def turn_goal(self) -> None:
        """Show the ranking for these priorities, or the map again."""
        self._turn(self.goal)

    def show_goal(self) -> None:
        """Show the ranking for these priorities."""
        if not self._on_goal:
            self.turn_goal()

    def _turn(self, look: QWidget) -> None:
        shown = self.looks.currentWidget() is look
        self.looks.setCurrentWidget(self.chart if shown else look)
        self._look()
        self.owner.shell.keys_changed()

    def follow_decided(self) -> None:
        """Aims or limits were decided, or taken back."""
        if self.isVisible():
            self._map()

    def ask_name(self) -> None:
        """Ask for a name for the aim that is looked at."""
        self.name.clear()
        self.name.show()
        self.name.setFocus()

    def _keep_aim(self) -> None:
        name = self.name.text().strip()
        if not name:
            return
        session = self.owner.session
        wish = [*((1.0 - self.time) * w for w in self.weights), self.time]
        own = [[n, list(w)] for n, w in kept_aims(session.recall("aims", [])) if n != name]
        before, here = session.recall("aims", []), session.trial_id or 0
        after = [*own, [name, wish]]
        self.owner.act(Weigh(here, None, "aims", before, after, f"keep the aim {name}"))
        self.name.hide()
        self.setFocus()
        self._look()
        self.owner.shell.keys_changed()

    def table(self) -> list[list[str]]:
        """Return who wins where as a table, its heading first; or the ranking that is shown."""
        if self._on_goal and self.goal.ranking is not None:
            return ranking_table(self.goal.ranking)
        corners = self.found.corners if self.found is not None else CORNERS
        rows = [["hardness", *corners, "combination", "chance to win"]]
        for hardness, own in self.found.maps.items() if self.found is not None else ():
            for point, chance in zip(own.points.tolist(), own.chance.tolist(), strict=True):
                rows += [
                    [hardness, *(f"{w:.2f}" for w in point), name, f"{p:.4f}"]
                    for name, p in zip(own.names, chance, strict=True)
                ]
        return rows

    def picture(self) -> Picture | None:
        """Return the map, to be printed or written."""
        trial = self.owner.session.trial
        if self.found is None or trial is None:
            return None
        return Picture(
            f"{trial.name}, priorities",
            trial.question or trial.name,
            f"{self.lead.text()}\n{self.limits.text()}",
            1120.0,
            420.0,
            self.goal.paint_goal if self._on_goal else self.chart.paint,
        )

    def aim(self, wish: Wish) -> None:
        """Turn to a named aim."""
        self.weights = point_of(wish)
        if self.found is not None and not self.found.timed:
            self._look()
        else:
            self.turn_time(wish[3])

    def turn_time(self, weight: float) -> None:
        """Give time a weight; the map is another slice then."""
        weight = round(min(max(weight, 0.0), 0.9), 6)
        found = self.found
        if found is None or abs(weight - self.time) < 1e-9:
            self._look()
            return
        self.time = weight
        if self.owner.shell.jobs.is_busy("priorities"):
            self._map()  # a limit has just been moved
            return
        self.owner.shell.jobs.start(
            "priorities", lambda: with_time(found, weight), self._show, self._refused
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        text, key = event.text().upper(), event.key()
        if key == Qt.Key.Key_Escape and self.name.isVisible():
            self.name.hide()
            self.setFocus()
        elif key == Qt.Key.Key_Escape or text == self.letter:
            self.owner.to_ranking()
        elif self.found is not None and text == "W":
            self.turn_limits()
        elif self.found is not None and text == "R":
            self.turn_goal()
        elif self.found is not None and self._on_limits:
            self.worth.hand(event)
        elif self.found is None or not self._map_key(key, text):
            super().keyPressEvent(event)

    def _map_key(self, key: int, text: str) -> bool:
        """Move on the map; False for a key that means nothing here."""
        if key in _MOVES:
            self._move(key)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.open_figure()
        elif text.isdigit() and 1 <= int(text) <= len(self.aims):
            self.aim(self.aims[int(text) - 1][1])
        elif text in ("+", "-", "−") and self.found is not None and self.found.timed:
            self.turn_time(self.time + (0.1 if text == "+" else -0.1))
        elif text == "K" and len(self.aims) < MOST_AIMS:
            self.ask_name()
        else:
            return False
        return True

    def _move(self, key: int) -> None:
        step = 1.0 / STEPS
        moved = [w + step * d for w, d in zip(self.weights, _MOVES[key], strict=True)]
        kept = [min(max(w, 0.0), 1.0) for w in moved]
        total = sum(kept)
        self.weights = (kept[0] / total, kept[1] / total, kept[2] / total)
        self._look()


PAGE = PrioritiesPage
