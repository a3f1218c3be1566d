"""Lines from a port, each with a deadline and a limit of bytes: a port that keeps neither is left.

What a port sends is read as it lies there; nothing waits for a line end that may never come.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Protocol

from loam.core.instruments.line import MOST_BYTES

MOST_LINE = 4 * MOST_BYTES
"""Bytes without a line end after which it is no line."""
DRIP_S = 3.0
"""A line is whole so long after its first byte, or it is none."""
CHUNK = 4096
FLOOD = 8
"""So many full chunks one after the other are more than an instrument says."""
SLICE_S = 0.1


class Port(Protocol):
    """What a driver needs of a port; pyserial's Serial has it."""

    timeout: float | None

    @property
    def in_waiting(self) -> int:
        """Bytes that came and were not read yet."""
        ...

    def write(self, data: bytes, /) -> int | None:
        """Send bytes."""
        ...

    def read(self, size: int = 1, /) -> bytes:
        """Return up to so many bytes, or what came of them before the time was out."""
        ...

    def close(self) -> None:
        """Close the port."""
        ...


class Babble(Exception):
    """A port sends without an end: a line that is none, a drip, or a flood."""


class Lines:
    """Takes lines from a port.

    Parameters
    ----------
    clock : callable
        Returns seconds that only grow.
    """

    def __init__(self, port: Port, clock: Callable[[], float] = time.monotonic) -> None:
        self.port, self.clock = port, clock
        self._rest = b""
        self._since = 0.0
        self._full = 0

    def next(self, until_s: float) -> bytes | None:
        """Return the next line; None when none is whole by then.

        Raises
        ------
        Babble
        OSError, ValueError
            When the port is gone.
        """
        while True:
            line = self._whole()
            if line is not None:
                return line
            left = until_s - self.clock()
            if left <= 0.0:
                return None
            self._fill(max(1, min(self.port.in_waiting, CHUNK)), min(left, SLICE_S))

    def at_once(self) -> list[bytes]:
        """Return the lines that are there; waits for nothing.

        Raises
        ------
        Babble
        OSError, ValueError
            When the port is gone.
        """
        waiting = min(self.port.in_waiting, CHUNK)
        if waiting:
            self._fill(waiting, 0.0)
        found = []
        while (line := self._whole()) is not None:
            found.append(line)
        return found

    def clear(self) -> None:
        """Forget what came so far."""
        self._rest = b""

    def _fill(self, size: int, wait_s: float) -> None:
        self.port.timeout = wait_s
        got = self.port.read(size)
        self._full = self._full + 1 if len(got) >= CHUNK else 0
        if self._full >= FLOOD:
            raise Babble("it sends more than an instrument says")
        if got and not self._rest:
            self._since = self.clock()
        self._rest += got
        if b"\n" in self._rest:
            return
        if len(self._rest) > MOST_LINE:
            raise Babble("it sends without a line end")
        if got and self.clock() - self._since > DRIP_S:
            raise Babble("it sends a line that does not end")

    def _whole(self) -> bytes | None:
        at = self._rest.find(b"\n")
        if at < 0:
            return None
        line, self._rest = self._rest[: at + 1], self._rest[at + 1 :]
        self._since = self.clock()
        return line
