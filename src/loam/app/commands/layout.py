"""Acts on the layout: which combination goes into which cell."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from loam.app.changes import CELLS, PLAN
from loam.app.commands.base import Act
from loam.app.planning import Placement, Rules, keep_rules
from loam.core.errors import ValueRefused
from loam.store import cells as cell_store


@dataclass
class Assign(Act):
    """Give cells their combination and place in the run order.

    ``after`` holds (cell id, combination id, run order) each; what stood there is kept for undo.
    A cell that has been read keeps what it got.
    """

    trial_id: int
    after: Sequence[Placement]
    name: str = "lay out"
    before: Sequence[Placement] = ()
    kinds = frozenset({CELLS})

    @property
    def trial(self) -> int | None:
        """The trial that is laid out."""
        return self.trial_id

    @property
    def cells(self) -> frozenset[int]:
        """The cells."""
        return frozenset(p[0] for p in self.after)

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write what the cells get."""
        self.before = self._standing(db)
        self._guard(db, self.before, self.after)
        cell_store.assign(db, self.after)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Write what they had."""
        self._guard(db, self.after, self.before)
        cell_store.assign(db, self.before)

    def _standing(self, db: sqlite3.Connection) -> list[Placement]:
        wanted = self.cells
        return [
            (c.id, c.combination_id, c.run_order)
            for c in cell_store.cells(db, self.trial_id, baselines=False)
            if c.id in wanted
        ]

    def _guard(
        self, db: sqlite3.Connection, old: Sequence[Placement], new: Sequence[Placement]
    ) -> None:
        stood = {p[0]: p[1] for p in old}
        changed = [p[0] for p in new if stood.get(p[0]) != p[1]]
        for start in range(0, len(changed), 500):
            part = changed[start : start + 500]
            row = db.execute(
                "SELECT count(DISTINCT r.cell_id) FROM reading r"
                f" WHERE r.cell_id IN ({','.join('?' * len(part))})"
                " AND NOT EXISTS (SELECT 1 FROM strike s WHERE s.reading_id = r.id AND s.struck = 1"
                " AND s.id = (SELECT max(id) FROM strike WHERE reading_id = r.id))",
                part,
            ).fetchone()
            if row[0]:
                raise ValueRefused(
                    f"{row[0]} of these cells {'has' if row[0] == 1 else 'have'} been read; what"
                    " a cell got stays as it was worked.",
                    todo="Strike the readings to use a cell for something else.",
                    kept="Nothing was changed.",
                )


@dataclass
class LayOut(Assign):
    """Lay a trial out: what the cells get, and which turn of its seed was drawn."""

    rules: Rules = field(default_factory=Rules)
    turn: int = 0
    kinds = frozenset({CELLS, PLAN})

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write what the cells get, and the turn."""
        super().forward(db, now)
        keep_rules(db, self.trial_id, replace(self.rules, turn=self.turn))

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Write what was before."""
        super().back(db, now)
        keep_rules(db, self.trial_id, self.rules)
