"""Acts on the thickness survey of a panel."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, field

from loam.app.changes import SURVEY
from loam.app.commands.base import Act
from loam.core.film import Spot
from loam.core.readings import FILM
from loam.store import surveys
from loam.store.workshop import Workshop


@dataclass
class AddSpot(Act):
    """Take a reading of the whole film at a place of a panel; taken back it is struck."""

    trial_id: int
    physical: int
    spot: Spot
    id: int = field(default=0, kw_only=True)
    name = "read the film of a panel"
    kinds = frozenset({SURVEY})

    @property
    def trial(self) -> int | None:
        """The trial that was at hand."""
        return self.trial_id

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write it the first time, or let it count again."""
        FILM.check(self.spot.film_um)
        if self.id:
            surveys.strike_spot(db, self.id, False, now)
        else:
            self.id = surveys.add_spot(db, self.physical, self.spot, now)

    def do(self, workshop: Workshop):  # type: ignore[no-untyped-def]
        """Do it; an id that the disk refused is none."""
        before = self.id
        try:
            return super().do(workshop)
        except BaseException:
            self.id = before
            raise

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

    @property
    def trial(self) -> int | None:
        """The trial that was at hand."""
        return self.trial_id

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Strike it."""
        surveys.strike_spot(db, self.id, True, now)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Let it count again."""
        surveys.strike_spot(db, self.id, False, now)
