"""A meter on a serial port: asked, answered, and never believed without a good checksum."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from loam.core.brought import let_stand
from loam.core.errors import LoamError
from loam.core.instruments.faults import fault_words
from loam.core.instruments.line import MOST_SEQ, Garbled, Reply, read_line, request
from loam.devices.lines import Babble, Lines, Port

TIMEOUT_S = 2.0
READY, LIFT, LOW_BATTERY, WARM = "READY", "LIFT", "LOWBAT", "WARM"
"""What a meter says unasked; READY is the button on it."""
MOST_LINES = 64
"""Lines that may come before an answer; more are a flood."""
MOST_EVENTS = 8
TRIES = 3
"""The first, and two more with a new number."""


@dataclass(frozen=True)
class MeterKind:
    """A kind of meter: what it calls itself on the line, its name, and what it reads.

    ``reads`` holds its own names, and the measurands that they are; ``tile`` is the measurand whose
    tile it can read by itself, "" for none.
    """

    key: str
    name: str
    reads: tuple[tuple[str, str], ...]
    tile: str = ""


_SHIPPED = (
    MeterKind(
        "gloss",
        "the gloss meter",
        (("g20", "gloss20"), ("g60", "gloss60"), ("haze", "haze")),
        tile="gloss20",
    ),
    MeterKind("film", "the film gauge", (("um", "film"),)),
    MeterKind("ir", "the thermometer", (("c", "temperature"),)),
)
METERS: dict[str, MeterKind] = {kind.key: kind for kind in _SHIPPED}


def add(kind: MeterKind) -> None:
    """Let a kind of meter of another package stand with those that ship.

    Raises
    ------
    ValueRefused
        When it is none, or there is one of its key.
    """
    let_stand(METERS, kind, MeterKind, "kind of meter")


class MeterFault(LoamError):
    """A meter does not answer, or says that it cannot."""


class PortLost(MeterFault):
    """The port itself is gone: unplugged, or switched off."""


@dataclass(frozen=True)
class MeterReading:
    """One reading, with everything that is kept of it.

    Attributes
    ----------
    values : mapping of str to float
        By measurand.
    scale : str
        Of haze: log or linear; "" elsewhere.
    flag : str
        ok, unstable, low or high.
    device_s : float
        The device's own time.
    host_s : float
        When the line came, by the clock that the driver was given.
    raw : str
        The line as it came.
    """

    values: Mapping[str, float]
    scale: str
    flag: str
    device_s: float
    host_s: float
    raw: str


class Meter:
    """A driver on an open port.

    Attributes
    ----------
    stale, garbled : int
        Lines that were thrown away: late ones, and those whose checksum was wrong.
    events : list of str
        What the device said unasked; of its button at most one press waits.
    where : str
        The port, as it is named when something is said of it.
    warm : float
        0 to 1, when it was asked last.
    """

    def __init__(self, port: Port, clock: Callable[[], float] = time.time, where: str = "") -> None:
        self.port, self.clock, self.where = port, clock, where
        self._lines = Lines(port)
        self._seq = 0
        self.kind, self.serial = "", ""
        self.stale = self.garbled = 0
        self.events: list[str] = []
        self.warm = 1.0

    @property
    def tile_of(self) -> str:
        """The measurand whose tile it reads by itself; "" for none."""
        return METERS[self.kind].tile if self.kind in METERS else ""

    @property
    def name(self) -> str:
        """What it is called when something is said of it."""
        known = METERS.get(self.kind)
        return f"T{known.name[1:]}" if known is not None else "The meter"

    def identify(self) -> str:
        """Ask what it is and return its kind.

        Raises
        ------
        MeterFault
            When it does not answer, or is of no kind that is known.
        """
        found = self.ask("ID").values
        kind = found.get("kind", "")
        if kind not in METERS or found.get("proto") != "1":
            raise MeterFault(
                f"It is a meter of kind {kind[:20] or '?'} that this Loam does not know.",
                todo="Read by hand, or bring its readings in as a file.",
            )
        self.kind, self.serial = kind, found.get("serial", "")
        return kind

    def read(self) -> MeterReading:
        """Take a reading.

        Raises
        ------
        MeterFault
            When it cannot, saying why and what helps.
        """
        reply = self.ask("READ")
        host = self.clock()
        values: dict[str, float] = {}
        for own, measurand in METERS[self.kind or self.identify()].reads:
            if own in reply.values:
                values[measurand] = self._figure(reply, own)
        if not values:
            raise MeterFault(f"{self.name} sent no figure.", todo="Ask again.")
        scale = {"log": "log", "lin": "linear"}.get(reply.values.get("hazescale", ""), "")
        flag = reply.values.get("flag", "ok")
        return MeterReading(values, scale, flag, self._figure(reply, "t"), host, reply.raw)

    def state(self) -> tuple[float, float]:
        """Return how warm it is (0 to 1) and its battery (0 to 100).

        Raises
        ------
        MeterFault
        """
        reply = self.ask("STATE")
        return self._figure(reply, "warm"), self._figure(reply, "bat")

    def heard(self) -> str:
        """Return what it said unasked since it was asked last, "" for nothing; waits for nothing.

        Raises
        ------
        PortLost
            When the port is gone.
        """
        try:
            lines = self._lines.at_once()
        except Babble as error:
            raise self._babbles(error) from error
        except (OSError, ValueError) as error:
            raise self._gone(error) from error
        for line in lines:
            try:
                reply = read_line(line)
            except Garbled:
                self.garbled += 1
                continue
            if reply.event:
                self._note(reply.text)
        return self.events.pop(0) if self.events else ""

    def forget(self) -> None:
        """Forget what it said until now: a greeting at switch-on is no press of its button."""
        self.events.clear()
        self._lines.clear()

    def _note(self, said: str) -> None:
        """Keep what it said unasked; one press of its button, and not too much of the rest."""
        if said not in self.events and len(self.events) < MOST_EVENTS:
            self.events.append(said)

    def _babbles(self, error: Exception) -> PortLost:
        place = f" on {self.where}" if self.where else ""
        return PortLost(
            f"{self.name}{place} babbles: {error}. It was let go.",
            todo="Switch it off and on, or look at its cable, then Ctrl+L; read by hand meanwhile.",
            kept="Every reading so far is kept.",
        )

    def _gone(self, error: Exception) -> PortLost:
        return PortLost(
            f"{self.name} is gone: {error}.",
            todo="Plug it in again; read by hand meanwhile.",
            kept="Every reading so far is kept.",
        )

    def tile(self, name: str, *values: float) -> float:
        """Read its tile and return by how much it is off.

        Raises
        ------
        MeterFault
        """
        return self._figure(self.ask("TILE", name, *values), "dev")

    def _figure(self, reply: Reply, key: str) -> float:
        try:
            value = float(reply.values[key])
        except (KeyError, ValueError):
            value = math.nan
        if not math.isfinite(value):
            raise MeterFault(f"{self.name} sent no figure for {key}.", todo="Ask again.")
        return value

    def ask(self, verb: str, *arguments: object) -> Reply:
        """Ask, and return what was answered to this very request.

        An unanswered or garbled line is asked for twice more, with a new number each time; a late
        answer to an older number is thrown away.

        Raises
        ------
        PortLost
            When the port is gone.
        MeterFault
            When nothing that can be trusted came, or the meter said that it cannot.
        """
        garbled = 0
        for _ in range(TRIES):
            self._seq = (self._seq + 1) % MOST_SEQ
            try:
                self.port.write(request(self._seq, verb, *arguments))
                reply = self._answer(self._seq)
            except Garbled:
                garbled += 1
                self.garbled += 1
                continue
            except Babble as error:
                raise self._babbles(error) from error
            except (OSError, ValueError) as error:  # pyserial's SerialException is an OSError
                raise self._gone(error) from error
            if reply is None:
                continue
            if not reply.ok:
                what, todo = fault_words(reply.code, reply.text)
                raise MeterFault(f"{self.name} {what}.", todo=todo)
            return reply
        how = "only answers that were changed on their way" if garbled else "no answer"
        raise MeterFault(
            f"{self.name} gave {how} in {TRIES} tries.",
            todo="Check cable and battery; read by hand.",
        )

    def _answer(self, seq: int) -> Reply | None:
        """Return the answer to a request, None when the time is out."""
        end = time.monotonic() + TIMEOUT_S
        for _ in range(MOST_LINES):
            line = self._lines.next(end)
            if line is None:
                return None
            reply = read_line(line)
            if reply.event:
                self._note(reply.text)
            elif reply.seq is None:
                raise Garbled("it could not read the request")
            elif reply.seq == seq:
                return reply
            else:
                self.stale += 1
        raise Babble("it says more than it is asked")

    def close(self) -> None:
        """Close the port."""
        self.port.close()
