"""Readings and strikes: only ever added."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import replace

from loam.core.record import STRIKE
from loam.core.trial import BEFORE, PHASES, Reading
from loam.store import kit, raw_lines
from loam.store.one_row import rows_at_once
from loam.store.people import person_id, session_id, work_id
from loam.store.raw_lines import RawLine
from loam.store.rows import append

_INSERT = (
    "INSERT INTO reading(id, cell_id, measurand, phase, stage, ordinal, value, scale, work_id,"
    " reader_id, meter_id, session_id, raw_line_id, mark, taken_at, about)"
    " VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)"
)
_SELECT = (
    "SELECT r.id, r.cell_id, r.measurand, r.value, r.phase, r.ordinal, r.stage, r.scale,"
    " coalesce(o.name, ''), coalesce(s.day, ''), r.taken_at,"
    " (SELECT k.reason FROM strike k WHERE k.reading_id = r.id AND k.struck = 1"
    " AND k.id = (SELECT max(id) FROM strike WHERE reading_id = r.id)),"
    " coalesce(p.name, ''), coalesce(m.name, ''), r.mark, r.about"
    " FROM reading r LEFT JOIN work w ON w.id = r.work_id"
    " LEFT JOIN person o ON o.id = w.person_id LEFT JOIN person p ON p.id = r.reader_id"
    " LEFT JOIN kit_version m ON m.id = r.meter_id LEFT JOIN session s ON s.id = r.session_id"
)
_PHASES = ",".join(f"'{p}'" for p in PHASES)
READABLE = f" AND r.phase IN ({_PHASES}) AND abs(r.value) < 1e6"
"""A condition on readings ``r`` that leaves out what no meter of Loam's says."""
STRUCK_NOW = (
    "SELECT s.reading_id FROM strike s WHERE s.struck = 1"
    " AND s.id = (SELECT max(x.id) FROM strike x WHERE x.reading_id = s.reading_id)"
)


class Clerk:
    """Writes readings down; looks up each person, session, meter and piece of work once."""

    def __init__(self, db: sqlite3.Connection, now: str, raw: RawLine | None = None) -> None:
        self.db, self.now = db, now
        self._raw, self._raw_id = raw, None if raw is None else 0
        self._people: dict[str, int | None] = {}
        self._days: dict[str, int | None] = {}
        self._meters: dict[str, int | None] = {}
        self._work: dict[tuple[int, int, int], int | None] = {}

    def _person(self, name: str) -> int | None:
        if name not in self._people:
            self._people[name] = person_id(self.db, name)
        return self._people[name]

    def row(
        self, reading: Reading, line: int | None = None, meter: int | None = None
    ) -> tuple[object, ...]:
        """Return the row of a reading; what it refers to is added when new.

        ``line`` and ``meter`` are the rows of the instrument's line that it came on, and of the
        meter as it was then, where these are kept already.
        """
        day = reading.day
        if day not in self._days:
            self._days[day] = session_id(self.db, day, reading.taken_at or self.now)
        if meter is None and reading.meter not in self._meters:
            self._meters[reading.meter] = kit.version_id(
                self.db, kit.METER, reading.meter, {}, self.now
            )
        if self._raw is not None and not self._raw_id:
            self._raw_id = raw_lines.add(
                self.db, self._raw, self._meters[reading.meter], self._days[day], self.now
            )
        work, worker = None, self._person(reading.operator)
        if worker is not None:
            key = (reading.cell_id, reading.stage, worker)
            if key not in self._work:
                self._work[key] = work_id(
                    self.db, *key, self._days[day], reading.taken_at or self.now
                )
            work = self._work[key]
        return (
            reading.id or None,
            reading.cell_id,
            reading.measurand,
            reading.phase,
            reading.stage,
            reading.ordinal,
            reading.value,
            reading.scale,
            work,
            self._person(reading.reader),
            meter or self._meters.get(reading.meter),
            self._days[day],
            line or self._raw_id,
            reading.mark,
            reading.taken_at or self.now,
            reading.about,
        )

    def add(self, readings: Iterable[Reading]) -> None:
        """Append readings under the ids that they carry."""
        self.db.executemany(_INSERT, [self.row(r) for r in readings])

    def add_with(self, readings: Iterable[tuple[Reading, int | None, int | None]]) -> None:
        """Append readings, each with the line that it came on and the meter as it was."""
        self.db.executemany(_INSERT, [self.row(*each) for each in readings])


def add_reading(db: sqlite3.Connection, reading: Reading, now: str) -> int:
    """Append one reading and return its id."""
    cursor = db.execute(_INSERT, Clerk(db, now).row(reading))
    return int(cursor.lastrowid or 0)


def strike_one(db: sqlite3.Connection, row: int, reason: str, at: str, struck: bool) -> int:
    """Strike a reading, or let it count again, and return the entry's row."""
    return append(db, STRIKE, reading=row, struck=int(struck), reason=reason, at=at)


def strike(
    db: sqlite3.Connection, reading_ids: Iterable[int], reason: str, at: str, struck: bool = True
) -> None:
    """Strike readings out with a reason, or (``struck`` False) let them count again."""
    for row in reading_ids:
        strike_one(db, row, reason, at, struck)


def struck_among(db: sqlite3.Connection, reading_ids: Sequence[int]) -> frozenset[int]:
    """Return which of these readings are struck now."""
    found: set[int] = set()
    for at in range(0, len(reading_ids), 500):
        some = list(reading_ids[at : at + 500])
        marks = ",".join("?" * len(some))
        found |= {
            int(r[0])
            for r in db.execute(
                f"SELECT id FROM reading WHERE id IN ({marks}) AND id IN ({STRUCK_NOW})", some
            )
        }
    return frozenset(found)


def twins(db: sqlite3.Connection, reading_ids: Sequence[int]) -> dict[int, list[int]]:
    """Return, for some readings, the others that stand in the very same place and count now.

    A reading that was corrected and its correction are such: one of them counts.
    """
    found: dict[int, list[int]] = {}
    for at in range(0, len(reading_ids), 500):
        some = list(reading_ids[at : at + 500])
        marks = ",".join("?" * len(some))
        for own, other in db.execute(
            "SELECT r.id, o.id FROM reading r JOIN reading o ON o.cell_id = r.cell_id"
            " AND o.measurand = r.measurand AND o.phase = r.phase AND o.stage = r.stage"
            f" AND o.ordinal = r.ordinal AND o.id <> r.id WHERE r.id IN ({marks})"
            f" AND o.id NOT IN ({STRUCK_NOW}) ORDER BY r.id, o.id",
            some,
        ):
            found.setdefault(int(own), []).append(int(other))
    return found


def readings_of_cells(
    db: sqlite3.Connection, cell_ids: Sequence[int], measurand: str | None = None
) -> list[Reading]:
    """Return the readings of some cells in the order they were taken, struck ones too."""
    found: list[Reading] = []
    for start in range(0, len(cell_ids), 500):
        part = cell_ids[start : start + 500]
        sql = _SELECT + f" WHERE r.cell_id IN ({','.join('?' * len(part))})"
        values: list[object] = list(part)
        if measurand is not None:
            sql += " AND r.measurand = ?"
            values.append(measurand)
        found += [Reading(*row) for row in db.execute(sql + " ORDER BY r.id", values)]
    return found


def add_readings(
    db: sqlite3.Connection, readings: Sequence[Reading], now: str, raw: RawLine | None = None
) -> list[int]:
    """Append readings, with the instrument's line that they came on, and return their ids."""
    base = int(db.execute("SELECT coalesce(max(id), 0) FROM reading").fetchone()[0])
    ids = list(range(base + 1, base + 1 + len(readings)))
    Clerk(db, now, raw).add(replace(r, id=i) for i, r in zip(ids, readings, strict=True))
    return ids


def corrected(
    db: sqlite3.Connection, values: Iterable[tuple[int, float]], reason: str, now: str
) -> list[int]:
    """Strike readings and append each anew with another value; return the new ids.

    All else stays as it was: who, when, with which meter, the line that it came on.
    """
    ids = []
    for reading_id, value in values:
        cursor = db.execute(
            "INSERT INTO reading(cell_id, measurand, phase, stage, ordinal, value, scale, work_id,"
            " reader_id, meter_id, session_id, raw_line_id, mark, taken_at, about)"
            " SELECT cell_id, measurand, phase, stage, ordinal, ?, scale, work_id, reader_id,"
            " meter_id, session_id, raw_line_id, ?, taken_at, about FROM reading WHERE id=?",
            (value, reason, reading_id),
        )
        ids.append(int(cursor.lastrowid or 0))
        strike(db, [reading_id], reason, now)
    return ids


def last_ordinals(db: sqlite3.Connection, trial_id: int) -> dict[tuple[int, str, str, int], int]:
    """Return the highest number of a reading by (cell, measurand, phase, stage), struck or not."""
    rows = rows_at_once(
        db,
        ("cell_id", "measurand", "phase", "stage", "last"),
        "SELECT r.cell_id, r.measurand, r.phase, r.stage, max(r.ordinal) AS last FROM reading r"
        " WHERE r.cell_id IN (SELECT c.id FROM cell c JOIN taping t ON t.id = c.taping_id"
        "   WHERE t.trial_id = ?) GROUP BY r.cell_id, r.measurand, r.phase, r.stage",
        (trial_id,),
    )
    return {(r[0], r[1], r[2], r[3]): r[4] for r in rows}


def scales_of(db: sqlite3.Connection, trial_id: int, measurand: str) -> set[str]:
    """Return the scales on which a measurand has been read in a trial."""
    found = db.execute(
        "SELECT DISTINCT r.scale FROM reading r JOIN cell c ON c.id = r.cell_id"
        " JOIN taping t ON t.id = c.taping_id WHERE t.trial_id = ? AND r.measurand = ?",
        (trial_id, measurand),
    )
    return {row[0] for row in found}


def counts_in_range(
    db: sqlite3.Connection, first: int, last: int, phase: str
) -> dict[tuple[int, str], tuple[int, float]]:
    """Return count and mean by (cell, measurand), struck left out, for a range of cell ids."""
    rows = rows_at_once(
        db,
        ("cell_id", "measurand", "n", "mean"),
        "SELECT cell_id, measurand, count(*) AS n, avg(value) AS mean FROM reading"
        f" WHERE cell_id BETWEEN ? AND ? AND phase = ? AND id NOT IN ({STRUCK_NOW})"
        " GROUP BY cell_id, measurand",
        (first, last, phase),
    )
    return {(r[0], r[1]): (r[2], r[3]) for r in rows}


def counts_of_cells(
    db: sqlite3.Connection, cells: Sequence[int], phase: str
) -> dict[tuple[int, str], tuple[int, float]]:
    """Return count and mean by (cell, measurand), struck left out, for a few cells."""
    found: dict[tuple[int, str], tuple[int, float]] = {}
    for start in range(0, len(cells), 500):
        part = cells[start : start + 500]
        for cell, measurand, n, mean in db.execute(
            "SELECT r.cell_id, r.measurand, count(*), avg(r.value) FROM reading r"
            f" WHERE r.cell_id IN ({','.join('?' * len(part))}) AND r.phase = ?"
            " AND NOT coalesce((SELECT s.struck FROM strike s WHERE s.reading_id = r.id"
            "  ORDER BY s.id DESC LIMIT 1), 0)"
            " GROUP BY r.cell_id, r.measurand",
            (*part, phase),
        ):
            found[cell, measurand] = (n, mean)
    return found


_COUNTS_AS_READ = (
    "r.phase <> ? AND NOT EXISTS (SELECT 1 FROM strike s WHERE s.reading_id = r.id AND s.struck = 1"
    " AND s.id = (SELECT max(id) FROM strike WHERE reading_id = r.id))"
)


def cells_read(db: sqlite3.Connection, trial_id: int) -> frozenset[int]:
    """Return the cells of a trial that were read since they were worked, and not struck.

    A baseline belongs to the paint, whatever is done to it later.
    """
    rows = db.execute(
        "SELECT DISTINCT r.cell_id FROM taping t JOIN cell c ON c.taping_id = t.id"
        f" JOIN reading r ON r.cell_id = c.id WHERE t.trial_id = ? AND {_COUNTS_AS_READ}",
        (trial_id, BEFORE),
    )
    return frozenset(row[0] for row in rows)


def read_among(db: sqlite3.Connection, cells: Sequence[int]) -> int:
    """Return how many of some cells were read since they were worked."""
    found = 0
    for start in range(0, len(cells), 500):
        part = cells[start : start + 500]
        found += db.execute(
            "SELECT count(DISTINCT r.cell_id) FROM reading r"
            f" WHERE r.cell_id IN ({','.join('?' * len(part))}) AND {_COUNTS_AS_READ}",
            [*part, BEFORE],
        ).fetchone()[0]
    return found


def state_of_trial(db: sqlite3.Connection, trial_id: int) -> tuple[int, int, int, int]:
    """Return what changes whenever a reading of a trial comes, is struck or goes out of sight.

    Count and last id of its readings, last id of a strike in the workshop, count of its cells.
    """
    row = db.execute(
        "SELECT count(r.id), coalesce(max(r.id), 0), count(DISTINCT c.id) FROM taping t"
        " JOIN cell c ON c.taping_id = t.id LEFT JOIN reading r ON r.cell_id = c.id"
        " WHERE t.trial_id = ? AND t.put_away = 0 AND c.put_away = 0",
        (trial_id,),
    ).fetchone()
    struck = db.execute("SELECT coalesce(max(id), 0) FROM strike").fetchone()[0]
    return int(row[0]), int(row[1]), int(struck), int(row[2])
