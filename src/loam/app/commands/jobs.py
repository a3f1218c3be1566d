"""What is done to a job: started, put away, noted; a note taken back is struck, never deleted."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar

from loam.app.changes import JOBS
from loam.app.commands.base import Act
from loam.store import jobs

Said = tuple[str, Mapping[str, Any]]


@dataclass
class StartJob(Act):
    """A vehicle for which a combination is sought; ``id`` is set once it is done."""

    called: str
    notes: Sequence[Said] = ()
    id: int = field(default=0, kw_only=True)
    name = "start a job"
    kinds: ClassVar[frozenset[str]] = frozenset({JOBS})

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write it, or bring it back."""
        if self.id:
            jobs.put_away(db, self.id, False)
            return
        self.id = jobs.add_job(db, self.called, now)
        for sort, facts in self.notes:
            jobs.add_note(db, self.id, sort, facts, now)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Put it away."""
        jobs.put_away(db, self.id, True)


@dataclass
class PutJobAway(Act):
    """A job put away, or (``away`` False) brought back."""

    id: int
    away: bool = True
    kinds: ClassVar[frozenset[str]] = frozenset({JOBS})

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        return "put a job away" if self.away else "bring a job back"

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Put it away."""
        jobs.put_away(db, self.id, self.away)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Bring it back."""
        jobs.put_away(db, self.id, not self.away)


@dataclass
class NoteJob(Act):
    """Notes of a job; ``ids`` and ``uids`` are theirs once it is done."""

    job_id: int
    notes: Sequence[Said]
    said: str = "note on the vehicle"
    ids: list[int] = field(default_factory=list, kw_only=True)
    uids: list[str] = field(default_factory=list, kw_only=True)
    kinds: ClassVar[frozenset[str]] = frozenset({JOBS})

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        return self.said

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Add them, or let them count again."""
        if self.ids:
            for note in self.ids:
                jobs.strike_note(db, note, False, now)
            return
        self.ids = [jobs.add_note(db, self.job_id, s, f, now) for s, f in self.notes]
        self.uids = [jobs.uid_of(db, i) for i in self.ids]

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Let them count no longer."""
        for note in reversed(self.ids):
            jobs.strike_note(db, note, True, now)
