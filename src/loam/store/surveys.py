"""Thickness surveys of the workshop's panels; a spot is struck, never changed or deleted."""

from __future__ import annotations

import sqlite3

from loam.core.film import Spot
from loam.core.record import SURVEY, SURVEY_STRIKE
from loam.store.rows import append


def add_spot(db: sqlite3.Connection, panel_id: int, spot: Spot, now: str) -> int:
    """Write a reading of the whole film of a physical panel and return its id."""
    return append(
        db, SURVEY, panel=panel_id, x_mm=spot.x_mm, y_mm=spot.y_mm, film_um=spot.film_um, at=now
    )


def strike_spot(db: sqlite3.Connection, spot_id: int, struck: bool, now: str) -> None:
    """Let a spot count no longer, or again."""
    append(db, SURVEY_STRIKE, survey=spot_id, struck=int(struck), at=now)


def spots(db: sqlite3.Connection, panel_id: int) -> list[Spot]:
    """Return the spots of a physical panel that count, in the order they were read."""
    rows = db.execute(
        "SELECT s.x_mm, s.y_mm, s.film_um, s.id FROM survey s WHERE s.panel_id=?"
        " AND NOT EXISTS (SELECT 1 FROM survey_strike k WHERE k.survey_id = s.id AND k.struck = 1"
        " AND k.id = (SELECT max(id) FROM survey_strike WHERE survey_id = s.id)) ORDER BY s.id",
        (panel_id,),
    )
    return [Spot(*row) for row in rows]
