"""Acts on the thickness survey of a panel."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from loam.app.changes import SURVEY
from loam.app.commands.base import Act, Add
from loam.core.film import Spot
from loam.core.readings import FILM
from loam.store import surveys


@dataclass
class AddSpot(Add):
    """Take a reading of the whole film at a place of a panel; taken back it is struck."""

    trial_id: int
    physical: int
    spot: Spot
    name = "read the film of a panel"
    kinds = frozenset({SURVEY})

    def insert(self, db: sqlite3.Connection, now: str) -> int:
        """Write it the first time."""
        FILM.check(self.spot.film_um)
        return surveys.add_spot(db, self.physical, self.spot, now)

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write it, or let it count again."""
        if self.id:
            surveys.strike_spot(db, self.id, False, now)
        else:
            self.id = self.insert(db, now)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Strike it."""
        surveys.strike_spot(db, self.id, True, now)


@dataclass
class StrikeSpot(Act):
    """Let a reading of a survey count no longer."""

    trial_id: int
    id: int
    name = "strike a reading of the film"
    kinds = frozenset({SURVEY})

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Strike it."""
        surveys.strike_spot(db, self.id, True, now)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Let it count again."""
        surveys.strike_spot(db, self.id, False, now)
