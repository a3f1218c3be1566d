"""What every act of the user has: two directions, one transaction each.

An act says how its rows are written in either direction; `Act` runs them. Most acts are one of
four kinds: something is added, changed, put away or brought back.
"""

from __future__ import annotations

import sqlite3
from copy import copy
from dataclasses import dataclass, field
from typing import Any, ClassVar

from loam.app.changes import KIT, Changes
from loam.store import trials as trial_store
from loam.store.came import Came, bring_back, came_since, stood, take_back
from loam.store.workshop import Workshop


@dataclass
class Act:
    """An act of the user. What it brings onto the shelf by the way goes with it when taken back.

    Attributes
    ----------
    name : str
        What was done, in words, for "taken back: …".
    kinds : frozenset of str
        What it changes, for the views.
    """

    name = ""
    kinds: ClassVar[frozenset[str]] = frozenset()
    brings: ClassVar[bool] = True
    """Whether it may bring things onto the shelf by the way, and is not about the shelf itself."""
    _came = Came()

    @property
    def trial(self) -> int | None:
        """The trial that it changes, once that is known: its ``trial_id``, if it has one."""
        return getattr(self, "trial_id", None)

    @property
    def cells(self) -> frozenset[int]:
        """The cells that it changes, where that is few: its ``of_cells``, if it has them."""
        return getattr(self, "of_cells", frozenset())

    @property
    def panels(self) -> frozenset[int]:
        """The panels of the trial that it changes, comes with or goes with."""
        return frozenset()

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write it."""
        raise NotImplementedError

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Write what was before."""
        raise NotImplementedError

    def do(self, workshop: Workshop) -> Changes:
        """Do it (again), whole or not at all; ids of rows that the disk refused are none."""
        before = {k: copy(getattr(self, k)) for k in ("id", "ids") if hasattr(self, k)}
        try:
            with workshop.transaction() as db:
                before_it = stood(db)
                self.forward(db, workshop.now())
                came = self._came
                if self.brings and not came:
                    came = came_since(db, before_it)
                bring_back(db, self._came, workshop.now())
        except BaseException:
            for key, value in before.items():
                setattr(self, key, value)
            raise
        self._came = came
        return self._changes()

    def _changes(self) -> Changes:
        kinds = self.kinds | {KIT} if self._came else self.kinds
        return Changes(kinds, self.trial, self.cells, self.panels)

    def undo(self, workshop: Workshop) -> Changes:
        """Take it back, whole or not at all."""
        with workshop.transaction() as db:
            self.back(db, workshop.now())
            take_back(db, self._came, workshop.now())
        return self._changes()


@dataclass
class Add(Act):
    """Something new. Taken back it is put away; ``id`` is set once it is done."""

    id: int = field(default=0, kw_only=True)
    sort: ClassVar[str] = ""

    def insert(self, db: sqlite3.Connection, now: str) -> int:
        """Write it the first time and return its id."""
        raise NotImplementedError

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write it, or bring it back."""
        if self.id:
            trial_store.put_away(db, self.sort, self.id, False)
        else:
            self.id = self.insert(db, now)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Put it away."""
        trial_store.put_away(db, self.sort, self.id, True)


@dataclass
class Edit(Act):
    """A change of one thing's values."""

    def write(self, db: sqlite3.Connection, value: Any, now: str) -> None:
        """Write the values."""
        raise NotImplementedError

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write the new values."""
        self.write(db, self.after, now)  # type: ignore[attr-defined]

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Write the former values."""
        self.write(db, self.before, now)  # type: ignore[attr-defined]


@dataclass
class PutAway(Act):
    """Something put away, or (``away`` False) brought back."""

    id: int = field(kw_only=True)
    away: bool = field(default=True, kw_only=True)
    sort: ClassVar[str] = ""

    def allow(self, db: sqlite3.Connection) -> None:
        """Refuse when it may not be put away."""

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Put it away, or bring it back."""
        if self.away:
            self.allow(db)
        trial_store.put_away(db, self.sort, self.id, self.away)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Do the other."""
        trial_store.put_away(db, self.sort, self.id, not self.away)
