"""What was decided while judging: doubts taken into account, what is left out, aims and limits.

Rows are only ever added: taken back is another row. What counts now is kept in the settings; here
stands how it came to that, with when.
"""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from typing import Any

from loam.core.record import DECISION
from loam.store.facts_text import value_of
from loam.store.rows import append


@dataclass(frozen=True)
class Decided:
    """One decision: of which setting, in words, and whether it was taken back again."""

    key: str
    value: Any
    words: str
    back: bool
    person: str
    at: str


def add(
    db: sqlite3.Connection,
    trial_id: int | None,
    key: str,
    value: Any,
    words: str,
    *,
    back: bool,
    person: str,
    now: str,
) -> None:
    """Note a decision, or that it was taken back."""
    append(
        db,
        DECISION,
        trial=trial_id,
        key=key,
        value=json.dumps(value, sort_keys=True),
        words=words,
        back=int(back),
        person=person,
        at=now,
    )


def of_trial(db: sqlite3.Connection, trial_id: int) -> list[Decided]:
    """Return what was decided of a trial, and of the whole workshop, oldest first."""
    rows = db.execute(
        "SELECT key, value, words, back, person, at FROM decision"
        " WHERE trial_id = ? OR trial_id IS NULL ORDER BY at, id",
        (trial_id,),
    )
    return [Decided(k, value_of(v), w, bool(b), p, a) for k, v, w, b, p, a in rows]


def decision_words(found: list[Decided]) -> tuple[str, ...]:
    """Say what was decided, and when."""
    said = []
    for one in found:
        by = f" by {one.person}" if one.person else ""
        back = "taken back: " if one.back else ""
        said.append(f"{one.at[:16].replace('T', ' ')}{by}: {back}{one.words}")
    return tuple(said)
