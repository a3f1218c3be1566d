"""An open workshop: the trial at hand, the history of commands, who is told of changes."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from typing import Any

from loam.app.changes import (
    ALL,
    CELLS,
    COMBINATIONS,
    DECIDED,
    JOBS,
    KIT,
    MATTERS,
    NOTED,
    PLAN,
    READINGS,
    SURVEY,
    TRIALS,
    WEIGHED,
    WORK,
    Changes,
)
from loam.app.commands import Act
from loam.app.meter_repeatability import studied
from loam.app.tally import Counts, Tally
from loam.core.film import coat_of
from loam.core.readings import REMOVED, ReadingKind, kind_of
from loam.core.readings.film import called
from loam.core.trial import AFTER, Cell, Combination, Panel, Trial
from loam.core.units import Unit, chosen_unit
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import panels as panel_store
from loam.store import settings as setting_store
from loam.store import trials as trial_store
from loam.store.cells import Place
from loam.store.database import WorkshopRefused
from loam.store.people import people
from loam.store.snapshot import load_snapshot
from loam.store.snapshot_cache import KeptSnapshots, Loader
from loam.store.workshop import Workshop

_CELLS = "cells:"
_FEW = 2000
_LEAVES_CELLS = {TRIALS, COMBINATIONS, MATTERS, PLAN, SURVEY, WORK, NOTED, JOBS}
"""What changes neither cells nor readings."""
Listener = Callable[[Changes], None]


class Session:
    """Runs commands on a workshop and keeps what can be taken back.

    Parameters
    ----------
    workshop : Workshop
    """

    def __init__(self, workshop: Workshop) -> None:
        self.workshop = workshop
        self._listeners: list[Listener] = []
        self._done: list[Act] = []
        self._undone: list[Act] = []
        self._cache: dict[str, Any] = {}
        self._recalled: dict[str, str | None] = {}
        self.stamp = 0
        """Another number after every change."""
        self._snapshots = KeptSnapshots()
        self._tally: Tally | None = None
        self.safe_at = ""
        last = setting_store.recall(workshop.connection, "trial")
        known = [t.id for t in self.trials()]
        self.trial_id: int | None = last if last in known else (known[-1] if known else None)

    def subscribe(self, listener: Listener) -> None:
        """Tell ``listener`` of every change from now on."""
        self._listeners.append(listener)

    def run(self, command: Act) -> None:
        """Do a command; it can be taken back only once it has succeeded."""
        changes = command.do(self.workshop)
        self._done.append(command)
        self._undone.clear()
        self._tell(changes)

    def adopt(self, command: Act, changes: Changes, tally: Tally | None = None) -> None:
        """Remember a command that was done on another thread and turn to the trial it made."""
        self._done.append(command)
        self._undone.clear()
        self._cache.clear()
        if changes.trial_id is not None:
            self.trial_id = changes.trial_id
            self.remember("trial", self.trial_id)
        self._tell(changes, tally)

    def came(self, trial_id: int, tally: Tally) -> None:
        """Turn to a trial to which another bench's part came, on another thread."""
        self._cache.clear()
        self.trial_id = trial_id
        self.remember("trial", trial_id)
        self._tell(Changes(ALL, trial_id), tally)

    def undo(self) -> str:
        """Take back the last act and say what it was, "" when there is none."""
        return self._step(self._done, self._undone, back=True)

    def redo(self) -> str:
        """Do again what was taken back last and say what it was, "" when there is none."""
        return self._step(self._undone, self._done, back=False)

    def _step(self, source: list[Act], target: list[Act], *, back: bool) -> str:
        """Take a step in the history; the trial that it changes is turned to."""
        if not source:
            return ""
        act = source[-1]
        elsewhere = act.trial is not None and act.trial != self.trial_id
        changes = act.undo(self.workshop) if back else act.do(self.workshop)
        target.append(source.pop())
        self._cache.pop("trials", None)
        shown = elsewhere and act.trial in [t.id for t in self.trials()]
        if shown:
            self.trial_id = act.trial
            self.remember("trial", self.trial_id)
            changes = Changes(ALL, self.trial_id, changes.cell_ids)
        self._tell(changes)
        return f"{act.name} in {self.trial.name}" if shown and self.trial else act.name

    @property
    def undo_name(self) -> str:
        """What undo would take back."""
        return self._done[-1].name if self._done else ""

    @property
    def redo_name(self) -> str:
        """What redo would do again."""
        return self._undone[-1].name if self._undone else ""

    def _forget(self, changes: Changes) -> None:
        """Let go of what a change has made untrue; one cell more leaves most as it was."""
        if not changes.kinds <= {READINGS, NOTED}:
            self._recalled.clear()
        if changes.kinds == {JOBS}:
            self._cache.pop("jobs", None)
            return  # a vehicle changes nothing of any trial
        if changes.kinds <= {DECIDED, WEIGHED}:
            return  # a judgement is known by what was decided, beside the stamp
        self.stamp += 1
        if changes.kinds == {KIT}:
            self._cache.clear()
        elif not self._only_few_cells(changes):
            self._forget_all(changes)

    def _only_few_cells(self, changes: Changes) -> bool:
        """Count some cells of the trial at hand again, where that is all that has changed."""
        tally, cells, db = self._tally, changes.cell_ids, self.workshop.connection
        here = tally is not None and changes.trial_id == tally.trial_id == self.trial_id
        if tally is None or not here or not 0 < len(cells) <= _FEW:
            return False
        if READINGS in changes.kinds <= {READINGS, NOTED}:
            tally.read_again(db, cells)
            if NOTED in changes.kinds:
                self._cache.clear()
            for key in ("path", "pace", "cells without baseline"):
                self._cache.pop(key, None)
            return True
        if changes.kinds == {CELLS}:
            tally.placed_again(db, cells)
            for key in [k for k in self._cache if k == "path" or k.startswith("cells")]:
                self._cache.pop(key)
            return True
        return False

    def _forget_all(self, changes: Changes) -> None:
        tally = self._tally
        here = tally is not None and changes.trial_id == tally.trial_id == self.trial_id
        self._cache.clear()
        if here and tally is not None and changes.panel_ids:
            tally.panels_again(self.workshop.connection, changes.panel_ids)
        elif not (here and changes.kinds <= _LEAVES_CELLS):
            self._tally = None

    def _tell(self, changes: Changes, tally: Tally | None = None) -> None:
        self._forget(changes)
        if tally is not None and tally.trial_id == self.trial_id:
            self._tally = tally
        self.safe_at = self.workshop.clock().strftime("%H:%M:%S")
        known = [t.id for t in self.trials()]
        if self.trial_id not in known:
            self.trial_id = known[-1] if known else None
        for listener in list(self._listeners):
            listener(changes)

    def choose(self, trial_id: int | None, tally: Tally | None = None) -> None:
        """Turn to another trial; ``tally`` may bring what was counted of it beforehand."""
        if self.recall("trial") != trial_id:
            self.remember("trial", trial_id)
        if trial_id == self.trial_id:
            return
        self.trial_id, self._tally = trial_id, tally
        self._cache.clear()
        for listener in list(self._listeners):
            listener(Changes(ALL, trial_id))

    def remember(self, key: str, value: Any) -> None:
        """Keep a small preference in the workshop; it is not worth a refusal."""
        if self.workshop.read_only:
            return
        self._recalled.pop(key, None)
        with suppress(WorkshopRefused), self.workshop.transaction() as db:
            setting_store.remember(db, key, value)

    def recall(self, key: str, default: Any = None) -> Any:
        """Return a preference kept in the workshop; one of another sort counts as none."""
        if key not in self._recalled or self.workshop.read_only:  # another hand may write
            self._recalled[key] = setting_store.kept(self.workshop.connection, key)
        found = setting_store.read(self._recalled[key], default)
        return found if default is None or isinstance(found, type(default)) else default

    def preferences(self) -> tuple[tuple[str, str], ...]:
        """All small preferences as they are written: two that are equal judge alike."""
        every = setting_store.every(self.workshop.connection)
        return tuple(
            (key, value) for key, value in every if not key.startswith(("pace", "pooled:"))
        )

    def loader(self) -> Loader:
        """Return what loads a trial for a judgement, from memory where nothing has changed."""
        if self.workshop.read_only:  # another hand may write
            return load_snapshot
        return self._snapshots.at(self.stamp)

    def cached(self, key: str, load: Callable[[], Any]) -> Any:
        """Return what ``load`` gives, kept until the next change."""
        if key not in self._cache:
            self._cache[key] = load()
        return self._cache[key]

    def trials(self) -> list[Trial]:
        """All trials."""
        db = self.workshop.connection
        found: list[Trial] = self.cached("trials", lambda: trial_store.trials(db))
        return found

    @property
    def trial(self) -> Trial | None:
        """The trial at hand."""
        return next((t for t in self.trials() if t.id == self.trial_id), None)

    def _of_trial(self, key: str, load: Callable[[Any, int], Any]) -> Any:
        if self.trial_id is None:
            return []
        trial_id = self.trial_id
        return self.cached(key, lambda: load(self.workshop.connection, trial_id))

    def panels(self) -> list[Panel]:
        """Panels of the trial at hand."""
        found: list[Panel] = self._of_trial("panels", panel_store.panels)
        return found

    def combinations(self) -> list[Combination]:
        """Combinations of the trial at hand."""
        found: list[Combination] = self._of_trial("combinations", combination_store.combinations)
        return found

    def cells(self) -> list[Cell]:
        """Cells of the trial at hand, without their readings before work."""
        found: list[Cell] = self._of_trial(
            "cells", lambda db, trial_id: cell_store.cells(db, trial_id, baselines=False)
        )
        return found

    @property
    def tally(self) -> Tally:
        """What the trial at hand holds, cell by cell."""
        if self._tally is None or self._tally.trial_id != (self.trial_id or 0):
            if self.trial_id is None:
                return Tally(0, [], {})
            self._tally = Tally.load(self.workshop.connection, self.trial_id)
        return self._tally

    def places(self) -> list[Place]:
        """Cells of the trial at hand in short, panel by panel, row by row."""
        return self.tally.places

    def order(self) -> dict[int, int]:
        """Number of each laid-out cell in the order of reading, from 0."""
        return self.tally.order

    def panel_of(self) -> dict[int, int]:
        """The panel of each cell of the trial at hand."""
        return self.tally.panel_of

    def cells_of(self, panel_id: int) -> list[Cell]:
        """Cells of one panel of the trial at hand."""
        db = self.workshop.connection
        found: list[Cell] = self.cached(
            f"{_CELLS}{panel_id}", lambda: cell_store.cells_of(db, panel_id)
        )
        return found

    def cell(self, cell_id: int | None) -> Cell | None:
        """A cell of the trial at hand."""
        panel = self.panel_of().get(cell_id or 0)
        own = self.cells_of(panel) if panel is not None else []
        return next((c for c in own if c.id == cell_id), None)

    def counts(self, phase: str = AFTER) -> Counts:
        """Count and mean of the readings of a phase by (cell, measurand) in the trial at hand."""
        return self.tally.counts(self.workshop.connection, phase)

    @property
    def units(self) -> dict[str, str]:
        """The unit chosen for each quantity, where it is not the stored one."""
        found: dict[str, str] = self.cached("units", lambda: self.recall("units", {}))
        return found

    def unit(self, quantity: str) -> Unit:
        """The unit that a quantity is shown and typed in."""
        return chosen_unit(quantity, self.units)

    def choose_unit(self, quantity: str, symbol: str) -> None:
        """Show a quantity in another unit from now on; what is stored stays as it is."""
        self.remember("units", {**self.units, quantity: symbol})
        self._cache.clear()

    @property
    def coat(self) -> str:
        """What is worked in the trial at hand: clear, or paint where a panel has no clear."""
        return coat_of(p.build for p in self.panels())

    def kind(self, measurand: str) -> ReadingKind:
        """A measurand in the unit that it is shown and typed in, as a gauge study knows it."""
        kind = kind_of(measurand)
        if measurand == REMOVED.key:
            kind = called(kind, self.coat)
        found = self.cached(
            f"studied {measurand}", lambda: studied(self.workshop.connection, measurand)
        )
        if found is not None:
            kind = replace(kind, repeatability=found.sd)
        return kind.in_unit(self.unit(kind.quantity)) if kind.quantity else kind

    def people(self) -> list[str]:
        """Names of all people of the workshop."""
        return people(self.workshop.connection)

    def close(self) -> None:
        """Close the workshop."""
        self.workshop.close()
