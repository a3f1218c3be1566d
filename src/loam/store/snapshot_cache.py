"""Snapshots that were read before, kept until something changes in their workshop."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterable
from threading import Lock

from loam.core.snapshot import Snapshot
from loam.store.snapshot import load_snapshot

MOST_KEPT = 12
MOST_ROWS = 1_000_000
"""Readings that are kept at most, about 80 MB."""

Loader = Callable[[sqlite3.Connection, int, Iterable[str] | None], Snapshot]


class KeptSnapshots:
    """Snapshots of a workshop that nobody else writes; safe to be asked from any thread."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._stamp = -1
        self._found: dict[object, Snapshot] = {}

    def at(self, stamp: int) -> Loader:
        """Return what loads a trial as `load_snapshot` does, or gives what it found before.

        Parameters
        ----------
        stamp : int
            Another number after every change: what was read before it is not given after it.
        """

        def load(
            db: sqlite3.Connection, trial_id: int, measurands: Iterable[str] | None = None
        ) -> Snapshot:
            wanted = None if measurands is None else tuple(measurands)
            key = (trial_id, wanted)
            with self._lock:
                if stamp > self._stamp:
                    self._stamp = stamp
                    self._found.clear()
                kept = self._found.get(key) if stamp == self._stamp else None
            if kept is not None:
                return kept
            found = load_snapshot(db, trial_id, wanted)
            with self._lock:
                if stamp == self._stamp:
                    self._keep(key, found)
            return found

        return load

    def _keep(self, key: object, found: Snapshot) -> None:
        """Keep a snapshot, and let the oldest go where they become too many."""
        self._found[key] = found
        while len(self._found) > MOST_KEPT or (
            self._found and sum(s.columns.value.size for s in self._found.values()) > MOST_ROWS
        ):
            self._found.pop(next(iter(self._found)))
