"""Who works at a bench: turned to, or named where it is first needed."""

from __future__ import annotations

from loam.app.commands import PutOnShelf
from loam.core.kit.facts import PERSON
from loam.ui.views.work.ask_line import WORDS
from loam.ui.views.work.desk import Desk

ASKED = "worker_asked"


class Hands:
    """Turns to the next person, and asks for a name once where nobody is named."""

    def __init__(self, view: Desk) -> None:
        self.view = view

    def first(self) -> bool:
        """Ask who works before the first thing is recorded; True when it was asked."""
        session = self.view.session
        if self.view.worker or session.people() or session.recall(ASKED, False):
            return False
        session.remember(ASKED, True)
        self.ask("Who works? A first name, then Enter; Enter alone goes on without")
        return True

    def ask(self, label: str = "Who works? A first name; it is put on the shelf") -> None:
        """Ask for a name."""
        self.view.words.ask(WORDS, label, self._keep)

    def turn(self) -> None:
        """Hand the machine over: first to whom the panel was given, then to the next."""
        view = self.view
        people = view.session.people()
        if not people:
            self.ask()
            return
        planned = view.state.planned_worker if view.state is not None else ""
        at = people.index(view.worker) if view.worker in people else -1
        following = people[(at + 1) % len(people)]
        if not view.worker and planned in people:
            following = planned
        view.session.remember(view.bench.worker_key, following)
        view.show_all()

    def _keep(self, said: object) -> bool:
        """Take a name; who is not on the shelf is put there."""
        view, name = self.view, str(said).strip()
        known = next((p for p in view.session.people() if p.casefold() == name.casefold()), "")
        if not known and not view.act(PutOnShelf(((PERSON, name, {}),))):
            return False
        view.session.remember(view.bench.worker_key, known or name)
        return True
