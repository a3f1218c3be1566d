"""The act of planning further cells: on what is free, and on panels that come with it."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from loam.app.changes import CELLS, COMBINATIONS, PANELS, READINGS, Changes
from loam.app.commands.base import Act
from loam.app.commands.combinations import AddCombination
from loam.app.commands.layout import Assign
from loam.app.commands.panels import AddPanel
from loam.app.work_against_plan import looks, looks_key
from loam.core.errors import ValueRefused
from loam.core.trial import Combination, Panel
from loam.store import cells as cell_store
from loam.store import decisions
from loam.store import settings as setting_store
from loam.store.workshop import Workshop


@dataclass
class PlanFurther(Act):
    """Give combinations further cells, in random places and at the end of the order of work.

    Parameters
    ----------
    new : sequence of Panel
        Panels to be taped for it.
    wanted : sequence of (int, int)
        Panel and combination of each cell; panel -1 is the first of ``new``, -2 the second;
        combination 0 is ``combination``.
    seed : int
        Of the places and the order.
    combination : Combination, optional
        One that was not tried so far and comes with the plan.
    """

    trial_id: int
    new: Sequence[Panel]
    wanted: Sequence[tuple[int, int]]
    seed: int
    combination: Combination | None = None
    name: str = "plan further cells"
    added: list[AddPanel] = field(default_factory=list)
    made: AddCombination | None = None
    assign: Assign | None = None
    kinds = frozenset({PANELS, CELLS, READINGS, COMBINATIONS})

    @property
    def panels(self) -> frozenset[int]:
        """The panels that come with it."""
        return frozenset(a.id for a in self.added if a.id)

    def do(self, workshop: Workshop) -> Changes:
        """Do it (again), whole or not at all."""
        before = list(self.added), self.made, self.assign
        try:
            return super().do(workshop)
        except BaseException:
            self.added, self.made, self.assign = before
            raise

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Tape the panels and give the cells their combinations."""
        if self.assign is not None:
            for again in self._parts():
                again.forward(db, now)
            self.assign.forward(db, now)
            self._looked(db, now, back=False)
            return
        self.added = [AddPanel(panel) for panel in self.new]
        if self.combination is not None:
            self.made = AddCombination(self.trial_id, self.combination)
        for part in self._parts():
            part.forward(db, now)
        assign = Assign(self.trial_id, self._placed(db, [a.id for a in self.added]))
        assign.forward(db, now)
        self._looked(db, now, back=False)
        self.assign = assign

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Take the cells and the panels away again."""
        assert self.assign is not None
        self._looked(db, now, back=True)
        self.assign.back(db, now)
        for part in self._parts():
            part.back(db, now)

    def _looked(self, db: sqlite3.Connection, now: str, *, back: bool) -> None:
        """Keep that cells were added after a look: ahead then needs ten to one (JUDGE 8.6)."""
        count = looks(db, self.trial_id) + (-1 if back else 1)
        setting_store.remember(db, looks_key(self.trial_id), max(count, 0))
        decisions.add(
            db,
            self.trial_id,
            looks_key(self.trial_id),
            count,
            f"add {len(self.wanted)} cells after a look",
            back=back,
            person="",
            now=now,
        )

    def _parts(self) -> list[AddPanel | AddCombination]:
        """What comes with the cells."""
        return [*self.added, *([self.made] if self.made is not None else [])]

    def _placed(
        self, db: sqlite3.Connection, new: Sequence[int]
    ) -> list[tuple[int, int | None, int | None]]:
        rng = np.random.default_rng([self.seed, len(self.wanted), 77])
        cells = cell_store.cells(db, self.trial_id, baselines=False)
        free: dict[int, list[int]] = {}
        for cell in cells:
            if cell.combination_id is None:
                free.setdefault(cell.panel_id, []).append(cell.id)
        last = max((c.run_order or 0 for c in cells), default=0)
        order = rng.permutation(len(self.wanted))
        placed: list[tuple[int, int | None, int | None]] = []
        for turn, (panel, combination) in enumerate(self.wanted):
            taping = new[-panel - 1] if panel < 0 else panel
            own = free.get(taping, [])
            if not own:
                raise ValueRefused(
                    "There is no room left for these cells.",
                    todo="Add a panel (F4) and lay them out there.",
                    kept="Nothing was changed.",
                )
            place = own.pop(int(rng.integers(len(own))))
            if not combination and self.made is not None:
                combination = self.made.id
            placed.append((place, combination, last + 1 + int(order[turn])))
        return placed
