"""What instruments said, as it came; only ever added."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from loam.core.record import LINE
from loam.store.rows import append


@dataclass(frozen=True)
class RawLine:
    """One line of an instrument, its own time, and when it came (seconds since 1970; 0 unknown)."""

    line: str
    device_s: float
    host_s: float = 0.0


def add(
    db: sqlite3.Connection, raw: RawLine, meter: int | None, session: int | None, now: str
) -> int:
    """Keep a line and return its id."""
    line = raw.line.encode("ascii", "replace")
    device = f"{raw.device_s:.1f}"
    return append(db, LINE, meter=meter, day=session, device_time=device, at=now, line=line)


def of_reading(db: sqlite3.Connection, reading_id: int) -> RawLine | None:
    """Return the line that a reading came on; None when it was typed."""
    row = db.execute(
        "SELECT l.line, l.device_time FROM reading r JOIN raw_line l ON l.id = r.raw_line_id"
        " WHERE r.id=?",
        (reading_id,),
    ).fetchone()
    return None if row is None else RawLine(bytes(row[0]).decode("ascii"), float(row[1]))
