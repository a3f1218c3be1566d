"""Who has read what: in a crossed study every reader reads every cell."""

from __future__ import annotations

from loam.app.session import Session
from loam.app.tally import Counts
from loam.core.question import parse
from loam.core.trial import AFTER, Trial

_WAYS = ("gauge", "people")


def crossed(trial: Trial | None) -> bool:
    """Tell whether every reader of a trial reads every cell."""
    return trial is not None and parse(trial.question)[0].key in _WAYS


def counts_at_hand(session: Session, phase: str) -> Counts:
    """Return count and mean by (cell, measurand); in a crossed study of the reader at hand."""
    if not crossed(session.trial):
        return session.counts(phase)
    reader = str(session.recall("reader", ""))
    rows = session.workshop.connection.execute(_BY_READER, (session.trial_id or 0, phase, reader))
    return {(r[0], r[1]): (r[2], r[3]) for r in rows}


_COUNTS = (
    "NOT coalesce((SELECT s.struck FROM strike s WHERE s.reading_id = r.id"
    " ORDER BY s.id DESC LIMIT 1), 0)"
)
_FROM = (
    " FROM taping t JOIN cell c ON c.taping_id = t.id JOIN reading r ON r.cell_id = c.id"
    " LEFT JOIN person p ON p.id = r.reader_id LEFT JOIN kit_version m ON m.id = r.meter_id"
    " WHERE t.trial_id=? AND t.put_away=0 AND c.put_away=0 AND r.phase=?"
)
_BY_READER = (
    f"SELECT r.cell_id, r.measurand, count(*), avg(r.value){_FROM} AND coalesce(p.name, '')=?"
    f" AND {_COUNTS} GROUP BY r.cell_id, r.measurand"
)
ALL_READINGS = (
    f"SELECT c.id, t.id, c.row, c.\"column\", coalesce(p.name, ''), r.value,"
    f" coalesce(m.name, ''), c.name{_FROM}"
    f' AND r.measurand=? AND {_COUNTS} ORDER BY t.id, c.row, c."column", r.id'
)


def readers_done(session: Session, measurand: str, phase: str = AFTER) -> dict[str, int]:
    """Return how many readings each reader has taken in a trial."""
    rows = session.workshop.connection.execute(
        ALL_READINGS, (session.trial_id or 0, phase, measurand)
    )
    found: dict[str, int] = {}
    for *_, reader, _value, _meter, _name in rows:
        found[reader] = found.get(reader, 0) + 1
    return found
