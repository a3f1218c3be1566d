"""What is decided while judging is an act like all others: taken back, done again, on record."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Any

from loam.app.changes import DECIDED, WEIGHED
from loam.app.commands.base import Act
from loam.store import decisions
from loam.store import settings as setting_store


@dataclass
class Decide(Act):
    """Keep a decision: a doubt that counts or not, or what is left out.

    Attributes
    ----------
    here : int
        The trial at hand.
    trial_id : int or None
        Whose decision it is; None for the workshop's.
    key : str
        The setting that holds it.
    before, after : anything that JSON holds
        None where nothing was kept.
    name : str
        What was decided, in words.
    """

    here: int
    trial_id: int | None
    key: str
    before: Any
    after: Any
    name: str
    person: str = ""
    kinds = frozenset({DECIDED})

    @property
    def trial(self) -> int | None:
        """The trial that was at hand."""
        return self.here

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Keep it."""
        setting_store.remember(db, self.key, self.after)
        decisions.add(
            db,
            self.trial_id,
            self.key,
            self.after,
            self.name,
            back=False,
            person=self.person,
            now=now,
        )

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Keep what was decided before."""
        setting_store.remember(db, self.key, self.before)
        decisions.add(
            db,
            self.trial_id,
            self.key,
            self.before,
            self.name,
            back=True,
            person=self.person,
            now=now,
        )


@dataclass
class Weigh(Decide):
    """Keep an aim or a limit: it moves what is wished for, never a judgement."""

    kinds = frozenset({WEIGHED})
