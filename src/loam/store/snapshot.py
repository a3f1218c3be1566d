"""A trial at one moment, read from the workshop inside one transaction."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

from loam.core.snapshot import ColumnMaker, Snapshot, columns_of
from loam.store.cells import cells
from loam.store.combinations import combinations
from loam.store.draft import TrialDraft
from loam.store.panels import ON_GRID, hidden, panels
from loam.store.readings import READABLE, STRUCK_NOW

_CHUNK = 2000


class _Named(dict[int, str]):
    """Names by id; nobody has the empty one."""

    def __missing__(self, key: int) -> str:
        return ""


def load_snapshot(
    db: sqlite3.Connection, trial_id: int, measurands: Iterable[str] | None = None
) -> Snapshot:
    """Load a trial; the readings come in small portions, which keep other threads running.

    Parameters
    ----------
    measurands : iterable of str, optional
        Only readings of these; all by default.
    """
    wanted = None if measurands is None else list(measurands)
    only = "" if wanted is None else f" AND r.measurand IN ({','.join('?' * len(wanted))})"
    cursor = db.execute(
        "SELECT r.cell_id, r.stage, r.ordinal, r.measurand, r.phase, r.scale,"
        " coalesce(w.person_id, 0), coalesce(r.reader_id, 0), coalesce(r.session_id, 0), r.value"
        " FROM taping t JOIN cell c ON c.taping_id = t.id"
        f" JOIN reading r ON r.cell_id = c.id{only} LEFT JOIN work w ON w.id = r.work_id"
        f" WHERE t.trial_id = ? AND t.put_away = 0 AND c.put_away = 0{hidden(db, trial_id)}"
        f"{ON_GRID}{READABLE}"
        f" AND r.id NOT IN ({STRUCK_NOW})"
        " ORDER BY r.cell_id, r.id",
        (*(wanted or ()), trial_id),
    )
    names = _Named(db.execute("SELECT id, name FROM person"))
    days = _Named(db.execute("SELECT id, day FROM session"))
    maker = ColumnMaker()
    while rows := cursor.fetchmany(_CHUNK):
        c = list(zip(*rows, strict=True))
        people = (list(map(names.__getitem__, c[i])) for i in (6, 7))
        maker.add_columns((*c[:6], *people, list(map(days.__getitem__, c[8])), c[9]))
    return Snapshot(
        tuple(panels(db, trial_id)),
        tuple(combinations(db, trial_id)),
        tuple(cells(db, trial_id)),
        maker.columns(),
    )


def snapshot_of(draft: TrialDraft) -> Snapshot:
    """Return a trial that is in memory only as a snapshot."""
    struck: dict[int, bool] = {}
    for entry in draft.strikes:
        struck[entry.reading_id] = entry.struck
    return Snapshot(
        draft.panels,
        draft.combinations,
        draft.cells,
        columns_of(r for r in draft.readings if not struck.get(r.id)),
    )
