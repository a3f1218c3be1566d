"""How panels were prepared: gates done or skipped; only ever added, taken back by another row."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from loam.core.prepare import Passed
from loam.core.record import GATE
from loam.store.facts_text import facts_of, facts_written
from loam.store.panels import hidden
from loam.store.rows import append

BACK = "taken back"


def add(
    db: sqlite3.Connection,
    panel_id: int,
    gate: str,
    what: str,
    person: int | None,
    session: int | None,
    facts: Mapping[str, Any],
    now: str,
) -> int:
    """Note a gate of a panel in a trial and return the note's id."""
    return append(
        db,
        GATE,
        panel=panel_id,
        gate=gate,
        what=what,
        person=person,
        day=session,
        facts=facts_written(facts),
        at=now,
    )


def take_back(db: sqlite3.Connection, gate_id: int, now: str) -> None:
    """Note that something was not so."""
    row = db.execute("SELECT taping_id, gate FROM gate WHERE id=?", (gate_id,)).fetchone()
    add(db, row[0], row[1], BACK, None, None, {"of": gate_id}, now)


def passed(db: sqlite3.Connection, trial_id: int) -> dict[int, list[Passed]]:
    """Return what was noted of a trial's panels and not taken back, by panel, oldest first."""
    rows = db.execute(
        "SELECT g.taping_id, g.gate, g.what, coalesce(p.name, ''), coalesce(s.day, ''), g.at,"
        " g.facts, g.id FROM gate g JOIN taping t ON t.id = g.taping_id"
        " LEFT JOIN person p ON p.id = g.person_id LEFT JOIN session s ON s.id = g.session_id"
        f" WHERE t.trial_id=? AND t.put_away=0{hidden(db, trial_id)} ORDER BY g.at, g.id",
        (trial_id,),
    ).fetchall()
    gone = {facts_of(r[6]).get("of") for r in rows if r[2] == BACK}
    found: dict[int, list[Passed]] = {}
    for panel, gate, what, person, day, at, facts, row_id in rows:
        if what != BACK and row_id not in gone:
            found.setdefault(panel, []).append(
                Passed(gate, what, person, day, at, facts_of(facts), row_id)
            )
    return found


def without_baseline(db: sqlite3.Connection, trial_id: int, measurand: str) -> dict[int, int]:
    """Return by panel how many cells with a combination lack a reading before work."""
    rows = db.execute(
        "SELECT c.taping_id, count(*) FROM taping t JOIN cell c ON c.taping_id = t.id"
        " WHERE t.trial_id=? AND t.put_away=0 AND c.put_away=0 AND c.combination_id IS NOT NULL"
        f"{hidden(db, trial_id)}"
        " AND NOT EXISTS (SELECT 1 FROM baseline b WHERE b.cell_id = c.id AND b.measurand=?)"
        " AND NOT EXISTS (SELECT 1 FROM reading r WHERE r.cell_id = c.id AND r.measurand=?"
        " AND r.phase='before') GROUP BY c.taping_id",
        (trial_id, measurand, measurand),
    )
    return {int(panel): int(count) for panel, count in rows}
