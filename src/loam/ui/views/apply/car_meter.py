"""A meter that was joined in Read reads a spot or a panel of a car: Enter on the empty box."""

from __future__ import annotations

from typing import Protocol

import numpy as np

from loam.app.applying.told import Stairs
from loam.core.errors import LoamError
from loam.core.readings import kind_of
from loam.core.readings.haze import LOG_SCALE, from_log_haze, to_log_haze
from loam.devices.meter import MeterReading
from loam.ui.views.base import Shell
from loam.ui.widgets.fields import Field


class Gauged(Protocol):
    """A page whose boxes a meter may fill."""

    def box(self, measurand: str) -> Field:
        """Return the box of a measurand."""
        ...

    def place(self) -> str:
        """Return what is read: another place, another answer."""
        ...

    def take(self, measurand: str, value: float) -> None:
        """Keep a reading."""
        ...


class CarView(Protocol):
    """The view whose car is read."""

    shell: Shell

    @property
    def stairs(self) -> Stairs | None:
        """The stairs of the job at hand."""
        ...


class CarMeter:
    """Asks the meter, and hands what it read to the page, unless the place was left meanwhile."""

    def __init__(self, view: CarView, page: Gauged) -> None:
        self.view, self.page = view, page
        self.reading = False

    def ask(self, measurand: str) -> None:
        """Let the meter of a measurand read; say how one is joined where there is none."""
        shell, field = self.view.shell, self.page.box(measurand)
        meter = shell.meter_of(measurand)
        if meter is None:
            field.complain("Type what the meter shows. Ctrl+L in Read (F7) joins meters.")
            return
        if self.reading or not self.page.place():
            return
        self.reading, place = True, self.page.place()
        field.complain("Reading …")
        shell.jobs.start(
            "car meter",
            meter.read,
            lambda found: self._came(found, measurand, place),
            lambda error: self._lost(error, measurand),
        )

    def _came(self, found: MeterReading, measurand: str, place: str) -> None:
        self.reading = False
        field, kind = self.page.box(measurand), kind_of(measurand)
        field.complain("")
        if self.page.place() != place:
            return
        value = found.values.get(measurand)
        if found.flag != "ok" or value is None:
            field.complain("The meter doubts this reading: set it down flat and read again.")
            return
        if kind.scales:
            value = self._rescaled(value, found.scale, measurand)
        self.page.take(measurand, round(value, kind.decimals))

    def _rescaled(self, value: float, scale: str, measurand: str) -> float:
        """Bring a reading onto the scale that the panels were read on."""
        stairs = self.view.stairs
        promise = stairs.rests.promises.get(measurand) if stairs is not None else None
        log = promise is not None and promise.judged.scale.meter == LOG_SCALE
        if log and scale != LOG_SCALE:
            return float(to_log_haze(np.array([value]))[0])
        if not log and scale == LOG_SCALE:
            return float(from_log_haze(np.array([value]))[0])
        return value

    def _lost(self, error: LoamError, measurand: str) -> None:
        self.reading = False
        self.page.box(measurand).complain(f"{error.what} {error.todo}".strip())
