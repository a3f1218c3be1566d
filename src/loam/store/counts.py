"""How many rows of each sort belong to a trial."""

from __future__ import annotations

import sqlite3

from loam.core.kit.facts import PAD
from loam.core.record import CHOICES, GROWING, NOTE
from loam.store.choices import key_here
from loam.store.identity import AGAIN
from loam.store.settings import recall
from loam.store.take_out import CELLS, SHOWN, WHOSE, things_used, whose


def counts_of(db: sqlite3.Connection, trial_id: int) -> dict[str, int]:
    """Return how many rows of each sort belong to a trial, by what they are counted as."""
    found: dict[str, int] = {}
    for sort in GROWING:
        part = f"x.{sort.part_by}" if sort.part_by else "''"
        for own, count in db.execute(
            f"SELECT {part}, count(*) FROM {sort.table} x WHERE {whose(sort)}"
            f" AND NOT EXISTS (SELECT 1 FROM identity a WHERE a.sort = '{sort.key}'"
            f" AND a.row = x.id AND a.uid GLOB '{AGAIN}*') GROUP BY 1",
            (trial_id,),
        ):
            key = sort.parts.get(own, sort.key)
            found[key] = found.get(key, 0) + int(count)
        for key in (*sort.parts.values(), *(() if sort is NOTE else (sort.key,))):
            found.setdefault(key, 0)
    for key, sql in _COUNTS.items():
        found[key] = int(db.execute(sql, (trial_id,)).fetchone()[0])
    found["choice"] = sum(
        recall(db, key_here(k, trial_id)) not in (None, {}, [], "", 0, False)
        for k in CHOICES
        if k != "assumed"
    )
    found["pad"] = pads_in(db, trial_id)
    return dict(sorted(found.items()))


_COUNTS = {
    "panel": f"SELECT count(*) FROM taping t WHERE {SHOWN}",
    "combination": "SELECT count(*) FROM combination WHERE trial_id = ?1 AND put_away = 0",
    "stage": "SELECT count(*) FROM stage s JOIN combination k ON k.id = s.combination_id"
    " WHERE k.trial_id = ?1 AND k.put_away = 0",
    "cell": f"SELECT count(*) FROM ({CELLS})",
    "baseline": f"SELECT count(*) FROM baseline x WHERE {WHOSE['cell']}",
}


def pads_in(db: sqlite3.Connection, trial_id: int) -> int:
    """Return how many versions of single pads belong to a trial: what happened to its pads."""
    used = things_used(db, trial_id)
    marks = ",".join(map(str, used))
    row = db.execute(
        f"SELECT count(*) FROM kit_version v JOIN kit_item i ON i.id = v.item_id"
        f" WHERE i.sort = '{PAD}' AND v.id IN ({marks})"
    ).fetchone()
    return int(row[0])
