"""What the readings of a trial carry beside their values, for its doubts."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

import numpy as np

from loam.core.doubts.records import Extras
from loam.core.snapshot import FloatArray, IntArray, Snapshot
from loam.store import work
from loam.store.draft import TrialDraft
from loam.store.facts_text import facts_of
from loam.store.panels import ON_GRID, hidden
from loam.store.readings import READABLE, STRUCK_NOW
from loam.store.snapshot import snapshot_of

_Known = tuple[float, str, float]
_NAN = float("nan")
_UNSAID: _Known = (_NAN, "", _NAN)
_CHUNK = 2000


def _from_about(about: str) -> _Known:
    """Return order, pad and sets as a file said them."""
    found = facts_of(about)
    if not found:
        return _UNSAID

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
        np.array(list(numbers), dtype=np.intp),
        tuple(pads),
    )


def extras_of(draft: TrialDraft) -> Extras:
    """Return what the readings of a draft carry, in the order of its snapshot.

    A reading is called by its number in the draft.
    """
    numbers = snapshot_of(draft).numbers
    assert numbers is not None
    about = {r.id: r.about for r in draft.readings}
    return _extras((_from_about(about[n]) for n in numbers.tolist()), numbers.tolist())


def extras_in(
    db: sqlite3.Connection, trial_id: int, snapshot: Snapshot, measurands: Iterable[str] = ()
) -> Extras:
    """Return what the readings of a trial carry, in the order of its snapshot from the workshop.

    The order of reading is that of the day's times; a pad and its sets come from the work that was
    noted, where a file did not say.
    """
    wanted = list(measurands)
    only = f" AND r.measurand IN ({','.join('?' * len(wanted))})" if wanted else ""
    cursor = db.execute(
        "SELECT r.id, r.cell_id, coalesce(r.session_id, 0), dense_rank() OVER"
        " (PARTITION BY coalesce(r.session_id, 0), r.measurand ORDER BY r.taken_at),"
        " dense_rank() OVER (ORDER BY r.measurand) - 1, r.about"
        " FROM taping t JOIN cell c ON c.taping_id = t.id"
        f" JOIN reading r ON r.cell_id = c.id{only}"
        f" WHERE t.trial_id = ? AND t.put_away = 0 AND c.put_away = 0{hidden(db, trial_id)}"
        f"{ON_GRID}{READABLE}"
        f" AND r.id NOT IN ({STRUCK_NOW}) ORDER BY r.cell_id, r.id",
        (*wanted, trial_id),
    )
    parts, said = [np.zeros((5, 0), dtype=np.int64)], {}
    while rows := cursor.fetchmany(_CHUNK):  # in portions, which keep other threads running
        *numbers, abouts = zip(*rows, strict=True)
        before = sum(p.shape[1] for p in parts)
        said.update({before + i: _from_about(a) for i, a in enumerate(abouts) if a})
        parts.append(np.array(numbers))
    number, cell, day, rank, measurand = np.concatenate(parts, axis=1)
    if number.size != snapshot.columns.value.size:
        return Extras.unknown(snapshot.columns.value.size)
    order = _orders(day, measurand, rank)
    noted = _pads_of_cells(db, trial_id)
    cells, of_cell = np.unique(cell, return_inverse=True)
    own = [noted.get(c, ("", _NAN)) for c in cells.tolist()]
    pads: dict[str, int] = {"": -1}
    pad = np.array([_code(pads, name) for name, _ in own], dtype=np.intp)[of_cell]
    sets = np.array([count for _, count in own], float)[of_cell]
    for i, (at, by, count) in said.items():
        order[i] = order[i] if np.isnan(at) else at
        pad[i] = _code(pads, by) if by else pad[i]
        sets[i] = sets[i] if np.isnan(count) else count
    place = np.arange(number.size)
    if snapshot.numbers is not None:  # as the snapshot has them
        ranked = np.argsort(number, kind="stable")
        place = ranked[np.searchsorted(number[ranked], snapshot.numbers)]
    called = number[place].astype(np.intp)
    return Extras(order[place], pad[place], sets[place], called, tuple(pads)[1:])


def _code(codes: dict[str, int], name: str) -> int:
    return codes.setdefault(name, len(codes) - 1)


def _orders(day: IntArray, measurand: IntArray, rank: IntArray) -> FloatArray:
    """Return the place (n,) of each reading among the times of its day and measurand, from 0.

    NaN where all were read at one time, as those of a file are.
    """
    _, at = np.unique(day * (int(measurand.max(initial=0)) + 1) + measurand, return_inverse=True)
    last = np.zeros(int(at.max(initial=-1)) + 1, dtype=np.intp)
    np.maximum.at(last, at, rank)
    return np.where(last[at] > 1, rank - 1.0, np.nan)


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
