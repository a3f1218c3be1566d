"""Tile checks of the meter at hand: when one is due, and what its drift did to the readings."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from loam.app.session import Session
from loam.core.dates import minutes_between
from loam.core.readings import kind_of
from loam.core.tiles import (
    DOUBTFUL,
    GOOD,
    LIMITS,
    ReadAt,
    TileCheck,
    corrections,
    doubtful,
    due,
)
from loam.store import kit, noted
from loam.store.noted import Noted

NAMELESS = "the meter"
CORRECTED = "corrected for drift"


@dataclass(frozen=True)
class Drifted:
    """Readings that a bad check throws doubt on, and what they would be without the drift."""

    check: TileCheck
    readings: tuple[ReadAt, ...]
    cells: frozenset[int]
    values: tuple[tuple[int, float], ...]
    since: str


def check_of(note: Noted) -> TileCheck:
    """Return a check as it was noted."""
    f: Mapping[str, Any] = note.facts
    celsius = f.get("celsius")
    return TileCheck(
        note.id,
        str(f["meter"]),
        str(f["measurand"]),
        float(f["named"]),
        tuple(float(v) for v in f["read"]),
        note.at,
        bool(f.get("calibrated")),
        float(celsius) if isinstance(celsius, int | float) else None,
    )


def checks(session: Session, meter: str, measurand: str) -> list[TileCheck]:
    """Return the checks of a meter for a measurand, oldest first."""
    db, named = session.workshop.connection, meter or NAMELESS
    found: list[TileCheck] = session.cached(
        f"tiles {measurand} {named}",
        lambda: [check_of(n) for n in noted.tiles(db, named, measurand)],
    )
    return found


def printed(session: Session, meter: str, measurand: str) -> float | None:
    """Return a tile's printed value: of the last check, or the shelf's; None where nobody said.

    Foils of a film gauge come in a usual thickness, which is offered.
    """
    known = checks(session, meter, measurand)
    if known:
        return known[-1].named
    db = session.workshop.connection
    if meter and measurand.startswith("gloss"):
        named = [t for t in kit.things(db, kit.METER) if t.name.casefold() == meter.casefold()]
        tile = named[0].facts.get("tile") if named else None
        if isinstance(tile, int | float):
            return float(tile)
    own = LIMITS.get(measurand)
    return own.usual if own is not None else None


def tile_words(session: Session, meter: str, measurand: str) -> tuple[str, bool]:
    """Say how the tile stands, and whether a check is due."""
    if measurand not in LIMITS:
        return "", False
    known = checks(session, meter, measurand)
    last = known[-1] if known else None
    why = due(last, session.workshop.now())
    if last is None:
        return f"The tile of {meter or NAMELESS} is not checked yet: T checks it.", True
    kind = session.kind(measurand)
    ago = minutes_between(last.at, session.workshop.now())
    when = f"{ago:.0f} min ago" if ago < 600 else f"on {last.at[:10]}"
    sign = "+" if last.off > 0 else ""
    said = f"Tile checked {when}, off by {sign}{kind.write_span(last.off, 1)} {kind.unit}."
    return (f"{said} A check is due: T.", True) if why else (said, False)


_READINGS = (
    "SELECT r.id, r.value, r.taken_at, r.cell_id FROM reading r JOIN cell c ON c.id = r.cell_id"
    " JOIN taping t ON t.id = c.taping_id LEFT JOIN kit_version m ON m.id = r.meter_id"
    " WHERE t.trial_id=? AND r.measurand=? AND coalesce(m.name, '')=?"
    " AND NOT coalesce((SELECT s.struck FROM strike s WHERE s.reading_id = r.id"
    f"  ORDER BY s.id DESC LIMIT 1), 0) AND r.mark <> '{CORRECTED}' ORDER BY r.id"
)


def drifted(session: Session, meter: str, measurand: str) -> Drifted | None:
    """Return what the last bad check throws doubt on in the trial at hand; None while all is well.

    What was corrected or struck is settled.
    """
    known = checks(session, meter, measurand)
    db = session.workshop.connection
    rows = db.execute(_READINGS, (session.trial_id or 0, measurand, meter)).fetchall()
    for at in range(len(known) - 1, -1, -1):
        check = known[at]
        if check.verdict == GOOD:
            continue
        since = next((c for c in reversed(known[:at]) if c.verdict == GOOD), None)
        start = since.at if since is not None else ""
        own = [r for r in rows if start < r[2] <= check.at]
        if not own:
            continue
        readings = tuple(ReadAt(r[0], r[1], r[2]) for r in own)
        values: list[tuple[int, float]] = []
        if since is not None:
            values = corrections(since, check, readings, kind_of(measurand).decimals)
        return Drifted(check, readings, frozenset(r[3] for r in own), tuple(values), start)
    return None


def check_words(check: TileCheck) -> str:
    """Say what a check says to do."""
    if check.verdict == GOOD:
        return "The meter is where it was. Read on."
    how = "Far off" if check.verdict == DOUBTFUL else "Off"
    return f"{how}: calibrate to the tile, and read it again."


def drift_words(found: Drifted) -> str:
    """Say what a bad check means for the readings."""
    n = len(found.readings)
    readings = "1 reading" if n == 1 else f"{n} readings"
    since = f"since {found.since[11:16]}" if found.since else "so far (no check came before)"
    if found.check.verdict == DOUBTFUL:
        return f"{readings} {since} {'is' if n == 1 else 'are'} doubtful."
    return f"{readings} {since} {'leans' if n == 1 else 'lean'} with it."


def doubtful_words(db: sqlite3.Connection, trial_id: int, measurand: str) -> str:
    """Say which readings of a trial stand in doubt by the tile; made for a worker; "" for none."""
    found = []
    meters = {
        n.facts.get("meter")
        for n in noted.of_trial(db, trial_id, noted.TILE)
        if n.facts.get("measurand") == measurand
    }
    for meter in sorted(str(m) for m in meters):
        known = [check_of(n) for n in noted.tiles(db, meter, measurand)]
        name = "" if meter == NAMELESS else meter
        rows = db.execute(_READINGS, (trial_id, measurand, name)).fetchall()
        own = doubtful(known, [ReadAt(r[0], r[1], r[2]) for r in rows])
        if own:
            found.append(f"{len(own)} readings of {meter}")
    if not found:
        return ""
    return (
        f"{' and '.join(found)} stand in doubt: the tile was far off afterwards. They count;"
        " Read, T, corrects them or leaves them out."
    )
