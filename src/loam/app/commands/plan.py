"""Acts on how a trial is laid out."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from loam.app.changes import PLAN
from loam.app.commands.base import Act
from loam.app.planning import Rules, keep_rules


@dataclass
class SetRules(Act):
    """Change the rules of laying out: controls, what is kept apart, cells that stay."""

    trial_id: int
    before: Rules
    after: Rules
    name: str = "change how it is laid out"
    kinds = frozenset({PLAN})

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Keep the new rules."""
        keep_rules(db, self.trial_id, self.after)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Keep the former ones."""
        keep_rules(db, self.trial_id, self.before)
