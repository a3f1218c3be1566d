"""Acts on readings, which are only ever added and struck."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from loam.app.changes import READINGS
from loam.app.commands.base import Act
from loam.core.errors import ValueRefused
from loam.core.text import NOTE, check_text
from loam.core.trial import Reading, check_reading
from loam.store import readings as reading_store
from loam.store.raw_lines import RawLine

GAVE_WAY = "the other reading of this place counts again"


@dataclass
class TakeReadings(Act):
    """Keep typed readings; safe on disk when this returns. Taking them back strikes them."""

    trial_id: int
    readings: Sequence[Reading]
    ids: list[int] = field(default_factory=list)
    raw: RawLine | None = None
    name = "take a reading"
    kinds = frozenset({READINGS})

    @property
    def cells(self) -> frozenset[int]:
        """The cells that were read."""
        return frozenset(r.cell_id for r in self.readings)

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Append them, or let them count again."""
        if self.ids:
            reading_store.strike(db, self.ids, "typed again", now, struck=False)
            return
        for reading in self.readings:
            check_reading(reading)
        self.ids = reading_store.add_readings(
            db, [replace(r, taken_at=r.taken_at or now) for r in self.readings], now, self.raw
        )

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Strike them."""
        reading_store.strike(db, self.ids, "taken back", now)


def take_reading(trial_id: int, reading: Reading, raw: RawLine | None = None) -> TakeReadings:
    """Return the act of keeping one reading, with the meter's line that it came on."""
    return TakeReadings(trial_id, [reading], raw=raw)


@dataclass
class StrikeReadings(Act):
    """Strike readings out with a reason, or (``struck`` False) let struck ones count again.

    Of a reading and its correction one counts: the other is struck then.
    """

    trial_id: int
    reading_ids: Sequence[int]
    reason: str
    struck: bool = True
    of_cells: frozenset[int] = frozenset()
    turned: list[int] = field(default_factory=list, init=False)
    gave_way: list[int] = field(default_factory=list, init=False)
    name = "strike a reading"
    kinds = frozenset({READINGS})

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Note the strike."""
        if self.struck and not self.reason.strip():
            raise ValueRefused("A struck reading needs a reason.", todo="Say why in a few words.")
        check_text(self.reason, "the reason", NOTE, lines=True)
        struck = reading_store.struck_among(db, self.reading_ids)
        self.turned = [i for i in self.reading_ids if (i in struck) != self.struck]
        self.gave_way = []
        for reading in () if self.struck else self.turned:
            other = reading_store.twins(db, [reading]).get(reading, [])
            reading_store.strike(db, other, GAVE_WAY, now)
            self.gave_way += other
            reading_store.strike(db, [reading], self.reason, now, struck=False)
        if self.struck:
            reading_store.strike(db, self.turned, self.reason, now)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Note the opposite, of those that it turned."""
        reading_store.strike(db, self.turned, self.reason, now, not self.struck)
        again = [i for i in self.gave_way if i not in self.turned]
        reading_store.strike(db, again, self.reason, now, struck=False)
