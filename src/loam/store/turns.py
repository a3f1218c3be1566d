"""Whose turn it is to write: the hand that types goes first, a long import later.

SQLite lets two connections of a program ask for its writing lock by trying again and again, ever
more seldom; one that writes step after step then starves the other for seconds. Inside one
program this decides instead.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

_turns: dict[str, Turn] = {}
_guard = threading.Lock()


class Turn:
    """Lets one in at a time; who comes ``later`` waits while anyone else is waiting.

    Attributes
    ----------
    log : bytes
        What tells the log that was last marked from others (`store/belonging.py`).
    commits : int
        Transactions that were kept.
    """

    def __init__(self) -> None:
        self.log = b""
        self.commits = 0
        self._free = threading.Condition()
        self._taken = False
        self._waiting = 0

    @contextmanager
    def passed(self, *, later: bool = False) -> Iterator[None]:
        """Hold the turn for the length of a block."""
        with self._free:
            self._waiting += not later
            try:
                self._free.wait_for(lambda: not self._taken and not (later and self._waiting))
            finally:
                self._waiting -= not later
            self._taken = True
        try:
            yield
        finally:
            with self._free:
                self._taken = False
                self._free.notify_all()


def turn_of(path: Path) -> Turn:
    """Return the turn of a workshop's file, the same for every connection of this program."""
    key = os.path.realpath(path)
    with _guard:
        return _turns.setdefault(key, Turn())
