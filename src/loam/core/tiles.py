"""Tile checks: is a meter still where it was, and what does its drift mean for the readings?

Rules by `reference/optics/facts.md` of the design, which marks them as proposed: off by more than
0.5 GU or 3 HU (log): calibrate and read the tile again; by more than 1.0 GU or 6 HU: what was read
since the last good check is doubtful. Between two checks the drift is taken as even in time.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from loam.core.dates import minutes_between
from loam.core.errors import ValueRefused
from loam.core.readings import KINDS, TileLimits
from loam.core.readings.kind import GAIN

DUE_MIN = 45.0
"""Minutes after which a tile is read again: half an hour to an hour is usual."""
DUE_K = 5.0
"""Change of temperature after which a tile is read again."""
LEAST = 3
"""Readings of the tile in one check."""
GOOD: Literal["good"] = "good"
OFF: Literal["off"] = "off"
DOUBTFUL: Literal["doubtful"] = "doubtful"
Verdict = Literal["good", "off", "doubtful"]
LIMITS: dict[str, TileLimits] = {k.key: k.tile for k in KINDS if k.tile is not None}


@dataclass(frozen=True)
class TileCheck:
    """One check of one meter.

    Attributes
    ----------
    id : int
    meter, measurand : str
    named : float
        The tile's printed value.
    read : tuple of float
        What the meter showed.
    at : str
        When, ISO 8601.
    calibrated : bool
        Whether the meter was calibrated to the tile right before it.
    celsius : float or None
        Temperature at the bench.
    """

    id: int
    meter: str
    measurand: str
    named: float
    read: tuple[float, ...]
    at: str
    calibrated: bool = False
    celsius: float | None = None

    @property
    def off(self) -> float:
        """Mean reading less the printed value."""
        return sum(self.read) / len(self.read) - self.named

    @property
    def limits(self) -> TileLimits:
        """What it may be off."""
        return LIMITS[self.measurand]

    @property
    def verdict(self) -> Verdict:
        """Good, off (calibrate), or so far off that readings are doubtful."""
        limits, off = self.limits, abs(self.off) - 1e-9
        room = limits.share * self.named
        if off > max(limits.doubtful, 2.0 * room):
            return DOUBTFUL
        return OFF if off > max(limits.calibrate, room) else GOOD


def check_tile(measurand: str, named: float, read: Sequence[float]) -> None:
    """Refuse a check that cannot be.

    Raises
    ------
    ValueRefused
    """
    if measurand not in LIMITS:
        raise ValueRefused("There is no tile for this.", todo="Tiles are for gloss, haze and film.")
    if not 0.0 < named <= 2000.0:
        raise ValueRefused(f"A tile of {named:g} cannot be.", todo="Type its printed value.")
    if len(read) < LEAST:
        raise ValueRefused(f"The tile is read {LEAST} times at least.", todo="Read it again.")


def due(last: TileCheck | None, now: str, celsius: float | None = None) -> str:
    """Say why a tile is due, "" while it is not."""
    if last is None:
        return "not checked yet"
    if last.verdict != GOOD:
        return "off at its last check"
    if minutes_between(last.at, now) > DUE_MIN:
        return f"checked {minutes_between(last.at, now):.0f} min ago"
    if celsius is not None and last.celsius is not None and abs(celsius - last.celsius) > DUE_K:
        return f"{abs(celsius - last.celsius):.0f} K warmer or colder since"
    return ""


@dataclass(frozen=True)
class ReadAt:
    """A reading as drift sees it: its id, value and time."""

    id: int
    value: float
    at: str


def doubtful(checks: Sequence[TileCheck], readings: Iterable[ReadAt]) -> list[ReadAt]:
    """Return the readings since the last good check before a check that was far off.

    Parameters
    ----------
    checks : sequence of TileCheck
        Of one meter and measurand, oldest first.
    """
    spans = []
    good = ""
    for check in checks:
        if check.verdict == DOUBTFUL:
            spans.append((good, check.at))
        if check.verdict == GOOD:
            good = check.at
    return [r for r in readings if any(start < r.at <= end for start, end in spans)]


def corrections(
    first: TileCheck, last: TileCheck, readings: Iterable[ReadAt], decimals: int
) -> list[tuple[int, float]]:
    """Return what readings between two checks would be without the drift, as (id, value).

    The drift is taken as even in time from the first check to the last. A reading is divided by
    (gain) or lessened by (offset) what the meter was off then, and rounded to one digit more than
    the meter shows.

    Parameters
    ----------
    decimals : int
        Digits that the meter shows.

    Raises
    ------
    ValueRefused
        When the checks are not of one meter, or not one after the other.
    """
    if (first.meter, first.measurand) != (last.meter, last.measurand):
        raise ValueRefused("These checks are not of one meter.")
    whole = minutes_between(first.at, last.at)
    if whole <= 0.0:
        raise ValueRefused("A drift needs two checks, one after the other.")
    found = []
    for r in readings:
        if not first.at < r.at <= last.at:
            continue
        part = min(max(minutes_between(first.at, r.at) / whole, 0.0), 1.0)
        if first.limits.how == GAIN:
            share = first.off / first.named
            share += part * (last.off / last.named - share)
            value = r.value / (1.0 + share)
        else:
            value = r.value - (first.off + part * (last.off - first.off))
        value = round(value, decimals + 1)
        if value != r.value:
            found.append((r.id, value))
    return found
