"""Many rows in one step.

Python's sqlite3 lets go of the interpreter lock for every row. Beside a busy worker thread each row
then waits its turn, and two thousand rows take a fifth of a second on the window's thread. One row
that holds all of them as JSON waits once.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from typing import Any


def rows_at_once(
    db: sqlite3.Connection, columns: Sequence[str], query: str, values: Sequence[object] = ()
) -> list[list[Any]]:
    """Return all rows of a query as lists.

    Parameters
    ----------
    columns : sequence of str
        Names of the query's columns. Real numbers keep 15 digits only: enough to draw, not
        to compute with.
    query : str
        A SELECT whose order is kept.
    """
    listed = ", ".join(columns)
    sql = f"SELECT json_group_array(json_array({listed})) FROM ({query})"
    found: list[list[Any]] = json.loads(db.execute(sql, values).fetchone()[0])
    return found
