"""What a trial holds, cell by cell: kept up to date as readings come, and loadable on a worker.

A reading more changes one cell; a trial may have fifty thousand. So nothing here is counted anew
but what a change touches.
"""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Collection, Iterable
from operator import itemgetter

from loam.core.readings import BY_KEY
from loam.core.trial import AFTER
from loam.store import cells as cell_store
from loam.store import panels as panel_store
from loam.store import readings as reading_store
from loam.store.cells import Place

Counts = dict[tuple[int, str], tuple[int, float]]
_NONE = (0, 0.0)


class Tally:
    """Cells and counts of one trial.

    Attributes
    ----------
    trial_id : int
    places : list of Place
        All cells, panel by panel, row by row.
    at : dict
        Position in ``places`` by cell id.
    """

    def __init__(self, trial_id: int, places: list[Place], after: Counts) -> None:
        self.trial_id = trial_id
        self._take(places)
        self._order: dict[int, int] | None = None
        self._cells_by: Counter[int | None] | None = None
        self._counts: dict[str, Counts] = {AFTER: self._own(after)}
        self._done: dict[tuple[str, str, int], Counter[int]] = {}
        self._full: dict[tuple[tuple[str, ...], int], set[int]] = {}
        self._taken: int | None = None

    @classmethod
    def load(cls, db: sqlite3.Connection, trial_id: int) -> Tally:
        """Count a trial from its file."""
        places = cell_store.places(db, trial_id)
        return cls(trial_id, places, _counts(db, places, AFTER))

    def _own(self, counts: Counts) -> Counts:
        """Leave out cells of other trials."""
        at = self.at
        return {key: found for key, found in counts.items() if key[0] in at}

    @property
    def cells_by(self) -> Counter[int | None]:
        """How many cells each combination has; None stands for cells without one."""
        if self._cells_by is None:
            self._cells_by = Counter(map(itemgetter(2), self.places))
        return self._cells_by

    @property
    def order(self) -> dict[int, int]:
        """Number of each laid-out cell in the order of reading, from 0."""
        if self._order is None:
            laid = (p.id for p in self.places if p.combination_id is not None)
            self._order = {cell: i for i, cell in enumerate(laid)}
        return self._order

    def counts(self, db: sqlite3.Connection, phase: str = AFTER) -> Counts:
        """Return count and mean of the readings of a phase by (cell, measurand)."""
        if phase not in self._counts:
            self._counts[phase] = self._own(_counts(db, self.places, phase))
        return self._counts[phase]

    @property
    def taken(self) -> int:
        """How many readings after work there are."""
        if self._taken is None:
            self._taken = sum(n for n, _ in self._counts[AFTER].values())
        return self._taken

    def full(self, measurands: tuple[str, ...], wanted: int) -> int:
        """Return how many laid-out cells have all readings of every measurand."""
        key = (measurands, wanted)
        if key not in self._full:
            self._full[key] = {cell for cell in self.order if self._is_full(cell, *key)}
        return len(self._full[key])

    def _is_full(self, cell: int, measurands: tuple[str, ...], wanted: int) -> bool:
        counts = self._counts[AFTER]
        return all(counts.get((cell, m), _NONE)[0] >= wanted for m in measurands)

    def done(self, db: sqlite3.Connection, measurand: str, phase: str, wanted: int) -> Counter[int]:
        """Return how many laid-out cells of each panel have all readings of one measurand."""
        key = (measurand, phase, wanted)
        if key not in self._done:
            counts, order, panel_of = self.counts(db, phase), self.order, self.panel_of
            self._done[key] = Counter(
                panel_of[cell]
                for (cell, m), (n, _) in counts.items()
                if m == measurand and n >= wanted and cell in order
            )
        return self._done[key]

    def laid(self) -> Counter[int]:
        """Return how many laid-out cells each panel has."""
        return Counter(self.panel_of[cell] for cell in self.order)

    def _count_in(self, cells: Iterable[int], by: int) -> None:
        """Put cells into, or take them out of, what was summed up."""
        for cell in cells:
            if self._taken is not None:
                own = (self._counts[AFTER].get((cell, m), _NONE)[0] for m in BY_KEY)
                self._taken += by * sum(own)
            laid = self.places[self.at[cell]].combination_id is not None
            for (measurand, phase, wanted), done in self._done.items():
                n, _ = self._counts[phase].get((cell, measurand), _NONE)
                if laid and n >= wanted:
                    done[self.panel_of[cell]] += by
            for key, full in self._full.items():
                full.discard(cell)
                if by > 0 and laid and self._is_full(cell, *key):
                    full.add(cell)

    def read_again(self, db: sqlite3.Connection, cells: Collection[int]) -> None:
        """Take note that readings of some cells have changed."""
        own = [c for c in cells if c in self.at]
        self._count_in(own, -1)
        for phase, counts in self._counts.items():
            for cell in own:
                for measurand in BY_KEY:
                    counts.pop((cell, measurand), None)
            if own:
                counts.update(reading_store.counts_of_cells(db, own, phase))
        self._count_in(own, 1)

    def placed_again(self, db: sqlite3.Connection, cells: Collection[int]) -> None:
        """Take note that some cells got another combination."""
        own = [c for c in cells if c in self.at]
        self._count_in(own, -1)
        for panel in {self.panel_of[c] for c in own}:
            for cell in cell_store.cells_of(db, panel):
                self.places[self.at[cell.id]] = Place(cell.id, panel, cell.combination_id)
        self._order = self._cells_by = None
        self._count_in(own, 1)

    def panels_again(self, db: sqlite3.Connection, panels: Collection[int]) -> None:
        """Take note that some panels came, went or were taped anew."""
        gone = [p.id for p in self.places if p.panel_id in panels]
        self._count_in(gone, -1)
        for counts in self._counts.values():
            for key in [(cell, m) for cell in gone for m in BY_KEY]:
                counts.pop(key, None)
        kept = [p for p in self.places if p.panel_id not in panels]
        there = panel_store.present(db, self.trial_id, panels)
        new = [Place(c.id, t, c.combination_id) for t in there for c in cell_store.cells_of(db, t)]
        # sorted() is stable: the cells of a panel stay row by row
        self._take(sorted([*kept, *new], key=lambda p: p.panel_id))
        for phase, counts in self._counts.items():
            counts.update(reading_store.counts_of_cells(db, [p.id for p in new], phase))
        self._order = self._cells_by = None
        self._count_in([p.id for p in new], 1)

    def _take(self, places: list[Place]) -> None:
        self.places = places
        self.at = {p.id: i for i, p in enumerate(places)}
        self.panel_of = {p.id: p.panel_id for p in places}


def _counts(db: sqlite3.Connection, places: list[Place], phase: str) -> Counts:
    if not places:
        return {}
    ids = [p.id for p in places]
    return reading_store.counts_in_range(db, min(ids), max(ids), phase)
