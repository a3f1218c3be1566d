"""Acts on combinations."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from loam.app.changes import COMBINATIONS, KIT
from loam.app.commands.base import Act, Add, Edit, PutAway
from loam.app.commands.kit import EditThing
from loam.core.errors import ValueRefused
from loam.core.trial import Combination
from loam.store import combinations as combination_store


@dataclass
class AddCombination(Add):
    """Name another combination."""

    trial_id: int
    combination: Combination
    name = "add a combination"
    kinds = frozenset({COMBINATIONS})
    sort = "combination"

    def insert(self, db: sqlite3.Connection, now: str) -> int:
        """Write the combination."""
        return combination_store.add_combination(db, self.trial_id, self.combination, now)


@dataclass
class EditCombination(Edit):
    """Change a combination's code, name or stages."""

    trial_id: int
    before: Combination
    after: Combination
    name = "change a combination"
    kinds = frozenset({COMBINATIONS})

    def write(self, db: sqlite3.Connection, value: Combination, now: str) -> None:
        """Write the combination."""
        combination_store.change_combination(db, value, now)


@dataclass
class CorrectThing(Act):
    """Say otherwise what kind of thing some combinations name, there and on the shelf.

    Parameters
    ----------
    edits : sequence of EditCombination
        Of the combinations that name it.
    thing : EditThing
    """

    edits: Sequence[EditCombination]
    thing: EditThing
    kinds = frozenset({COMBINATIONS, KIT})
    brings = False

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        return f"say what {self.thing.after[0]} is"

    @property
    def trial(self) -> int | None:
        """The trial that compares them."""
        return self.edits[0].trial_id if self.edits else None

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write both; the shelf first, so that the combinations name what stands there."""
        self.thing.forward(db, now)
        for edit in self.edits:
            edit.forward(db, now)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Write both as they were."""
        for edit in self.edits:
            edit.back(db, now)
        self.thing.back(db, now)


@dataclass
class PutCombinationAway(PutAway):
    """Put a combination away, refused while a cell still has it; or bring it back."""

    trial_id: int
    code: str = ""
    name = "put a combination away"
    kinds = frozenset({COMBINATIONS})
    sort = "combination"

    def allow(self, db: sqlite3.Connection) -> None:
        """Refuse while a cell has it."""
        used = db.execute(
            "SELECT count(*) FROM cell c JOIN taping t ON t.id = c.taping_id"
            " WHERE c.combination_id=? AND c.put_away=0 AND t.put_away=0",
            (self.id,),
        ).fetchone()[0]
        if used:
            raise ValueRefused(
                f"{self.code} is laid out on {used} cell{'s' if used > 1 else ''}.",
                todo="Give those cells something else first.",
                kept="Nothing was changed.",
            )
