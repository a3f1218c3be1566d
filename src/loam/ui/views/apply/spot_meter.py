"""A meter that was joined in Read reads a test spot: Enter on the empty box."""

from __future__ import annotations

from typing import Protocol

import numpy as np

from loam.app.applying.told import Stairs
from loam.core.errors import LoamError
from loam.core.readings import kind_of
from loam.core.readings.haze import LOG_SCALE, from_log_haze, to_log_haze
from loam.devices.meter import MeterReading
from loam.ui.views.apply.pages import SpotPage
from loam.ui.views.base import Shell


class SpotView(Protocol):
    """The view whose spot is read."""

    shell: Shell
    spot_page: SpotPage
    stairs: Stairs | None


class SpotMeter:
    """Asks the meter, and hands what it read to the page, unless the spot was left meanwhile."""

    def __init__(self, view: SpotView) -> None:
        self.view = view
        self.reading = False

    def ask(self, measurand: str) -> None:
        """Let the meter of a measurand read; say how one is joined where there is none."""
        shell, page = self.view.shell, self.view.spot_page
        meter, field = shell.meter_of(measurand), page.fields[measurand]
        if meter is None:
            field.complain("Type what the meter shows. Ctrl+L in Read (F7) joins meters.")
            return
        if self.reading or page.spot is None:
            return
        self.reading, spot = True, page.spot.uid
        field.complain("Reading …")
        shell.jobs.start(
            "spot meter",
            meter.read,
            lambda found: self._came(found, measurand, spot),
            lambda error: self._lost(error, measurand),
        )

    def _came(self, found: MeterReading, measurand: str, spot: str) -> None:
        self.reading = False
        page, kind = self.view.spot_page, kind_of(measurand)
        field = page.fields[measurand]
        field.complain("")
        if page.spot is None or page.spot.uid != spot:
            return
        value = found.values.get(measurand)
        if found.flag != "ok" or value is None:
            field.complain("The meter doubts this reading: set it down flat and read again.")
            return
        if kind.scales:
            value = self._rescaled(value, found.scale, measurand)
        page.take(measurand, round(value, kind.decimals))

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
        self.view.spot_page.fields[measurand].complain(f"{error.what} {error.todo}".strip())
