"""One command for each act of the user: what it does and how it is taken back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Protocol

from loam.app.changes import ALL, CELLS, COMBINATIONS, PANELS, READINGS, TRIALS, Changes, changed
from loam.core.errors import ValueRefused
from loam.core.readings import kind_of
from loam.core.trial import Combination, Panel, Reading, Trial
from loam.store import readings as reading_store
from loam.store import trials as trial_store
from loam.store.draft import TrialDraft, write_draft
from loam.store.workshop import Workshop, writing_apart


class Command(Protocol):
    """An act of the user. Both directions run as one transaction each."""

    name: str

    def do(self, workshop: Workshop) -> Changes:
        """Do it (again)."""
        ...

    def undo(self, workshop: Workshop) -> Changes:
        """Take it back."""
        ...


@dataclass
class AddTrial:
    """Start a trial. ``id`` is set once it is done."""

    trial: Trial
    id: int = 0
    name: str = "start a trial"

    def do(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            if self.id:
                trial_store.put_away(db, "trial", self.id, False)
            else:
                self.id = trial_store.add_trial(db, self.trial, workshop.now())
        return changed(TRIALS, trial_id=self.id)

    def undo(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            trial_store.put_away(db, "trial", self.id, True)
        return Changes(ALL, self.id)


@dataclass
class TakeInTrial:
    """Take in a whole trial from a file, all or nothing.

    A large one is written first on another thread (`write_apart`); the command then only
    remembers it, for undo.
    """

    draft: TrialDraft | None
    id: int = 0
    name: str = "take in readings"

    def write_apart(self, path: Path, now: str) -> Changes:
        """Write the draft through a connection of its own, on the thread that calls this."""
        assert self.draft is not None
        with writing_apart(path) as db:
            trial_id = write_draft(db, self.draft, now)
        return self._written(trial_id)

    def _written(self, trial_id: int) -> Changes:
        """Let go of the draft once it is on disk: a history must not hold every reading twice."""
        self.id, self.draft = trial_id, None
        return Changes(ALL, self.id)

    def do(self, workshop: Workshop) -> Changes:
        if self.draft is not None:
            with workshop.transaction() as db:
                trial_id = write_draft(db, self.draft, workshop.now())
            return self._written(trial_id)
        with workshop.transaction() as db:
            trial_store.put_away(db, "trial", self.id, False)
        return Changes(ALL, self.id)

    def undo(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            trial_store.put_away(db, "trial", self.id, True)
        return Changes(ALL, self.id)


@dataclass
class EditTrial:
    """Change a trial's question, name or what is read."""

    before: Trial
    after: Trial
    name: str = "change the trial"

    def do(self, workshop: Workshop) -> Changes:
        return self._write(workshop, self.after)

    def undo(self, workshop: Workshop) -> Changes:
        return self._write(workshop, self.before)

    def _write(self, workshop: Workshop, trial: Trial) -> Changes:
        with workshop.transaction() as db:
            trial_store.change_trial(db, trial)
        return changed(TRIALS, trial_id=trial.id)


@dataclass
class AddPanel:
    """Tape another panel."""

    panel: Panel
    id: int = 0
    name: str = "add a panel"

    def do(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            if self.id:
                trial_store.put_away(db, "panel", self.id, False)
            else:
                self.id = trial_store.add_panel(db, self.panel)
        return changed(PANELS, CELLS, READINGS, trial_id=self.panel.trial_id)

    def undo(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            trial_store.put_away(db, "panel", self.id, True)
        return changed(PANELS, CELLS, READINGS, trial_id=self.panel.trial_id)


@dataclass
class EditPanel:
    """Change a panel or retape it."""

    before: Panel
    after: Panel
    name: str = "change a panel"

    def do(self, workshop: Workshop) -> Changes:
        return self._write(workshop, self.after)

    def undo(self, workshop: Workshop) -> Changes:
        return self._write(workshop, self.before)

    def _write(self, workshop: Workshop, panel: Panel) -> Changes:
        with workshop.transaction() as db:
            trial_store.change_panel(db, panel)
        return changed(PANELS, CELLS, trial_id=panel.trial_id)


@dataclass
class AddCombination:
    """Name another combination."""

    trial_id: int
    combination: Combination
    id: int = 0
    name: str = "add a combination"

    def do(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            if self.id:
                trial_store.put_away(db, "combination", self.id, False)
            else:
                self.id = trial_store.add_combination(db, self.trial_id, self.combination)
        return changed(COMBINATIONS, trial_id=self.trial_id)

    def undo(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            trial_store.put_away(db, "combination", self.id, True)
        return changed(COMBINATIONS, CELLS, trial_id=self.trial_id)


@dataclass
class EditCombination:
    """Change a combination's code, name or stages."""

    trial_id: int
    before: Combination
    after: Combination
    name: str = "change a combination"

    def do(self, workshop: Workshop) -> Changes:
        return self._write(workshop, self.after)

    def undo(self, workshop: Workshop) -> Changes:
        return self._write(workshop, self.before)

    def _write(self, workshop: Workshop, combination: Combination) -> Changes:
        with workshop.transaction() as db:
            trial_store.change_combination(db, combination)
        return changed(COMBINATIONS, trial_id=self.trial_id)


@dataclass
class RemoveCombination:
    """Put a combination away; refused while a cell still has it."""

    trial_id: int
    combination: Combination
    name: str = "remove a combination"

    def do(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            used = sum(
                c.combination_id == self.combination.id
                for c in trial_store.cells(db, self.trial_id)
            )
            if used:
                raise ValueRefused(
                    f"{self.combination.code} is laid out on {used} cell{'s' if used > 1 else ''}.",
                    todo="Give those cells something else first.",
                    kept="Nothing was changed.",
                )
            trial_store.put_away(db, "combination", self.combination.id, True)
        return changed(COMBINATIONS, trial_id=self.trial_id)

    def undo(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            trial_store.put_away(db, "combination", self.combination.id, False)
        return changed(COMBINATIONS, trial_id=self.trial_id)


Placement = tuple[int, int | None, int | None]


@dataclass
class Assign:
    """Give cells their combination and place in the run order.

    ``after`` holds (cell id, combination id, run order) each; what stood there is kept for undo.
    """

    trial_id: int
    after: Sequence[Placement]
    name: str = "lay out"
    before: Sequence[Placement] = ()

    def do(self, workshop: Workshop) -> Changes:
        wanted = {p[0] for p in self.after}
        self.before = [
            (c.id, c.combination_id, c.run_order)
            for c in trial_store.cells(workshop.connection, self.trial_id)
            if c.id in wanted
        ]
        return self._write(workshop, self.after)

    def undo(self, workshop: Workshop) -> Changes:
        return self._write(workshop, self.before)

    def _write(self, workshop: Workshop, placements: Sequence[Placement]) -> Changes:
        with workshop.transaction() as db:
            trial_store.assign(db, placements)
        cells = frozenset(p[0] for p in placements)
        return changed(CELLS, trial_id=self.trial_id, cells=cells)


@dataclass
class TakeReading:
    """Keep one typed reading; safe on disk when this returns. Taking it back strikes it."""

    trial_id: int
    reading: Reading
    id: int = 0
    name: str = "take a reading"

    def do(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            if self.id:
                reading_store.strike(db, [self.id], "typed again", workshop.now(), struck=False)
            else:
                kind_of(self.reading.measurand).check(self.reading.value)
                stamped = replace(self.reading, taken_at=workshop.now())
                self.id = reading_store.add_reading(db, stamped)
        return self._changes()

    def undo(self, workshop: Workshop) -> Changes:
        with workshop.transaction() as db:
            reading_store.strike(db, [self.id], "taken back", workshop.now())
        return self._changes()

    def _changes(self) -> Changes:
        cells = frozenset({self.reading.cell_id})
        return changed(READINGS, trial_id=self.trial_id, cells=cells)


@dataclass
class StrikeReadings:
    """Strike readings out with a reason, or let struck ones count again."""

    trial_id: int
    reading_ids: Sequence[int]
    reason: str
    struck: bool = True
    cells: frozenset[int] = field(default=frozenset())
    name: str = "strike a reading"

    def do(self, workshop: Workshop) -> Changes:
        if self.struck and not self.reason.strip():
            raise ValueRefused("A struck reading needs a reason.", todo="Say why in a few words.")
        return self._write(workshop, self.struck)

    def undo(self, workshop: Workshop) -> Changes:
        return self._write(workshop, not self.struck)

    def _write(self, workshop: Workshop, struck: bool) -> Changes:
        with workshop.transaction() as db:
            reading_store.strike(db, self.reading_ids, self.reason, workshop.now(), struck)
        return changed(READINGS, trial_id=self.trial_id, cells=self.cells)
