"""Doubts about the trial: each with its evidence, what it does to the ranking, and a switch."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from loam.app.commands import Decide, StrikeReadings
from loam.app.doubting import DoubtSaid, concerned
from loam.app.presenters.picture import assigned
from loam.app.questions.doubts import QUESTION
from loam.app.questions.doubts.find import doubts_of
from loam.app.questions.doubts.noticed import noticed
from loam.app.questions.doubts.residuals import residuals
from loam.app.questions.source import Sources
from loam.app.record import applied, doubts_key, stored
from loam.core.doubts.values import MASKING, SLIP, START
from loam.core.errors import LoamError
from loam.core.words.verdict import short_sentences
from loam.ui.keys import perform
from loam.ui.picture_out import Picture
from loam.ui.views.base import Key
from loam.ui.views.judge.doubts.card import CheckCard, doubt_card
from loam.ui.views.judge.doubts.cars import CarDoubts, draw_car_doubt
from loam.ui.views.judge.doubts.figures import Shown, draw_doubt, flattered
from loam.ui.views.judge.doubts.panels import MOST, DoubtPanels
from loam.ui.views.judge.owner import Owner
from loam.ui.widgets.fields import unbroken, words

LATER_MS = 700
_NONE = (
    "Nothing in the readings of this trial is doubted, as far as so many readings can tell. Panels"
    " answer like their classes and nobody has a heavy hand. No pad fades, no meter drifts, no"
    " reading looks like a slip."
)
_NO_MORE = "No test of the readings finds a doubt, but look at what was noticed:"
_NO_READINGS = "Doubts are looked for once something is read: read some cells (F7)."


class DoubtsPage(QWidget):
    """Lists the doubts; a number leaves one out, or lets it count again."""

    letter, label = QUESTION.letter, QUESTION.label

    def __init__(self, owner: Owner) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.owner = owner
        self.found: list[DoubtSaid] = []
        self.noticed: tuple[str, ...] = ()
        self.known = False
        self.failure = ""
        self.cars = CarDoubts(owner, self._cars_came)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 6, 0, 0)
        self.lead = words("", "lead", wrap=True)
        outer.addWidget(self.lead)
        self.holder = QScrollArea()
        self.holder.setWidgetResizable(True)
        self.holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        outer.addWidget(self.holder, 1)
        self.panels = DoubtPanels()
        outer.addWidget(self.panels, 1)
        self.told = words("", "small", wrap=True)
        outer.addWidget(self.told)
        self.at = 0
        self.later = QTimer(self)
        self.later.setSingleShot(True)
        self.later.setInterval(LATER_MS)
        self.later.timeout.connect(self.start)
        self.cards: list[CheckCard] = []

    def look_through(self) -> None:
        """Look for doubts in a while: whatever is asked meanwhile goes first."""
        self.found, self.noticed, self.known, self.failure = [], (), False, ""
        self.cars.clear()
        self.owner.shell.jobs.cancel("doubts")
        self.later.start()

    def start(self) -> None:
        """Look for doubts on the worker."""
        self.later.stop()
        session, jobs = self.owner.session, self.owner.shell.jobs
        trial = session.trial
        if trial is None:
            return
        path, trial_id, seed, load = session.workshop.reads, trial.id, trial.seed, session.loader()

        def look(tell: Callable[[float], None]) -> tuple[list[DoubtSaid], tuple[str, ...]]:
            return doubts_of(path, trial_id, seed, tell, load), noticed(path, trial_id)

        jobs.start_aside(
            "doubts",
            look,
            lambda found: self._came(trial_id, *found),
            lambda error: self._failed(trial_id, error),
        )

    def _came(self, trial_id: int, found: list[DoubtSaid], seen: tuple[str, ...]) -> None:
        if trial_id == self.owner.session.trial_id:
            self.noticed, self.known, self.failure = seen, True, ""
            self.show_doubts(found)
            self.owner.doubted()
            if self.isVisible():
                self.cars.start()

    def follow_cars(self) -> None:
        """A car has changed: they are looked through again, at once where they are looked at."""
        self.cars.stale = True
        if self.isVisible() and self.known:
            self.cars.start()

    def _cars_came(self, failure: str) -> None:
        self.show_doubts(self.found)
        if failure:
            self.lead.setText(unbroken(f"{self.lead.text()} {failure}"))
        self.owner.shell.keys_changed()

    def _failed(self, trial_id: int, error: LoamError) -> None:
        if trial_id == self.owner.session.trial_id:
            self.failure = f"Doubts could not be looked for: {error}"
            self.lead.setText(unbroken(self.failure))
            self.owner.doubted()

    def result(self) -> tuple[list[DoubtSaid], tuple[str, ...]] | None:
        """Return what was found and noticed; None while it is not known."""
        return (list(self.found), self.noticed) if self.known else None

    def begin(self) -> None:
        """Show the doubts that were found so far."""
        if self.later.isActive():
            self.start()
        self.show_doubts(self.found)
        if self.known and self.cars.stale:
            self.cars.start()
        if self.failure:
            self.lead.setText(unbroken(self.failure))
        elif self.owner.shell.jobs.is_busy("doubts"):
            self.lead.setText("Looking the trial through …")
        elif not self.known:
            self.lead.setText(_NO_READINGS)
        self.setFocus()
        self.owner.shell.keys_changed()

    def show_doubts(self, found: list[DoubtSaid]) -> None:
        """Show what is doubted."""
        self.found = found
        session = self.owner.session
        on = applied(session.workshop.connection, session.trial_id or 0)
        many = {1: "One thing", 2: "Two things", 3: "Three things", 4: "Four things"}
        count = many.get(len(found), f"{len(found)} things")
        lead = f"{count} to check before you trust it." if found else ""
        lead = " ".join(filter(None, (lead, self.cars.words())))
        lead = lead or (_NO_MORE if self.noticed else _NONE)
        if self.noticed:
            seen = short_sentences(" ".join(self.noticed))
            both = bool(found or self.cars.found)
            lead += f" Noticed while it was worked and read: {seen}" if both else f" {seen}"
        self.lead.setText(unbroken(lead))
        body = QWidget()
        body.setObjectName("ground")
        box = QVBoxLayout(body)
        box.setContentsMargins(0, 4, 0, 4)
        box.setSpacing(10)
        self.cards = [
            doubt_card(i, self._shown(said), int(said.key in on)) for i, said in enumerate(found, 1)
        ]
        self.cards += self.cars.cards(len(found) + 1)
        for i, card in enumerate(self.cards, 1):
            card.pressed.connect(lambda n=i: self.turn(n))
            card.chosen.connect(lambda n=i: self.choose(n - 1))
            box.addWidget(card)
        box.addStretch(1)
        self.holder.setWidget(body)
        self.holder.setVisible(bool(self.cards))
        self._light()
        told = [f"{i}: {s.sentence} {s.effect}" for i, s in enumerate(found, 1)]
        told += [
            f"{i}: {d.head} {d.evidence}" for i, d in enumerate(self.cars.found, len(told) + 1)
        ]
        self.setAccessibleName("doubts")
        self.setAccessibleDescription(" ".join(told))

    def _shown(self, said: DoubtSaid) -> Shown:
        """Return what a doubt's picture is drawn from."""
        session, owner = self.owner.session, self.owner
        cells = concerned(said, lambda panel: [c.id for c in session.cells_of(panel)])
        panels = [p for p in session.panels() if {c.id for c in session.cells_of(p.id)} & cells]
        kinds = {m: session.kind(m) for m in {e.measurand for e in said.doubt.evidence}}
        if said.beside is not None:
            kinds[said.beside.measurand] = session.kind(said.beside.measurand)
        pictures = [assigned(session, p) for p in panels]
        return Shown(said, pictures, cells, kinds, flattered(said, owner.rankings))

    def _light(self) -> None:
        """Frame the card at hand; without doubts show what every cell leaves over."""
        self.at = min(self.at, max(len(self.cards) - 1, 0))
        for i, card in enumerate(self.cards):
            card.set_current(i == self.at)
        ranking = self.owner.rankings.get(self.owner.measurand)
        shown = ranking is not None and not self.cards
        self.panels.setVisible(shown)
        self.told.setVisible(shown)
        if ranking is None or self.cards:
            return
        session = self.owner.session
        panels = session.panels()[:MOST]
        cells = [c for p in panels for c in session.cells_of(p.id)]
        left = dict(residuals(ranking, panels, cells, session.combinations()))
        self.told.setText(
            f"In every cell what {ranking.label} leaves over beside its combination and its panel."
            " A disc: better. A ring: worse. Largest from three standard deviations on."
        )
        self.panels.show_cells([assigned(session, p) for p in panels], frozenset(), left)

    def choose(self, at: int) -> None:
        """Take the cursor to a doubt."""
        self.at = at % max(len(self.cards), 1)
        self._light()
        self.owner.shell.keys_changed()
        if self.cards:
            self.holder.ensureWidgetVisible(self.cards[self.at])

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        some: list[Key] = []
        if self.cards:
            some = [("1–9", "turn its switch", None), ("↑ ↓", "another", None)]
        if self.at < len(self.found):
            some.append(("Enter", "readings behind it", self.open_chosen))
        return [*some, ("Esc D", "ranking", self.owner.to_ranking)]

    def turn(self, number: int) -> None:
        """Take a doubt into account, or do so no more."""
        if not 1 <= number <= len(self.cards):
            return
        self.at = number - 1
        if number > len(self.found):
            self.cars.turn(number - 1 - len(self.found))
            return
        said, session = self.found[number - 1], self.owner.session
        trial_id = session.trial_id or 0
        if said.doubt.kind == MASKING:
            self.owner.shell.say("Ranks rest on what stays after the wipe already.")
            return
        if said.doubt.kind == START:
            self.owner.shell.say("The ranking is levelled to one start already.")
            return
        if said.doubt.kind == SLIP:
            cells = said.doubt.cells
            why = f"a slip: likely {said.doubt.likely[0]:g}"
            self.owner.act(StrikeReadings(trial_id, said.readings, why, of_cells=cells))
            return
        before, after = session.recall(doubts_key(trial_id), {}), self._turned(said)
        word = "leave out" if said.key in after else "count again"
        if said.doubt.slope:
            word = "correct for" if said.key in after else "correct no more for"
        self.owner.act(
            Decide(
                trial_id, trial_id, doubts_key(trial_id), before, after, f"{word}: {said.sentence}"
            )
        )

    def _turned(self, said: DoubtSaid) -> dict[str, Any]:
        """Return what is kept once a doubt is taken into account, or is so no more."""
        session = self.owner.session
        kept = dict(session.recall(doubts_key(session.trial_id or 0), {}))
        if said.key in kept:
            del kept[said.key]
        else:
            kept[said.key] = stored(said.doubt)
        return kept

    def switches(self) -> list[dict[str, Any]]:
        """Return what would be kept after each switch that moves the ranking."""
        return [self._turned(s) for s in self.found if s.doubt.kind not in (MASKING, SLIP, START)]

    def sources(self) -> Sources:
        """What each doubt rests on, by its number."""
        from loam.app.questions.doubts.sources import of_doubt

        session, rankings = self.owner.session, self.owner.rankings
        return {str(i): of_doubt(s, session, rankings) for i, s in enumerate(self.found, 1)}

    def renew(self, then: Callable[[], None]) -> None:
        """What counts has changed: the doubts are looked for again, so go back to them."""
        self.owner.to_page(self)
        self.begin()

    def open_chosen(self) -> None:
        """Show the readings that the doubt at hand concerns."""
        if self.at < len(self.found):
            self.owner.trace(self, str(self.at + 1))

    def table(self) -> list[list[str]]:
        """Return the doubts as a table, its heading first."""
        head = ["kind", "subject", "sentence", "effect"]
        rows = [[s.doubt.kind, s.subject, s.sentence, s.effect] for s in self.found]
        rows += [["car", d.job.name, d.evidence, d.effect] for d in self.cars.found]
        return [head, *rows]

    def picture(self) -> Picture | None:
        """Return the panels with the cells of the doubt at hand."""
        trial = self.owner.session.trial
        if trial is None or self.at >= len(self.cards):
            return None
        if self.at >= len(self.found):
            return self._car_picture(trial.name)
        said = self.found[self.at]
        shown = self._shown(said)
        return Picture(
            f"{trial.name}, doubts",
            trial.question or trial.name,
            f"{said.sentence}\n{said.effect}",
            1000.0,
            300.0,
            lambda painter, area: draw_doubt(painter, area, shown),
        )

    def _car_picture(self, name: str) -> Picture:
        doubt = self.cars.found[self.at - len(self.found)]
        return Picture(
            f"{name}, doubts",
            doubt.head,
            f"{doubt.evidence}\n{doubt.effect}",
            1000.0,
            300.0,
            lambda painter, area: draw_car_doubt(painter, area, doubt),
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.cards:
            self.choose(self.at + (1 if event.key() == Qt.Key.Key_Down else -1))
        elif event.text().isdigit():
            self.turn(int(event.text()))
        elif not perform(event, self.keys()):
            super().keyPressEvent(event)


PAGE = DoubtsPage
