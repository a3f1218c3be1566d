"""What was written goes from the log into the file, in the background, every few seconds.

Until then it is safe, but only beside the file: a copy of the file alone, made by hand, would lack
it.
"""

from __future__ import annotations

import sqlite3
import threading
from contextlib import closing, suppress
from pathlib import Path

from loam.store.database import connect, settle_down
from loam.store.turns import turn_of

EVERY_S = 2.0


class Settler(threading.Thread):
    """Moves what was written into a workshop's file, and empties the log once at rest.

    Parameters
    ----------
    path : Path
        The workshop's file.
    every : float
        Seconds between two looks.
    """

    def __init__(self, path: Path, every: float = EVERY_S) -> None:
        super().__init__(name="settler", daemon=True)
        self.path, self.every = path, every
        self._end = threading.Event()

    def run(self) -> None:
        """Look every few seconds until told to stop."""
        turn, seen, rested = turn_of(self.path), -1, True
        with suppress(sqlite3.Error), closing(connect(self.path, read_only=False)) as db:
            db.execute("PRAGMA busy_timeout = 0")  # who types never waits for this
            while not self._end.wait(self.every):
                now = turn.commits
                if now != seen:
                    settle_down(db)
                    seen, rested = now, False
                elif not rested:
                    rested = True
                    with turn.passed(later=True), suppress(sqlite3.Error):
                        db.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchall()

    def stop(self) -> None:
        """Stop, and wait for a look that is under way."""
        self._end.set()
        self.join()
