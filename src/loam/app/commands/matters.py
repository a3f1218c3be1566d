"""Acts on what matters."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from loam.app.changes import MATTERS
from loam.app.commands.base import Act
from loam.app.what_matters import keep
from loam.core.matter import matters
from loam.core.readings import kind_of


@dataclass
class SetMatters(Act):
    """Choose what matters for a measurand, in one trial or (``trial_id`` None) the workshop.

    ``before`` and ``after`` are values as `core.matter.Matters` holds them; None for no choice.
    """

    here: int
    trial_id: int | None
    measurand: str
    before: float | None
    after: float | None
    name = "change what matters"
    kinds = frozenset({MATTERS})

    def __post_init__(self) -> None:
        matters(kind_of(self.measurand), self.after)

    @property
    def trial(self) -> int | None:
        """The trial that was at hand."""
        return self.here

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Keep the new choice."""
        keep(db, self.trial_id, self.measurand, self.after)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Keep the former choice."""
        keep(db, self.trial_id, self.measurand, self.before)
