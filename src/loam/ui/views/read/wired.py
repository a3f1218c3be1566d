"""Meters on their ports: joined once, then Enter on an empty box lets the meter read."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Protocol

from PyQt6.QtCore import QTimer

from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.words.verdict import listed
from loam.devices.meter import (
    LIFT,
    LOW_BATTERY,
    METERS,
    READY,
    Meter,
    MeterFault,
    MeterReading,
    PortLost,
)
from loam.store.raw_lines import RawLine
from loam.ui.views.read.owner import Owner

PORTS = "meter_ports"
"""The setting that keeps by path which ports may be opened."""
LISTEN_MS = 150
REST_S = 0.4
"""A button rests so long between two presses, or it is stuck."""
WARM_SHARE = 0.95


class Taker(Owner, Protocol):
    """The view that a reading goes to."""

    def choose_ports(self, ports: Sequence[str], chosen: Mapping[str, bool]) -> None:
        """Ask which ports may be opened, and let them be opened."""
        ...

    def take(self, text: str, scale: str, raw: RawLine) -> None:
        """Take a figure as if it were typed."""
        ...

    def take_tile(self, value: float) -> None:
        """Take what a meter read of its tile."""
        ...

    def trigger(self) -> None:
        """The button on the meter was pressed."""
        ...


def known_ports(session: Session) -> dict[str, bool]:
    """Return by path which ports were chosen or not; what cannot be is left out."""
    kept = session.recall(PORTS, {})
    return {str(path): yes for path, yes in kept.items() if isinstance(yes, bool)}


def simulated_ports() -> Path:
    """Return where simulated meters name their ports."""
    from loam.simulated.serve import folder

    return folder()


class Wired:
    """The meters that answer, by kind.

    Attributes
    ----------
    places : sequence of Path
        Folders in which ports are named, beside those of the machine.
    """

    def __init__(self, view: Taker, places: Sequence[Path] | None = None) -> None:
        self.view = view
        self.places = places
        self.meters: dict[str, Meter] = {}
        self.reading = self._told = False
        self.clock: Callable[[], float] = time.monotonic
        self._rests_until = 0.0
        self._ear = QTimer()
        self._ear.setInterval(LISTEN_MS)
        self._ear.timeout.connect(self.listen)

    def meter(self, measurand: str) -> Meter | None:
        """Return the meter that reads a measurand."""
        for kind, own in ((k.key, k.reads) for k in METERS.values()):
            if kind in self.meters and measurand in {m for _, m in own}:
                return self.meters[kind]
        return None

    def join(self) -> None:
        """Look which ports there are; those that were not asked about yet are named first."""
        again = bool(self.meters)
        self.leave()
        places = [simulated_ports()] if self.places is None else list(self.places)
        self.view.shell.say("Looking for meters …")
        self.view.shell.jobs.start(
            "ports",
            lambda: _ports(places),
            lambda found: self._named(found, again=again),
            self._failed,
        )

    def _named(self, found: list[str], *, again: bool) -> None:
        """Ask which ports may be opened, or open those that were chosen before."""
        kept = known_ports(self.view.session)
        if found and (again or not set(found) <= set(kept)):
            self.view.choose_ports(found, kept)
            return
        self.open([path for path in found if kept.get(path)])

    def open(self, paths: Sequence[str]) -> None:
        """Open some ports and keep the meters that answer."""
        self.view.shell.jobs.start("meters", lambda: _found(paths), self._joined, self._failed)

    def _joined(self, found: dict[str, Meter]) -> None:
        self.meters = found
        for meter in found.values():
            meter.forget()
        names = [METERS[kind].name for kind in METERS if kind in found]
        if not names:
            said = "No meter answers on any port. Type what it shows; ./run instruments has some."
            self.view.shell.say(said, care=True)
            return
        said = listed(names)
        verb = "answers" if len(names) == 1 else "answer"
        said = f"{said[:1].upper()}{said[1:]} {verb}: Enter on the empty box lets it read."
        cold = [METERS[k].name for k, m in found.items() if m.warm < WARM_SHARE]
        if cold:
            is_ = "is" if len(cold) == 1 else "are"
            said += f" {listed(cold)} {is_} cold yet: wait two minutes, or readings lie low."
        self.view.shell.say(said, care=bool(cold))
        self._ear.start()
        self.view.shell.keys_changed()

    def listen(self) -> None:
        """Hear what meters say unasked: the button on one lets it read, a lifted one is said."""
        if self.reading:
            return
        for kind, meter in list(self.meters.items()):
            try:
                said = meter.heard()
            except MeterFault as error:
                self._lost(meter)(error)
                continue
            if said == READY and meter is self.meter(self.view.measurand):
                self._pressed(meter)
            elif said == LIFT:
                self.view.complain(f"{meter.name} is lifted or tilted: set it down flat.")
            elif said == LOW_BATTERY:
                self.view.shell.say(f"The battery of {METERS[kind].name} is low.", care=True)

    def _pressed(self, meter: Meter) -> None:
        """Let a meter read whose button was pressed; one that never rests is said, not followed."""
        now = self.clock()
        early = now < self._rests_until
        self._rests_until = now + REST_S
        if not early:
            self._told = False
            self.view.trigger()
        elif not self._told:
            self._told = True
            self.view.complain(
                f"The button of {METERS[meter.kind].name} presses faster than it can read: one"
                " press, one reading. Is it stuck?"
            )

    def _failed(self, error: LoamError) -> None:
        self.reading = False
        self.view.complain(f"{error.what} {error.todo}".strip())

    def ask(self) -> bool:
        """Let the meter of what is read take a reading; False when there is none."""
        meter = self.meter(self.view.measurand)
        if meter is None:
            return False
        if not self.reading:
            self.reading = True
            self.view.complain("Reading …")
            wanted = (self.view.measurand, self._cell())
            self.view.shell.jobs.start(
                "meter", meter.read, lambda found: self._came(found, wanted), self._lost(meter)
            )
        return True

    def ask_tile(self, named: float) -> bool:
        """Let the meter read its tile; False when there is none."""
        meter = self.meter(self.view.measurand)
        if meter is None or meter.tile_of != self.view.measurand:
            return False
        if not self.reading:
            self.reading = True
            self.view.complain("Reading the tile …")
            self.view.shell.jobs.start(
                "meter",
                lambda: meter.tile("T1", named),
                lambda off: self._tile_came(named + off),
                self._lost(meter),
            )
        return True

    def _tile_came(self, value: float) -> None:
        self.reading = False
        self.view.complain("")
        self.view.take_tile(value)

    def _cell(self) -> int:
        state = self.view.state
        return state.cell.id if state is not None else 0

    def _came(self, found: MeterReading, wanted: tuple[str, int]) -> None:
        """Hand a reading on, unless the cell was turned meanwhile or the meter doubts itself."""
        self.reading = False
        self._rests_until = max(self._rests_until, self.clock() + REST_S)
        self.view.complain("")
        state = self.view.state
        if state is None or wanted != (self.view.measurand, self._cell()):
            self.view.complain("The cell was turned while the meter read: read again.")
            return
        if found.flag != "ok":
            self.view.complain(f"The meter says {found.flag}: set it down flat and read again.")
            return
        value = found.values.get(self.view.measurand)
        if value is None:
            self.view.complain(f"The meter sent no {state.kind.label}: read again, or type it.")
            return
        raw = RawLine(found.raw, found.device_s, round(found.host_s, 2))
        scale = found.scale if state.kind.scales else ""
        self.view.take(state.kind.write(value), scale, raw)

    def _lost(self, meter: Meter) -> Callable[[LoamError], None]:
        def failed(error: LoamError) -> None:
            self._failed(error)
            if isinstance(error, PortLost):
                self.meters = {k: m for k, m in self.meters.items() if m is not meter}
                meter.close()
                self.view.shell.keys_changed()

        return failed

    def leave(self) -> None:
        """Close every port."""
        self._ear.stop()
        for meter in self.meters.values():
            meter.close()
        self.meters = {}


def _ports(places: Sequence[Path]) -> list[str]:
    """Return which ports there are; made for a worker thread."""
    from loam.devices.ports import ports

    return ports(places)


def _found(paths: Sequence[str]) -> dict[str, Meter]:
    """Open ports and return the meters that answer; made for a worker thread."""
    from loam.devices.ports import open_meter

    found: dict[str, Meter] = {}
    for path in paths:
        try:
            meter = open_meter(path)
            meter.warm, _battery = meter.state()
        except LoamError:
            continue
        if meter.kind in found:
            meter.close()
        else:
            found[meter.kind] = meter
    return found
