"""Acts beside the readings: a round, a wipe, a tile check, an inspection, a photograph, a peek."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from loam.app.changes import NOTED, READINGS
from loam.app.commands.base import Act
from loam.core.errors import ValueRefused
from loam.core.text import LINE, check_text
from loam.core.trial import Reading, check_reading
from loam.store import noted, people
from loam.store import readings as reading_store

_NAMES = {
    noted.TILE: "note a tile check",
    noted.ROUND: "open a round",
    noted.CLOSED: "close the round",
    noted.PEEK: "peek",
    noted.WIPE: "note a wipe",
    noted.INSPECTION: "note an inspection",
    noted.PHOTOGRAPH: "keep a pair of photographs",
}
MOST_FACTS = 60


def _check_facts(facts: Mapping[str, Any]) -> None:
    if len(facts) > MOST_FACTS:
        raise ValueRefused("That is more than a note holds.")
    for value in facts.values():
        if isinstance(value, str):
            check_text(value, "what is noted", LINE)


@dataclass
class Note(Act):
    """Note something beside the readings; taken back it counts no more.

    Attributes
    ----------
    sort : str
        One of `store.noted.SORTS`.
    cell_id : int or None
        None for what belongs to the whole trial.
    """

    trial_id: int
    sort: str
    facts: Mapping[str, Any]
    cell_id: int | None = None
    person: str = ""
    day: str = ""
    id: int = field(default=0, init=False)
    kinds = frozenset({NOTED})

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        return _NAMES[self.sort]

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Note it, or let it count again."""
        if self.id:
            noted.strike(db, self.id, "done again", now, struck=False)
            return
        _check_facts(self.facts)
        self.id = noted.add(
            db,
            self.trial_id,
            self.sort,
            self.cell_id,
            people.person_id(db, self.person),
            people.session_id(db, self.day, now),
            self.facts,
            now,
        )

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Note that it counts no more."""
        noted.strike(db, self.id, "taken back", now)


@dataclass
class CorrectReadings(Act):
    """Correct readings for drift: each is struck, and stands anew with another value beside it."""

    trial_id: int
    values: Sequence[tuple[int, float]]
    reason: str
    of_cells: frozenset[int] = frozenset()
    ids: list[int] = field(default_factory=list, init=False)
    name = "correct for drift"
    kinds = frozenset({READINGS})

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Strike the old, count the new."""
        check_text(self.reason, "the reason", LINE)
        if not self.ids:  # what is struck already stays so, also when this is taken back
            struck = reading_store.struck_among(db, [i for i, _ in self.values])
            self.values = [(i, v) for i, v in self.values if i not in struck]
        if self.ids:
            reading_store.strike(db, [i for i, _ in self.values], self.reason, now)
            reading_store.strike(db, self.ids, "done again", now, struck=False)
        else:
            self.ids = reading_store.corrected(db, self.values, self.reason, now)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Strike the new, let the old count again."""
        reading_store.strike(db, self.ids, "taken back", now)
        reading_store.strike(db, [i for i, _ in self.values], self.reason, now, struck=False)


@dataclass
class KeepPhotographs(Act):
    """Keep what a pair of photographs showed: the note, a small picture, and (perhaps) a reading.

    Attributes
    ----------
    facts : mapping
        Names and SHA-256 of both files, the regions, the result with its error.
    reading : Reading or None
        The measured removal, where it was not refused.
    """

    trial_id: int
    cell_id: int
    facts: Mapping[str, Any]
    image: bytes
    reading: Reading | None = None
    person: str = ""
    day: str = ""
    id: int = field(default=0, init=False)
    ids: list[int] = field(default_factory=list, init=False)
    name = "keep a pair of photographs"
    kinds = frozenset({NOTED, READINGS})

    @property
    def cells(self) -> frozenset[int]:
        """The cell."""
        return frozenset({self.cell_id})

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Keep it, or let it count again."""
        if self.id:
            noted.strike(db, self.id, "done again", now, struck=False)
            reading_store.strike(db, self.ids, "done again", now, struck=False)
            return
        _check_facts(self.facts)
        row = noted.add(
            db,
            self.trial_id,
            noted.PHOTOGRAPH,
            self.cell_id,
            people.person_id(db, self.person),
            people.session_id(db, self.day, now),
            self.facts,
            now,
        )
        noted.keep_picture(db, row, self.image)
        ids = []
        if self.reading is not None:
            check_reading(self.reading)
            ids = reading_store.add_readings(db, [self.reading], now)
        self.id, self.ids = row, ids

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Let it count no more."""
        noted.strike(db, self.id, "taken back", now)
        reading_store.strike(db, self.ids, "taken back", now)
