"""What the readings of a trial carry beside their values, for its doubts."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

import numpy as np

from loam.core.doubts.records import Extras
from loam.core.snapshot import Snapshot
from loam.store import work
from loam.store.draft import TrialDraft
from loam.store.readings import STRUCK_NOW

_Known = tuple[float, str, float]
_NAN = float("nan")


def _from_about(about: str) -> _Known:
    """Return order, pad and sets as a file said them."""
    if not about:
        return _NAN, "", _NAN
    try:
        found = json.loads(about)
    except ValueError:
        return _NAN, "", _NAN
    if not isinstance(found, dict):
        return _NAN, "", _NAN

    def number(key: str) -> float:
        value = found.get(key)
        return float(value) if isinstance(value, int | float) else _NAN

    return number("read_order"), str(found.get("pad_id", "")), number("worked_sets")


def _extras(known: Iterable[_Known], numbers: Iterable[int]) -> Extras:
    rows = list(known)
    pads = list(dict.fromkeys(pad for _, pad, _ in rows if pad))
    at = {pad: i for i, pad in enumerate(pads)}
    return Extras(
        np.array([r[0] for r in rows], float),
        np.array([at.get(r[1], -1) for r in rows], dtype=np.intp),
        np.array([r[2] for r in rows], float),
        np.array(list(numbers), dtype=np.intp), tuple(pads),
    )  # fmt: skip


def extras_of(draft: TrialDraft) -> Extras:
    """Return what the readings of a draft carry, in the order of its snapshot.

    A reading is called by its number in the draft.
    """
    struck: dict[int, bool] = {}
    for entry in draft.strikes:
        struck[entry.reading_id] = entry.struck
    own = [r for r in draft.readings if not struck.get(r.id)]
    return _extras((_from_about(r.about) for r in own), (r.id for r in own))


def extras_in(
    db: sqlite3.Connection, trial_id: int, snapshot: Snapshot, measurands: Iterable[str] = ()
) -> Extras:
    """Return what the readings of a trial carry, in the order of its snapshot from the workshop.

    The order of reading is that of the day's times; a pad and its sets come from the work that was
    noted, where a file did not say.
    """
    wanted = list(measurands)
    only = f" AND r.measurand IN ({','.join('?' * len(wanted))})" if wanted else ""
    rows = db.execute(
        "SELECT r.id, r.cell_id, coalesce(r.session_id, 0), r.taken_at, r.about, r.measurand"
        " FROM taping t JOIN cell c ON c.taping_id = t.id"
        f" JOIN reading r ON r.cell_id = c.id{only}"
        " WHERE t.trial_id = ? AND t.put_away = 0 AND c.put_away = 0"
        f" AND r.id NOT IN ({STRUCK_NOW}) ORDER BY r.cell_id, r.id",
        (*wanted, trial_id),
    ).fetchall()
    if len(rows) != snapshot.columns.value.size:
        return Extras.unknown(snapshot.columns.value.size)
    pads = _pads_of_cells(db, trial_id)
    order = _orders(rows)
    known = []
    for row in rows:
        said = _from_about(row[4])
        pad, sets = pads.get(row[1], ("", _NAN))
        known.append((
            order[row[0]] if np.isnan(said[0]) else said[0], said[1] or pad,
            sets if np.isnan(said[2]) else said[2],
        ))  # fmt: skip
    return _extras(known, (r[0] for r in rows))


def _orders(rows: list[tuple[int, int, int, str, str, str]]) -> dict[int, float]:
    """Number the readings of each day and measurand by their times; equal times share a place."""
    found: dict[int, float] = {}
    groups: dict[tuple[int, str], list[tuple[str, int]]] = {}
    for reading, _, day, at, _, measurand in rows:
        groups.setdefault((day, measurand), []).append((at, reading))
    for own in groups.values():
        times = {at: i for i, at in enumerate(sorted({at for at, _ in own}))}
        found.update((reading, float(times[at]) if len(times) > 1 else _NAN) for at, reading in own)
    return found


def _pads_of_cells(db: sqlite3.Connection, trial_id: int) -> dict[int, tuple[str, float]]:
    """Return the pad of each cell's last stage, and how many cells it had worked before."""
    last: dict[int, tuple[int, str]] = {}
    sets: dict[str, int] = {}
    found: dict[int, tuple[str, float]] = {}
    for w in work.paced(db, trial_id):
        if w.what != work.PASS or not w.pad:
            continue
        if last.get(w.cell_id) != (w.stage, w.pad):
            last[w.cell_id] = (w.stage, w.pad)
            found[w.cell_id] = (w.pad, float(sets.get(w.pad, 0)))
            sets[w.pad] = sets.get(w.pad, 0) + 1
    return found
