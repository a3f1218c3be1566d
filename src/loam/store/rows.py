"""Rows of all that is only ever added: how they are written follows from the record."""

from __future__ import annotations

import sqlite3
from functools import cache

from loam.core.record import DECISION, NOTE, Field, Sort

_BESIDE = ("id", "uid", "made")
"""Fields that are no column of the row's own table."""


@cache
def own_fields(sort: Sort) -> tuple[Field, ...]:
    """Return the fields of a sort that are columns of its table, the row's number left out."""
    return tuple(f for f in sort.fields if f.name not in _BESIDE and f.stored != "-")


@cache
def insert_sql(sort: Sort) -> str:
    """Return how a row is added: a value for each of its fields, and its trial where it has one."""
    columns = [f.stored for f in own_fields(sort)]
    if sort in (NOTE, DECISION):
        columns.append("trial_id")
    return f"INSERT INTO {sort.table}({', '.join(columns)}) VALUES ({','.join('?' * len(columns))})"


def append(
    db: sqlite3.Connection, sort: Sort, /, *, trial: int | None = None, **values: object
) -> int:
    """Add a row and return its number.

    Parameters
    ----------
    trial : int or None
        Of a note, or of a decision that is a trial's.
    values
        By the names of the record, with rows of the workshop where a field refers to one; what is
        not named is nothing.

    Raises
    ------
    KeyError
        When the record has no such field.
    """
    fields = own_fields(sort)
    unknown = set(values) - {f.name for f in fields}
    if unknown:
        raise KeyError(f"{sort.many} have no {', '.join(sorted(unknown))}")
    row = [values.get(f.name) for f in fields]
    if sort in (NOTE, DECISION):
        row.append(trial)
    return int(db.execute(insert_sql(sort), row).lastrowid or 0)
