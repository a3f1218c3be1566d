"""What was noticed while a trial was worked and read: no test, and no less worth a look."""

from __future__ import annotations

import sqlite3
from collections import defaultdict
from collections.abc import Mapping
from pathlib import Path

from loam.app.commands.work import MARK_WORDS
from loam.app.questions.seen.find import doubts_in, found_in
from loam.app.work_against_plan import done_in
from loam.core.as_done import unlike_words
from loam.core.readings import kind_of
from loam.core.text import some
from loam.core.verdict import unlike_plan
from loam.store import work
from loam.store.database import reading_apart
from loam.store.panels import hidden
from loam.store.readings import STRUCK_NOW
from loam.store.snapshot import load_snapshot

_WORDS = MARK_WORDS


def noticed(path: Path, trial_id: int) -> tuple[str, ...]:
    """Return, as sentences, what was marked, worked otherwise than planned, or kept though unlike.

    Made for a worker.
    """
    with reading_apart(path) as db:
        return noticed_in(db, trial_id)


def noticed_in(db: sqlite3.Connection, trial_id: int) -> tuple[str, ...]:
    """The same from an open file."""
    snapshot = load_snapshot(db, trial_id, [])
    panel = {p.id: p.name for p in snapshot.panels}
    called = {c.id: f"{panel[c.panel_id]} {c.code}" for c in snapshot.cells}
    done = done_in(db, snapshot, trial_id)
    unlike = unlike_plan(done)
    said = [unlike_words((called[c.id], done[c.id]) for c in snapshot.cells if c.id in unlike)]
    marked: dict[str, list[str]] = defaultdict(list)
    for w in work.paced(db, trial_id):
        mark = str(w.facts.get("mark", "")) if w.what == work.MARK else ""
        if mark and w.cell_id in called and called[w.cell_id] not in marked[mark]:
            marked[mark].append(called[w.cell_id])
    for mark, cells in marked.items():
        verb = "was" if len(cells) == 1 else "were"
        said.append(f"{some(cells)} {verb} marked: {_WORDS.get(mark, mark)}.")
    said += doubts_in(found_in(db, trial_id, snapshot), snapshot)
    kept = _kept(db, trial_id, called)
    if kept:
        verb = "was" if len(kept) == 1 else "were"
        said.append(f"{some(kept)} {verb} kept though unlike the rest.")
    return tuple(s for s in said if s)


def _kept(db: sqlite3.Connection, trial_id: int, called: Mapping[int, str]) -> list[str]:
    """Return the readings that were asked back, and kept."""
    rows = db.execute(
        "SELECT r.cell_id, r.measurand, r.value FROM taping t JOIN cell c ON c.taping_id = t.id"
        " JOIN reading r ON r.cell_id = c.id"
        " WHERE t.trial_id = ? AND t.put_away = 0 AND c.put_away = 0 AND r.mark <> ''"
        f"{hidden(db, trial_id)}"
        f" AND r.id NOT IN ({STRUCK_NOW}) ORDER BY r.id LIMIT 50",
        (trial_id,),
    )
    return [
        f"{called[cell]} {kind_of(m).short} {kind_of(m).write(value)}"
        for cell, m, value in rows
        if cell in called
    ]
