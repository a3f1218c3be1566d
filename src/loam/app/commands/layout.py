"""Acts on the layout: which combination goes into which cell."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, field

from loam.app.changes import CELLS, PLAN
from loam.app.commands.base import Act
from loam.app.planning import Placement, Rules, keep_rules
from loam.core.errors import ValueRefused
from loam.store import cells as cell_store
from loam.store import work
from loam.store.readings import read_among


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
        if not changed:
            return
        for count, how, todo in (
            (
                read_among(db, changed),
                "read",
                "Strike the readings to use a cell for something else.",
            ),
            (
                work.begun_among(db, changed),
                "worked",
                "Undo the work (Ctrl+Z) if it was never done.",
            ),
        ):
            if count:
                raise ValueRefused(
                    f"{count} of these cells {'has' if count == 1 else 'have'} been {how}; what"
                    " a cell got stays as it was worked.",
                    todo=todo,
                    kept="Nothing was changed.",
                )


@dataclass
class LayOut(Assign):
    """Lay a trial out: what the cells get, which turn of its seed was drawn, and who works it."""

    rules: Rules = field(default_factory=Rules)
    after_rules: Rules = field(default_factory=Rules)
    kinds = frozenset({CELLS, PLAN})

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write what the cells get, and the turn."""
        super().forward(db, now)
        keep_rules(db, self.trial_id, self.after_rules)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Write what was before."""
        super().back(db, now)
        keep_rules(db, self.trial_id, self.rules)
