"""Serve simulated instruments on pseudo-terminals, until it is stopped."""

from __future__ import annotations

import os
import selectors
import sys
import tty
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from loam.core.instruments.line import sealed
from loam.simulated.instruments import KINDS, Instrument

WITH_PARENT = "--with-parent"
"""Ends with whoever started it."""


class Bench:
    """Instruments on pseudo-terminals.

    Attributes
    ----------
    ports : dict
        Path of the port of each kind.
    """

    def __init__(self, instruments: dict[str, Instrument]) -> None:
        self.instruments = instruments
        self.ports: dict[str, str] = {}
        self._ours: dict[str, int] = {}
        self._theirs: dict[str, int] = {}
        self._begun: dict[str, bytes] = {}
        self._selector = selectors.DefaultSelector()
        for name in instruments:
            ours, theirs = os.openpty()
            tty.setraw(theirs)  # no echo; their end stays open here, so the port outlives a visit
            os.set_blocking(ours, False)
            self.ports[name] = os.ttyname(theirs)
            self._ours[name], self._theirs[name], self._begun[name] = ours, theirs, b""
            self._selector.register(ours, selectors.EVENT_READ, name)

    def step(self, seconds: float) -> None:
        """Answer what comes within a time."""
        for key, _ in self._selector.select(seconds):
            name = str(key.data)
            with suppress(OSError):
                self._begun[name] += os.read(self._ours[name], 4096)
            *lines, self._begun[name] = self._begun[name].split(b"\n")
            self._begun[name] = self._begun[name][-200:]
            for line in lines:
                for reply in self.instruments[name].answer(line + b"\n"):
                    with suppress(OSError):
                        os.write(self._ours[name], reply)

    def run(self, going: Callable[[], bool]) -> None:
        """Answer as long as it is going."""
        while going():
            self.step(0.2)

    def say(self, name: str, word: str) -> None:
        """Let one say something unasked: READY, as when the button on it is pressed."""
        os.write(self._ours[name], sealed(f"! {word}"))

    def unplug(self, name: str) -> None:
        """Take one away, as a cable that is pulled."""
        self._selector.unregister(self._ours[name])
        for end in (self._ours.pop(name), self._theirs.pop(name)):
            os.close(end)

    def close(self) -> None:
        """Close every port."""
        for name in list(self._ours):
            self.unplug(name)
        self._selector.close()


def folder() -> Path:
    """Return where the ports are named, so that they are found."""
    from platformdirs import user_runtime_path

    return user_runtime_path("loam") / "instruments"


def main() -> int:
    """Serve one instrument of each kind, and name their ports."""
    bench = Bench({name: kind(seed=i) for i, (name, kind) in enumerate(KINDS.items(), 1)})
    place = folder()
    place.mkdir(parents=True, exist_ok=True)
    for name, port in bench.ports.items():
        link = place / name
        link.unlink(missing_ok=True)
        link.symlink_to(port)
        print(f"{name}: {link} -> {port}", flush=True)
    parent = os.getppid()
    alone = WITH_PARENT not in sys.argv
    try:
        bench.run(lambda: alone or os.getppid() == parent)
    except KeyboardInterrupt:
        return 0
    finally:
        for name in bench.ports:
            (place / name).unlink(missing_ok=True)
        bench.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
