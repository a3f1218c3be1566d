"""Which ports are opened: they are named, and asked for once; nothing is sent to the others."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from loam.ui.views.base import Key
from loam.ui.views.read.modes import Asks, Reads
from loam.ui.views.read.wired import PORTS, known_ports
from loam.ui.widgets.big import Piece, Shown

MOST = 9


class PortsMode(Asks):
    """Names the ports; a number turns one, Enter opens those that are chosen.

    Parameters
    ----------
    ports : sequence of str
        Paths.
    chosen : mapping of str to bool
        What was chosen before, by path.
    """

    def __init__(self, view: Reads, ports: Sequence[str], chosen: Mapping[str, bool]) -> None:
        super().__init__(view)
        self.ports = list(ports)[:MOST]
        self.chosen = {path: chosen.get(path, True) for path in self.ports}

    def shown(self) -> Shown:
        """Return what the board shows."""
        pieces = [
            Piece(
                str(i),
                _called(path),
                "ask it" if self.chosen[path] else "leave it",
                chosen=self.chosen[path],
            )
            for i, path in enumerate(self.ports, 1)
        ]
        pieces.append(Piece("Enter", "", "go on"))
        return Shown(
            "Meters on their ports",
            "Each port that is chosen is asked what stands there. Is one of them something else"
            " than a meter? Its number leaves it alone.",
            pieces,
            "It is remembered; Ctrl+L asks again once meters answer.",
        )

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        return [
            ("Enter", "go on", None),
            (f"1–{len(self.ports)}", "ask it or not", None),
            ("Esc", "open none", self.view.leave_mode),
        ]

    def key(self, key: str) -> None:
        """Turn a port, or open what is chosen."""
        if key.isdigit() and 1 <= int(key) <= len(self.ports):
            path = self.ports[int(key) - 1]
            self.chosen[path] = not self.chosen[path]
        elif key == "ENTER":
            self.enter("")
        elif key == "ESC":
            self.view.leave_mode()

    def enter(self, text: str) -> bool:
        """Remember what is chosen, and open it."""
        session = self.view.session
        session.remember(PORTS, known_ports(session) | self.chosen)
        self.view.leave_mode()
        self.view.wired.open([path for path, yes in self.chosen.items() if yes])
        return True


def _called(path: str) -> str:
    place = Path(path)
    return path if place.parent == Path("/dev") else place.name
