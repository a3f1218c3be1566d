"""Simulated meters: gloss and haze, film, and infrared, with noise, warm-up, drift and faults.

Each answers lines of the protocol (`core/instruments/line.py`). Reading = (truth + spot) * (1 +
gain(t)) + offset(t) + noise, rounded to the resolution; seeded, on a clock that is asked.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Mapping

import numpy as np

from loam.core.instruments.line import MOST_BYTES, Garbled, checksum, sealed

WARM_S = 120.0
OUTLIERS = 0.02
_VERBS = ("ID", "STATE", "READ", "TILE", "CAL", "SET", "SIM")
TILES: dict[str, float] = {"T1": 92.6, "T2": 45.1}


class _Fault(Exception):
    def __init__(self, code: int, text: str) -> None:
        super().__init__(text)
        self.code, self.text = code, text


class Instrument:
    """What every simulated meter has.

    Attributes
    ----------
    truth : dict
        What is under it.
    lifted : bool
    failing : int
        Code of the fault that it answers with; 0 for none.
    drop, garble : float
        Shares of answers that are lost, or changed on their way.
    late : float
        Share of answers that come one request too late.
    """

    kind, units, serial = "", "", "SIM-0001"

    def __init__(self, seed: int = 1, clock: Callable[[], float] = time.monotonic) -> None:
        self.rng = np.random.default_rng(seed)
        self.clock = clock
        self.started = clock()
        self.truth: dict[str, float] = {}
        self.lifted = False
        self.failing = 0
        self.drop = self.garble = self.late = 0.0
        self.gain = 1.0
        self._walk, self._walked = 0.0, self.started
        self._kept: list[bytes] = []

    @property
    def on_s(self) -> float:
        """Time since it was switched on."""
        return self.clock() - self.started

    def drift(self, per_root_hour: float) -> float:
        """Return the random walk of its drift, moved on to now."""
        now = self.clock()
        hours = max(now - self._walked, 0.0) / 3600.0
        self._walked = now
        self._walk += per_root_hour * math.sqrt(hours) * float(self.rng.standard_normal())
        return self._walk

    def hello(self) -> bytes:
        """Return what it says when it is switched on."""
        return sealed("! READY")

    def answer(self, line: bytes) -> list[bytes]:
        """Return the lines that it sends upon a request: none, one, or a late one before it."""
        reply = self._reply(line)
        sent = self._kept
        self._kept = []
        lot = float(self.rng.random())
        if lot < self.drop:
            return sent
        if lot < self.drop + self.garble:
            spoilt = bytearray(reply)
            at = int(self.rng.integers(0, max(len(spoilt) - 1, 1)))
            spoilt[at] = (spoilt[at] + 1 + int(self.rng.integers(0, 90))) % 127 or 35
            return [*sent, bytes(spoilt)]
        if lot < self.drop + self.garble + self.late:
            self._kept = [reply]
            return sent
        return [*sent, reply]

    def _reply(self, line: bytes) -> bytes:
        try:
            seq, verb, arguments = _request(line)
        except Garbled:
            return sealed("- ERR 10 bad line")
        try:
            values = self._do(verb, arguments)
            return sealed(" ".join([seq, "OK", *(f"{k}={v}" for k, v in values.items())]))
        except _Fault as fault:
            return sealed(f"{seq} ERR {fault.code} {fault.text}")

    def _do(self, verb: str, arguments: list[str]) -> Mapping[str, object]:
        if verb not in _VERBS:
            raise _Fault(12, "unknown verb")
        if verb == "ID":
            return {"kind": self.kind, "proto": 1, "serial": self.serial, "units": self.units}
        if verb == "SIM":
            return self._simulate(arguments)
        if self.failing:
            raise _Fault(self.failing, "simulated")
        if verb == "STATE":
            warm = 1.0 - math.exp(-self.on_s / WARM_S)
            return {"warm": f"{warm:.2f}", "temp": "23.4", "since_cal": round(self.on_s), "bat": 87}
        if verb == "READ":
            if self.lifted:
                raise _Fault(22, "lifted")
            return {**self.reading(), "t": f"{self.on_s:.1f}", "flag": "ok"}
        if verb == "TILE":
            return self.tile(arguments)
        if verb == "CAL":
            self.gain = 1.0
            self._walk = 0.0
            return {"done": 1}
        return self.set(arguments)

    def reading(self) -> dict[str, object]:
        """Take a reading."""
        raise NotImplementedError

    def tile(self, arguments: list[str]) -> dict[str, object]:
        """Read a tile."""
        raise _Fault(13, "no tile")

    def set(self, arguments: list[str]) -> dict[str, object]:
        """Change a setting."""
        raise _Fault(13, "no such setting")

    def _simulate(self, arguments: list[str]) -> dict[str, object]:
        if not arguments:
            raise _Fault(13, "what is to be simulated")
        key, given = arguments[0], arguments[1:]
        try:
            if key == "truth":
                self.truth |= {k: float(v) for k, _, v in (a.partition("=") for a in given)}
            elif key == "lift":
                self.lifted = given == ["1"]
            elif key == "seed":
                self.rng = np.random.default_rng(int(given[0]))
            elif key == "drift":
                self.gain = 1.0 + float(given[0]) / 100.0
            elif key == "trigger":
                self._kept.append(sealed("! READY"))
            elif key == "fail":
                self.failing = int(given[0])
            elif key in ("drop", "garble", "late"):
                setattr(self, key, min(max(float(given[0]), 0.0), 1.0))
            else:
                raise _Fault(13, "no such thing to simulate")
        except (ValueError, IndexError):
            raise _Fault(13, "bad argument") from None
        return {"done": 1}


def _request(line: bytes) -> tuple[str, str, list[str]]:
    if len(line) > MOST_BYTES:
        raise Garbled("too long")
    try:
        text = line.decode("ascii").strip()
    except UnicodeDecodeError:
        raise Garbled("no plain text") from None
    body, star, mark = text.rpartition("*")
    if star:
        if mark.upper() != checksum(body):
            raise Garbled("checksum")
        text = body
    words = text.split()
    if len(words) < 2 or not words[0].isdigit() or int(words[0]) > 999:
        raise Garbled("no request")
    return words[0], words[1], words[2:]


class GlossMeter(Instrument):
    """Gloss at 20, 60 and 85 degrees, and haze."""

    kind, units, serial = "gloss", "GU,HU", "SIM-0001"

    def __init__(self, seed: int = 1, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__(seed, clock)
        self.truth = {"g20": 84.0, "g60": 92.0, "g85": 98.0, "haze": 20.0}
        self.scale = "log"

    def reading(self) -> dict[str, object]:
        """Take a reading: now and then dust takes gloss away and adds haze."""
        gain = self.gain * (1.0 - 0.015 * math.exp(-self.on_s / WARM_S) + self.drift(0.001))
        odd = 5.0 if float(self.rng.random()) < OUTLIERS else 1.0
        spot = 0.4 * float(self.rng.standard_normal())
        spot = -abs(spot) * odd if odd > 1.0 else spot
        found: dict[str, object] = {}
        for key in ("g20", "g60", "g85"):
            truth = (self.truth[key] + spot) * gain
            noise = (0.15 + 0.002 * self.truth[key]) * float(self.rng.standard_normal())
            found[key] = f"{max(truth + noise, 0.0):.1f}"
        haze = self.truth["haze"] + 2.0 * odd * abs(float(self.rng.standard_normal())) * (
            1.0 if odd > 1.0 else float(self.rng.choice([-1.0, 1.0]))
        )
        haze += (0.6 + 0.02 * self.truth["haze"]) * float(self.rng.standard_normal())
        return found | {"haze": f"{max(haze, 0.0):.0f}", "hazescale": self.scale}

    def tile(self, arguments: list[str]) -> dict[str, object]:
        """Read a tile: ``dev`` is by how much it is off."""
        if not arguments or arguments[0] not in TILES:
            raise _Fault(25, "another tile")
        named = float(arguments[1]) if len(arguments) > 1 else TILES[arguments[0]]
        if abs(named - TILES[arguments[0]]) > 0.05 * named:
            raise _Fault(25, "tile mismatch")
        gain = self.gain * (1.0 - 0.015 * math.exp(-self.on_s / WARM_S) + self.drift(0.001))
        read = TILES[arguments[0]] * gain + 0.15 * float(self.rng.standard_normal())
        return {"dev": f"{read - named:.1f}", "t": f"{self.on_s:.1f}"}

    def set(self, arguments: list[str]) -> dict[str, object]:
        """Turn to another scale of haze."""
        if len(arguments) == 2 and arguments[0] == "haze" and arguments[1] in ("lin", "log"):
            self.scale = arguments[1]
            return {"haze": self.scale}
        raise _Fault(13, "no such setting")


class FilmGauge(Instrument):
    """Film thickness on steel or aluminium."""

    kind, units, serial = "film", "um", "SIM-0002"

    def __init__(self, seed: int = 1, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__(seed, clock)
        self.truth = {"um": 112.0}
        self.base = "fe"

    def reading(self) -> dict[str, object]:
        """Take a reading."""
        if self.base == "plastic":
            raise _Fault(24, "wrong base")
        truth = self.truth["um"] + 0.8 * float(self.rng.standard_normal())
        noise = (0.4 + 0.004 * self.truth["um"]) * float(self.rng.standard_normal())
        value = truth * self.gain + self.drift(0.3) + noise
        return {"um": f"{max(value, 0.0):.1f}", "base": self.base}

    def set(self, arguments: list[str]) -> dict[str, object]:
        """Turn to another base."""
        if len(arguments) == 2 and arguments[0] == "base":
            self.base = arguments[1]
            return {"base": self.base}
        raise _Fault(13, "no such setting")


class Thermometer(Instrument):
    """Infrared thermometer."""

    kind, units, serial = "ir", "C", "SIM-0003"

    def __init__(self, seed: int = 1, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__(seed, clock)
        self.truth = {"c": 34.0}

    def reading(self) -> dict[str, object]:
        """Take a reading."""
        off = -1.5 * math.exp(-self.on_s / 90.0) + 0.2 * self.on_s / 3600.0
        value = self.truth["c"] * self.gain + off + float(self.rng.standard_normal()) * 1.05
        return {"c": f"{value:.1f}", "emis": "0.95"}


KINDS: dict[str, type[Instrument]] = {"gloss": GlossMeter, "film": FilmGauge, "ir": Thermometer}
