"""Acts on how panels are prepared: a gate is done, or skipped for a reason."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from loam.app.changes import WORK
from loam.app.commands.base import Act
from loam.core.prepare import BY_KEY, SKIPPED, check
from loam.core.text import LINE, check_text
from loam.store import people, preparation


@dataclass
class PassGate(Act):
    """Note a gate of one panel or several at once; taken back it counts no more.

    ``more`` are gates that are noted alike: several are left out for one reason.
    """

    trial_id: int
    panel_ids: Sequence[int]
    gate: str
    what: str
    facts: Mapping[str, Any]
    person: str = ""
    day: str = ""
    more: tuple[str, ...] = ()
    ids: list[int] = field(default_factory=list, init=False)
    kinds = frozenset({WORK})

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        said = BY_KEY[self.gate].name if self.gate in BY_KEY else self.gate
        said += f" and {len(self.more)} more" if self.more else ""
        return f"skip: {said}" if self.what == SKIPPED else f"note: {said}"

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Note it (again)."""
        for gate in (self.gate, *self.more):
            check(gate, self.what, self.facts)
        for value in self.facts.values():
            check_text(str(value), "what is noted of a gate", LINE)
        person = people.person_id(db, self.person)
        session = people.session_id(db, self.day, now)
        self.ids = [
            preparation.add(db, panel, gate, self.what, person, session, self.facts, now)
            for panel in self.panel_ids
            for gate in (self.gate, *self.more)
        ]

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Note that it was not so."""
        for row_id in self.ids:
            preparation.take_back(db, row_id, now)
