"""Acts on whole trials."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from itertools import count
from pathlib import Path

from loam.app.changes import ALL, TRIALS, Changes
from loam.app.commands.base import Add, Edit, PutAway
from loam.app.what_matters import chosen, keep
from loam.core.errors import LoamError
from loam.core.trial import Trial
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import panels as panel_store
from loam.store import trials as trial_store
from loam.store.came import came_since, stood
from loam.store.clearing import clear_steps
from loam.store.database import one_transaction, settle_down, writing_apart
from loam.store.draft import TrialDraft
from loam.store.take_in import draft_steps, write_draft
from loam.store.workshop import Workshop

SETTLE_EVERY = 5
FREED_AT_ONCE = 2000
"""After so many small transactions the log is moved into the file."""


@dataclass
class AddTrial(Add):
    """Start a trial."""

    new: Trial
    name = "start a trial"
    kinds = ALL
    sort = "trial"

    @property
    def trial(self) -> int | None:
        """The trial, once it is there."""
        return self.id or None

    def insert(self, db: sqlite3.Connection, now: str) -> int:
        """Write the trial."""
        return trial_store.add_trial(db, self.new, now)


@dataclass
class CopyTrial(Add):
    """Start a trial as another: question, what matters, kit, panels and layout; no reading."""

    source: Trial
    called: str
    name = "copy a trial"
    kinds = ALL
    sort = "trial"

    @property
    def trial(self) -> int | None:
        """The copy, once it is there."""
        return self.id or None

    def insert(self, db: sqlite3.Connection, now: str) -> int:
        """Write the copy; it uses the same physical panels."""
        source = self.source
        new = trial_store.add_trial(db, replace(source, id=0, name=self.called), now)
        for measurand, value in chosen(db, source.id).items():
            keep(db, new, measurand, value)
        codes: dict[int | None, int | None] = {None: None}
        for c in combination_store.combinations(db, source.id):
            codes[c.id] = combination_store.add_combination(db, new, replace(c, id=0), now)
        places: dict[tuple[int, int, int], tuple[int | None, int | None]] = {}
        called: dict[tuple[int, int, int], str] = {}
        for cell in cell_store.cells(db, source.id, baselines=False):
            place = cell.panel_id, cell.row, cell.column
            places[place], called[place] = (cell.combination_id, cell.run_order), cell.name
        for panel in panel_store.panels(db, source.id):
            taping = panel_store.add_panel(db, replace(panel, id=0, trial_id=new), now)
            at = db.execute(
                'SELECT id, row, "column" FROM cell WHERE taping_id=?', (taping,)
            ).fetchall()
            cell_store.name_cells(
                db,
                [
                    (cell, name)
                    for cell, row, column in at
                    if (name := called.get((panel.id, row, column), ""))
                ],
            )
            cell_store.assign(
                db,
                [
                    (cell, codes.get(code), order)
                    for cell, row, column in at
                    for code, order in [places.get((panel.id, row, column), (None, None))]
                ],
            )
        return new


@dataclass
class EditTrial(Edit):
    """Change a trial's question, name or what is read."""

    before: Trial
    after: Trial
    name = "change the trial"
    kinds = frozenset({TRIALS})

    @property
    def trial(self) -> int | None:
        """The trial."""
        return self.after.id

    def write(self, db: sqlite3.Connection, value: Trial, now: str) -> None:
        """Write the trial."""
        trial_store.change_trial(db, value)


@dataclass
class PutTrialAway(PutAway):
    """Put a trial away, or bring it back."""

    name = "put a trial away"
    kinds = ALL
    sort = "trial"

    @property
    def trial(self) -> int | None:
        """The trial."""
        return self.id


@dataclass
class TakeInTrial(Add):
    """Take in a whole trial from a file, all or nothing.

    A large one is written first on another thread (`write_apart`); the command then only
    remembers it, for undo.
    """

    draft: TrialDraft | None
    name = "take in readings"
    kinds = ALL
    sort = "trial"

    @property
    def trial(self) -> int | None:
        """The trial, once it is there."""
        return self.id or None

    def insert(self, db: sqlite3.Connection, now: str) -> int:
        """Write the draft."""
        assert self.draft is not None
        return write_draft(db, self.draft, now)

    def do(self, workshop: Workshop) -> Changes:
        """Take it in (again); once on disk the draft is let go, so that no history holds it."""
        changes = super().do(workshop)
        self.draft = None
        return changes

    def write_apart(
        self, path: Path, now: str, tell: Callable[[float], None] | None = None
    ) -> Changes:
        """Write the draft beside the window, in many small transactions.

        Until the last one nobody sees the trial; whatever stops it before leaves nothing.

        Parameters
        ----------
        tell : callable, optional
            Called with the share written; may raise to cancel.
        """
        assert self.draft is not None
        total, named = max(len(self.draft.readings), 1), _names(self.draft)
        with writing_apart(path) as db:
            before = stood(db)
            steps, trial_id = draft_steps(db, self.draft, now), 0
            try:
                for number in count(1):
                    if trial_id:
                        break
                    with one_transaction(db, path, later=True):
                        try:
                            done = next(steps)
                        except StopIteration as end:
                            trial_id = end.value
                    if tell is not None:
                        tell(min(done / total, 1.0))
                    if number % SETTLE_EVERY == 0:
                        settle_down(db)
            except BaseException:
                if not _is_there(db, trial_id):
                    clear_unfinished(db, path)
                    raise
            self._came = came_since(db, before, named=named)
        del steps
        self.id, rest, self.draft = trial_id, list(self.draft.readings), None
        while rest:  # hundreds of thousands freed at once would hold up whoever types
            del rest[-FREED_AT_ONCE:]
            time.sleep(0)
        return Changes(ALL, self.id)


def _names(draft: TrialDraft) -> set[str]:
    """Return the names of things and people that a draft brings."""
    things = {
        n
        for c in draft.combinations
        for s in c.stages
        for n in (s.pad, s.compound, s.machine, s.disc)
    }
    brought = {str(r["name"]) for s in ("thing", "person") for r in draft.rest.get(s, ())}
    return things | brought | {n for r in draft.readings for n in (r.operator, r.reader, r.meter)}


def _is_there(db: sqlite3.Connection, trial_id: int) -> bool:
    """Tell whether a trial is shown; the last commit may have reached the disk in spite of all."""
    with suppress(sqlite3.Error):
        row = db.execute("SELECT put_away FROM trial WHERE id=?", (trial_id,)).fetchone()
        return row is not None and row[0] == trial_store.SHOWN
    return False


def clear_unfinished(db: sqlite3.Connection, path: Path) -> None:
    """Clear away what a coming in that was cut off has left; later is soon enough if it fails."""
    with suppress(LoamError, sqlite3.Error):
        steps = clear_steps(db)
        more = True
        while more:
            with one_transaction(db, path, later=True):
                more = next(steps, _END) is not _END


_END = object()
