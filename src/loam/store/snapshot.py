"""A trial at one moment, read from the workshop inside one transaction."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

import numpy as np

from loam.core.snapshot import ColumnMaker, Snapshot, columns_of, in_one_order
from loam.store.cells import cells
from loam.store.combinations import combinations
from loam.store.draft import TrialDraft
from loam.store.identity import by_made, identities
from loam.store.panels import ON_GRID, hidden, panels
from loam.store.readings import READABLE, STRUCK_NOW
from loam.store.take_out import in_order

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
        " coalesce(w.person_id, 0), coalesce(r.reader_id, 0), coalesce(r.session_id, 0), r.value,"
        " r.id"
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
    numbers = [np.zeros(0, dtype=np.intp)]
    while rows := cursor.fetchmany(_CHUNK):
        c = list(zip(*rows, strict=True))
        people = (list(map(names.__getitem__, c[i])) for i in (6, 7))
        maker.add_columns((*c[:6], *people, list(map(days.__getitem__, c[8])), c[9]))
        numbers.append(np.array(c[10], dtype=np.intp))
    placed = by_made(identities(db, "panel"))
    taped = in_order(panels(db, trial_id), placed)
    place = {p.id: i for i, p in enumerate(taped)}
    laid = sorted(cells(db, trial_id), key=lambda c: (place[c.panel_id], c.row, c.column))
    made = by_made(identities(db, "combination"))
    return in_one_order(
        Snapshot(
            tuple(taped),
            tuple(in_order(combinations(db, trial_id), made)),
            tuple(laid),
            maker.columns(),
            np.concatenate(numbers),
        )
    )


def snapshot_of(draft: TrialDraft) -> Snapshot:
    """Return a trial that is in memory only as a snapshot."""
    struck: dict[int, bool] = {}
    for entry in draft.strikes:
        struck[entry.reading_id] = entry.struck
    counting = [r for r in draft.readings if not struck.get(r.id)]
    cells = sorted(draft.cells, key=lambda c: (c.panel_id, c.row, c.column))
    return in_one_order(
        Snapshot(
            draft.panels,
            draft.combinations,
            tuple(cells),
            columns_of(counting),
            np.array([r.id for r in counting], dtype=np.intp),
        )
    )
