"""Which ports there are, and opening one."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import serial
from serial.tools import list_ports

from loam.devices.meter import TIMEOUT_S, Meter, PortLost

BAUD = 9600


def ports(named: Iterable[Path] = ()) -> list[str]:
    """Return the paths of serial ports: those of the machine, and links in named folders."""
    found = [str(p.device) for p in list_ports.comports()]
    for folder in named:
        if folder.is_dir():
            found += [str(link) for link in sorted(folder.iterdir()) if link.exists()]
    return list(dict.fromkeys(found))


def open_meter(path: str) -> Meter:
    """Open a port and ask what stands there.

    Raises
    ------
    PortLost
        When the port cannot be opened.
    MeterFault
        When nothing known answers; the port is closed again.
    """
    try:
        port = serial.Serial(path, BAUD, timeout=TIMEOUT_S, exclusive=True)
    except (OSError, ValueError) as error:
        raise PortLost(
            f"The port {path} cannot be opened: {error}.", todo="Plug the meter in; check rights."
        ) from error
    meter = Meter(port, where=Path(path).name)
    try:
        meter.identify()
    except Exception:
        port.close()
        raise
    return meter
